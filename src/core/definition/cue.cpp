// Cues: names and fields of a told record.
#include "mobrin/core/cue.hpp"

#include "machine/machine_data.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {

std::string_view Cue::name() const { return cue == kNoIndex ? std::string_view() : machine->cue_defs[cue].name.text; }
std::string_view Cue::kind() const { return cue == kNoIndex ? std::string_view() : machine->cue_defs[cue].kind; }
std::string_view Cue::state_path() const {
  return state == kNoIndex ? std::string_view() : machine->state_infos[state].path;
}
std::string_view Cue::clip_name() const {
  return clip == kNoIndex ? std::string_view() : machine->clip_infos[clip].def.name.text;
}

const CueDef& Cue::definition() const { return machine->cue_defs[cue]; }

const FieldValue* Cue::field(Field handle) const {
  if (cue == kNoIndex || handle.machine != machine->serial || handle.cue != cue) return nullptr;
  return &machine->fields[fields][handle.index];
}

const FieldValue* Cue::field(std::string_view name) const {
  if (cue == kNoIndex) return nullptr;
  const auto& declared = machine->cue_defs[cue].fields;
  for (std::size_t i = 0; i < declared.size(); ++i)
    if (declared[i].name.text == name) return &machine->fields[fields][i];
  return nullptr;
}

std::optional<double> Cue::number(std::string_view name) const {
  const FieldValue* value = field(name);
  if (value == nullptr) return std::nullopt;
  if (const auto* whole = std::get_if<std::int64_t>(value)) return static_cast<double>(*whole);
  if (const auto* number = std::get_if<double>(value)) return *number;
  return std::nullopt;
}

std::string_view Cue::text(std::string_view name) const {
  const FieldValue* value = field(name);
  const auto* words = value == nullptr ? nullptr : std::get_if<std::string>(value);
  return words == nullptr ? std::string_view() : *words;
}

namespace {

std::string value_line(const FieldValue& value) {
  if (const auto* truth = std::get_if<bool>(&value)) return *truth ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return std::to_string(*whole);
  if (const auto* number = std::get_if<double>(&value)) return detail::shortest_text(static_cast<float>(*number));
  if (const auto* words = std::get_if<std::string>(&value)) return *words;
  std::string out;
  for (const double number : std::get<std::vector<double>>(value))
    out += (out.empty() ? "" : ", ") + detail::shortest_text(static_cast<float>(number));
  return "[" + out + "]";
}

}  // namespace

std::string Cue::line() const {
  const std::string path(state_path());
  const std::string why = transition == kNoTransition ? "" : "  " + machine->transition_infos[transition].text;
  switch (what) {
    case Told::cue:
      break;
    case Told::enter:
      return path + " is entered" + why;
    case Told::leave:
      return path + " is left" + why;
    case Told::loop:
      return path + " comes round";
    case Told::done:
      return path + ": remove me";
    case Told::fault:
      return "runaway in " + path + why;
  }
  std::string out(name());
  if (edge != Edge::none) out += edge == Edge::begin ? " begins" : " ends";
  if (!kind().empty()) out += " (" + std::string(kind()) + ")";
  if (clip != kNoIndex) out += "  " + std::string(clip_name());
  if (clip != kNoIndex && frame >= 0) out += " frame " + std::to_string(frame);
  const auto& declared = machine->cue_defs[cue].fields;
  for (std::size_t i = 0; i < declared.size(); ++i)
    out += "  " + declared[i].name.text + ": " + value_line(machine->fields[fields][i]);
  if (clip == kNoIndex && !path.empty()) out += "  in " + path;
  return printable(out);
}

}  // namespace mobrin
