// Compiling what states play: clips, several in turn, one of several by an input, poses, bare lengths.
#include <algorithm>

#include "compile/compile.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::detail {

void Compilation::compile_plays() {
  for (std::size_t s = 0; s < data->states.size(); ++s) compile_play(source_of(s), static_cast<std::uint16_t>(s));
}

void Compilation::compile_play(const StateDef& source, std::uint16_t index) {
  MachineData& m = *data;
  PlayData& play = m.states[index].play;
  const bool leaf = m.states[index].last == index;
  if (!leaf || index == 0) {
    if (!source.clip.empty() || !source.sequence.empty() || source.clip_by || source.blend || source.length ||
        !source.speed.empty() || !source.each_loop.empty())
      report(FindingCode::conflicting_keys, source.place,
             "\"" + source.name.text + "\" has states inside and plays something itself",
             "Only a state without states inside plays.", source.name.text);
    return;
  }
  const int plays = (source.clip.empty() ? 0 : 1) + (source.sequence.empty() ? 0 : 1) + (source.clip_by ? 1 : 0) +
                    (source.blend ? 1 : 0);
  if (plays + (source.length ? 1 : 0) > 1)
    return report(FindingCode::conflicting_keys, source.place,
                  "\"" + source.name.text + "\" has both `clip:` and `length:`", "A clip brings its own length.",
                  source.name.text);
  if (source.length) {
    if (source.length->count < kTicksPerSecond / 1000 || source.length->count > kMaxDurationTicks)
      return report(FindingCode::bad_value, source.place, "\"" + source.name.text + "\" has an impossible length",
                    "It lasts 1 ms to 10 hours.", source.name.text);
    play.type = PlayType::length;
    add_played(play, static_cast<std::uint16_t>(m.clips.size()));
    ClipData& bare = m.clips.emplace_back();
    bare.length = bare.cycle = source.length->count;
    bare.segments.push_back({});
    bare.parts.push_back({});
    return;
  }
  if (plays == 0) {
    if (source.pose)
      report(FindingCode::missing_key, source.place, "\"" + source.name.text + "\" is a pose of no clip",
             "Name the clip it is a frame of.", source.name.text);
    return;
  }
  StateInfo& info = m.state_infos[index];
  play.type = source.pose ? PlayType::pose : PlayType::clip;
  if (source.blend) {
    compile_blend(*source.blend, source, index);
  } else if (source.clip_by) {
    compile_clip_by(*source.clip_by, source, play, info);
  } else if (!source.sequence.empty()) {
    compile_sequence(source, play, info);
  } else if (const auto clip = find_clip(source.clip)) {
    add_played(play, *clip);
    info.clips.push_back(*clip);
    info.plays = source.clip.text;
  }
  if (play.clips.count == 0) play.type = PlayType::nothing;  // something above was wrong
  if (!source.pose) return;
  play.pose_frame = *source.pose;
  info.plays = "pose " + info.plays + " " + std::to_string(play.pose_frame);
  for (const std::uint16_t clip : info.clips) {
    const auto frames = m.clip_infos[clip].def.frames.size();
    if (*source.pose >= 0 && static_cast<std::size_t>(*source.pose) < frames) continue;
    const Text& name = m.clip_infos[clip].def.name;
    report(FindingCode::outside_clip, source.clip.empty() ? source.place : source.clip.place,
           "frame " + std::to_string(*source.pose) + " is not in the clip \"" + name.text + "\"",
           "It has " + std::to_string(frames) + " frames, numbered from 0.", name.text);
  }
}

void Compilation::check_each_loop(const StateDef& source, const PlayData& play) {
  if (source.each_loop.empty() || plays_wrongly(source, play)) return;
  if (play.type != PlayType::clip)
    return report(FindingCode::meaningless_event, source.place,
                  "\"" + source.name.text + "\" has `each_loop:` but plays no clip", "Give it a clip that loops.",
                  source.name.text);
  const ClipData& clip = data->clips[data->played[play.clips.begin].clip];
  if (clip.passes == 1 && clip.length > 0)
    report(
        FindingCode::never_ends, source.place,
        "`each_loop:` of \"" + source.name.text + "\" never runs: its play does not loop",
        source.sequence.empty() ? "Let the clip loop." : "Clips in turn have no loop moments; use cues at their ends.",
        source.name.text);
}

void Compilation::add_played(PlayData& play, std::uint16_t clip) {
  if (play.clips.count == 0) play.clips.begin = static_cast<std::uint32_t>(data->played.size());
  data->played.push_back({clip, {}});
  ++play.clips.count;
}

std::optional<std::uint16_t> Compilation::find_clip(const Text& name) {
  if (const auto found = clips.find(name.text); found != clips.end()) return found->second;
  std::vector<std::string> known;
  for (const auto& [clip, index] : clips) known.push_back(clip);
  unknown("clip", name, known, "Add it under `clips:`.");
  return std::nullopt;
}

