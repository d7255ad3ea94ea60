// What a look's pictures show, against those that they stand in for.
#include <algorithm>
#include <cstdlib>
#include <map>
#include <string>

#include "art_shift.hpp"

namespace mobrin::check {
namespace {

// The frames of one exchanged image.
class Exchange {
 public:
  Exchange(const std::string& from, const std::string& to) : from_(from), to_(to) {}

  void look_at(const Machine& machine, const FrameSource& source) {
    for (const ClipInfo& clip : machine.clips())
      for (const FrameDef& frame : clip.def.frames) {
        if (frame.art.source != from_) continue;
        if (compared_ == kMostFrames) {
          more_ = true;
          return;
        }
        FrameArt other = frame.art;
        other.source = to_;
        const auto before = source(frame.art);
        const auto after = before ? source(other) : std::nullopt;
        if (after && after->width == before->width && after->height == before->height) compare(*before, *after);
      }
  }

  // What is wrong with them, and what to do; empty where nothing is.
  [[nodiscard]] std::pair<std::string, std::string> wrong() const {
    if (compared_ == 0) return {};
    if (empty_ > 0)
      return {to_ + " shows nothing in " + count(empty_) + " where " + from_ + " shows something",
              "Draw them, or leave the image out of the look."};
    if (same_ == compared_ && !more_)
      return {to_ + " shows the same as " + from_, "Draw it otherwise, or leave it out of the look."};
    for (const auto& [moved, times] : moved_) {
      const auto [forward, down] = moved;
      if (10 * times < 8 * compared_ || std::max(std::abs(forward), std::abs(down)) < 2) continue;
      return {"what " + to_ + " shows stands " + steps_text(forward, down, "further right", "further left") +
                  " than in " + from_,
              "Draw it in the same place, or it jumps when the look changes."};
    }
    return {};
  }

 private:
  static constexpr std::size_t kMostFrames = 256;  // of one image: the rest likely stands as they do

  void compare(const FramePixels& before, const FramePixels& after) {
    const Silhouette here(before, {0, 0}), there(after, {0, 0});
    if (here.empty()) return;
    ++compared_;
    if (there.empty()) {
      ++empty_;
      return;
    }
    same_ += same_pixels(before, after) ? 1 : 0;
    if (const auto moved = here.moved_to(there)) ++moved_[*moved];
  }
  static std::string count(std::size_t frames) { return std::to_string(frames) + (frames == 1 ? " frame" : " frames"); }

  const std::string &from_, &to_;
  std::size_t compared_ = 0, empty_ = 0, same_ = 0;
  bool more_ = false;  // than were compared
  std::map<std::pair<std::int32_t, std::int32_t>, std::size_t> moved_{};
};

}  // namespace

void look_findings(const Machine& machine, const FrameSource& source, std::vector<Finding>& findings) {
  for (const LookDef& look : machine.looks())
    for (const auto& [from, to] : look.art) {
      Exchange exchange(from, to);
      exchange.look_at(machine, source);
      auto [what, remedy] = exchange.wrong();
      if (what.empty()) continue;
      Finding& finding = findings.emplace_back();
      finding.code = FindingCode::look_misfit;
      if (look.name.place.file < machine.files().size()) finding.file = machine.files()[look.name.place.file];
      finding.line = look.name.place.line;
      finding.column = look.name.place.column;
      finding.message = "the look \"" + look.name.text + "\": " + what;
      finding.remedy = std::move(remedy);
      finding.subject = look.name.text;
    }
}

}  // namespace mobrin::check
