// Findings about art.
#include "mobrin/check/art.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <numeric>
#include <string>

#include "art_grain.hpp"
#include "art_shift.hpp"

namespace mobrin {
namespace {

// The rows and columns that show something; none where the frame is empty.
struct Extent {
  std::int32_t left = 0, right = 0, top = 0, bottom = 0;  // the last two past the end
};

std::optional<Extent> extent(const FramePixels& frame, std::int32_t from_row = 0) {
  std::optional<Extent> out;
  for (std::int32_t y = from_row; y < frame.height; ++y)
    for (std::int32_t x = 0; x < frame.width; ++x) {
      if (frame.rgba[4 * (std::int64_t{y} * frame.stride + x) + 3] == 0) continue;
      if (!out) out = Extent{x, x + 1, y, y + 1};
      out->left = std::min(out->left, x);
      out->right = std::max(out->right, x + 1);
      out->bottom = y + 1;
    }
  return out;
}

// Where a clip's feet are, against its pivot, in pixels.
struct Feet {
  const ClipDef* clip = nullptr;
  double ground = 0;  // the lowest row, downwards
  double middle = 0;  // of the first frame
  double ground_slack = 0, middle_slack = 0;
};

class ArtCheck {
 public:
  ArtCheck(const Machine& machine, const FrameSource& source, bool plays)
      : machine_(machine), source_(source), plays_(plays) {}

  std::vector<Finding> run() {
    for (const ClipInfo& clip : machine_.clips()) has_pivots_ = has_pivots_ || clip.marks.pivot.has_value();
    for (std::size_t i = 0; i < machine_.clips().size(); ++i) {
      info_ = &machine_.clips()[i];
      clip_ = &info_->def;
      check_rate();
      if (!info_->marks.pivot && is_offset())
        report(FindingCode::pivot_missing, "has offsets, which move its pivot, and no pivot: they do nothing",
               "Mark where its feet stand: `mobrin marks FILE --clip " + clip_->name.text + " --pivot X,Y`.");
      check_frames();
      if (plays_ && !machine_.clips()[i].marks.marks.empty() && !played(i))
        report(FindingCode::unreached_cue, "has cues, but no state plays it",
               "Play it in a state, or take its marks out of the machine's files.");
    }
    tell_backgrounds();
    tell_grains();
    check::look_findings(machine_, source_, findings_);
    if (plays_) check_jumps();
    return std::move(findings_);
  }

 private:
  void report(FindingCode code, const std::string& what, std::string remedy) {
    report(code, clip_->name.place, what, std::move(remedy));
  }
  void report(FindingCode code, Place place, const std::string& what, std::string remedy) {
    Finding& finding = findings_.emplace_back();
    finding.code = code;
    if (place.line > 0 && place.file < machine_.files().size()) finding.file = machine_.files()[place.file];
    finding.line = place.line;
    finding.column = place.column;
    finding.message = "the clip \"" + clip_->name.text + "\" " + what;
    finding.remedy = std::move(remedy);
    finding.subject = clip_->name.text;
  }

  [[nodiscard]] bool played(std::size_t clip) const {
    for (const StateInfo& state : machine_.states())
      for (const std::uint16_t each : state.clips)
        if (each == clip) return true;
    return false;
  }

  [[nodiscard]] bool is_offset() const { return info_->marks.offset || !info_->marks.offsets.empty(); }

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

