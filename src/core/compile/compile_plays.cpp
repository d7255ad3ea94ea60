// Compiling what states play: clips, several in turn, one of several by an input, blends, poses, bare lengths.
#include <algorithm>
#include <array>

#include "compile/compile.hpp"
#include "compile/make_timeline.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::detail {
namespace {

class PlaysStage {
 public:
  PlaysStage(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& clips)
      : work_(work), m_(work.data), tree_(tree), inputs_(inputs), clips_(clips) {}

  void run() {
    for (std::size_t s = 0; s < m_.states.size(); ++s) compile_play(tree_.source_of(s), static_cast<std::uint16_t>(s));
  }

 private:
  void compile_play(const StateDef& source, std::uint16_t index) {
    PlayData& play = m_.states[index].play;
    const bool leaf = m_.states[index].last == index;
    if (index == 0) return;
    if (!leaf) {
      if (!source.clip.empty() || !source.sequence.empty() || source.clip_by || source.blend || source.length ||
          !source.speed.empty() || !source.each_loop.empty())
        work_.report(FindingCode::conflicting_keys, source.place,
                     "\"" + source.name.text + "\" has states inside and plays something itself",
                     "Only a state without states inside plays.", source.name.text);
      return;
    }
    std::array<const char*, 5> plays{};
    std::size_t count = 0;
    for (const auto& [what, there] :
         {std::pair(source.pose ? "`pose:`" : "`clip:`", !source.clip.empty()),
          std::pair("a sequence", !source.sequence.empty()), std::pair("clips by an input", source.clip_by.has_value()),
          std::pair("`blend:`", source.blend.has_value()), std::pair("`length:`", source.length.has_value())})
      if (there) plays[count++] = what;
    if (count > 1)
      return work_.report(FindingCode::conflicting_keys, source.place,
                          "\"" + source.name.text + "\" has both " + plays[0] + " and " + plays[1],
                          source.length ? "A clip brings its own length." : "A state plays one of them.",
                          source.name.text);
    if (source.pose && (count == 0 || source.length))
      return work_.report(FindingCode::missing_key, source.place, "\"" + source.name.text + "\" is a pose of no clip",
                          "Name the clip it is a frame of.", source.name.text);
    if (source.length) {
      if (source.length->count < kTicksPerSecond / 1000 || source.length->count > kMaxDurationTicks)
        return work_.report(FindingCode::bad_value, source.place,
                            "\"" + source.name.text + "\" has an impossible length", "It lasts 1 ms to 10 hours.",
                            source.name.text);
      play.type = PlayType::length;
      add_played(play, static_cast<std::uint16_t>(m_.clips.size()));
      ClipData& bare = m_.clips.emplace_back();
      bare.length = bare.cycle = source.length->count;
      bare.segments.push_back({});
      bare.parts.push_back({});
      return;
    }
    if (count == 0) return;
    StateInfo& info = m_.state_infos[index];
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
    compile_pose(source, play, info);
  }

  // Its frame, or its time where its clips have no frames.
  void compile_pose(const StateDef& source, PlayData& play, StateInfo& info) {
    const auto frames_of = [&](std::uint16_t clip) { return m_.clip_infos[clip].def.frames.size(); };
    const bool timed = !info.clips.empty() && frames_of(info.clips.front()) == 0;
    play.pose_frame = timed ? -1 : *source.pose;
    play.pose_time = source.pose_time.count;
    info.plays = "pose " + info.plays + " " +
                 (timed ? number_text(source.pose_time.to_seconds()) + "s" : std::to_string(*source.pose));
    for (const std::uint16_t clip : info.clips) {
      const ClipInfo& shown = m_.clip_infos[clip];
      const std::size_t frames = frames_of(clip);
      if (shown.length.count == 0) continue;  // told
      const auto wrong = [&](const std::string& what, const std::string& remedy) {
        work_.report(FindingCode::outside_clip, source.clip.empty() ? source.place : source.clip.place, what, remedy,
                     shown.def.name.text);
      };
      const std::string name = "the clip \"" + shown.def.name.text + "\"";
      if (frames == 0 && *source.pose != 0)
        wrong("frame " + std::to_string(*source.pose) + " is not in " + name,
              "It has no frames, so write a time: `time: 0.2s`.");
      else if (frames > 0 && source.pose_time.count != 0)
        wrong("a pose says a time of " + name + ", which has frames", "Write `frame: N`.");
      else if ((frames == 0) != timed)
        wrong("a pose is of clips with frames and without, such as " + name, "Take clips of one kind.");
      else if (frames == 0 && (source.pose_time.count < 0 || source.pose_time > shown.length))
        wrong("a pose lies past the end of " + name, "It lasts " + number_text(shown.length.to_seconds()) + " s.");
      else if (frames > 0 && (*source.pose < 0 || static_cast<std::size_t>(*source.pose) >= frames))
        wrong("frame " + std::to_string(*source.pose) + " is not in " + name,
              "It has " + std::to_string(frames) + " frames, numbered from 0.");
    }
  }

