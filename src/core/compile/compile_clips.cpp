// Compiling clips and their marks.
#include <algorithm>
#include <cmath>
#include <numeric>

#include "compile/compile.hpp"
#include "compile/make_timeline.hpp"
#include "expression/look_alike.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

constexpr std::int64_t kShortestClip = kTicksPerSecond / 1000;

// `instead`: what may be written where there are none.
std::string frames_text(std::size_t count, const std::string& instead) {
  if (count == 0) return "has no frames" + (instead.empty() ? "." : ", so write a time: `" + instead + "`.");
  return "has " + std::to_string(count) +
         (count == 1 ? " frame, number 0." : " frames, 0 to " + std::to_string(count - 1) + ".");
}

std::string seconds_text(Ticks ticks) {
  const std::string text = number_text(ticks.to_seconds());
  return text + (text.find('.') == std::string::npos ? ".0 s" : " s");
}

class ClipsStage {
 public:
  ClipsStage(Work& work, const NameTable& cues) : work_(work), m_(work.data), cues_(cues) {}

  ClipNames run() {
    if (!work_.within("clips", work_.def.clips.size(), kMaxClips, {})) return {};
    std::size_t frames = 0;
    for (const ClipDef& clip : work_.def.clips)
      if (!work_.within("frames of all clips together", frames += clip.frames.size(), kMaxFramesOfAll, clip.name.place))
        return {};
    for (const ClipDef& clip : work_.def.clips) compile_clip(clip);
    for (const ClipMarksDef& marks : work_.def.marks) compile_marks(marks);
    return std::move(names_);
  }

 private:
  void compile_clip(const ClipDef& clip) {
    const auto index = static_cast<std::uint16_t>(m_.clips.size());
    ClipData& out = m_.clips.emplace_back();
    ClipInfo& info = m_.clip_infos.emplace_back();
    info.def = clip;
    (void)work_.declare("clip", clip.name, taken_);
    names_.clips.try_emplace(clip.name.text, index);
    if (!sound(clip)) return;
    const std::vector<std::int64_t> borders = frame_borders(clip);
    make_timeline(clip, index, borders, out);
    info.length = Ticks(out.length);
    info.cycle = Ticks(out.cycle);
    for (const std::int64_t border : borders) info.borders.emplace_back(border);
  }

  bool sound(const ClipDef& clip) {
    const auto fail = [&](FindingCode code, const std::string& message, std::string remedy) {
      work_.report(code, clip.name.place, "the clip \"" + clip.name.text + "\" " + message, std::move(remedy),
                   clip.name.text);
      return false;
    };
    if (clip.frames.size() > kMaxFrames)
      return fail(FindingCode::too_large, "has " + std::to_string(clip.frames.size()) + " frames",
                  "At most " + std::to_string(kMaxFrames) + " are supported.");
    if (clip.frames.empty() && clip.length.count == 0)
      return fail(FindingCode::missing_key, "has neither frames nor a length",
                  "Give it `frames:` with `fps:`, or a `length:`.");
    if (clip.fps.num < 0 || clip.fps.den < 1 || clip.fps.num > 1'000'000'000'000 || clip.fps.den > 1'000'000'000'000)
      return fail(FindingCode::bad_value, "has an impossible rate", "`fps:` lies above 0.");
    const bool untimed = clip.fps.num == 0 && std::any_of(clip.frames.begin(), clip.frames.end(),
                                                          [](const FrameDef& frame) { return frame.time.count <= 0; });
    if (untimed)
      return fail(FindingCode::missing_key, "has frames without a time",
                  "Give it `fps:`, or `times:` with one time a frame.");
    const bool held = std::all_of(clip.frames.begin(), clip.frames.end(), [](const FrameDef& frame) {
      return frame.hold >= 1 && frame.hold <= 10'000 && frame.time.count >= 0 && frame.time.count <= kMaxDurationTicks;
    });
    if (!held)
      return fail(FindingCode::bad_value, "has a frame with an impossible hold or time",
                  "A hold is 1 to 10000, a time up to 10 hours.");
    if (clip.play.passes < 0 || clip.play.passes > kMaxPasses ||
        (clip.play.kind == PlayKind::once && clip.play.passes != 1))
      return fail(FindingCode::bad_value, "plays an impossible number of times",
                  "Loops can be counted from 1 to 10000.");
    // Judged before it is stored: at a tiny rate the borders do not fit into ticks.
    long double exact = clip.frames.empty() ? static_cast<long double>(clip.length.count) : 0;
    for (const FrameDef& frame : clip.frames)
      exact += clip.fps.num > 0 ? static_cast<long double>(frame.hold) * kTicksPerSecond *
                                      static_cast<long double>(clip.fps.den) / static_cast<long double>(clip.fps.num)
                                : static_cast<long double>(frame.time.count);
    if (exact < kShortestClip || exact > kMaxDurationTicks)
      return fail(FindingCode::bad_value, exact < kShortestClip ? "lasts less than 1 ms" : "lasts more than 10 hours",
                  "Check its `fps:` and holds.");
    return true;
  }

