// Compiling inputs, and cues with their fields.
#include <algorithm>
#include <cmath>
#include <limits>

#include "compile/compile.hpp"

namespace mobrin::detail {
namespace {

std::string_view type_name(const FieldValue& value) {
  constexpr std::string_view kNames[] = {"true or false", "a whole number", "a number", "text", "a list of numbers"};
  return kNames[value.index()];
}

bool finite(const FieldValue& value) {
  if (const auto* number = std::get_if<double>(&value)) return std::isfinite(*number);
  if (const auto* list = std::get_if<std::vector<double>>(&value))
    return std::all_of(list->begin(), list->end(), [](double x) { return std::isfinite(x); });
  return true;
}

}  // namespace

NameTable compile_inputs(Work& work) {
  NameTable inputs;
  if (!work.within("inputs", work.def.inputs.size(), kMaxInputs, {})) return inputs;
  std::set<std::string, std::less<>> taken;
  for (const InputDef& input : work.def.inputs) {
    if (!work.declare("input", input.name, taken)) continue;
    const auto fail = [&](const std::string& message, std::string remedy) {
      work.report(FindingCode::bad_value, input.name.place, "the input \"" + input.name.text + "\" " + message,
                  std::move(remedy), input.name.text);
    };
    InputData out;
    if (const auto* b = std::get_if<BoolInput>(&input.kind)) {
      out.kind = InputKind::boolean;
      out.whole_start = b->start ? 1 : 0;
    } else if (const auto* i = std::get_if<IntInput>(&input.kind)) {
      out.kind = InputKind::whole;
      out.whole_min = i->min;
      out.whole_max = i->max;
      out.whole_start = i->start;
      if (i->min > i->max)
        fail("has a range that ends before it begins", "`min:` is at most `max:`.");
      else if (i->start < i->min || i->start > i->max)
        fail("starts outside its range", "Start it within `min:` and `max:`.");
    } else if (const auto* f = std::get_if<FloatInput>(&input.kind)) {
      out.kind = InputKind::number;
      const auto fits = [](double x) { return std::abs(x) <= static_cast<double>(std::numeric_limits<float>::max()); };
      if (!fits(f->start) || !fits(f->min) || !fits(f->max) || !sound_grain(f->grain))
        fail("has a number that does not fit", "Numbers are held in 32 bits; a grain is 0, or 1.4e-45 and more.");
      else if (f->min > f->max)
        fail("has a range that ends before it begins", "`min:` is at most `max:`.");
      else if (f->start < f->min || f->start > f->max)
        fail("starts outside its range", "Start it within `min:` and `max:`.");
      else {
        out.min = static_cast<float>(f->min);
        out.max = static_cast<float>(f->max);
        out.start = static_cast<float>(f->start) + 0.0f;
        out.grain = f->grain;
      }
    } else if (const auto* c = std::get_if<ChoiceInput>(&input.kind)) {
      out.kind = InputKind::choice;
      std::set<std::string, std::less<>> names;
      if (c->choices.empty() || c->choices.size() > 255) fail("needs 1 to 255 choices", "List them: `one_of: [a, b]`.");
      for (const Text& choice : c->choices) work.declare("choice", choice, names);
      const auto start =
          std::find_if(c->choices.begin(), c->choices.end(), [&](const Text& t) { return t.text == c->start.text; });
      if (start != c->choices.end())
        out.whole_start = static_cast<std::int32_t>(start - c->choices.begin());
      else if (!c->start.empty())
        work.unknown("choice", c->start, {names.begin(), names.end()}, "Start with one of the choices.");
    } else {
      out.kind = InputKind::pulse;
      out.buffer = std::get<PulseInput>(input.kind).buffer.count;
      if (out.buffer < 0 || out.buffer > kMaxDurationTicks)
        fail("has an impossible buffer", "A buffer lasts 0 to 10 hours.");
    }
    inputs[input.name.text] = static_cast<std::uint16_t>(work.data.inputs.size());
    work.data.inputs.push_back(out);
    work.data.input_defs.push_back(input);
  }
  return inputs;
}

NameTable compile_cues(Work& work) {
  NameTable cues;
  if (!work.within("cues", work.def.cues.size(), kMaxCues, {})) return cues;
  std::set<std::string, std::less<>> taken;
  for (const CueDef& cue : work.def.cues) {
    if (!work.declare("cue", cue.name, taken)) continue;
    std::set<std::string, std::less<>> fields;
    for (const FieldDef& field : cue.fields) {
      work.declare("field", field.name, fields);
      if (!finite(field.value))
        work.report(FindingCode::bad_value, field.name.place, "the field \"" + field.name.text + "\" is not finite",
                    "Write a number.", field.name.text);
    }
    cues[cue.name.text] = static_cast<std::uint16_t>(work.data.cue_defs.size());
    work.data.cue_defs.push_back(cue);
    auto& values = work.data.fields.emplace_back();
    for (const FieldDef& field : cue.fields) values.push_back(field.value);
  }
  return cues;
}

std::optional<std::uint16_t> find_cue(Work& work, const NameTable& cues, const Text& name) {
  return work.find("cue", cues, name, "Declare it under `cues:`.");
}

std::uint32_t resolve_fields(Work& work, std::uint16_t cue, const std::vector<FieldDef>& overrides, Place place) {
  if (overrides.empty()) return cue;
  const CueDef& declared = work.data.cue_defs[cue];
  std::vector<FieldValue> values = work.data.fields[cue];
  for (const FieldDef& field : overrides) {
    const auto found = std::find_if(declared.fields.begin(), declared.fields.end(),
                                    [&](const FieldDef& known) { return known.name.text == field.name.text; });
    const Text name(field.name.text, field.name.place.line > 0 ? field.name.place : place);
    if (found == declared.fields.end()) {
      std::vector<std::string> known;
      for (const FieldDef& each : declared.fields) known.push_back(each.name.text);
      work.unknown("field of the cue \"" + declared.name.text + "\" called", name, known,
                   "Declare it with the cue, as in `" + declared.name.text + ": {" +
                       (declared.kind.empty() ? "" : "kind: " + declared.kind + ", ") + field.name.text +
                       ": ...}`; a mark may then give it another value.");
      continue;
    }
    FieldValue& value = values[static_cast<std::size_t>(found - declared.fields.begin())];
    const auto* whole = std::get_if<std::int64_t>(&field.value);
    if (whole != nullptr && std::holds_alternative<double>(value)) {
      value = static_cast<double>(*whole);
    } else if (value.index() == field.value.index() && finite(field.value)) {
      value = field.value;
    } else {
      work.report(
          FindingCode::wrong_type, name.place,
          "the field \"" + name.text + "\" is " + std::string(type_name(field.value)) + " here",
          "It is declared as " + std::string(type_name(value)) +
              (std::holds_alternative<std::string>(field.value) ? "; a field holds a value, no expression."
               : std::holds_alternative<std::string>(value)
                   ? ", \"" + std::get<std::string>(value) + "\"; write there what it is where no mark says more."
                   : "."),
          name.text);
    }
  }
  work.data.fields.push_back(std::move(values));
  return static_cast<std::uint32_t>(work.data.fields.size() - 1);
}

}  // namespace mobrin::detail