  void compile_sequence(const StateDef& source, PlayData& play, StateInfo& info) {
    if (source.pose)
      return work_.report(FindingCode::conflicting_keys, source.place,
                          "\"" + source.name.text + "\" is a pose of several clips", "A pose is one frame of one clip.",
                          source.name.text);
    if (source.sequence.size() > kMaxSequence)
      return work_.report(FindingCode::too_large, source.place,
                          "\"" + source.name.text + "\" plays too many clips in turn",
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
      const ClipData& each = m_.clips[*clip];
      length += Wide{each.cycle} * each.passes;
      segments += each.segments.size() * static_cast<std::size_t>(each.passes);
      if (std::find(info.clips.begin(), info.clips.end() - 1, *clip) == info.clips.end() - 1)
        marks += each.marks.size();
      if (each.passes != 0 || each.length == 0) continue;
      sound = false;
      work_.report(FindingCode::bad_value, name.place,
                   "\"" + name.text + "\" loops for ever, but the clips of \"" + source.name.text + "\" play in turn",
                   "Count its loops (`loop x3`), or give it a state of its own, entered `at: end` of this one.",
                   name.text);
    }
    if (sound && (length > kMaxDurationTicks || segments > kMaxSegments)) {
      sound = false;
      work_.report(FindingCode::too_large, source.place,
                   "the clips of \"" + source.name.text + "\" are too long in turn",
                   "Together they last at most 10 hours and show at most " + std::to_string(kMaxSegments) + " frames.",
                   source.name.text);
    }
    if (sound) sound = work_.within("marks of clips in turn", marks, kMaxMarksOfCycle, source.place);
    if (sound)
      sound = work_.within("frames of all clips that states play in turn", segments_in_turn_ += segments,
                           kMaxSegmentsOfAll, source.place);
    const bool readable = std::all_of(info.clips.begin(), info.clips.end(),
                                      [&](std::uint16_t clip) { return m_.clips[clip].length > 0; });
    if (!sound || !readable) {
      if (!info.clips.empty()) add_played(play, info.clips.front());  // for what else can be checked
      return;
    }
    add_played(play, static_cast<std::uint16_t>(m_.clips.size()));
    m_.clips.push_back(make_sequence(m_, info.clips));
  }

