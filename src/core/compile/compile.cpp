// The compiler: checks a definition, reports what is wrong with it, and builds the machine's tables.
#include "compile/compile.hpp"

#include <algorithm>
#include <atomic>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <tuple>

#include "mobrin/core/names.hpp"

namespace mobrin {
namespace detail {
namespace {

std::string_view type_name(const FieldValue& value) {
  constexpr std::string_view kNames[] = {"true or false", "a whole number", "a number", "text", "a list of numbers"};
  return kNames[value.index()];
}

std::string article(std::string_view noun) { return (noun == "input" ? "an " : "a ") + std::string(noun); }

bool finite(const FieldValue& value) {
  if (const auto* number = std::get_if<double>(&value)) return std::isfinite(*number);
  if (const auto* list = std::get_if<std::vector<double>>(&value))
    return std::all_of(list->begin(), list->end(), [](double x) { return std::isfinite(x); });
  return true;
}

}  // namespace

std::uint32_t new_serial() {
  static std::atomic<std::uint32_t> next{1};
  return next.fetch_add(1);
}

void Compilation::report(FindingCode code, Place place, std::string message, std::string remedy) {
  Finding& finding = findings.emplace_back();
  finding.code = code;
  if (place.line > 0 && place.file < def.files.size()) finding.file = def.files[place.file];
  finding.line = place.line;
  finding.column = place.column;
  finding.message = std::move(message);
  finding.remedy = std::move(remedy);
}

void Compilation::unknown(std::string_view what, const Text& name, const std::vector<std::string>& known,
                          std::string_view advice) {
  const std::string nearest = nearest_name(name.text, known);
  std::string remedy = nearest.empty() ? std::string(advice) : "Did you mean \"" + nearest + "\"?";
  report(FindingCode::unknown_name, name.place, "there is no " + std::string(what) + " \"" + name.text + "\"",
         std::move(remedy));
}

bool Compilation::declare(std::string_view what, const Text& name, std::set<std::string, std::less<>>& taken) {
  if (!is_name(name.text)) {
    report(FindingCode::bad_name, name.place, "\"" + name.text + "\" cannot be the name of " + article(what),
           "A name is a letter, then letters, digits or underscores (at most 64), and no word of the expression "
           "language.");
    return false;
  }
  if (taken.insert(name.text).second) return true;
  report(FindingCode::duplicate_name, name.place, "there is " + article(what) + " \"" + name.text + "\" already",
         "Give it another name.");
  return false;
}

bool Compilation::within(std::string_view what, std::size_t count, std::size_t most, Place place) {
  if (count <= most) return true;
  report(FindingCode::too_large, place, std::to_string(count) + " " + std::string(what) + " are too many",
         "At most " + std::to_string(most) + " are supported.");
  return false;
}

void Compilation::compile_inputs() {
  if (!within("inputs", def.inputs.size(), kMaxInputs, {})) return;
  std::set<std::string, std::less<>> taken;
  for (const InputDef& input : def.inputs) {
    if (!declare("input", input.name, taken)) continue;
    const auto fail = [&](std::string message, std::string remedy) {
      report(FindingCode::bad_value, input.name.place, "the input \"" + input.name.text + "\" " + message,
             std::move(remedy));
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
      if (!fits(f->start) || !fits(f->min) || !fits(f->max) || !std::isfinite(f->grain) || f->grain < 0)
        fail("has a number that does not fit", "Numbers are held in 32 bits; a grain is 0 or more.");
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
      for (const Text& choice : c->choices) declare("choice", choice, names);
      const auto start =
          std::find_if(c->choices.begin(), c->choices.end(), [&](const Text& t) { return t.text == c->start.text; });
      if (start != c->choices.end())
        out.whole_start = static_cast<std::int32_t>(start - c->choices.begin());
      else if (!c->start.empty())
        unknown("choice", c->start, {names.begin(), names.end()}, "Start with one of the choices.");
    } else {
      out.kind = InputKind::pulse;
      out.buffer = std::get<PulseInput>(input.kind).buffer.count;
      if (out.buffer < 0 || out.buffer > kMaxDurationTicks)
        fail("has an impossible buffer", "A buffer lasts 0 to 10 hours.");
    }
    inputs[input.name.text] = static_cast<std::uint16_t>(data->inputs.size());
    data->inputs.push_back(out);
    data->input_defs.push_back(input);
  }
}

void Compilation::compile_cues() {
  if (!within("cues", def.cues.size(), kMaxCues, {})) return;
  std::set<std::string, std::less<>> taken;
  for (const CueDef& cue : def.cues) {
    if (!declare("cue", cue.name, taken)) continue;
    std::set<std::string, std::less<>> fields;
    for (const FieldDef& field : cue.fields) {
      declare("field", field.name, fields);
      if (!finite(field.value))
        report(FindingCode::bad_value, field.name.place, "the field \"" + field.name.text + "\" is not finite",
               "Write a number.");
    }
    cues[cue.name.text] = static_cast<std::uint16_t>(data->cue_defs.size());
    data->cue_defs.push_back(cue);
    auto& values = data->fields.emplace_back();
    for (const FieldDef& field : cue.fields) values.push_back(field.value);
  }
}

std::optional<std::uint16_t> Compilation::find_cue(const Text& name) {
  if (const auto found = cues.find(name.text); found != cues.end()) return found->second;
  std::vector<std::string> known;
  for (const auto& [cue, index] : cues) known.push_back(cue);
  unknown("cue", name, known, "Declare it under `cues:`.");
  return std::nullopt;
}

std::uint32_t Compilation::resolve_fields(std::uint16_t cue, const std::vector<FieldDef>& overrides, Place place) {
  if (overrides.empty()) return cue;
  const CueDef& declared = data->cue_defs[cue];
  std::vector<FieldValue> values = data->fields[cue];
  for (const FieldDef& field : overrides) {
    const auto found = std::find_if(declared.fields.begin(), declared.fields.end(),
                                    [&](const FieldDef& known) { return known.name.text == field.name.text; });
    const Text name(field.name.text, field.name.place.line > 0 ? field.name.place : place);
    if (found == declared.fields.end()) {
      std::vector<std::string> known;
      for (const FieldDef& each : declared.fields) known.push_back(each.name.text);
      unknown("field of the cue \"" + declared.name.text + "\" called", name, known,
              "Declare it with the cue first; a mark may then give it another value.");
      continue;
    }
    FieldValue& value = values[static_cast<std::size_t>(found - declared.fields.begin())];
    const auto* whole = std::get_if<std::int64_t>(&field.value);
    if (whole != nullptr && std::holds_alternative<double>(value)) {
      value = static_cast<double>(*whole);
    } else if (value.index() == field.value.index() && finite(field.value)) {
      value = field.value;
    } else {
      report(FindingCode::wrong_type, name.place,
             "the field \"" + name.text + "\" is " + std::string(type_name(field.value)) + " here",
             "It is declared as " + std::string(type_name(value)) + ".");
    }
  }
  data->fields.push_back(std::move(values));
  return static_cast<std::uint32_t>(data->fields.size() - 1);
}

// What `to: back` and `to: x/last` need to remember.
void Compilation::lay_out_memories(const std::function<std::uint32_t(std::size_t)>& take) {
  MachineData& m = *data;
  for (std::size_t s = 1; s < m.states.size(); ++s) {
    StateData& state = m.states[s];
    for (const GoDef& go : source_of(s).go) {
      if (go.to.text == "back") {
        RegionData& region = m.regions[state.region];
        if (region.rest == kNoOffset) region.rest = take(2);
        if (state.last != s && state.back == kNoOffset) state.back = take(2);
      }
      if (go.to.text == "back" || go.at == GoAt::end) state.restful = false;
    }
  }
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    for (const GoDef& go : source_of(s).go) {
      if (!go.to.text.ends_with("/last")) continue;
      const auto target = find_state(go.to.text.substr(0, go.to.text.size() - 5), node_of_state[s]);
      if (target && m.states[*target].last_child == kNoOffset) m.states[*target].last_child = take(2);
    }
  }
}

namespace {

// Hands out places in the block. Asked for values of four bytes first, then smaller ones, then those of eight, it
// leaves no byte unused but before the last ones, and what is read on every write lies beside the header's flags.
class Layout {
 public:
  std::uint32_t take(std::size_t size) {
    // The header's last bytes are free.
    for (auto& [at, bytes] : holes_) {
      if (bytes < size || at % size != 0) continue;
      const std::size_t given = at;
      at += size;
      bytes -= size;
      return static_cast<std::uint32_t>(given);
    }
    const std::size_t given = (end_ + size - 1) / size * size;
    end_ = given + size;
    return static_cast<std::uint32_t>(given);
  }
  [[nodiscard]] std::size_t size() const { return (end_ + 7) / 8 * 8; }