  // Frame after frame: what is compared is the frame before and the first, so that no more is held.
  void check_frames() {
    std::optional<FramePixels> first, before;
    std::vector<std::size_t> same;  // frames that show what the one before shows
    std::vector<std::size_t> empty;
    bool ends_as_it_began = false, sizes_told = false;
    std::optional<Feet> feet;
    const bool may_jump = !info_->marks.airborne && clip_->frames.size() >= check::FrameJumps::kLeastFrames;
    check::FrameJumps jumps;
    background_.reset();
    std::int32_t grain = 0;
    for (std::size_t i = 0; i < clip_->frames.size(); ++i) {
      auto pixels = clip_->frames[i].art.source.empty() ? std::nullopt : source_(clip_->frames[i].art);
      if (!pixels) return tell_empty(empty);  // told elsewhere
      const auto seen = extent(*pixels);
      if (seen)
        measure(*pixels, *seen, static_cast<std::int32_t>(i), feet);
      else
        empty.push_back(i);
      look_for_boxes(*pixels, static_cast<std::int32_t>(i));
      if (may_jump) jumps.add(*pixels, anchor(*pixels, static_cast<std::int32_t>(i)));
      look_for_background(*pixels, i == 0);
      if (grain != 1) grain = std::gcd(grain, check::grain_of(*pixels));
      if (!first) first = pixels;
      if (!sizes_told && (pixels->width != first->width || pixels->height != first->height)) {
        sizes_told = true;
        report(FindingCode::mixed_sizes,
               "has a frame " + std::to_string(i) + " of " + std::to_string(pixels->width) + " x " +
                   std::to_string(pixels->height) + " pixels; frame 0 has " + std::to_string(first->width) + " x " +
                   std::to_string(first->height),
               "Give all frames of a clip one size, or it will jump.");
      }
      // That what shows nothing is like others that do needs no word.
      if (seen && before && check::same_pixels(*pixels, *before)) same.push_back(i);
      ends_as_it_began = seen && i > 0 && check::same_pixels(*pixels, *first);
      before = std::move(pixels);
    }
    if (!first) return;
    if (grain > 0) grains_.emplace_back(clip_, grain);
    if (background_) backgrounds_[*background_].push_back(static_cast<std::size_t>(info_ - machine_.clips().data()));
    tell_empty(empty);
    tell_boxes();
    if (has_pivots_ && !info_->marks.pivot && !is_offset())  // else told already
      report(FindingCode::pivot_missing, "has no pivot; other clips of the machine have one",
             "Mark where its feet stand: `mobrin marks FILE --clip " + clip_->name.text + " --pivot X,Y`.");
    else if (feet && empty.empty() && !info_->marks.airborne)
      feet_.push_back(*feet);
    if (clip_->frames.size() < 2 || sizes_told) return;
    tell_jumps(jumps);
    if (same.size() + 1 == clip_->frames.size())
      return report(FindingCode::same_picture, "shows the same picture in all its frames",
                    "Use `pose:` for a picture that stands still, or check the numbers of `frames:`.");
    for (const std::size_t i : same)
      report(FindingCode::equal_neighbours,
             "shows the same picture in the frames " + std::to_string(i - 1) + " and " + std::to_string(i),
             "Hold one of them longer instead: `" + held(i - 1) + "`; the numbers of later frames then change.");
    if (clip_->play.kind == PlayKind::loop && ends_as_it_began)
      report(FindingCode::loop_seam, "loops, and its last frame is its first again: it stops there for a frame",
             "Leave the last frame out of `frames:`.");
  }

  // All in one: "frame 3", "the frames 4-7, 9".
  void tell_empty(const std::vector<std::size_t>& frames) {
    if (frames.empty()) return;
    std::string text;
    for (std::size_t first = 0, i = 0; i < frames.size(); ++i) {
      if (i + 1 < frames.size() && frames[i + 1] == frames[i] + 1) continue;
      text += (text.empty() ? "" : ", ") + std::to_string(frames[first]);
      if (i > first) text += "-" + std::to_string(frames[i]);
      first = i + 1;
    }
    const bool one = frames.size() == 1;
    report(FindingCode::empty_frame, (one ? "shows nothing in frame " : "shows nothing in the frames ") + text,
           one ? "Draw it, or leave it out of `frames:`." : "Draw them, or leave them out of `frames:`.");
  }