void Compilation::compile_sequence(const StateDef& source, PlayData& play, StateInfo& info) {
  MachineData& m = *data;
  if (source.pose)
    return report(FindingCode::conflicting_keys, source.place,
                  "\"" + source.name.text + "\" is a pose of several clips", "A pose is one frame of one clip.",
                  source.name.text);
  if (source.sequence.size() > kMaxSequence)
    return report(FindingCode::too_large, source.place, "\"" + source.name.text + "\" plays too many clips in turn",
                  "At most " + std::to_string(kMaxSequence) + " are supported.", source.name.text);
  bool sound = true;
  Wide length = 0;
  std::size_t segments = 0, marks = 0;
  for (const Text& name : source.sequence) {
    const auto clip = find_clip(name);
    sound = sound && clip.has_value();
    if (!clip) continue;
    info.clips.push_back(*clip);
    info.plays += (info.plays.empty() ? "" : ", ") + name.text;
    const ClipData& each = m.clips[*clip];
    length += Wide{each.cycle} * each.passes;
    segments += each.segments.size() * static_cast<std::size_t>(each.passes);
    if (std::find(info.clips.begin(), info.clips.end() - 1, *clip) == info.clips.end() - 1) marks += each.marks.size();
    if (each.passes != 0 || each.length == 0) continue;
    sound = false;
    report(FindingCode::bad_value, name.place,
           "\"" + name.text + "\" loops for ever, but the clips of \"" + source.name.text + "\" play in turn",
           "Count its loops (`loop x3`), or give it a state of its own, entered `at: end` of this one.", name.text);
  }
  if (sound && (length > kMaxDurationTicks || segments > kMaxSegments)) {
    sound = false;
    report(FindingCode::too_large, source.place, "the clips of \"" + source.name.text + "\" are too long in turn",
           "Together they last at most 10 hours and show at most " + std::to_string(kMaxSegments) + " frames.",
           source.name.text);
  }
  if (sound) sound = within("marks of clips in turn", marks, kMaxMarksOfCycle, source.place);
  if (sound)
    sound = within("frames of all clips that states play in turn", segments_in_turn += segments, kMaxSegmentsOfAll,
                   source.place);
  const bool readable =
      std::all_of(info.clips.begin(), info.clips.end(), [&](std::uint16_t clip) { return m.clips[clip].length > 0; });
  if (!sound || !readable) {
    if (!info.clips.empty()) add_played(play, info.clips.front());  // for what else can be checked
    return;
  }
  add_played(play, static_cast<std::uint16_t>(m.clips.size()));
  m.clips.push_back(make_sequence(m, info.clips));
}

void Compilation::compile_clip_by(const ClipByDef& by, const StateDef& source, PlayData& play, StateInfo& info) {
  MachineData& m = *data;
  const auto input = inputs.find(by.input.text);
  if (input == inputs.end()) {
    std::vector<std::string> known;
    for (const auto& [name, index] : inputs) known.push_back(name);
    return unknown("input", by.input, known,
                   "Declare it under `inputs:`, as `" + by.input.text + ": {one_of: [...]}`.");
  }
  const auto* kind = std::get_if<ChoiceInput>(&m.input_defs[input->second].kind);
  if (kind == nullptr)
    return report(FindingCode::wrong_operand, by.input.place,
                  "\"" + by.input.text + "\" does not choose among names, so it cannot choose a clip",
                  "Declare it as `" + by.input.text + ": {one_of: [...]}`.", by.input.text);
  std::vector<std::string> known;
  for (const Text& choice : kind->choices) known.push_back(choice.text);
  std::set<std::string> said;
  for (const auto& [choice, clip] : by.clips) {
    if (std::find(known.begin(), known.end(), choice.text) == known.end())
      unknown("choice of \"" + by.input.text + "\" called", choice, known, "Write one of its choices.");
    said.insert(choice.text);
  }
  info.plays = "by " + by.input.text + ":";
  std::vector<std::uint16_t> found;
  for (const std::string& choice : known) {
    const auto entry =
        std::find_if(by.clips.begin(), by.clips.end(), [&](const auto& each) { return each.first.text == choice; });
    if (entry == by.clips.end()) {
      report(FindingCode::missing_key, by.input.place,
             "\"" + source.name.text + "\" has no clip for the choice \"" + choice + "\" of \"" + by.input.text + "\"",
             "Give each choice its clip: `" + choice + ": NAME`.", source.name.text);
      continue;
    }
    const auto clip = find_clip(entry->second);
    if (!clip) continue;
    found.push_back(*clip);
    info.plays += (found.size() > 1 ? ", " : " ") + entry->second.text;
    const PlayMode first = m.clip_infos[found.front()].def.play, mode = m.clip_infos[*clip].def.play;
    if (!source.pose && (mode.kind != first.kind || mode.passes != first.passes))
      report(FindingCode::bad_value, entry->second.place,
             "the clips of \"" + source.name.text + "\" play in different ways: \"" + entry->second.text + "\" " +
                 mode.text() + ", \"" + m.clip_infos[found.front()].def.name.text + "\" " + first.text(),
             "Where an input chooses the clip while it plays, all play the same way.", source.name.text);
  }
  play.by = input->second;
  for (const std::uint16_t clip : found) add_played(play, clip);
  info.clips = std::move(found);
}

}  // namespace mobrin::detail