 private:
  std::pair<std::size_t, std::size_t> holes_[2] = {{offsetof(BlockHeader, given_away), 1},
                                                   {offsetof(BlockHeader, given_away) + 1, 4}};
  std::size_t end_ = sizeof(BlockHeader);
};

// A plain number: what follows nothing. `inf` is none; an input may have that name.
bool is_number(const std::string& text) {
  double value = 0;
  const char *const begin = text.data(), *const end = begin + text.size();
  const auto [stop, error] = std::from_chars(begin, end, value);
  return error == std::errc() && stop == end && text.find_first_not_of("0123456789.eE+-") == std::string::npos;
}

}  // namespace

// What the plays of a region need to store.
Compilation::Needs Compilation::needs_of(std::uint16_t region) const {
  Needs needs;
  for (std::size_t s = 1; s < data->states.size(); ++s) {
    const StateData& state = data->states[s];
    if (state.region != region) continue;
    const StateDef& source = source_of(s);
    needs.choice = needs.choice || state.play.chooses();
    if (!state.play.moves()) continue;
    needs.moves = true;
    const bool computed = state.play.blend != kNoIndex || (!source.speed.empty() && !is_number(source.speed.text));
    needs.speed = needs.speed || computed;
    for (std::uint32_t i = 0; i < state.play.clips.count; ++i)
      needs.passes = needs.passes || computed || data->clips[data->played[state.play.clips.begin + i].clip].passes > 0;
  }
  for (std::size_t s = 0; s < data->states.size(); ++s)
    for (const GoDef& go : source_of(s).go)
      if (go.fade.count > 0 && changes(static_cast<std::uint16_t>(s), region)) needs.fades = true;
  return needs;
}

// Whether a transition of `owner` may change what is active in `region`.
bool Compilation::changes(std::uint16_t owner, std::uint16_t region) const {
  for (std::uint16_t s = owner; s != 0; s = data->states[s].parent)
    if (data->states[s].region == region) return true;
  for (std::uint16_t s = data->regions[region].owner;; s = data->states[s].parent) {
    if (s == owner) return true;
    if (s == 0) return false;
  }
}

// Gives every changing value its place in the block.
void Compilation::lay_out() {
  MachineData& m = *data;
  Layout layout;
  std::vector<Needs> needs;
  for (std::uint16_t r = 0; r < m.regions.size(); ++r) needs.push_back(needs_of(r));
  // The values of a region and its layers, by their size.
  const auto slots = [&](std::size_t size, const auto& place) {
    for (std::size_t r = 0; r < m.regions.size(); ++r) {
      place(m.regions[r].slot, needs[r], size);
      if (needs[r].fades)
        for (LayerData& layer : m.regions[r].layers) place(layer.slot, needs[r], size);
    }
  };
  const auto place_slot = [&](SlotData& slot, const Needs& need, std::size_t size) {
    if (size == 8 && need.moves) slot.playhead = layout.take(8);
    if (size == 4 && need.speed) slot.speed = layout.take(4);
    if (size == 2 && need.passes) slot.passes = layout.take(2);
    if (size == 1 && need.choice) slot.choice = layout.take(1);
  };

  const auto wide = [](ValueType type) { return type == ValueType::whole || type == ValueType::number; };
  for (InputData& input : m.inputs)
    if (input.kind == InputKind::whole || input.kind == InputKind::number) input.offset = layout.take(4);
  for (VarData& var : m.vars)
    if (wide(var.type)) var.offset = layout.take(4);
  slots(4, place_slot);
  for (std::size_t r = 0; r < m.regions.size(); ++r)
    if (needs[r].fades)
      for (LayerData& layer : m.regions[r].layers) layer.weight = layout.take(4);
  lay_out_memories([&](std::size_t size) { return layout.take(size); });
  slots(2, place_slot);
  for (std::size_t r = 0; r < m.regions.size(); ++r) {
    m.regions[r].leaf = layout.take(2);
    if (needs[r].fades)
      for (LayerData& layer : m.regions[r].layers) layer.state = layout.take(2);
  }
  slots(1, place_slot);
  for (std::size_t r = 0; r < m.regions.size(); ++r)
    if (needs[r].fades)
      for (LayerData& layer : m.regions[r].layers) layer.loud = layout.take(1);
  for (std::size_t i = 0; i < m.inputs.size(); ++i) {
    InputData& input = m.inputs[i];
    const bool brief = input.kind == InputKind::pulse && input.buffer == 0;
    if (brief) m.brief_pulses.push_back(static_cast<std::uint16_t>(i));
    if (input.kind == InputKind::boolean || input.kind == InputKind::choice || brief) input.offset = layout.take(1);
  }
  for (VarData& var : m.vars)
    if (!wide(var.type)) var.offset = layout.take(1);
  for (InputData& input : m.inputs)
    if (input.kind == InputKind::pulse && input.buffer > 0) input.offset = layout.take(8);
  slots(8, place_slot);
  for (std::size_t r = 0; r < m.regions.size(); ++r) {
    if (!needs[r].fades) continue;
    m.regions[r].fade_length = layout.take(8);
    m.regions[r].fade_run = layout.take(8);
  }
  // States of one region and depth are never active together, so they share a timer.
  std::map<std::pair<std::uint16_t, std::uint16_t>, std::uint32_t> timers;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    StateData& state = m.states[s];
    const StateDef& source = source_of(s);
    const bool timed =
        (state.final && state.linger > 0) ||
        std::any_of(source.go.begin(), source.go.end(), [](const GoDef& go) { return go.after.has_value(); });
    if (!timed) continue;
    const std::pair key(s == 0 ? kNoIndex : state.region, state.depth);
    const auto [entry, fresh] = timers.try_emplace(key, 0);
    if (fresh) entry->second = layout.take(8);
    state.timer = entry->second;
  }
  m.block_size = layout.size();
  for (std::uint16_t r = 0; r < m.regions.size(); ++r)
    if (needs[r].choice) m.choice_regions.push_back(r);

