// Findings about art.
#include "mobrin/check/art.hpp"

#include <cstring>
#include <string>

namespace mobrin {
namespace {

bool equal(const FramePixels& a, const FramePixels& b) {
  if (a.width != b.width || a.height != b.height) return false;
  for (std::int32_t y = 0; y < a.height; ++y)
    for (std::int32_t x = 0; x < a.width; ++x) {
      const std::uint8_t* p = a.rgba + 4 * (std::int64_t{y} * a.stride + x);
      const std::uint8_t* q = b.rgba + 4 * (std::int64_t{y} * b.stride + x);
      if (std::memcmp(p, q, 4) != 0 && (p[3] != 0 || q[3] != 0)) return false;
    }
  return true;
}

bool empty(const FramePixels& frame) {
  for (std::int32_t y = 0; y < frame.height; ++y)
    for (std::int32_t x = 0; x < frame.width; ++x)
      if (frame.rgba[4 * (std::int64_t{y} * frame.stride + x) + 3] != 0) return false;
  return true;
}

class ArtCheck {
 public:
  ArtCheck(const Machine& machine, const FrameSource& source) : machine_(machine), source_(source) {}

  std::vector<Finding> run() {
    const bool has_states = machine_.states().size() > 2;  // a file of clips alone has a stand-in
    for (std::size_t i = 0; i < machine_.clips().size(); ++i) {
      clip_ = &machine_.clips()[i].def;
      check_rate();
      check_frames();
      if (has_states && !machine_.clips()[i].marks.marks.empty() && !played(i))
        report(FindingCode::unreached_cue, "has cues, but no state plays it",
               "Play it in a state, or take its marks out of the machine's files.");
    }
    return std::move(findings_);
  }

 private:
  void report(FindingCode code, const std::string& what, std::string remedy) {
    Finding& finding = findings_.emplace_back();
    finding.code = code;
    const Place place = clip_->name.place;
    if (place.line > 0 && place.file < machine_.files().size()) finding.file = machine_.files()[place.file];
    finding.line = place.line;
    finding.column = place.column;
    finding.message = "the clip \"" + clip_->name.text + "\" " + what;
    finding.remedy = std::move(remedy);
  }

  [[nodiscard]] bool played(std::size_t clip) const {
    for (const StateInfo& state : machine_.states())
      for (const std::uint16_t each : state.clips)
        if (each == clip) return true;
    return false;
  }

  void check_rate() {
    const Fraction fps = clip_->fps;
    if (fps.num <= 40 * fps.den || clip_->frames.empty() || clip_->frames.size() >= 8) return;
    for (const FrameDef& frame : clip_->frames)
      if (frame.hold > 1) return;  // somebody thought about its timing
    report(FindingCode::absurd_rate,
           "shows " + std::to_string(clip_->frames.size()) + " frames at " + std::to_string(fps.num / fps.den) +
               " a second: it is over before it is seen",
           "Frames a second of drawn art are 5 to 30; `fps:` is not the game's rate.");
  }

  void check_frames() {
    std::vector<FramePixels> frames;
    for (const FrameDef& frame : clip_->frames) {
      const auto pixels = source_(frame.art);
      if (!pixels) return;  // told elsewhere
      frames.push_back(*pixels);
    }
    if (frames.empty()) return;
    for (std::size_t i = 0; i < frames.size(); ++i) {
      if (empty(frames[i]))
        report(FindingCode::empty_frame, "shows nothing in frame " + std::to_string(i),
               "Draw it, or leave it out of `frames:`.");
      if (frames[i].width == frames[0].width && frames[i].height == frames[0].height) continue;
      report(FindingCode::mixed_sizes,
             "has a frame " + std::to_string(i) + " of " + std::to_string(frames[i].width) + " x " +
                 std::to_string(frames[i].height) + " pixels; frame 0 has " + std::to_string(frames[0].width) + " x " +
                 std::to_string(frames[0].height),
             "Give all frames of a clip one size, or it will jump.");
      return;
    }
    if (frames.size() < 2) return;
    std::size_t same = 0;
    for (std::size_t i = 1; i < frames.size(); ++i) same += equal(frames[i], frames[i - 1]) ? 1 : 0;
    if (same + 1 == frames.size())
      return report(FindingCode::same_picture, "shows the same picture in all its frames",
                    "Use `pose:` for a picture that stands still, or check the numbers of `frames:`.");
    for (std::size_t i = 1; i < frames.size(); ++i)
      if (equal(frames[i], frames[i - 1]))
        report(FindingCode::equal_neighbours,
               "shows the same picture in the frames " + std::to_string(i - 1) + " and " + std::to_string(i),
               "Hold one of them longer instead: `" + held(i - 1) + "`; the numbers of later frames then change.");
    if (clip_->play.kind == PlayKind::loop && equal(frames.front(), frames.back()))
      report(FindingCode::loop_seam, "loops, and its last frame is its first again: it stops there for a frame",
             "Leave the last frame out of `frames:`.");
  }
  [[nodiscard]] std::string held(std::size_t frame) const {
    const FrameDef& def = clip_->frames[frame];
    const std::string name = def.art.tile.empty() ? std::to_string(frame) : def.art.tile;
    return name + "*" + std::to_string(def.hold + clip_->frames[frame + 1].hold);
  }

  const Machine& machine_;
  const FrameSource& source_;
  const ClipDef* clip_ = nullptr;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> art_findings(const Machine& machine, const FrameSource& source) {
  return ArtCheck(machine, source).run();
}

}  // namespace mobrin
