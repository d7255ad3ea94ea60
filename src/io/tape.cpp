// Tapes: loading, and checking against a machine.
#include <algorithm>

#include "long_tape.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/save.hpp"
#include "tape_reader.hpp"

namespace mobrin {
namespace io {

namespace {

constexpr std::int64_t kLatestTicks = std::int64_t{1} << 62;  // an instance's clock goes no further

}  // namespace

std::optional<Ticks> read_instant(Reader& reader, const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::map && node.entries.size() == 1 && node.entries[0].key.text == "ticks") {
    const auto ticks = reader.whole(node.entries[0].value, what, 0, kLatestTicks);
    if (!ticks) return std::nullopt;
    return Ticks(*ticks);
  }
  if (node.kind == YamlNode::Kind::scalar && read_duration(node.text)) {
    const Ticks ticks = *read_duration(node.text);
    if (ticks.count <= kMaxDurationTicks) return ticks;
  }
  reader.no_number(node, what, "an instant such as `900ms` or `1.5s`, at most 10 hours, or `{ticks: 70560000}`",
                   [](std::string_view text) { return read_duration(text).has_value(); });
  return std::nullopt;
}

namespace {

// Half of the last digit of a duration as it is written, at most half a millisecond.
Ticks rounding_of(const std::string& text) {
  const std::size_t point = text.find('.');
  double unit = text.ends_with("ms") ? 0.001 : 1;
  if (point != std::string::npos)
    for (std::size_t i = point + 1; i < text.size() && text[i] >= '0' && text[i] <= '9'; ++i) unit /= 10;
  return Ticks(static_cast<std::int64_t>(std::min(unit, 0.001) / 2 * static_cast<double>(kTicksPerSecond)));
}

void read_expect(Reader& reader, const YamlNode& node, const Fields& step, Tape& tape) {
  const YamlNode& value = *step.get("expect");
  if (value.kind == YamlNode::Kind::scalar || value.is_empty())
    return reader.mismatch(value, "`expect:`", "a map such as `{in: air}` or `{holds: health == 6}`");
  const Fields fields = reader.fields(value, Section::tape_expect);
  TapeExpect expect;
  expect.place = reader.place_of(value);
  const YamlNode* from = step.get("from");
  const YamlNode* at = from != nullptr ? from : step.get("at");
  if (at == nullptr)
    return reader.fail(FindingCode::missing_key, node, "the expectation does not say when",
                       "Add `at: 900ms`, or `from: 1s, to: 2s`.");
  const auto instant = read_instant(reader, *at, from != nullptr ? "`from:`" : "`at:`");
  if (!instant) return;
  expect.at = *instant;
  if (at->kind == YamlNode::Kind::scalar) expect.rounded = rounding_of(at->text);
  if (from != nullptr) {
    const YamlNode* to = step.get("to");
    if (to == nullptr) return reader.fail(FindingCode::missing_key, node, "the stretch has no end", "Add `to: 2s`.");
    expect.to = read_instant(reader, *to, "`to:`");
    if (!expect.to) return;
    if (*expect.to <= expect.at)
      reader.fail(FindingCode::bad_value, *to, "the stretch ends before it begins", "`to:` lies after `from:`.");
  }
  if (const YamlNode* states = fields.get("in"); states != nullptr && states->kind == YamlNode::Kind::list)
    return reader.mismatch(*states, "`in:`", "one state; any of several is `holds: in(stand) or in(walk)`");
  const auto name = [&](const char* key, Text& to) {
    if (const YamlNode* each = fields.get(key))
      if (const auto words = reader.name(*each, "`" + std::string(key) + ":`")) to = *words;
  };
  const auto expression = [&](const char* key, Text& to) {
    if (const YamlNode* each = fields.get(key))
      if (const auto words = reader.expression(*each, "`" + std::string(key) + ":`")) to = *words;
  };
  name("in", expect.in);
  name("shows", expect.shows);
  name("is", expect.is);
  name("look", expect.look);
  name("cue", expect.cue);
  expression("holds", expect.holds);
  expression("never", expect.never);
  expression("always", expect.always);
  const YamlNode* cues = fields.get("cues");
  if (cues != nullptr && cues->is_empty())
    reader.mismatch(*cues, "`cues:`", "how often each is told: `{step: 2, net_out: 0}`");
  if (cues != nullptr && expect.to)
    reader.each_entry(*cues, "`cues:` of an expectation", [&](const YamlNode& key, const YamlNode& number) {
      if (const auto times = reader.whole(number, "how often a cue is told", 0, 1'000'000))
        expect.cues.emplace_back(reader.text_of(key), static_cast<std::int32_t>(*times));
    });
  const auto wrong = [&](std::initializer_list<const char*> keys, const char* remedy) {
    for (const char* key : keys)
      if (fields.has(key))
        reader.fail(FindingCode::conflicting_keys, *fields.get(key),
                    "`" + std::string(key) + ":` does not go with this time", remedy);
  };
  if (expect.to)
    wrong({"in", "shows", "is", "look", "holds", "cue"}, "Over a stretch there are `never:`, `always:` and `cues:`.");
  else
    wrong({"never", "always", "cues"}, "Say `from:` and `to:` for a stretch.");
  tape.expects.push_back(std::move(expect));
}

// A state's path; `""` is the root: the whole machine.
std::optional<Text> read_state(Reader& reader, const YamlNode& node, const std::string& what) {
  if (node.kind == YamlNode::Kind::scalar && node.text.empty() && node.quoted) return reader.text_of(node);
  return reader.name(node, what);
}

// `move = 1`, `[move, 1]` as entries of a map; empty for what is neither.
std::string as_entry(const YamlNode& node) {
  std::string name, value;
  if (node.kind == YamlNode::Kind::list && node.items.size() == 2) {
    name = node.items[0].text;
    value = node.items[1].text;
  } else if (node.kind == YamlNode::Kind::scalar) {
    const std::size_t end = std::min(node.text.find_first_of(" =:"), node.text.size());
    name = node.text.substr(0, end);
    value = node.text.substr(std::min(node.text.find_first_not_of(" =:", end), node.text.size()));
  }
  return is_name(name) && !value.empty() ? "{" + name + ": " + value + "}" : "";
}

std::vector<std::pair<Text, FieldValue>> read_set(Reader& reader, const YamlNode& node) {
  std::vector<std::pair<Text, FieldValue>> out;
  if (const std::string entry = as_entry(node); !entry.empty()) {
    reader.mismatch(node, "`set:`", "a map: `" + entry + "`");
    return out;
  }
  if (node.kind == YamlNode::Kind::null) reader.mismatch(node, "`set:`", "values by name: `{move: 1}`");
  reader.each_entry(node, "`set:`", [&](const YamlNode& key, const YamlNode& value) {
    if (value.kind == YamlNode::Kind::map)
      reader.mismatch(value, "the value", "one value; what changes over time takes a step for each");
    else if (auto read = reader.field_value(value, "the value"))
      out.emplace_back(reader.text_of(key), std::move(*read));
  });
  return out;
}

// Whether a step is one of an instant; what does not go with its `from:` and `to:` is told.
bool times_of_step(Reader& reader, const Fields& fields) {
  if (!fields.has("from")) {
    if (const YamlNode* to = fields.get("to")) {
      reader.fail(FindingCode::conflicting_keys, *to, "`to:` stands without `from:`",
                  "They are the ends of a stretch over which something is expected; a state is put there by `place:`.");
      return false;
    }
    return true;
  }
  bool wrong = false;
  for (const std::string& key : keys_of(Section::tape_step))
    if (const YamlNode* each = fields.get(key);
        each != nullptr && !wrong && key != "from" && key != "to" && key != "expect") {
      wrong = true;
      reader.fail(FindingCode::conflicting_keys, *each, "`" + key + ":` stands beside `from:`",
                  "What is written is written at one instant, `at:`, and stays; a stretch has only `expect:`.");
    }
  if (!wrong && !fields.has("expect") && !fields.strange)
    reader.fail(FindingCode::missing_key, *fields.get("from"), "the stretch expects nothing",
                "Add `expect:`, such as `expect: {never: in(hurt)}`; what is written is written `at:` one instant.");
  return false;
}

void read_step(Reader& reader, const YamlNode& node, Tape& tape) {
  const Fields fields = reader.fields(node, Section::tape_step);
  if (node.kind != YamlNode::Kind::map) {
    if (node.kind == YamlNode::Kind::null)
      reader.mismatch(node, "a tape step", "a map such as `{at: 900ms, pulse: swing}`");
    return;
  }
  if (fields.foreign) return;
  const YamlNode* at = fields.get("at");
  if (fields.has("expect")) {
    const std::size_t before = tape.expects.size();
    read_expect(reader, node, fields, tape);
    if (tape.expects.size() == before) return;  // what is wrong with it is told, and of its instant only once
  }
  if (!times_of_step(reader, fields)) return;
  if (at == nullptr && fields.strange) return;
  if (at == nullptr)
    return reader.fail(FindingCode::missing_key, node, "the step does not say when", "Add `at:`, such as `at: 900ms`.");
  const auto instant = read_instant(reader, *at, "`at:`");
  if (!instant) return;
  TapeStep step;
  step.at = *instant;
  if (!tape.steps.empty() && step.at < tape.steps.back().at)
    reader.fail(FindingCode::bad_value, *at,
                "the step at " +
                    (at->kind == YamlNode::Kind::map ? "tick " + std::to_string(instant->count) : at->words()) +
                    " lies before the one above it",
                "Put the steps in order of time.");
  if (const YamlNode* set = fields.get("set")) step.set = read_set(reader, *set);
  if (const YamlNode* pulse = fields.get("pulse")) step.pulses = read_pulses(reader, *pulse);
  if (const YamlNode* rate = fields.get("rate")) {
    const auto number = reader.number(*rate, "`rate:`");
    if (number && *number >= 0 && *number <= 64)
      step.rate = *number;
    else if (number)
      reader.fail(FindingCode::bad_value, *rate, "the rate " + rate->words() + " is out of range",
                  "Rates lie between 0 and 64.");
  }
  if (const YamlNode* freeze = fields.get("freeze")) {
    step.freeze = read_instant(reader, *freeze, "`freeze:`");
    if (step.freeze && *step.freeze > kLongestFreeze)
      reader.fail(FindingCode::bad_value, *freeze, "the freeze " + freeze->words() + " is too long",
                  "It lasts at most 6 s; to pause for longer, set `rate: 0`.");
  }
  if (const YamlNode* place = fields.get("place")) step.place = read_state(reader, *place, "`place:`");
  if (const YamlNode* played = fields.get("played")) {
    const auto time = read_instant(reader, *played, "`played:`");
    if (!fields.has("place"))
      reader.fail(FindingCode::missing_key, *played, "`played:` stands without `place:`",
                  "It says how long the state of `place:` has been active: `{at: 1s, place: walk, played: 300ms}`.");
    else if (time && time->count > kMaxDurationTicks)
      reader.fail(FindingCode::bad_value, *played, "`played:` is more than 10 hours",
                  "A state is placed as one that has been active for at most `36000s`.");
    else
      step.played = time.value_or(Ticks());
  }
  if (const YamlNode* reset = fields.get("reset")) step.reset = reader.boolean(*reset, "`reset:`").value_or(false);
  if (const YamlNode* settled = fields.get("settled"))
    step.settled = reader.boolean(*settled, "`settled:`").value_or(false);
  if (const YamlNode* force = fields.get("force")) step.force = read_state(reader, *force, "`force:`");
  tape.steps.push_back(std::move(step));
}

}  // namespace

std::vector<Text> read_pulses(Reader& reader, const YamlNode& node) {
  const bool with_value = node.kind == YamlNode::Kind::map && node.entries.size() == 1;  // `{swing: true}`
  if (node.kind == YamlNode::Kind::null || with_value) {
    reader.mismatch(node, "`pulse:`",
                    with_value ? "its name: `pulse: " + node.entries[0].key.text + "`" : "a pulse, or a list of them");
    return {};
  }
  return reader.names(node, "a pulse");
}

std::optional<bool> has_key(const std::string& path, std::string_view key) {
  std::vector<std::string> files;
  std::vector<Finding> findings;
  Reader reader(files, findings);
  const auto text = reader.read_text(path, {}, kMaxTapeBytes);
  if (!text) return std::nullopt;
  const auto tape = split_long_tape(*text);
  const auto root = reader.parse_text(tape ? tape->around : *text, path);
  if (!root) return std::nullopt;
  return entry_of(*root, key) != nullptr;
}

bool writes(const TapeStep& step) {
  return !step.set.empty() || !step.pulses.empty() || step.rate || step.freeze || step.reset || step.settled ||
         step.place || step.force;
}

// `{at: 4s}`: nothing is done.
bool only_says_when(const YamlNode& step) {
  return step.kind == YamlNode::Kind::map && step.entries.size() == 1 && entry_of(step, "at") != nullptr;
}

void read_steps(Reader& reader, const YamlNode& node, Tape& tape) {
  if (node.kind != YamlNode::Kind::list && node.kind != YamlNode::Kind::null)
    reader.mismatch(node, "`steps:`", "a list: `- {at: 900ms, pulse: swing}`");
  else
    for (const YamlNode& item : node.items) {
      read_step(reader, item, tape);
      // The last one may say how long the tape lasts.
      if (only_says_when(item) && &item != &node.items.back())
        reader.fail(FindingCode::hardly_meant, item, "the step does nothing",
                    "Say what is written, `set:` or `pulse:`, or what must be so, `expect:`.");
    }
}

namespace {

// How long a tape lasts by its last step, where that writes nothing: to the end of all that is expected.
std::optional<Ticks> end_said_by(const YamlNode& steps, const Tape& tape) {
  if (steps.items.empty()) return std::nullopt;
  const YamlNode& last = steps.items.back();
  if (only_says_when(last)) return tape.steps.empty() ? std::nullopt : std::optional(tape.steps.back().at);
  const bool expects = last.kind == YamlNode::Kind::map &&
                       std::all_of(last.entries.begin(), last.entries.end(), [](const YamlEntry& each) {
                         const std::string& key = each.key.text;
                         return key == "at" || key == "from" || key == "to" || key == "expect";
                       });
  if (!expects || tape.expects.empty()) return std::nullopt;
  Ticks end = tape.steps.empty() ? Ticks() : tape.steps.back().at;
  for (const TapeExpect& each : tape.expects) end = std::max(end, each.to.value_or(each.at + each.rounded));
  return end;
}

// All steps, and how long the tape lasts by the last of them.
std::optional<Ticks> read_all_steps(Reader& reader, const YamlNode& node, const std::optional<LongTape>& pieces,
                                    const std::string& name, Tape& tape) {
  if (!pieces) {
    read_steps(reader, node, tape);
    return end_said_by(node, tape);
  }
  if (pieces->steps > kMaxSteps) {
    Place place = reader.place_of(node);
    place.line = pieces->pieces.front().before + 1;
    reader.fail(FindingCode::too_large, place, "the tape has " + std::to_string(pieces->steps) + " steps",
                "At most " + std::to_string(kMaxSteps) + " are read: record shorter ones, each with its `save:`.");
    return std::nullopt;
  }
  std::optional<Ticks> end;
  for (const LongTape::Piece& piece : pieces->pieces) {
    const auto root = reader.parse_text(piece.text, name, piece.before);
    if (!root) return std::nullopt;
    const YamlNode& steps = entry_of(*root, "steps")->value;
    read_steps(reader, steps, tape);
    if (&piece == &pieces->pieces.back()) end = end_said_by(steps, tape);
  }
  return end;
}

LoadedTape read_tape(Reader& reader, std::vector<Finding>& findings, const std::optional<std::string_view>& text,
                     const std::string& name) {
  LoadedTape out;
  std::optional<LongTape> pieces;
  if (text) pieces = split_long_tape(*text);
  auto root = text ? reader.parse_text(pieces ? pieces->around : *text, name) : std::nullopt;
  if (root && check_version(reader, *root, "a tape")) {
    if (entry_of(*root, "tape") == nullptr) {
      reader.fail(FindingCode::wrong_kind_of_file, *root, "\"" + name + "\" is no tape",
                  "A tape says `tape: NAME` and lists its `steps:`.");
    } else {
      Tape tape;
      const Fields fields = reader.fields(*root, Section::tape);
      if (const YamlNode* node = fields.get("tape"))
        if (const auto words = reader.name(*node, "the tape's name")) tape.name = words->text;
      if (const YamlNode* node = fields.get("machine"))
        if (const auto path = reader.name(*node, "`machine:`")) {
          tape.machine = join(folder_of(name), path->text);
          tape.machine_place = path->place;
        }
      if (const YamlNode* node = fields.get("until")) tape.until = read_instant(reader, *node, "`until:`");
      if (const YamlNode* node = fields.get("steps")) {
        const std::optional<Ticks> end = read_all_steps(reader, *node, pieces, name, tape);
        if (!fields.has("until")) tape.until = end;
      }
      if (const YamlNode* node = fields.get("log")) {
        tape.log.emplace();
        reader.each_item(*node, [&](const YamlNode& item) {
          if (item.kind == YamlNode::Kind::scalar)
            tape.log->push_back(reader.text_of(item));
          else
            reader.mismatch(item, "a line of `log:`", "text such as `70560000 enter ground/walk`");
        });
      }
      if (const YamlNode* node = fields.get("save"))
        if (const auto json = reader.name(*node, "`save:`")) {
          auto saved = read_save(json->text);
          if (saved)
            tape.save = std::move(*saved);
          else
            reader.fail(FindingCode::bad_value, *node, "`save:` is no save: " + saved.error().message,
                        "It is the JSON text that a save is made of; record the tape anew.");
        }
      if (const YamlNode* node = fields.get("faults"))
        tape.faults = static_cast<std::int32_t>(reader.whole(*node, "`faults:`", 0, 1'000'000).value_or(0));
      // An expectation behind the end is told when it is checked.
      if (tape.until && fields.has("until") &&
          std::any_of(tape.steps.begin(), tape.steps.end(),
                      [&](const TapeStep& step) { return step.at > *tape.until && writes(step); }))
        reader.fail(FindingCode::after_until, *fields.get("until"), "the tape ends before its last step",
                    "Steps after `until:` are not run; raise it.");
      out.tape = std::move(tape);
    }
  }
  if (has_errors(findings)) out.tape.reset();
  out.findings = sorted_by_place(std::move(findings), {name});
  return out;
}

}  // namespace
}  // namespace io