  constexpr ValueType kTypes[] = {ValueType::boolean, ValueType::whole, ValueType::number, ValueType::choice,
                                  ValueType::none};
  for (std::size_t i = 0; i < m.inputs.size(); ++i) {
    const auto* choice = std::get_if<ChoiceInput>(&m.input_defs[i].kind);
    input_symbols.push_back(static_cast<std::uint32_t>(m.symbols.size()));
    m.symbols.push_back({kTypes[static_cast<std::size_t>(m.inputs[i].kind)], m.inputs[i].offset,
                         choice != nullptr ? &choice->choices : nullptr, m.input_defs[i].name.text});
  }
  for (auto& symbols : symbols_of_node)
    for (std::uint32_t& var : symbols) {
      // Until now an index into vars; from now on into symbols.
      const std::uint32_t index = var;
      var = static_cast<std::uint32_t>(m.symbols.size());
      m.symbols.push_back({m.vars[index].type, m.vars[index].offset, nullptr, m.var_names[index]});
    }
}

std::uint64_t bound_of_records(const MachineData& m) {
  const auto tells = [&](Range<ActionData> range) {
    const auto actions = MachineData::view(m.actions, range);
    return static_cast<std::uint64_t>(
        std::count_if(actions.begin(), actions.end(), [](const ActionData& a) { return a.cue != kNoIndex; }));
  };
  std::uint64_t marks = 0, entered = 0, left = 0, loops = 0, taken = 0;
  for (const ClipData& clip : m.clips) marks = std::max<std::uint64_t>(marks, clip.marks.size());
  for (const StateData& state : m.states) {
    if (state.play.blend == kNoIndex) continue;
    std::uint64_t all = 0;
    for (const PlayedClip& played : MachineData::view(m.played, state.play.clips))
      all += m.clips[played.clip].marks.size();
    marks = std::max(marks, all);
  }
  for (const StateData& state : m.states) {
    entered = std::max(entered, tells(state.enter));
    left = std::max(left, tells(state.exit));
    loops = std::max(loops, tells(state.each_loop));
  }
  for (const TransitionData& go : m.transitions) taken = std::max(taken, tells(go.actions));
  const std::uint64_t regions = m.regions.size();
  const std::uint64_t deepest =
      std::max_element(m.states.begin(), m.states.end(), [](auto& a, auto& b) { return a.depth < b.depth; })->depth;
  // Both sides of a loop, what fades out below it, a turn and a choice.
  const std::uint64_t moved = regions * (3 * marks + 2 * marks * kFadeLayers + 1 + loops);
  const std::uint64_t step = regions * (deepest * (2 + entered + left) + 5 * marks + taken);
  return (kMaxMicrosteps + 2) * step + moved + 2;
}

