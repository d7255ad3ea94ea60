// Machine: handles by name, and what the tools read.
#include "mobrin/core/machine.hpp"

#include <algorithm>
#include <span>

#include "expression/expression.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/version.hpp"

namespace mobrin {

using detail::InputKind;
using detail::MachineData;

namespace {

constexpr std::string_view kKindNames[] = {"a bool", "a whole number (std::int32_t)", "a float", "a choice", "a pulse"};

template <class T>
constexpr InputKind kKindOf = InputKind::pulse;
template <>
constexpr InputKind kKindOf<bool> = InputKind::boolean;
template <>
constexpr InputKind kKindOf<std::int32_t> = InputKind::whole;
template <>
constexpr InputKind kKindOf<float> = InputKind::number;
template <>
constexpr InputKind kKindOf<Choice> = InputKind::choice;

template <class List, class NameOf>
std::vector<std::string> names_of(const List& list, const NameOf& name_of) {
  std::vector<std::string> names;
  for (const auto& each : list)
    if (!name_of(each).empty()) names.push_back(name_of(each));  // the root has none
  return names;
}

// The position of what is called `name` in `list`, or an error that says what there is no such thing of.
template <class List, class NameOf>
Result<std::uint16_t> find(std::string_view what, std::string_view name, const List& list, const NameOf& name_of) {
  const auto found = std::find_if(list.begin(), list.end(), [&](const auto& each) { return name_of(each) == name; });
  if (found != list.end()) return static_cast<std::uint16_t>(found - list.begin());
  return no_such(what, name, names_of(list, name_of));
}

// What it is found by.
constexpr auto by_name = [](const auto& named) -> const std::string& { return named.name.text; };
constexpr auto by_path = [](const auto& placed) -> const std::string& { return placed.path; };
constexpr auto by_itself = [](const std::string& name) -> const std::string& { return name; };

Result<std::uint16_t> find_input(const MachineData& m, std::string_view name, InputKind kind) {
  const bool pulse = kind == InputKind::pulse;
  const std::string_view what = pulse ? "pulse" : "input";
  const auto found = find(what, name, m.input_defs, by_name);
  if (!found) {
    Error error = found.error();
    if (error.nearest.empty()) {  // then those are listed that may be meant
      std::vector<std::string> alike;
      for (std::size_t i = 0; i < m.inputs.size(); ++i)
        if ((m.inputs[i].kind == InputKind::pulse) == pulse) alike.push_back(m.input_defs[i].name.text);
      error = no_such(what, name, alike);
    }
    if (std::find(m.var_names.begin(), m.var_names.end(), name) != m.var_names.end()) {
      error.nearest.clear();
      error.remedy = "It is a variable: the machine's own actions write it.";
    }
    return error;
  }
  if (m.inputs[*found].kind == kind) return found;
  return Error{"the input \"" + std::string(name) + "\" is " +
                   std::string(kKindNames[static_cast<std::size_t>(m.inputs[*found].kind)]) + ", not " +
                   std::string(kKindNames[static_cast<std::size_t>(kind)]),
               ""};
}

}  // namespace

std::string detail::text_of(const MachineData& m, detail::ExprRef ref) {
  std::string out;
  for (std::uint32_t i = ref.begin; i < ref.begin + ref.count; ++i) {
    const detail::Instruction& step = m.expressions.code[i];
    std::string word(detail::text_of(step.op));
    if (step.op == detail::Op::constant) {
      word = detail::number_text(m.expressions.constants[step.arg]);
    } else if (step.op == detail::Op::in_state) {
      word = "in(" + m.state_infos[step.arg].path + ")";
    } else if (word.empty()) {
      for (const detail::Symbol& symbol : m.symbols)
        if (symbol.offset == step.arg && symbol.type != detail::ValueType::none) word = symbol.name;
    }
    out += (out.empty() ? "" : " ") + word;
  }
  return out;
}

detail::SharedTables::SharedTables(const MachineData* tables) : tables_(tables) { tables_->holders.count = 1; }
detail::SharedTables::SharedTables(const SharedTables& other) noexcept : tables_(other.tables_) {
  if (tables_ != nullptr) tables_->holders.count.fetch_add(1, std::memory_order_relaxed);
}
detail::SharedTables::~SharedTables() {
  if (tables_ != nullptr && tables_->holders.count.fetch_sub(1, std::memory_order_acq_rel) == 1) delete tables_;
}

void detail::name_values(MachineData& m) {
  constexpr ValueType kTypes[] = {ValueType::boolean, ValueType::whole, ValueType::number, ValueType::choice,
                                  ValueType::none};
  for (std::size_t i = 0; i < m.inputs.size(); ++i) {
    const auto* choice = std::get_if<ChoiceInput>(&m.input_defs[i].kind);
    m.symbols.push_back({kTypes[static_cast<std::size_t>(m.inputs[i].kind)], m.inputs[i].offset,
                         choice != nullptr ? &choice->choices : nullptr, m.input_defs[i].name.text});
  }
  for (std::size_t i = 0; i < m.vars.size(); ++i)
    m.symbols.push_back({m.vars[i].type, m.vars[i].offset, nullptr, m.var_names[i]});
}

FieldValue detail::stored_value(const MachineData& machine, const std::byte* block, std::uint16_t index) {
  const InputData& input = machine.inputs[index];
  switch (input.kind) {
    case InputKind::boolean:
      return field_at<std::uint8_t>(block, input.offset) != 0;
    case InputKind::whole:
      return static_cast<std::int64_t>(field_at<std::int32_t>(block, input.offset));
    case InputKind::number:
      return static_cast<double>(field_at<float>(block, input.offset));
    case InputKind::choice: {
      const auto& choices = std::get<ChoiceInput>(machine.input_defs[index].kind).choices;
      return choices[field_at<std::uint8_t>(block, input.offset)].text;
    }
    case InputKind::pulse:
      break;
  }
  return false;
}

int linked_version() { return MOBRIN_VERSION; }

std::string_view Machine::name() const { return data_->name; }
std::size_t Machine::block_size() const { return data_->block_size; }
std::uint32_t Machine::most_records_per_instant() const { return data_->most_records; }
std::span<const InputDef> Machine::inputs() const { return data_->input_defs; }
std::span<const CueDef> Machine::cues() const { return data_->cue_defs; }
std::span<const ClipInfo> Machine::clips() const { return data_->clip_infos; }
std::span<const StateInfo> Machine::states() const { return data_->state_infos; }
std::span<const RegionInfo> Machine::regions() const { return data_->region_infos; }
std::span<const TransitionInfo> Machine::transitions() const { return data_->transition_infos; }
std::span<const std::string> Machine::files() const { return data_->files; }
std::span<const ReachDef> Machine::reaches() const { return data_->reaches; }
std::span<const ZoneInfo> Machine::zones() const { return data_->zones; }
std::span<const std::string> Machine::traits() const { return data_->trait_names; }
std::span<const LookDef> Machine::looks() const { return data_->looks; }
double Machine::unit() const { return data_->unit; }

template <class T>
Result<Input<T>> Machine::input(std::string_view name) const {
  const auto index = find_input(*data_, name, kKindOf<T>);
  if (!index) return index.error();
  return Input<T>{data_->serial, *index};
}
template Result<Input<bool>> Machine::input<bool>(std::string_view) const;
template Result<Input<std::int32_t>> Machine::input<std::int32_t>(std::string_view) const;
template Result<Input<float>> Machine::input<float>(std::string_view) const;
template Result<Input<Choice>> Machine::input<Choice>(std::string_view) const;

Result<Pulse> Machine::pulse(std::string_view name) const {
  const auto index = find_input(*data_, name, InputKind::pulse);
  if (!index) return index.error();
  return Pulse{data_->serial, *index};
}

Result<Choice> Machine::choice(Input<Choice> input, std::string_view name) const {
  if (input.machine != data_->serial) return Error{"the input handle belongs to another machine", ""};
  const auto& choices = std::get<ChoiceInput>(data_->input_defs[input.index].kind).choices;
  const auto index = find("choice of \"" + data_->input_defs[input.index].name.text + "\" called", name, choices,
                          [](const Text& choice) -> const std::string& { return choice.text; });
  if (!index) return index.error();
  return Choice{static_cast<std::uint8_t>(*index)};
}

Result<State> Machine::state(std::string_view path) const {
  const auto index = find("state", path, data_->state_infos, by_path);
  if (!index) {
    // The end of a path without the way to it is the likeliest slip, or a name on the way that is misspelt.
    Error error = index.error();
    if (error.nearest.empty()) error.nearest = detail::path_ending_in(path, names_of(data_->state_infos, by_path));
    const auto own = [](std::string_view whole) { return std::string(whole.substr(whole.rfind('/') + 1)); };
    const std::string near =
        nearest_name(own(path), names_of(data_->state_infos, [&](const StateInfo& s) { return own(s.path); }));
    for (const StateInfo& state : data_->state_infos)
      if (error.nearest.empty() && !near.empty() && own(state.path) == near) error.nearest = state.path;
    if (!error.nearest.empty()) error.remedy.clear();
    return error;
  }
  return State{data_->serial, *index};
}

Result<Trait> Machine::trait(std::string_view name) const {
  const auto index = find("trait", name, data_->trait_names, by_itself);
  if (!index) return index.error();
  return Trait{data_->serial, *index};
}

Result<std::uint16_t> Machine::cue(std::string_view name) const { return find("cue", name, data_->cue_defs, by_name); }

Result<Field> Machine::field(std::string_view cue, std::string_view field) const {
  const auto index = this->cue(cue);
  if (!index) return index.error();
  const auto inner =
      find("field of \"" + std::string(cue) + "\" called", field, data_->cue_defs[*index].fields, by_name);
  if (!inner) return inner.error();
  return Field{data_->serial, *index, *inner};
}

Result<Clip> Machine::clip(std::string_view name) const {
  const auto index = find("clip", name, data_->clip_infos,
                          [](const ClipInfo& clip) -> const std::string& { return clip.def.name.text; });
  if (!index) return index.error();
  return Clip{data_->serial, *index};
}

Result<Region> Machine::region(std::string_view path) const {
  const auto index = find("region", path, data_->region_infos, by_path);
  if (!index) return index.error();
  return Region{data_->serial, *index};
}

Result<Variable> Machine::variable(std::string_view name, std::string_view state) const {
  std::uint16_t of = 0;
  if (!state.empty()) {
    const auto found = this->state(state);
    if (!found) return found.error();
    of = found->index;
  }
  const detail::Range<detail::VarData> vars = data_->states[of].vars;
  const auto index = find(state.empty() ? "variable" : "variable of \"" + std::string(state) + "\" called", name,
                          std::span(data_->var_names).subspan(vars.begin, vars.count), by_itself);
  if (!index) return index.error();
  return Variable{data_->serial, vars.begin + *index};
}

std::string_view Machine::clip_name(std::uint16_t index) const {
  return index < data_->clip_infos.size() ? std::string_view(data_->clip_infos[index].def.name.text) : "";
}
std::string_view Machine::state_path(std::uint16_t index) const {
  return index < data_->state_infos.size() ? std::string_view(data_->state_infos[index].path) : "";
}
std::string_view Machine::region_path(std::uint16_t index) const {
  return index < data_->region_infos.size() ? std::string_view(data_->region_infos[index].path) : "";
}

std::optional<std::int32_t> ClipInfo::frame_at(Ticks time) const {
  if (borders.size() < 2) return std::nullopt;
  const auto after = std::upper_bound(borders.begin(), borders.end() - 1, time);
  return static_cast<std::int32_t>(std::max<std::ptrdiff_t>(0, after - borders.begin() - 1));
}

Ticks ClipInfo::begin_of(const MarkDef& mark) const {
  if (mark.at == MarkAt::time || mark.at == MarkAt::times) return mark.time;
  return borders[static_cast<std::size_t>(mark.frame) + (mark.at == MarkAt::frame_end ? 1 : 0)];
}

Ticks ClipInfo::end_of(const MarkDef& mark) const {
  if (mark.at == MarkAt::times) return mark.until;
  return mark.at == MarkAt::frames ? borders[static_cast<std::size_t>(mark.last_frame) + 1] : begin_of(mark);
}

std::optional<std::pair<double, double>> ClipInfo::pivot_of(std::int32_t frame) const {
  if (!marks.pivot) return std::nullopt;
  std::pair<double, double> at = *marks.pivot;
  const auto move = [&](double forward, double up) {
    at.first -= forward;
    at.second += up;
  };
  if (marks.offset) move(marks.offset->first, marks.offset->second);
  for (const OffsetDef& each : marks.offsets)
    if (frame >= each.first && frame <= each.last) move(each.x, each.y);
  return at;
}

bool ClipInfo::holds(const StretchDef& stretch, Ticks time, std::int32_t frame) const {
  if (!stretch.timed) return frame >= stretch.first && frame <= stretch.last;
  return time >= stretch.begin && (time < stretch.end || (stretch.end == length && time == length));
}

std::uint32_t Machine::serial() const { return data_->serial; }

std::string Machine::dump() const {
  const MachineData& m = *data_;
  std::string out = "machine " + m.name + ", block " + std::to_string(m.block_size) + " bytes\n";
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const detail::StateData& state = m.states[s];
    out += s == 0 ? "root" : "state " + m.state_infos[s].path;
    const std::string& plays = m.state_infos[s].plays;
    if (!plays.empty()) out += (state.play.type == detail::PlayType::clip ? ", clip " : ", ") + plays;
    if (state.play.type == detail::PlayType::length)
      out += ", length " + std::to_string(m.clips[m.played[state.play.clips.begin].clip].length);
    if (!state.play.speed_expression.empty())
      out += ", speed [" + text_of(m, state.play.speed_expression) + "]";
    else if (state.play.speed != detail::kOne)
      out += ", speed " + std::to_string(state.play.speed) + "/65536";
    if (state.final) out += ", final";
    if (state.sealed) out += ", sealed";
    out += "\n";
    for (std::uint32_t i = state.go.begin; i < state.go.begin + state.go.count; ++i) {
      const detail::TransitionData& go = m.transitions[i];
      out += "  " + m.transition_infos[i].text;
      if (!go.guard.empty()) out += " [" + text_of(m, go.guard) + "]";
      out += " -> " +
             (go.target_kind == detail::TargetKind::state ? m.state_infos[go.target].path : m.transition_infos[i].to) +
             "\n";
    }
    for (std::uint32_t i = 0; state.play.moves() && i < state.play.clips.count; ++i) {
      out += "  places";
      for (const detail::Stop& stop : MachineData::view(m.stops, m.played[state.play.clips.begin + i].stops))
        out += " " + std::to_string(stop.at) + "(" + std::to_string(stop.forward.count) + "," +
               std::to_string(stop.backward.count) + ")";
      out += "\n";
    }
  }
  return out;
}

}  // namespace mobrin
