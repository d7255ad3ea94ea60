// Loading states, regions, transitions and actions.
#include <algorithm>
#include <cstdint>

#include "loader.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {

namespace {

// A region with what only a state has, and without states.
bool is_one_state(const YamlNode& region) {
  const auto has = [&](std::string_view key) { return entry_of(region, key) != nullptr; };
  if (region.kind != YamlNode::Kind::map || has("states") || has("initial") || has("regions")) return false;
  return has("clip") || has("blend") || has("length") || has("go");
}

}  // namespace

void Loader::read_states(const YamlNode& node, const std::string& owner, std::vector<StateDef>& states) {
  if (node.kind != YamlNode::Kind::map && node.kind != YamlNode::Kind::null) broken.insert(owner);  // which has some
  reader.each_entry(node, "`states:`", [&](const YamlNode& key, const YamlNode& value) {
    StateDef& state = states.emplace_back();
    state.name = reader.text_of(key);
    state.place = reader.place_of(key);
    const Watch watch(*this, key.text);
    if (value.kind != YamlNode::Kind::null) read_state(value, state);
  });
}

// Where it cannot be read, that its owner has none is not to be told.
void Loader::read_initial(const YamlNode& node, const std::string& owner, Text& initial) {
  if (const auto name = reader.name(node, "`initial:`"))
    initial = *name;
  else
    broken.insert(owner);
}

void Loader::read_regions(const YamlNode& node, std::vector<RegionDef>& regions) {
  reader.each_entry(node, "`regions:`", [&](const YamlNode& key, const YamlNode& value) {
    RegionDef& region = regions.emplace_back();
    region.name = reader.text_of(key);
    const Watch watch(*this, key.text);
    if (is_one_state(value)) {
      reader.fail(FindingCode::unknown_key, key, "the region \"" + key.text + "\" is written like a state",
                  "Put it into one: `" + key.text + ": {states: {" + key.text + ": {...}}}`.");
      StateDef& state = region.states.emplace_back();
      state.name = region.initial = region.name;
      state.place = reader.place_of(key);
      return read_state(value, state);
    }
    const Fields fields = reader.fields(value, Section::region);
    if (const YamlNode* initial = fields.get("initial")) read_initial(*initial, key.text, region.initial);
    if (const YamlNode* states = fields.get("states")) read_states(*states, key.text, region.states);
  });
}

void Loader::read_state(const YamlNode& value, StateDef& state) {
  const Fields fields = reader.fields(value, Section::state);
  if (const YamlNode* node = fields.get("accept"))
    for (const Text& code : reader.names(*node, "a finding's code")) state.accept.push_back(code);
  const std::string what = "\"" + state.name.text + "\"";
  if (const YamlNode* node = fields.get("clip")) read_clip_choice(*node, state);
  if (const YamlNode* node = fields.get("blend")) read_blend(*node, state);
  if (const YamlNode* node = fields.get("pose")) read_pose(*node, state);
  if (const YamlNode* node = fields.get("length")) state.length = reader.duration(*node, "`length:`");
  if (const YamlNode* node = fields.get("speed"))
    if (const auto text = reader.expression(*node, "`speed:`")) state.speed = *text;
  if (const YamlNode* node = fields.get("traits")) state.traits = reader.names(*node, "a trait");
  if (const YamlNode* node = fields.get("vars")) read_vars(*node, state.vars);
  if (const YamlNode* node = fields.get("enter")) state.enter = read_actions(*node);
  if (const YamlNode* node = fields.get("exit")) state.exit = read_actions(*node);
  if (const YamlNode* node = fields.get("each_loop")) state.each_loop = read_actions(*node);
  if (const YamlNode* node = fields.get("go")) read_go(*node, state.go);
  if (const YamlNode* node = fields.get("final")) state.final = reader.boolean(*node, "`final:`").value_or(false);
  if (const YamlNode* node = fields.get("sealed")) state.sealed = reader.boolean(*node, "`sealed:`").value_or(false);
  if (const YamlNode* node = fields.get("linger")) state.linger = reader.duration(*node, "`linger:`").value_or(Ticks());
  if (const YamlNode* node = fields.get("initial")) read_initial(*node, state.name.text, state.initial);
  if (const YamlNode* node = fields.get("states")) read_states(*node, state.name.text, state.states);
  if (const YamlNode* node = fields.get("regions")) read_regions(*node, state.regions);
}

