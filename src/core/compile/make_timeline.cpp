#include "compile/make_timeline.hpp"

#include "mobrin/core/wide.hpp"

namespace mobrin::detail {
namespace {

std::int64_t divide_down(Wide value, std::int64_t by) { return static_cast<std::int64_t>(value / by); }

}  // namespace

std::vector<std::int64_t> frame_borders(const ClipDef& clip) {
  std::vector<std::int64_t> borders;
  if (clip.frames.empty()) return borders;
  borders.reserve(clip.frames.size() + 1);
  Wide holds = 0;
  std::int64_t times = 0;
  borders.push_back(0);
  for (const FrameDef& frame : clip.frames) {
    holds += frame.hold;
    times += frame.time.count;
    borders.push_back(clip.fps.num > 0 ? divide_down(holds * kTicksPerSecond * clip.fps.den, clip.fps.num) : times);
  }
  return borders;
}

void make_timeline(const ClipDef& clip, std::uint16_t index, const std::vector<std::int64_t>& borders, ClipData& out) {
  const auto frames = static_cast<std::int32_t>(clip.frames.size());
  out.length = frames > 0 ? borders.back() : clip.length.count;
  out.cycle = out.length;
  out.passes = clip.play.passes;
  out.parts = {{index, 0, 0}};
  for (std::int32_t i = 0; i < frames; ++i) {
    const std::int64_t begin = borders[static_cast<std::size_t>(i)];
    out.segments.push_back({begin, begin, i, index, false});
  }
  if (frames == 0) out.segments.push_back({0, 0, -1, index, false});
  if (clip.play.kind != PlayKind::back_and_forth) return;
  if (frames == 0) {
    out.turn = out.length;
    out.cycle = 2 * out.length;
    out.segments.push_back({out.length, out.length, -1, index, true});
    return;
  }
  if (frames < 3) return;  // no frame lies between the first and the last
  out.turn = borders[static_cast<std::size_t>(frames - 1)];
  for (std::int32_t i = frames - 2; i >= 1; --i) {
    const std::int64_t end = borders[static_cast<std::size_t>(i) + 1];
    out.segments.push_back({out.cycle, end, i, index, true});
    out.cycle += end - borders[static_cast<std::size_t>(i)];
  }
}

void cut_timeline(ClipData& clip, const std::set<std::int64_t>& times) {
  std::vector<Segment> pieces;
  for (const Segment& segment : clip.segments) {
    const std::int64_t lasts = segment_end(clip, segment) - segment.begin;
    std::set<std::int64_t> cuts;  // of the segment, in the order of the cycle
    for (auto time = times.upper_bound(segment.mirrored ? segment.own - lasts : segment.own);
         time != times.end() && *time < (segment.mirrored ? segment.own : segment.own + lasts); ++time)
      cuts.insert(segment.mirrored ? segment.own - *time : *time - segment.own);
    pieces.push_back(segment);
    for (const std::int64_t cut : cuts) {
      Segment& piece = pieces.emplace_back(segment);
      piece.begin += cut;
      piece.own += segment.mirrored ? -cut : cut;
    }
  }
  clip.segments = std::move(pieces);
}

ClipData make_sequence(const MachineData& data, std::span<const std::uint16_t> clips) {
  ClipData out;
  std::set<std::uint16_t> known;
  for (const std::uint16_t index : clips) {
    const ClipData& clip = data.clips[index];
    for (std::int32_t pass = 0; pass < clip.passes; ++pass) {
      out.parts.push_back({index, out.cycle, static_cast<std::uint32_t>(out.segments.size())});
      for (Segment segment : clip.segments) {
        segment.begin += out.cycle;
        out.segments.push_back(segment);
      }
      out.cycle += clip.cycle;
    }
    if (!known.insert(index).second) continue;
    out.marks.insert(out.marks.end(), clip.marks.begin(), clip.marks.end());
    out.windows.insert(out.windows.end(), clip.windows.begin(), clip.windows.end());
  }
  out.length = out.cycle;
  return out;
}

}  // namespace mobrin::detail
