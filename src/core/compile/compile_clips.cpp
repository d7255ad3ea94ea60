// Compiling clips and their marks.
#include <algorithm>
#include <numeric>

#include "compile/compile.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

constexpr std::int64_t kShortestClip = kTicksPerSecond / 1000;

std::string frames_text(std::size_t count) {
  if (count == 0) return "has no frames.";
  return "has " + std::to_string(count) +
         (count == 1 ? " frame, number 0." : " frames, 0 to " + std::to_string(count - 1) + ".");
}

std::string seconds_text(Ticks ticks) {
  const std::string text = number_text(ticks.to_seconds());
  return text + (text.find('.') == std::string::npos ? ".0 s" : " s");
}

}  // namespace

void Compilation::compile_clips() {
  std::set<std::string, std::less<>> taken;
  if (!within("clips", def.clips.size(), kMaxClips, {})) return;
  std::size_t frames = 0;
  for (const ClipDef& clip : def.clips)
    if (!within("frames of all clips together", frames += clip.frames.size(), kMaxFramesOfAll, clip.name.place)) return;
  for (const ClipDef& clip : def.clips) {
    const auto index = static_cast<std::uint16_t>(data->clips.size());
    ClipData& out = data->clips.emplace_back();
    ClipInfo& info = data->clip_infos.emplace_back();
    info.def = clip;
    if (clip.name.empty() || !taken.insert(clip.name.text).second)
      report(clip.name.empty() ? FindingCode::bad_name : FindingCode::duplicate_name, clip.name.place,
             clip.name.empty() ? "a clip has no name" : "the clip \"" + clip.name.text + "\" is there already",
             "Give each clip a name of its own.", clip.name.text);
    else
      clips[clip.name.text] = index;
    const auto fail = [&](FindingCode code, const std::string& message, std::string remedy) {
      report(code, clip.name.place, "the clip \"" + clip.name.text + "\" " + message, std::move(remedy),
             clip.name.text);
    };
    if (clip.frames.size() > kMaxFrames) {
      fail(FindingCode::too_large, "has " + std::to_string(clip.frames.size()) + " frames",
           "At most " + std::to_string(kMaxFrames) + " are supported.");
      continue;
    }
    if (clip.frames.empty() && clip.length.count == 0) {
      fail(FindingCode::missing_key, "has neither frames nor a length",
           "Give it `frames:` with `fps:`, or a `length:`.");
      continue;
    }
    if (clip.fps.num < 0 || clip.fps.den < 1 || clip.fps.num > 1'000'000'000'000 || clip.fps.den > 1'000'000'000'000) {
      fail(FindingCode::bad_value, "has an impossible rate", "`fps:` lies above 0.");
      continue;
    }
    const bool untimed = clip.fps.num == 0 && std::any_of(clip.frames.begin(), clip.frames.end(),
                                                          [](const FrameDef& frame) { return frame.time.count <= 0; });
    if (untimed) {
      fail(FindingCode::missing_key, "has frames without a time", "Give it `fps:`, or `times:` with one time a frame.");
      continue;
    }
    const bool held = std::all_of(clip.frames.begin(), clip.frames.end(), [](const FrameDef& frame) {
      return frame.hold >= 1 && frame.hold <= 10'000 && frame.time.count >= 0 && frame.time.count <= kMaxDurationTicks;
    });
    if (!held) {
      fail(FindingCode::bad_value, "has a frame with an impossible hold or time",
           "A hold is 1 to 10000, a time up to 10 hours.");
      continue;
    }
    if (clip.play.passes < 0 || clip.play.passes > kMaxPasses ||
        (clip.play.kind == PlayKind::once && clip.play.passes != 1)) {
      fail(FindingCode::bad_value, "plays an impossible number of times", "Loops can be counted from 1 to 10000.");
      continue;
    }
    // Judged before it is stored: at a tiny rate the borders do not fit into ticks.
    long double exact = clip.frames.empty() ? static_cast<long double>(clip.length.count) : 0;
    for (const FrameDef& frame : clip.frames)
      exact += clip.fps.num > 0 ? static_cast<long double>(frame.hold) * kTicksPerSecond *
                                      static_cast<long double>(clip.fps.den) / static_cast<long double>(clip.fps.num)
                                : static_cast<long double>(frame.time.count);
    if (exact < kShortestClip || exact > kMaxDurationTicks) {
      fail(FindingCode::bad_value, exact < kShortestClip ? "lasts less than 1 ms" : "lasts more than 10 hours",
           "Check its `fps:` and holds.");
      continue;
    }
    const std::vector<std::int64_t> borders = frame_borders(clip);
    make_timeline(clip, index, borders, out);
    info.length = Ticks(out.length);
    info.cycle = Ticks(out.cycle);
    for (const std::int64_t border : borders) info.borders.emplace_back(border);
  }
  for (const ClipMarksDef& marks : def.marks) compile_marks(marks);
}

