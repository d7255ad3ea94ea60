// Reading the keys of a section, and what is said of those that it does not have.
#include <algorithm>

#include "mobrin/core/names.hpp"
#include "reader.hpp"

namespace mobrin::io {
namespace {

std::string its_keys(Section section) {
  std::string out;
  for (const std::string& each : keys_of(section)) out += (out.empty() ? "Its keys are: " : ", ") + each;
  return out + ".";
}

// `after 2s: rest`, `on hop: air`, `health < 3: flee` and `hidden: false`, in place of a rule's keys, and `hop: air`
// alone.
std::string rule_in_a_key(const YamlEntry& entry, bool alone) {
  if (entry.value.kind != YamlNode::Kind::scalar) return {};
  const std::string &key = entry.key.text, &value = entry.value.text;
  if (value == "true" || value == "false" || parse_number(value))
    return "A condition is `when: " +
           (value == "true"    ? key
            : value == "false" ? "not " + key
                               : key + " == " + value) +
           "`. " + its_keys(Section::go);
  const std::size_t blank = key.find(' ');
  std::string word = key.substr(0, blank);
  const std::vector<std::string>& known = keys_of(Section::go);
  if (std::find(known.begin(), known.end(), word) == known.end()) word = meant_key(Section::go, word);
  const auto rule = [&](std::string_view event, const std::string& what) {
    return "`{" + std::string(event) + ": " + what + ", to: " + value + "}`";
  };
  if (blank != std::string::npos)
    return "Write " + (word.empty() ? rule("when", key) : rule(word, key.substr(blank + 1))) + ".";
  return alone ? "Write " + rule("pulse", key) + ", or " + rule("when", key) + "." : "";
}

// What to write in place of a key that nobody knows. `alone`: its map holds nothing else.
std::string remedy_of(const YamlEntry& foreign, Section section, bool alone) {
  if (foreign.key.text == "<<") return "Nothing is merged: write the keys out, or give the whole value by `*name`.";
  if (std::string other = key_elsewhere(section, foreign.key.text); !other.empty()) return other;
  const std::string known = key_of_others(section, foreign.key.text) + its_keys(section);
  const bool plain = foreign.value.kind == YamlNode::Kind::scalar && !foreign.value.quoted;
  switch (section) {
    case Section::machine:
      if (plain) return "What the game writes stands under `inputs:`, what the machine counts under `vars:`. " + known;
      return known;
    case Section::state:
      if (plain && foreign.value.text == "true")
        return "A word for the game to ask is a trait: `traits: [" + foreign.key.text + "]`.";
      return known;
    case Section::clip:
      if (const std::string mode = meant_play(foreign.key.text); !mode.empty()) return "Write `play: " + mode + "`.";
      return known;
    case Section::marks:
      if (parse_whole(foreign.key.text))
        return "Frames stand under `cues:`: `cues: {" + foreign.key.text + ": " + (plain ? foreign.value.text : "CUE") +
               "}`.";
      return known;
    case Section::blend:
      if (parse_number(foreign.key.text) && plain)
        return "Points stand in a list: `points: [{at: " + foreign.key.text + ", clip: " + foreign.value.text +
               "}, ...]`.";
      return known;
    case Section::go:
      if (std::string rule = rule_in_a_key(foreign, alone); !rule.empty()) return rule;
      return known;
    case Section::action:
      return "An action tells a cue, `tell: CUE` or `tell: {CUE: {field: value}}`, or assigns, `variable = "
             "expression`.";
    case Section::tape_step:
      if (read_duration(foreign.key.text))
        return "A step says its instant by a key: `{at: " + foreign.key.text + ", ...}`.";
      return "An input is written under `set:`, a press under `pulse:`. " + known;
    case Section::actor:
      if (plain)
        return "An input is written by a step: `steps: [{at: 0s, set: {" + foreign.key.text + ": " +
               foreign.value.text + "}}]`. " + known;
      return known;
    case Section::hit_rule:
      if (plain && parse_number(foreign.value.text))
        return "What is added to an input stands under `add:`: `add: {" + foreign.key.text + ": " + foreign.value.text +
               "}`.";
      return known;
    case Section::tape_expect:
      return "A value is expected by an expression, `holds: " + foreign.key.text +
             " == " + (plain ? foreign.value.text : "6") + "`. " + known;
    default:
      return known;
  }
}

// A key that is spelt much like it: `clip` of a machine is `clips`, but `to` of a state is a rule's, not `go`; and
// `go: true` of a step is an input, for `to:` takes an instant.
std::string near_key(Section section, const YamlEntry& entry) {
  const std::string& word = entry.key.text;
  std::string near = nearest_name(word, keys_of(section));
  const bool truth = entry.value.text == "true" || entry.value.text == "false";
  if (section == Section::tape_step && truth && near != "reset" && near != "settled") near.clear();
  const bool by_its_end = near == word + "s" || word == near + "s";
  if (!by_its_end && !key_elsewhere(section, word).empty()) near.clear();
  return near;
}

}  // namespace

// `{when: max(a, b > 1, to: c}`; what closes its brackets behind a comma was joined before.
bool Reader::unclosed(const YamlNode& node) {
  if (!is_cut(node)) return false;
  fail(FindingCode::bad_expression, node, "a `(` in " + node.words() + " is not closed",
       "Close it with `)`; inside { } and [ ] an expression with a comma stands in quotes.");
  return true;
}

Fields Reader::fields(const YamlNode& node, Section section) {
  Fields out;
  const std::string what = with_article(name_of(section));
  if (!is_map(node, what)) {
    out.foreign = node.kind != YamlNode::Kind::null;
    return out;
  }
  const std::vector<std::string>& known = keys_of(section);
  bool cut = false;
  std::vector<const YamlEntry*> foreign;
  for (const YamlEntry& entry : node.entries) {
    const YamlNode &key = entry.key, &value = entry.value;
    if (!plain_key(key)) continue;
    if (cut && value.kind == YamlNode::Kind::null) continue;  // the rest of an expression that was cut
    std::string_view is = key.text;
    std::string nearest;
    if (std::find(known.begin(), known.end(), key.text) == known.end()) {
      nearest = meant_key(section, key.text);
      if (nearest.empty()) nearest = near_key(section, entry);
      if (nearest.empty()) {
        foreign.push_back(&entry);
        continue;
      }
      std::string mode = section == Section::clip && nearest == "play" ? meant_play(value.text) : "";
      if (mode.empty() && key.text == "loop") mode = meant_play("loop " + value.text);
      const bool there = entry_of(node, nearest) != nullptr;
      fail(FindingCode::unknown_key, key, "\"" + key.text + "\" is no key of " + what,
           (mode.empty() ? "Did you mean \"" + nearest + "\"?" : "Write `play: " + mode + "`.") +
               (there ? " `" + nearest + ":` stands here too: keep one." : ""));
      renamed_ = &value;
      // Read as what is meant, or all that hangs on it would be told as well.
      if (there) continue;
      is = nearest;
    }
    if (node.flow && unclosed(value)) {
      cut = true;
      continue;
    }
    out.put(is, &value);
  }
  out.foreign = !foreign.empty() && foreign.size() == node.entries.size();
  out.strange = !foreign.empty();
  tell_foreign(foreign, section, out.foreign);
  return out;
}

// Each by itself; or all at once, where the whole map is meant for something else.
void Reader::tell_foreign(std::span<const YamlEntry* const> foreign, Section section, bool together) {
  const std::string what = with_article(name_of(section));
  if (together && foreign.size() > 1) {
    std::vector<std::string> words;
    for (const YamlEntry* each : foreign) words.push_back(each->key.text);
    return fail(FindingCode::unknown_key, foreign.front()->key, in_quotes(words) + " are no keys of " + what,
                section == Section::marks ? remedy_of(*foreign.front(), section, false) : its_keys(section));
  }
  for (const YamlEntry* each : foreign)
    fail(FindingCode::unknown_key, each->key, "\"" + each->key.text + "\" is no key of " + what,
         remedy_of(*each, section, together));
}

}  // namespace mobrin::io