  // Where a box lies against the picture; none where it is on it.
  enum class Beside : std::uint8_t { nothing, on, below, above, behind, before, off };
  static Beside beside(const FramePixels& pixels, std::pair<double, double> pivot, const BoxDef& box) {
    const Shape& shape = box.shape;
    double left = 0, right = 0, bottom = 0, top = 0;
    if (const auto* rect = std::get_if<RectShape>(&shape)) {
      left = rect->left, right = left + rect->width, bottom = rect->bottom, top = bottom + rect->height;
    } else if (const auto* circle = std::get_if<CircleShape>(&shape)) {
      left = circle->x - circle->radius, right = circle->x + circle->radius;
      bottom = circle->y - circle->radius, top = circle->y + circle->radius;
    } else {
      return Beside::on;
    }
    if (top <= pivot.second - pixels.height) return Beside::below;
    if (bottom >= pivot.second) return Beside::above;
    if (right <= -pivot.first) return Beside::behind;
    if (left >= pixels.width - pivot.first) return Beside::before;
    // What is hit is drawn; what hits need not be.
    if (box.role.text != "hurt") return Beside::on;
    const auto at = [](double value, std::int32_t most) {
      return static_cast<std::int32_t>(std::clamp(value, 0.0, static_cast<double>(most)));
    };
    const std::int32_t from_x = at(std::floor(pivot.first + left), pixels.width),
                       to_x = at(std::ceil(pivot.first + right), pixels.width);
    const std::int32_t from_y = at(std::floor(pivot.second - top), pixels.height),
                       to_y = at(std::ceil(pivot.second - bottom), pixels.height);
    for (std::int32_t y = from_y; y < to_y; ++y)
      for (std::int32_t x = from_x; x < to_x; ++x)
        if (pixels.rgba[4 * (std::int64_t{y} * pixels.stride + x) + 3] != 0) return Beside::on;
    return Beside::off;
  }
  // Opaque, its edge of one colour, which takes a good part of what lies within, too: neither a thin frame around a
  // picture nor one colour all over.
  static std::optional<std::uint32_t> background_of(const FramePixels& pixels) {
    const auto colour = [&](std::int32_t x, std::int32_t y) {
      const std::uint8_t* at = pixels.rgba + 4 * (std::int64_t{y} * pixels.stride + x);
      return std::uint32_t{at[0]} << 24 | std::uint32_t{at[1]} << 16 | std::uint32_t{at[2]} << 8 | at[3];
    };
    if (pixels.width < 8 || pixels.height < 8) return std::nullopt;
    const std::uint32_t first = colour(0, 0);
    std::int64_t same = 0;
    for (std::int32_t y = 0; y < pixels.height; ++y)
      for (std::int32_t x = 0; x < pixels.width; ++x) {
        const std::uint32_t here = colour(x, y);
        const bool at_edge = std::min({x, y, pixels.width - 1 - x, pixels.height - 1 - y}) < 1;
        if ((here & 0xff) != 0xff || (at_edge && here != first)) return std::nullopt;
        same += here == first ? 1 : 0;
      }
    const std::int64_t all = std::int64_t{pixels.width} * pixels.height;
    return same * 4 >= all && same < all ? std::optional(first) : std::nullopt;
  }
  void look_for_background(const FramePixels& pixels, bool first) {
    if (!first && !background_) return;
    const auto here = background_of(pixels);
    background_ = first || background_ == here ? here : std::nullopt;
  }
  void tell_backgrounds() {
    for (const auto& [colour, clips] : backgrounds_) {
      clip_ = &machine_.clips()[clips.front()].def;
      char text[8];
      std::snprintf(text, sizeof text, "#%06x", static_cast<unsigned>(colour >> 8));
      const std::string others = clips.size() == 1   ? "has"
                                 : clips.size() == 2 ? "and 1 other have"
                                                     : "and " + std::to_string(clips.size() - 1) + " others have";
      report(FindingCode::solid_background, others + " no transparent pixel: behind what is drawn lies " + text,
             "Save its pictures with transparency, or the game draws a box.");
    }
  }