  void compile_marks(const ClipMarksDef& marks) {
    const auto found = work_.find("clip", names_.clips, marks.clip, "Marks belong to a clip by its name.");
    if (!found) return;
    ClipInfo& info = m_.clip_infos[*found];
    ClipData& out = m_.clips[*found];
    if (!info.marks.clip.empty())
      return work_.report(FindingCode::duplicate_name, marks.clip.place,
                          "the clip \"" + marks.clip.text + "\" has marks already",
                          "Put all marks of a clip in one place.", marks.clip.text);
    info.marks = marks;
    if (out.length == 0)  // told; what names its windows is right
      for (const WindowDef& window : marks.windows) out.windows.emplace_back().name = number_of(window.name.text);
    if (out.length == 0 || !work_.within("marks of a clip", marks.marks.size(), kMaxMarksOfClip, marks.clip.place))
      return;
    for (const MarkDef& mark : marks.marks) check_mark(mark, info, out);
    std::set<std::int64_t> cuts;
    for (const MarkData& mark : out.marks)
      if (mark.at == MarkAt::times) cuts.insert({mark.time, mark.until});
    cut_timeline(out, cuts);
    check_boxes(info);
    check_tracks(info);
    std::set<std::string, std::less<>> taken;
    if (!work_.within("windows of a clip", marks.windows.size(), kMaxMarksOfClip, marks.clip.place)) return;
    for (const WindowDef& window : marks.windows) {
      if (names_.windows.size() == kMaxWindowNames && names_.windows.find(window.name.text) == names_.windows.end()) {
        work_.within("names of windows", kMaxWindowNames + 1, kMaxWindowNames, window.name.place);
        return;
      }
      if (!work_.declare("window", window.name, taken)) continue;
      ClipWindow& compiled = out.windows.emplace_back();
      compiled.name = number_of(window.name.text);
      for (const StretchDef& stretch : window.stretches) {
        if (!check_stretch("window \"" + window.name.text + "\"", stretch, info, window.name.place)) continue;
        compiled.stretches.push_back(stretch.timed ? Stretch{true, stretch.end.count == out.length, *found,
                                                             stretch.begin.count, stretch.end.count}
                                                   : Stretch{false, false, *found, stretch.first, stretch.last});
      }
    }
  }

  // Of a window by its name.
  std::uint16_t number_of(const std::string& window) {
    const auto number =
        names_.windows.try_emplace(window, static_cast<std::uint16_t>(names_.windows.size())).first->second;
    if (number == m_.window_names.size()) m_.window_names.push_back(window);
    return number;
  }

  void check_mark(const MarkDef& mark, const ClipInfo& clip, ClipData& out) {
    const auto cue = find_cue(work_, cues_, mark.cue);
    const auto frames = static_cast<std::int32_t>(clip.def.frames.size());
    const std::int32_t last = mark.at == MarkAt::frames ? mark.last_frame : mark.frame;
    if (mark.at == MarkAt::time) {
      if (mark.time.count < 0 || mark.time.count > out.length)
        return work_.report(FindingCode::outside_clip, mark.place,
                            "the cue \"" + mark.cue.text + "\" lies at " + seconds_text(mark.time) +
                                ", past the end of \"" + clip.def.name.text + "\"",
                            "The clip lasts " + seconds_text(clip.length) + ".", mark.cue.text);
    } else if (mark.at == MarkAt::times) {
      if (!check_stretch("span \"" + mark.cue.text + "\"", {true, 0, 0, mark.time, mark.until}, clip, mark.place))
        return;
    } else if (mark.frame < 0 || last >= frames) {
      return work_.report(FindingCode::outside_clip, mark.place,
                          "frame " + std::to_string(mark.frame < 0 ? mark.frame : last) + " is not in the clip \"" +
                              clip.def.name.text + "\"",
                          "It " + frames_text(clip.def.frames.size(), is_span(mark.at) ? "0.1s-0.3s" : "0.2s"),
                          clip.def.name.text);
    } else if (mark.at == MarkAt::frames && last < mark.frame) {
      return work_.report(FindingCode::bad_value, mark.place,
                          "the span \"" + mark.cue.text + "\" ends before it begins", "Write the earlier frame first.",
                          mark.cue.text);
    }
    if (!cue) return;
    MarkData compiled;
    compiled.at = mark.at;
    compiled.way = mark.way;
    compiled.cue = *cue;
    compiled.first = mark.frame;
    compiled.last = last;
    compiled.time = mark.time.count;
    compiled.until = mark.until.count;
    compiled.clip = static_cast<std::uint16_t>(&out - m_.clips.data());
    compiled.fields = resolve_fields(work_, *cue, mark.fields, mark.place);
    out.marks.push_back(compiled);
  }