LoadedTape load_tape(const std::string& path) {
  std::vector<std::string> files;
  std::vector<Finding> findings;
  io::Reader reader(files, findings);
  const auto text = reader.read_text(path, {}, io::kMaxTapeBytes);
  return io::read_tape(reader, findings, text, path);
}

LoadedTape load_tape_text(std::string_view text, const std::string& name) {
  std::vector<std::string> files;
  std::vector<Finding> findings;
  io::Reader reader(files, findings);
  return io::read_tape(reader, findings, text, name);
}

std::optional<bool> is_character(const std::string& path) { return io::has_key(path, "character"); }

std::vector<std::string> own_files(const Loaded& loaded) {
  if (loaded.files.empty() || !is_character(loaded.files.front()).value_or(false)) return loaded.files;
  // It comes first, then what it uses, then its machine with what that uses.
  std::vector<std::string> out;
  for (const std::string& file : loaded.files) {
    if (!out.empty() && io::has_key(file, "machine").value_or(true)) break;
    out.push_back(file);
  }
  return out;
}

std::optional<bool> is_tape(const std::string& path) { return io::has_key(path, "tape"); }

std::vector<Finding> check_tape(const Tape& tape, const Machine& machine, const std::string& file) {
  std::vector<Finding> findings;
  Instance trial(machine);
  const auto add = [&](const Text& name, const Error& error) {
    Finding& finding = findings.emplace_back();
    finding.code = error.unknown ? FindingCode::unknown_name : FindingCode::wrong_type;
    finding.file = file;
    finding.line = name.place.line;
    finding.column = name.place.column;
    finding.message = error.message;
    finding.remedy = !error.nearest.empty()  ? "Did you mean \"" + error.nearest + "\"?"
                     : !error.remedy.empty() ? error.remedy
                                             : "Only a pulse can be pressed; write a value under `set:`.";
  };
  for (const TapeStep& step : tape.steps) {
    for (const auto& [name, value] : step.set)
      if (const Outcome outcome = trial.set_by_name(name.text, value); !outcome) add(name, outcome.error());
    for (const Text& pulse : step.pulses)
      if (const Outcome outcome = trial.pulse_by_name(pulse.text); !outcome) add(pulse, outcome.error());
    for (const std::optional<Text>* path : {&step.place, &step.force})
      if (*path)
        if (const auto state = machine.state((*path)->text); !state) add(**path, state.error());
  }
  return findings;
}

}  // namespace mobrin