  // Where most clips are drawn in pixels of one size, those in larger or smaller ones.
  void tell_grains() {
    std::map<std::int32_t, std::size_t> clips;
    for (const auto& [clip, grain] : grains_) ++clips[grain];
    const auto by_count = [](const auto& a, const auto& b) { return a.second < b.second; };
    const auto most = std::max_element(clips.begin(), clips.end(), by_count);
    if (most == clips.end() || most->second < 2 || 2 * most->second <= grains_.size()) return;
    const auto squares = [](std::int32_t grain) {
      return grain == 1 ? "single ones" : "squares of " + std::to_string(grain) + " x " + std::to_string(grain);
    };
    for (const auto& [clip, grain] : grains_) {
      clip_ = clip;
      if (grain != most->first)
        report(
            FindingCode::pixel_size,
            "is drawn in pixels that are " + squares(grain) + ", most clips of the machine in " + squares(most->first),
            "Save its pictures at the scale of the others.");
    }
  }

  void look_for_boxes(const FramePixels& pixels, std::int32_t frame) {
    const auto pivot = info_->pivot_of(frame);
    const std::vector<BoxDef>& boxes = info_->marks.boxes;
    boxes_.resize(boxes.size(), Beside::nothing);
    if (!pivot) return;
    const Ticks time = info_->borders[static_cast<std::size_t>(frame)];
    for (std::size_t b = 0; b < boxes.size(); ++b) {
      const auto& stretches = boxes[b].stretches;
      const bool there = stretches.empty() || std::any_of(stretches.begin(), stretches.end(), [&](const auto& each) {
                           return info_->holds(each, time, frame);
                         });
      if (!there || boxes_[b] == Beside::on) continue;
      const Beside here = beside(pixels, *pivot, boxes[b]);
      if (here == Beside::on || boxes_[b] == Beside::nothing) boxes_[b] = here;
    }
  }
  void tell_boxes() {
    const std::string_view words[] = {"", "", "below", "above", "behind", "in front of", "beside all that is drawn in"};
    for (std::size_t b = 0; b < boxes_.size(); ++b)
      if (boxes_[b] > Beside::on)
        report(FindingCode::hardly_meant, info_->marks.boxes[b].place,
               "has a box \"" + info_->marks.boxes[b].name.text + "\" that lies " +
                   std::string(words[static_cast<std::size_t>(boxes_[b])]) + " its picture",
               "Boxes are in pixels from the pivot, x forward and y up; `mobrin sheet` draws them.");
    boxes_.clear();
  }

  // What frames are laid on one another by.
  [[nodiscard]] std::pair<double, double> anchor(const FramePixels& pixels, std::int32_t frame) const {
    return info_->pivot_of(frame).value_or(std::pair(pixels.width / 2.0, double(pixels.height)));
  }

  void tell_jumps(const check::FrameJumps& jumps) {
    const bool loops = clip_->play.kind != PlayKind::once;
    const std::vector<check::FrameJump> found = jumps.found();
    if (const std::int32_t shaken = jumps.shaken(); loops && found.empty() && shaken > 0)
      return report(
          FindingCode::frame_jump,
          "shakes: what it shows goes back and forth by up to " + std::to_string(shaken) + " pixels",
          "Draw its frames in one place, or cut them out alike; `mobrin sheet --ghost` lays them on one another.");
    for (const check::FrameJump& jump : found) {
      const auto frame = static_cast<std::int32_t>(jump.frame);
      const auto& offsets = info_->marks.offsets;
      const bool has_one = std::any_of(offsets.begin(), offsets.end(), [&](const OffsetDef& each) {
        return frame >= each.first && frame <= each.last;
      });
      std::string command = "`mobrin marks FILE --clip " + clip_->name.text;
      if (!info_->marks.pivot)  // offsets move it; this is what pictures without one are laid on
        command += " --pivot " + std::to_string(jumps.width() / 2) + "," + std::to_string(jumps.height());
      command += " --offset " + std::to_string(frame) + "=" + std::to_string(-jump.forward) + "," +
                 std::to_string(jump.down) + "`";
      report(FindingCode::frame_jump,
             "jumps in frame " + std::to_string(frame) + ": it shows nearly what the others do, " +
                 check::steps_text(jump.forward, jump.down, "further forward", "further back"),
             has_one && info_->marks.pivot ? "Draw it in its place, or change its offset."
                                           : "Draw it in its place, or move it: " + command + ".");
      // One of four that is higher may be a hop.
      findings_.back().hint = !loops || (jump.down < 0 && clip_->frames.size() < 5);
    }
  }