namespace {

// What to write for a clip by an input that does not say `by:`.
std::string by_what(const YamlNode& node) {
  const auto written = [](const YamlNode& map, std::string input, const YamlNode* but) {
    std::string out = "Write `{by: " + std::move(input);
    for (const YamlEntry& each : map.entries)
      if (&each.value != but)
        out += ", " + each.key.text + ": " + (each.value.kind == YamlNode::Kind::scalar ? each.value.text : "CLIP");
    return out + "}`.";
  };
  for (const YamlEntry& each : node.entries) {
    if (each.value.kind == YamlNode::Kind::map && node.entries.size() == 1)
      return written(each.value, each.key.text, nullptr);
    for (const char* const word : {"input", "switch", "select", "choose", "choice", "param", "parameter", "variable"})
      if (each.key.text == word) return written(node, each.value.text, &each.value);
  }
  return written(node, "INPUT", nullptr);
}

}  // namespace

// A clip, several in turn, or one of several by an input.
void Loader::read_clip_choice(const YamlNode& node, StateDef& state) {
  if (node.kind == YamlNode::Kind::list) {
    state.sequence = reader.names(node, "a clip");
    if (node.items.empty())
      reader.fail(FindingCode::missing_key, node, "`clip:` lists no clip", "Name one, or several to play in turn.");
    return;
  }
  if (node.kind != YamlNode::Kind::map) {
    if (const auto name = reader.name(node, "`clip:`")) state.clip = *name;
    return;
  }
  if (entry_of(node, "by") == nullptr)
    return reader.fail(FindingCode::missing_key, node, "`clip:` does not say which input chooses", by_what(node));
  ClipByDef by;
  reader.each_entry(node, "`clip:`", [&](const YamlNode& key, const YamlNode& value) {
    if (const YamlEntry* clip = entry_of(value, "clip"); clip != nullptr && key.text != "by")
      return reader.fail(FindingCode::wrong_type, value, "the clip of a choice is a map",
                         "Write `" + key.text + ": " + clip->value.text + "`; who draws a picture turns it over.");
    const auto name = reader.name(value, key.text == "by" ? "`by:`" : "the clip of a choice");
    if (!name) return;
    if (key.text == "by")
      by.input = *name;
    else
      by.clips.emplace_back(reader.text_of(key), *name);
  });
  if (!by.input.empty()) state.clip_by = std::move(by);
}

void Loader::read_pose(const YamlNode& node, StateDef& state) {
  const bool number = node.kind == YamlNode::Kind::scalar && parse_whole(node.text);
  if (!state.clip.empty() || !state.sequence.empty() || state.clip_by)
    return reader.fail(FindingCode::conflicting_keys, node, "\"" + state.name.text + "\" has both `clip:` and `pose:`",
                       number && !state.clip.empty()
                           ? "Write `pose: {clip: " + state.clip.text + ", frame: " + node.text + "}` in place of both."
                           : "Keep one of them.");
  if (number) return reader.mismatch(node, "`pose:`", "a clip's name, or `{clip: NAME, frame: " + node.text + "}`");
  state.pose = 0;
  if (node.kind == YamlNode::Kind::scalar) {
    const std::size_t slash = node.text.find('/');
    if (slash != std::string::npos && parse_whole(node.text.substr(slash + 1)))
      return reader.fail(
          FindingCode::wrong_type, node, "`pose:` is " + node.words(),
          "Write `pose: {clip: " + node.text.substr(0, slash) + ", frame: " + node.text.substr(slash + 1) + "}`.");
    state.clip = reader.text_of(node);
    return;
  }
  if (node.kind != YamlNode::Kind::map)
    return reader.mismatch(node, "`pose:`", "a clip's name, or `{clip: NAME, frame: N}`");
  if (const YamlEntry* by = entry_of(node, "by"); by != nullptr && entry_of(node, "clip") == nullptr)
    return reader.fail(FindingCode::wrong_type, node, "`pose:` has no clip, and \"by\" is no key of a pose",
                       "Write `pose: {clip: {by: " + by->value.text + ", CHOICE: CLIP, ...}}`.");
  if (entry_of(node, "frame") != nullptr && entry_of(node, "time") != nullptr)
    reader.fail(FindingCode::conflicting_keys, node, "a pose has both `frame:` and `time:`", "Keep one of them.");
  reader.each_entry(node, "`pose:`", [&](const YamlNode& key, const YamlNode& value) {
    if (key.text == "clip") {
      read_clip_choice(value, state);
    } else if (key.text == "frame" && read_duration(value.text)) {
      reader.fail(FindingCode::wrong_type, value, "`frame:` is " + value.words(), "Write `time: " + value.text + "`.");
    } else if (key.text == "time") {
      state.pose_time = reader.duration(value, "`time:`").value_or(Ticks());
    } else if (key.text == "frame") {
      if (const auto frame = reader.whole(value, "`frame:`", 0, 1'000'000))
        state.pose = static_cast<std::int32_t>(*frame);
    } else {
      reader.fail(FindingCode::unknown_key, key, "\"" + key.text + "\" is no key of a pose",
                  "Its keys are: clip, frame, time.");
    }
  });
}