  void compile_clip_by(const ClipByDef& by, const StateDef& source, PlayData& play, StateInfo& info) {
    const auto input = work_.find("input", inputs_, by.input,
                                  "Declare it under `inputs:`, as `" + by.input.text + ": {one_of: [...]}`.");
    if (!input) return;
    const auto* kind = std::get_if<ChoiceInput>(&m_.input_defs[*input].kind);
    if (kind == nullptr)
      return work_.report(FindingCode::wrong_operand, by.input.place,
                          "\"" + by.input.text + "\" does not choose among names, so it cannot choose a clip",
                          "Declare it as `" + by.input.text + ": {one_of: [...]}`.", by.input.text);
    if (tells_rest(by, kind->choices, source)) return;
    std::vector<std::string> known;
    for (const Text& choice : kind->choices) known.push_back(choice.text);
    std::set<std::string_view> taken;
    for (const auto& [choice, clip] : by.clips) {
      if (std::find(known.begin(), known.end(), choice.text) == known.end())
        work_.unknown("choice of \"" + by.input.text + "\" called", choice, known, "Write one of its choices.");
      if (!taken.insert(choice.text).second)
        work_.report(FindingCode::duplicate_name, choice.place,
                     "\"" + source.name.text + "\" has two clips for the choice \"" + choice.text + "\"",
                     "Give each choice one clip.", source.name.text);
    }
    info.plays = "by " + by.input.text + ":";
    std::vector<std::uint16_t> found;
    for (const std::string& choice : known) {
      const auto entry =
          std::find_if(by.clips.begin(), by.clips.end(), [&](const auto& each) { return each.first.text == choice; });
      if (entry == by.clips.end()) {
        work_.report(
            FindingCode::missing_key, by.input.place,
            "\"" + source.name.text + "\" has no clip for the choice \"" + choice + "\" of \"" + by.input.text + "\"",
            "Give each choice its clip: `" + choice + ": NAME`.", source.name.text);
        continue;
      }
      const auto clip = find_clip(entry->second);
      if (!clip) continue;
      found.push_back(*clip);
      info.plays += (found.size() > 1 ? ", " : " ") + entry->second.text;
      const PlayMode first = m_.clip_infos[found.front()].def.play, mode = m_.clip_infos[*clip].def.play;
      if (!source.pose && (mode.kind != first.kind || mode.passes != first.passes))
        work_.report(FindingCode::bad_value, entry->second.place,
                     "the clips of \"" + source.name.text + "\" play in different ways: \"" + entry->second.text +
                         "\" " + mode.text() + ", \"" + m_.clip_infos[found.front()].def.name.text + "\" " +
                         first.text(),
                     "Where an input chooses the clip while it plays, all play the same way.", source.name.text);
    }
    play.by = *input;
    for (const std::uint16_t clip : found) add_played(play, clip);
    info.clips = std::move(found);
  }

  void compile_blend(const BlendDef& blend, const StateDef& source, std::uint16_t index) {
    PlayData& play = m_.states[index].play;
    StateInfo& info = m_.state_infos[index];
    const auto wrong = [&](const std::string& what, const std::string& remedy) {
      work_.report(FindingCode::bad_value, blend.place, "the blend of \"" + source.name.text + "\" " + what, remedy,
                   source.name.text);
    };
    if (blend.points.size() < 2 || blend.points.size() > kMostBlendPoints)
      return wrong("has " + std::to_string(blend.points.size()) + (blend.points.size() == 1 ? " point" : " points"),
                   "Give it 2 to 32.");
    if (!(blend.floor >= 0 && blend.floor * static_cast<double>(blend.points.size()) < 1))
      return wrong("has an impossible floor", "It is at least 0; times the points it is less than 1.");
    for (std::size_t i = 0; i < blend.points.size(); ++i) {
      const BlendPointDef& point = blend.points[i];
      if (!near_pivot(point.x) || !near_pivot(point.y))
        return wrong("has a point out of range", "Points lie within 1000000.");
      for (std::size_t k = 0; k < i; ++k)
        if (blend.points[k].x == point.x && blend.points[k].y == point.y)
          return wrong("has two clips at one point", "Move one of them.");
    }
    if (blend.cues_above && !(*blend.cues_above > 0 && *blend.cues_above <= 1))
      return wrong("has an impossible weight for cues", "`cues_above:` lies above 0 and at most at 1.");
    if (source.pose) return wrong("is a pose", "A pose shows one frame of one clip.");
    info.plays = "blend";
    std::vector<std::uint16_t> found;
    for (const BlendPointDef& point : blend.points) {
      const auto clip = find_clip(point.clip);
      if (!clip) return;
      found.push_back(*clip);
      info.plays += (found.size() > 1 ? ", " : ": ") + point.clip.text;
      const PlayMode mode = m_.clip_infos[*clip].def.play;
      if (mode.kind == PlayKind::back_and_forth || !mode.endless())
        work_.report(FindingCode::bad_value, point.clip.place,
                     "the clip \"" + point.clip.text + "\" of a blend plays " + mode.text(),
                     "Clips of a blend run in phase: they all `loop`.", point.clip.text);
    }
    play.type = PlayType::clip;
    for (const std::uint16_t clip : found) add_played(play, clip);
    info.clips = std::move(found);
    play.blend = static_cast<std::uint16_t>(m_.blends.size());
    m_.blends.push_back({{}, {}, blend.points, blend.floor, blend.cues_above.value_or(2)});
  }