  void measure(const FramePixels& pixels, const Extent& seen, std::int32_t frame, std::optional<Feet>& feet) const {
    const auto pivot = anchor(pixels, frame);
    const double ground = seen.bottom - pivot.second;
    if (feet) {
      feet->ground = std::max(feet->ground, ground);
      return;
    }
    const auto foot = extent(pixels, seen.bottom - std::max(1, (seen.bottom - seen.top) / 4)).value_or(seen);
    feet = Feet{clip_, ground, (foot.left + foot.right) / 2.0 - pivot.first, std::max(2.0, pixels.height / 20.0),
                std::max(4.0, (seen.right - seen.left) / 4.0)};
  }

  // Most clips agree; whoever is off jumps. Pivots that are not where the feet stand, as of what flies, say no ground.
  void check_jumps() {
    if (feet_.size() < 2) return;
    const auto middle_of = [&](double Feet::*what) {
      std::vector<double> values;
      for (const Feet& feet : feet_) values.push_back(feet.*what);
      std::sort(values.begin(), values.end());
      return values[(values.size() - 1) / 2];
    };
    const auto standing = std::count_if(feet_.begin(), feet_.end(),
                                        [](const Feet& feet) { return std::abs(feet.ground) <= feet.ground_slack; });
    const bool stands = !has_pivots_ || 2 * static_cast<std::size_t>(standing) >= feet_.size();
    const double ground = has_pivots_ ? 0 : middle_of(&Feet::ground), middle = middle_of(&Feet::middle);
    const auto whole = [](double value) { return static_cast<std::int32_t>(std::lround(value)); };
    const std::string remedy = has_pivots_ ? "Check its pivot (`mobrin sheet --ghost` shows another clip under it)"
                                           : "Give the clips a pivot where the feet stand";
    for (const Feet& feet : feet_) {
      clip_ = feet.clip;
      if (const double off = feet.ground - ground; stands && std::abs(off) > feet.ground_slack)
        report(FindingCode::ground_jump,
               "stands " + check::steps_text(0, whole(off), "", "") + " than most clips of the machine",
               remedy + ", or mark it `airborne: true`.");
      if (const double off = feet.middle - middle; std::abs(off) > feet.middle_slack)
        report(FindingCode::pivot_jump,
               "begins " + check::steps_text(whole(off), 0, "further forward", "further back") +
                   " than most clips of the machine",
               remedy + ", or mark it `airborne: true`.");
    }
  }

  [[nodiscard]] std::string held(std::size_t frame) const {
    const FrameDef& def = clip_->frames[frame];
    const std::string name = def.art.tile.empty() ? std::to_string(frame) : def.art.tile;
    return name + "*" + std::to_string(def.hold + clip_->frames[frame + 1].hold);
  }

  const Machine& machine_;
  const FrameSource& source_;
  bool plays_;
  const ClipInfo* info_ = nullptr;  // the clip at hand
  const ClipDef* clip_ = nullptr;
  bool has_pivots_ = false;
  std::optional<std::uint32_t> background_;  // of the clip at hand: the colour around all that its frames show
  std::map<std::uint32_t, std::vector<std::size_t>> backgrounds_;  // of all clips: by colour, which have it
  std::vector<std::pair<const ClipDef*, std::int32_t>> grains_;    // of clips that say it
  std::vector<Beside> boxes_;                                      // of the clip at hand
  std::vector<Feet> feet_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> art_findings(const Machine& machine, const FrameSource& source, bool plays) {
  return ArtCheck(machine, source, plays).run();
}

}  // namespace mobrin