  bool check_stretch(const std::string& what, const StretchDef& stretch, const ClipInfo& clip, Place place) {
    const bool timed = stretch.timed;
    const bool ordered = timed ? stretch.begin < stretch.end : stretch.first <= stretch.last;
    const bool fits = timed ? stretch.begin.count >= 0 && stretch.end <= clip.length
                            : stretch.first >= 0 && stretch.last < static_cast<std::int32_t>(clip.def.frames.size());
    if (ordered && fits) return true;
    work_.report(FindingCode::outside_clip, place,
                 "the " + what + (ordered ? " reaches past the clip \"" : " ends before it begins in \"") +
                     clip.def.name.text + "\"",
                 timed ? "The clip lasts " + seconds_text(clip.length) + "."
                       : "It " + frames_text(clip.def.frames.size(), what == "offset" ? "" : "0.1s-0.3s"),
                 clip.def.name.text);
    return false;
  }

  void check_boxes(const ClipInfo& clip) {
    if (!work_.within("boxes of a clip", clip.marks.boxes.size(), kMaxMarksOfClip, clip.marks.clip.place)) return;
    for (const BoxDef& box : clip.marks.boxes) {
      for (const auto& [what, word] : {std::pair("box", &box.name), std::pair("role", &box.role)})
        if (!is_name(word->text))
          work_.report(FindingCode::bad_name, box.place, "\"" + word->text + "\" cannot be the name of a " + what,
                       detail::name_remedy(word->text), word->text);
      for (const StretchDef& stretch : box.stretches)
        check_stretch("box \"" + box.name.text + "\"", stretch, clip, box.place);
      if (!sound_shape(box.shape, false))
        work_.report(
            FindingCode::bad_value, box.place, "the box \"" + box.name.text + "\" has no size, or is out of range",
            "A rect is [left, bottom, width, height], a circle [x, y, radius], in pixels from the pivot; sizes are "
            "above 0, all within 1000000.",
            box.name.text);
    }
    for (const OffsetDef& offset : clip.marks.offsets)
      check_stretch("offset", {false, offset.first, offset.last, {}, {}}, clip, offset.place);
  }

  void check_tracks(const ClipInfo& clip) {
    std::set<std::string, std::less<>> taken;
    for (const TrackDef& track : clip.marks.tracks) {
      if (!work_.declare("track", track.name, taken)) continue;
      if (track.keys.empty())
        work_.report(FindingCode::missing_key, track.name.place, "the track \"" + track.name.text + "\" has no keys",
                     "Give it one at least, such as `{0: 0, 5: 40}`.", track.name.text);
      for (std::size_t i = 0; i < track.keys.size(); ++i) {
        const TrackKey& key = track.keys[i];
        if (!std::isfinite(key.value) || !std::isfinite(key.in) || !std::isfinite(key.out))
          work_.report(FindingCode::bad_value, track.name.place, "a key of \"" + track.name.text + "\" is no number",
                       "Write finite numbers.", track.name.text);
        if (key.time.count < 0 || key.time > clip.length)
          work_.report(
              FindingCode::outside_clip, track.name.place,
              "a key of the track \"" + track.name.text + "\" lies past the end of \"" + clip.def.name.text + "\"",
              "The clip lasts " + number_text(clip.length.to_seconds()) + " s.", track.name.text);
        if (i > 0 && key.time <= track.keys[i - 1].time)
          work_.report(FindingCode::bad_value, track.name.place,
                       "the keys of \"" + track.name.text + "\" do not rise in time",
                       "Write them in order, one for each time.", track.name.text);
      }
    }
  }

  Work& work_;
  MachineData& m_;
  const NameTable& cues_;
  ClipNames names_;
  std::set<std::string, std::less<>> taken_;  // names of clips
};

}  // namespace

ClipNames compile_clips(Work& work, const NameTable& cues) { return ClipsStage(work, cues).run(); }

}  // namespace mobrin::detail