void Loader::read_vars(const YamlNode& node, std::vector<VarDef>& vars) {
  reader.each_entry(node, "`vars:`", [&](const YamlNode& key, const YamlNode& value) {
    const Watch watch(*this, key.text);
    VarDef var;
    var.name = reader.text_of(key);
    const bool plain = value.kind == YamlNode::Kind::scalar && !value.quoted;
    const auto whole = plain ? parse_whole(value.text) : std::nullopt;
    const auto number = plain ? parse_number(value.text) : std::nullopt;
    if (plain && (value.text == "true" || value.text == "false"))
      var.start = value.text == "true";
    else if (whole && *whole >= INT32_MIN && *whole <= INT32_MAX)
      var.start = static_cast<std::int32_t>(*whole);
    else if (whole)
      return reader.fail(FindingCode::bad_value, value,
                         "the variable \"" + key.text + "\" starts at " + value.text + ", which no whole number holds",
                         "Whole numbers lie within -2147483648 and 2147483647; write " + value.text +
                             ".0 for a number, which keeps some 7 digits.");
    else if (number)
      var.start = *number;
    else
      return reader.mismatch(value, "the variable \"" + key.text + "\"",
                             "its start: true, false, a whole number or a number such as 1.5");
    vars.push_back(std::move(var));
  });
}

std::vector<ActionDef> Loader::read_actions(const YamlNode& node) {
  std::vector<ActionDef> out;
  bool cut = false;
  reader.each_item(node, [&](const YamlNode& item) {
    if (cut) return;
    ActionDef action;
    if (item.kind == YamlNode::Kind::map) {
      const Fields fields = reader.fields(item, Section::action);
      const YamlNode* tell = fields.get("tell");
      if (tell == nullptr) return;
      const std::optional<YamlNode> meant = named_by_key(*tell);
      if (meant) tell = &*meant;
      if (tell->kind == YamlNode::Kind::map && tell->entries.size() == 1) {
        action.tell = reader.text_of(tell->entries[0].key);
        action.fields = read_fields(tell->entries[0].value, tell->entries[0].key.text, {});
      } else if (const auto name = reader.name(*tell, "`tell:`")) {
        action.tell = *name;
      } else {
        return;
      }
    } else {
      const auto text = reader.expression(item, "an action");
      if (!text) return;
      if (node.flow && reader.unclosed(item)) {
        cut = true;
        return;
      }
      action.assign = *text;
    }
    out.push_back(std::move(action));
  });
  return out;
}

void Loader::read_go(const YamlNode& node, std::vector<GoDef>& list) {
  if (node.kind == YamlNode::Kind::scalar && is_name(node.text))
    return reader.fail(FindingCode::wrong_type, node, "`go:` is " + node.words(),
                       "A list of rules says when: `[{at: end, to: " + node.text + "}]`.");
  if (node.kind != YamlNode::Kind::list && node.kind != YamlNode::Kind::null)
    return reader.mismatch(node, "`go:`", "a list of transitions: `- {when: ..., to: ...}`");
  for (const YamlNode& item : node.items) {
    if (item.kind != YamlNode::Kind::map) {
      reader.mismatch(item, "a transition", "a map such as `{when: health <= 0, to: faint}`");
      continue;
    }
    if (!read_transition(item, list.emplace_back())) list.pop_back();
  }
}