void Compilation::compile_marks(const ClipMarksDef& marks) {
  const auto found = clips.find(marks.clip.text);
  if (found == clips.end()) {
    std::vector<std::string> known;
    for (const auto& [name, index] : clips) known.push_back(name);
    return unknown("clip", marks.clip, known, "Marks belong to a clip by its name.");
  }
  ClipInfo& info = data->clip_infos[found->second];
  ClipData& out = data->clips[found->second];
  if (!info.marks.clip.empty())
    return report(FindingCode::duplicate_name, marks.clip.place,
                  "the clip \"" + marks.clip.text + "\" has marks already", "Put all marks of a clip in one place.",
                  marks.clip.text);
  info.marks = marks;
  if (out.length == 0 || !within("marks of a clip", marks.marks.size(), kMaxMarksOfClip, marks.clip.place)) return;
  for (const MarkDef& mark : marks.marks) check_mark(mark, info, out);
  check_boxes(info);
  check_tracks(info);
  std::set<std::string, std::less<>> taken;
  if (!within("windows of a clip", marks.windows.size(), kMaxMarksOfClip, marks.clip.place)) return;
  for (const WindowDef& window : marks.windows) {
    if (windows.size() == kMaxWindowNames && windows.find(window.name.text) == windows.end()) {
      within("names of windows", kMaxWindowNames + 1, kMaxWindowNames, window.name.place);
      return;
    }
    if (!declare("window", window.name, taken)) continue;
    const auto number = windows.try_emplace(window.name.text, static_cast<std::uint16_t>(windows.size())).first->second;
    if (number == data->window_names.size()) data->window_names.push_back(window.name.text);
    ClipWindow& compiled = out.windows.emplace_back();
    compiled.name = number;
    for (const StretchDef& stretch : window.stretches) {
      if (!check_stretch("window \"" + window.name.text + "\"", stretch, info, window.name.place)) continue;
      compiled.stretches.push_back(stretch.timed ? Stretch{true, stretch.end.count == out.length, found->second,
                                                           stretch.begin.count, stretch.end.count}
                                                 : Stretch{false, false, found->second, stretch.first, stretch.last});
    }
  }
}

bool Compilation::check_stretch(const std::string& what, const StretchDef& stretch, const ClipInfo& clip, Place place) {
  const bool timed = stretch.timed;
  const bool ordered = timed ? stretch.begin < stretch.end : stretch.first <= stretch.last;
  const bool fits = timed ? stretch.begin.count >= 0 && stretch.end <= clip.length
                          : stretch.first >= 0 && stretch.last < static_cast<std::int32_t>(clip.def.frames.size());
  if (ordered && fits) return true;
  report(FindingCode::outside_clip, place,
         "the " + what + (ordered ? " reaches past the clip \"" : " ends before it begins in \"") + clip.def.name.text +
             "\"",
         timed ? "The clip lasts " + seconds_text(clip.length) + "." : "It " + frames_text(clip.def.frames.size()),
         clip.def.name.text);
  return false;
}

void Compilation::check_boxes(const ClipInfo& clip) {
  if (!within("boxes of a clip", clip.marks.boxes.size(), kMaxMarksOfClip, clip.marks.clip.place)) return;
  for (const BoxDef& box : clip.marks.boxes) {
    for (const auto& [what, word] : {std::pair("box", &box.name), std::pair("role", &box.role)})
      if (!is_name(word->text))
        report(FindingCode::bad_name, box.place, "\"" + word->text + "\" cannot be the name of a " + what,
               "A name is a letter, then letters, digits or underscores (at most 64).", word->text);
    for (const StretchDef& stretch : box.stretches)
      check_stretch("box \"" + box.name.text + "\"", stretch, clip, box.place);
    if (!sound_shape(box.shape, false))
      report(FindingCode::bad_value, box.place, "the box \"" + box.name.text + "\" has no size, or is out of range",
             "A rect is [left, bottom, width, height], a circle [x, y, radius], in pixels from the pivot; sizes are "
             "above 0, all within 1000000.",
             box.name.text);
  }
  for (const OffsetDef& offset : clip.marks.offsets)
    check_stretch("offset", {false, offset.first, offset.last, {}, {}}, clip, offset.place);
}

void Compilation::check_mark(const MarkDef& mark, const ClipInfo& clip, ClipData& out) {
  const auto cue = find_cue(mark.cue);
  const auto frames = static_cast<std::int32_t>(clip.def.frames.size());
  const std::int32_t last = mark.at == MarkAt::frames ? mark.last_frame : mark.frame;
  if (mark.at == MarkAt::time) {
    if (mark.time.count < 0 || mark.time.count > out.length)
      return report(FindingCode::outside_clip, mark.place,
                    "the cue \"" + mark.cue.text + "\" lies at " + seconds_text(mark.time) + ", past the end of \"" +
                        clip.def.name.text + "\"",
                    "The clip lasts " + seconds_text(clip.length) + ".", mark.cue.text);
  } else if (mark.frame < 0 || last >= frames) {
    return report(FindingCode::outside_clip, mark.place,
                  "frame " + std::to_string(mark.frame < 0 ? mark.frame : last) + " is not in the clip \"" +
                      clip.def.name.text + "\"",
                  "It " + frames_text(clip.def.frames.size()), clip.def.name.text);
  } else if (mark.at == MarkAt::frames && last < mark.frame) {
    return report(FindingCode::bad_value, mark.place, "the span \"" + mark.cue.text + "\" ends before it begins",
                  "Write the earlier frame first.", mark.cue.text);
  }
  if (!cue) return;
  MarkData compiled;
  compiled.at = mark.at;
  compiled.way = mark.way;
  compiled.cue = *cue;
  compiled.first = mark.frame;
  compiled.last = last;
  compiled.time = mark.time.count;
  compiled.clip = static_cast<std::uint16_t>(&out - data->clips.data());
  compiled.fields = resolve_fields(*cue, mark.fields, mark.place);
  out.marks.push_back(compiled);
}

std::optional<std::uint16_t> Compilation::window_number(std::string_view name) {
  const auto found = windows.find(name);
  if (found == windows.end()) return std::nullopt;
  return found->second;
}

}  // namespace mobrin::detail