  void add_played(PlayData& play, std::uint16_t clip) {
    if (play.clips.count == 0) play.clips.begin = static_cast<std::uint32_t>(m_.played.size());
    m_.played.push_back({clip, {}});
    ++play.clips.count;
  }

  std::optional<std::uint16_t> find_clip(const Text& name) {
    if (clips_.find(name.text) == clips_.end())
      if (std::string remedy = by_pattern(name.text); !remedy.empty()) {
        work_.report(FindingCode::unknown_name, name.place, "there is no clip \"" + name.text + "\"", std::move(remedy),
                     name.text);
        return std::nullopt;
      }
    return work_.find("clip", clips_, name, "Add it under `clips:`.");
  }

  // How `walk_{heading}` is written, of whatever input; empty where no such thing is meant.
  std::string by_pattern(const std::string& name) const {
    for (const auto& [input, index] : inputs_) {
      const auto* const kind = std::get_if<ChoiceInput>(&m_.input_defs[index].kind);
      for (const std::string& hole :
           {"${" + input + "}", "{" + input + "}", "<" + input + ">", "%" + input + "%", "$" + input}) {
        const std::size_t at = name.find(hole);
        if (kind == nullptr || at == std::string::npos) continue;
        std::string out = "Write `{by: " + input;
        for (const Text& choice : kind->choices)
          out += ", " + choice.text + ": " + name.substr(0, at) + choice.text + name.substr(at + hole.size());
        return out + "}`.";
      }
    }
    return name.starts_with("select(") ? "An input picks one of several clips: `{by: INPUT, CHOICE: CLIP, ...}`." : "";
  }

  // `else: walk` among the clips by an input. Whether one is there; then it is told.
  bool tells_rest(const ClipByDef& by, const std::vector<Text>& choices, const StateDef& source) {
    static constexpr std::array<std::string_view, 6> kForRest = {"default", "else",      "other",
                                                               "others",  "otherwise", "rest"};
    const auto named = [&](const std::string& choice) {
      return std::find_if(by.clips.begin(), by.clips.end(),
                          [&](const auto& each) { return each.first.text == choice; });
    };
    for (const std::string_view word : kForRest) {
      const auto rest = named(std::string(word));
      if (rest == by.clips.end() ||
          std::any_of(choices.begin(), choices.end(), [&](const Text& each) { return each.text == word; }))
        continue;
      std::string each;
      for (const Text& choice : choices)
        if (named(choice.text) == by.clips.end())
          each += (each.empty() ? "`" : ", ") + choice.text + ": " + rest->second.text;
      work_.report(
          FindingCode::unknown_name, rest->first.place,
          "\"" + rest->first.text + "\" is no choice of \"" + by.input.text + "\": each choice has a clip of its own",
          each.empty() ? "Remove it: all choices have theirs." : "Write " + each + "` in its place.", source.name.text);
      return true;
    }
    return false;
  }

  Work& work_;
  MachineData& m_;
  const StateTree& tree_;
  const NameTable &inputs_, &clips_;
  std::size_t segments_in_turn_ = 0;  // of sequences so far
};

}  // namespace

bool plays_wrongly(const StateDef& source, const PlayData& play) {
  const bool says = !source.clip.empty() || !source.sequence.empty() || source.clip_by || source.blend ||
                    source.length || source.pose;
  return says && play.type == PlayType::nothing;
}

void compile_plays(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& clips) {
  PlaysStage(work, tree, inputs, clips).run();
}

}  // namespace mobrin::detail