// `at: 2s`, `at: frame 3`
bool Loader::at_a_time_or_frame(const YamlNode& at) {
  if (at.kind != YamlNode::Kind::scalar) return false;
  const std::string frame = at.text.starts_with("frame ") ? at.text.substr(6) : at.text;
  std::string remedy;
  if (read_duration(at.text))
    remedy = "How long a state goes on is said by `after: " + at.text + "`.";
  else if (parse_whole(frame))
    remedy = "A frame is said by `during: " + frame + "`.";
  else
    return false;
  reader.fail(FindingCode::bad_value, at, "`at:` is " + at.words(), std::move(remedy));
  return true;
}

bool Loader::read_transition(const YamlNode& node, GoDef& go) {
  go.place = reader.place_of(node);
  const Fields fields = reader.fields(node, Section::go);
  if (fields.foreign) return false;
  if (const YamlNode* codes = fields.get("accept"))
    for (const Text& code : reader.names(*codes, "a finding's code")) go.accept.push_back(code);
  bool read = true;
  const auto take = [&](const auto& value, auto& to) {
    read = read && value;
    if (value) to = *value;
  };
  for (const auto& [key, to] : {std::pair("pulse", &go.pulse), std::pair("cue", &go.cue), std::pair("to", &go.to)})
    if (const YamlNode* value = fields.get(key)) {
      if (value->kind == YamlNode::Kind::list && !value->items.empty()) {
        reader.fail(FindingCode::wrong_type, *value, "`" + std::string(key) + ":` is a list",
                    "A rule has one; write a rule for each.");
        return false;
      }
      take(reader.name(*value, "`" + std::string(key) + ":`"), *to);
    }
  if (const YamlNode* value = fields.get("at")) {
    const auto at = at_a_time_or_frame(*value) ? std::nullopt : reader.one_of(*value, "`at:`", {"end", "loop"});
    read = read && at;
    if (at) go.at = *at == 0 ? GoAt::end : GoAt::loop;
  }
  if (const YamlNode* value = fields.get("after")) take(reader.duration(*value, "`after:`"), go.after);
  if (const YamlNode* value = fields.get("when")) take(reader.expression(*value, "`when:`"), go.when);
  if (const YamlNode* value = fields.get("during")) read = read_during(*value, go) && read;
  if (const YamlNode* value = fields.get("restart")) go.restart = reader.boolean(*value, "`restart:`").value_or(false);
  if (const YamlNode* value = fields.get("start")) read_start(*value, go);
  if (const YamlNode* value = fields.get("fade")) go.fade = reader.duration(*value, "`fade:`").value_or(Ticks());
  if (const YamlNode* value = fields.get("cues"))
    if (const auto which = reader.one_of(*value, "`cues:`", {"entered", "both"}))
      go.fade_cues = *which == 1 ? FadeCues::both : FadeCues::entered;
  if (const YamlNode* value = fields.get("do")) go.actions = read_actions(*value);
  return read;
}

bool Loader::read_during(const YamlNode& node, GoDef& go) {
  if (node.kind == YamlNode::Kind::scalar && is_name(node.text)) {
    go.during = reader.text_of(node);
    return true;
  }
  go.during_stretch = reader.stretch(node, "`during:`");
  return go.during_stretch.has_value();
}

void Loader::read_start(const YamlNode& node, GoDef& go) {
  go.start.place = reader.place_of(node);
  if (node.kind == YamlNode::Kind::scalar && !node.quoted) {
    if (const auto frame = parse_whole(node.text); frame && *frame >= 0 && *frame <= 1'000'000) {
      go.start.kind = StartKind::frame;
      go.start.frame = static_cast<std::int32_t>(*frame);
      return;
    }
    if (const auto time = read_duration(node.text)) {
      go.start.kind = StartKind::time;
      go.start.time = *time;
      return;
    }
  }
  if (const auto kind =
          reader.one_of(node, "`start:`", {"begin", "same", "clock", "a frame's number", "a time such as 0.2s"}))
    go.start.kind = *kind == 1 ? StartKind::same : *kind == 2 ? StartKind::clock : StartKind::begin;
}

}  // namespace mobrin::io
