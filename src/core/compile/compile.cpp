// The compiler: checks a definition, reports what is wrong with it, and builds the machine's tables.
#include "compile/compile.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstdlib>
#include <limits>

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

void Compilation::report(FindingCode code, Place place, std::string message, std::string remedy, std::string subject) {
  Finding& finding = findings.emplace_back();
  finding.code = code;
  if (place.line > 0 && place.file < def.files.size()) finding.file = def.files[place.file];
  finding.line = place.line;
  finding.column = place.column;
  finding.message = std::move(message);
  finding.remedy = std::move(remedy);
  finding.subject = std::move(subject);
}

namespace {

constexpr std::size_t kMostNearest = 1'000;

}  // namespace

void Compilation::unknown(std::string_view what, const Text& name, const std::vector<std::string>& known,
                          std::string_view advice) {
  // Who has misspelt so many has done something else wrong; looking for each takes long.
  const std::string nearest = ++unknown_names > kMostNearest ? "" : nearest_name(name.text, known);
  std::string remedy = nearest.empty() ? std::string(advice) : "Did you mean \"" + nearest + "\"?";
  report(FindingCode::unknown_name, name.place, "there is no " + std::string(what) + " \"" + name.text + "\"",
         std::move(remedy), name.text);
}

bool Compilation::declare(std::string_view what, const Text& name, std::set<std::string, std::less<>>& taken) {
  if (!is_name(name.text)) {
    report(FindingCode::bad_name, name.place, "\"" + name.text + "\" cannot be the name of " + article(what),
           "A name is a letter, then letters, digits or underscores (at most 64), and no word of the expression "
           "language.",
           name.text);
    return false;
  }
  if (taken.insert(name.text).second) return true;
  report(FindingCode::duplicate_name, name.place, "there is " + article(what) + " \"" + name.text + "\" already",
         "Give it another name.", name.text);
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
    const auto fail = [&](const std::string& message, std::string remedy) {
      report(FindingCode::bad_value, input.name.place, "the input \"" + input.name.text + "\" " + message,
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
               "Write a number.", field.name.text);
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
             "It is declared as " + std::string(type_name(value)) + ".", name.text);
    }
  }
  data->fields.push_back(std::move(values));
  return static_cast<std::uint32_t>(data->fields.size() - 1);
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
           "At most " + std::to_string(kMaxOrdinal) + " are supported: fewer marks of a clip, regions or actions.",
           def.name.text);
  m.most_records = static_cast<std::uint32_t>(std::min<std::uint64_t>(bound, kMaxOrdinal));

  m.serial = new_serial();
  m.name = def.name.text;
  m.files = def.files;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    m.state_infos[s].initial = m.states[s].initial;
    m.state_infos[s].region = m.states[s].region;
  }
  for (std::size_t r = 0; r < m.regions.size(); ++r) m.region_infos[r].initial = m.regions[r].initial;
  if (sound()) complete(m);
}

}  // namespace detail

std::vector<FrameDef> plain_frames(std::int32_t count) {
  return std::vector<FrameDef>(static_cast<std::size_t>(std::max(0, count)));
}

std::string PlayMode::text() const {
  const std::string base = kind == PlayKind::once ? "once" : kind == PlayKind::loop ? "loop" : "back-and-forth";
  return kind == PlayKind::once || passes == 0 ? base : base + " x" + std::to_string(passes);
}

}  // namespace mobrin