void Compilation::finish() {
  MachineData& m = *data;
  m.heard.assign(m.cue_defs.size(), 0);
  m.cue_words = (m.cue_defs.size() + 63) / 64;
  for (const StateData& state : m.states) {
    m.timed = m.timed || state.timer != kNoOffset;
    m.ends = m.ends || state.final;
  }
  for (const TransitionData& go : m.transitions)
    if (go.event == GoEvent::cue) m.heard[go.arg] = 1;
  const std::uint64_t bound = bound_of_records(m);
  if (bound > kMaxOrdinal)
    report(FindingCode::too_large, def.name.place,
           "one instant of \"" + def.name.text + "\" may tell " + std::to_string(bound) + " records",
           "At most " + std::to_string(kMaxOrdinal) + " are supported: fewer marks of a clip, regions or actions.");
  m.most_records = static_cast<std::uint32_t>(std::min<std::uint64_t>(bound, kMaxOrdinal));

  m.serial = new_serial();
  m.name = def.name.text;
  m.files = def.files;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    m.state_infos[s].initial = m.states[s].initial;
    m.state_infos[s].region = m.states[s].region;
  }
  for (std::size_t r = 0; r < m.regions.size(); ++r) m.region_infos[r].initial = m.regions[r].initial;
}

}  // namespace detail

Compiled compile(const MachineDef& definition) {
  detail::Compilation work(definition);
  work.compile_inputs();
  work.compile_cues();
  work.compile_clips();
  work.flatten();
  if (!work.data->states.empty()) {
    work.compile_states();
    work.compile_go();
    work.compile_space();
  }
  Compiled out;
  if (work.sound()) {
    work.compile_stops();
    work.finish();
    if (work.sound()) detail::complete(*work.data);
    if (work.sound()) out.machine.emplace(detail::SharedTables(work.data.release()));
  }
  out.findings = std::move(work.findings);
  std::stable_sort(out.findings.begin(), out.findings.end(), [](const Finding& a, const Finding& b) {
    return std::tie(a.file, a.line, a.column) < std::tie(b.file, b.line, b.column);
  });
  return out;
}

std::vector<FrameDef> plain_frames(std::int32_t count) {
  return std::vector<FrameDef>(static_cast<std::size_t>(std::max(0, count)));
}

std::string PlayMode::text() const {
  const std::string base = kind == PlayKind::once ? "once" : kind == PlayKind::loop ? "loop" : "back-and-forth";
  return kind == PlayKind::once || passes == 0 ? base : base + " x" + std::to_string(passes);
}

}  // namespace mobrin
