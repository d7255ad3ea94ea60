// Clip sheets.
#include "mobrin/draw/sheet.hpp"

#include "mobrin/core/parts.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <tuple>

#include "canvas.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/picture.hpp"
#include "mobrin/io/animation.hpp"

namespace mobrin {
namespace draw {
namespace {

constexpr double kMargin = 28;
constexpr double kPageWidth = 1240;
constexpr double kGap = 14;
constexpr double kLabelLine = 17;
constexpr double kStripHeight = 18;
constexpr int kMostPixels = 30'000;  // a side of a picture; Cairo's own limit is 32767

// Finds frames' pictures and notes once what is missing.
class Art {
 public:
  Art(const std::string& folder, const LookDef* look) : store_(folder), look_(look) {}

  ArtStore::Picture find(const ClipInfo& clip, std::size_t frame) {
    FrameArt art = clip.def.frames[frame].art;
    if (art.source.empty()) return {};
    if (look_ != nullptr)
      for (const auto& [from, to] : look_->art)
        if (art.source == from) {
          art.source = to;
          break;
        }
    auto picture = store_.find(art);
    if (picture) return std::move(*picture);
    const std::string message =
        "frame " + std::to_string(frame) + " of \"" + clip.def.name.text + "\": " + picture.error().message;
    if (told_.insert(picture.error().message).second) messages.push_back(message);
    return {};
  }

  std::vector<std::string> messages;

 private:
  ArtStore store_;
  const LookDef* look_;
  std::set<std::string> told_;
};

// What is drawn in a frame's cell, in image pixels from the pivot: x to the right, y downwards.
struct Bounds {
  double left = 0, right = 0, top = 0, bottom = 0;
  void hold(double x1, double y1, double x2, double y2) {
    left = std::min(left, x1);
    top = std::min(top, y1);
    right = std::max(right, x2);
    bottom = std::max(bottom, y2);
  }
};

// A frame's picture and where its pivot lies on it; without marks in the middle of its lower edge.
struct Placed {
  ArtStore::Picture picture;
  double pivot_x = 0, pivot_y = 0;
};

Placed placed(const ClipInfo& clip, std::size_t frame, Art& art) {
  Placed out{art.find(clip, frame)};
  std::tie(out.pivot_x, out.pivot_y) =
      pivot_on_cut(clip.def.frames[frame].art, out.picture.rect, clip.pivot_of(static_cast<std::int32_t>(frame)));
  return out;
}

// One clip's block on the page: sizes first, drawing second.
class ClipBlock {
 public:
  ClipBlock(const ClipInfo& clip, const SheetOptions& options, const ClipInfo* ghost, Art& art, Canvas& ruler)
      : clip_(clip), ghost_opacity_(ghost != nullptr ? 0.35 : 0) {
    const std::size_t count = clip.def.frames.size();
    first_ = options.frames ? static_cast<std::size_t>(options.frames->first) : 0;
    last_ = options.frames ? std::min(count, static_cast<std::size_t>(options.frames->second) + 1) : count;
    for (std::size_t i = first_; i < last_; ++i) {
      pictures_.push_back(placed(clip, i, art));
      hold(pictures_.back());
      if (ghost != nullptr && !ghost->def.frames.empty()) {
        const std::size_t same = i % ghost->def.frames.size();
        ghosts_.push_back(
            placed(*ghost, options.ghost_frame ? static_cast<std::size_t>(*options.ghost_frame) : same, art));
        hold(ghosts_.back());
      }
    }
    for (const BoxDef& box : clip.marks.boxes) {
      if (!any_art_) break;
      if (const auto* rect = std::get_if<RectShape>(&box.shape))
        bounds_.hold(rect->left, -rect->bottom - rect->height, rect->left + rect->width, -rect->bottom);
      else if (const auto* circle = std::get_if<CircleShape>(&box.shape))
        bounds_.hold(circle->x - circle->radius, -circle->y - circle->radius, circle->x + circle->radius,
                     circle->radius - circle->y);
    }
    const double widest = std::max(1.0, std::ceil(bounds_.right) - std::floor(bounds_.left));
    const double highest = std::max(1.0, std::ceil(bounds_.bottom) - std::floor(bounds_.top));
    const double larger = std::max(widest, highest);
    scale_ = any_art_ ? std::max(1.0, std::floor(150.0 / larger)) : 1;
    if (any_art_ && larger > 400) scale_ = 400.0 / larger;
    if (options.zoom > 0) scale_ = options.zoom;
    cell_width_ = any_art_ ? std::max(96.0, widest * scale_) : 96;
    picture_height_ = any_art_ ? highest * scale_ : 40;
    labels_.resize(count);
    for (std::size_t i = first_; i < last_; ++i)
      cell_width_ = std::max(cell_width_, ruler.text_width(shows_text(i), {kSmall, false, kFaint}) + 6);
    for (const MarkDef& mark : clip.marks.marks) {
      if (is_span(mark.at)) continue;
      const std::size_t frame = mark.at == MarkAt::time ? static_cast<std::size_t>(clip.frame_at(mark.time).value_or(0))
                                                        : static_cast<std::size_t>(mark.frame);
      std::string text = mark.cue.text;
      if (mark.at == MarkAt::frame_end) text += " (at its end)";
      if (mark.at == MarkAt::time) text += " (" + seconds_text(mark.time) + ")";
      if (mark.way != MarkWay::both) text += mark.way == MarkWay::forward ? " forward" : " backward";
      if (frame >= first_ && frame < last_) {
        cell_width_ = std::max(cell_width_, ruler.text_width(text, {kSmall, false, kCue}) + 18);
        labels_[frame].push_back(std::move(text));
      }
    }
    for (const auto& labels : labels_) most_labels_ = std::max(most_labels_, labels.size());
    columns_ =
        std::max<std::size_t>(1, static_cast<std::size_t>((kPageWidth - 2 * kMargin + kGap) / (cell_width_ + kGap)));
    rows_ = (last_ - first_ + columns_ - 1) / columns_;
    for (const MarkDef& mark : clip.marks.marks)
      if (is_span(mark.at) || clip.def.frames.empty()) ++bars_;
    bars_ += clip.marks.windows.size();
    if (clip.def.frames.empty()) bars_ += clip.marks.boxes.size();
  }

  // One frame alone, with a border in the cues' colour where it tells one.
  [[nodiscard]] double cell_width() const { return cell_width_ + 2 * kGap; }
  [[nodiscard]] double cell_height() const { return row_height() + 2 * kGap; }
  [[nodiscard]] std::size_t count() const { return pictures_.size(); }
  [[nodiscard]] std::size_t first() const { return first_; }
  void draw_alone(Canvas& canvas, std::size_t shown) const {
    draw_frame(canvas, shown, kGap, kGap);
    if (!labels_[first_ + shown].empty())
      canvas.frame({kGap - 3, kGap - 3, cell_width_ + 6, picture_height_ + 6}, kCue, 4);
  }

  [[nodiscard]] double width() const { return 2 * kMargin + cell_width_; }
  [[nodiscard]] double height() const { return 34 + static_cast<double>(rows_) * row_height() + strip_height() + 26; }

  void draw(Canvas& canvas, double top) const {
    double x = kMargin;
    x += canvas.text(x, top, clip_.def.name.text, {kTitle, true, kInk}) + 14;
    canvas.text(x, top + 6, summary(), {kNormal, false, kFaint});
    top += 34;
    for (std::size_t i = 0; i < pictures_.size(); ++i) {
      const std::size_t row = i / columns_;
      draw_frame(canvas, i, kMargin + static_cast<double>(i % columns_) * (cell_width_ + kGap),
                 top + static_cast<double>(row) * row_height());
    }
    draw_strip(canvas, top + static_cast<double>(rows_) * row_height());
  }

 private:
  [[nodiscard]] double row_height() const {
    return picture_height_ + 6 + kLabelLine * (2 + static_cast<double>(most_labels_)) + 10;
  }
  [[nodiscard]] double strip_height() const { return 26 + kStripHeight + 18 + static_cast<double>(bars_) * 18; }

  [[nodiscard]] std::string summary() const {
    const Fraction& fps = clip_.def.fps;
    const std::string rate =
        fps.num > 0 ? detail::short_text(static_cast<double>(fps.num) / static_cast<double>(fps.den), 6) + " fps, "
                    : "";
    const std::size_t frames = clip_.def.frames.size();
    return clip_.def.play.text() + ", " +
           (frames == 0 ? "no frames, " : std::to_string(frames) + (frames == 1 ? " frame, " : " frames, ")) + rate +
           seconds_text(clip_.length);
  }

  // How long a frame shows.
  [[nodiscard]] std::string shows_text(std::size_t i) const {
    const std::int32_t hold = clip_.def.frames[i].hold;
    const double shown = (clip_.borders[i + 1] - clip_.borders[i]).to_seconds() * 1000;
    return "for " + detail::short_text(shown, 3) + " ms" +
           (hold > 1 ? ", held " + std::to_string(hold) : std::string());
  }

  void hold(const Placed& placed) {
    if (placed.picture.image == nullptr) return;
    any_art_ = true;
    bounds_.hold(-placed.pivot_x, -placed.pivot_y, placed.picture.rect.width - placed.pivot_x,
                 placed.picture.rect.height - placed.pivot_y);
  }

  // The `shown`-th cell, with its top left at (x, y).
  void draw_frame(Canvas& canvas, std::size_t shown, double x, double y) const {
    const std::size_t i = first_ + shown;
    const Box cell{x, y, cell_width_, picture_height_};
    canvas.fill(cell, kCellLight);
    // The pivot of all frames lies at one place of their cells.
    const double wide = (std::ceil(bounds_.right) - std::floor(bounds_.left)) * scale_;
    const double px = x + std::floor((cell_width_ - wide) / 2) - std::floor(bounds_.left) * scale_;
    const double py = y - std::floor(bounds_.top) * scale_;
    const auto box_of = [&](const Placed& placed) {
      return Box{px - placed.pivot_x * scale_, py - placed.pivot_y * scale_, placed.picture.rect.width * scale_,
                 placed.picture.rect.height * scale_};
    };
    if (pictures_[shown].picture.image != nullptr) {
      canvas.fill(box_of(pictures_[shown]), kCellDark);
      if (!ghosts_.empty() && ghosts_[shown].picture.image != nullptr)
        canvas.image(*ghosts_[shown].picture.image, ghosts_[shown].picture.rect, box_of(ghosts_[shown]),
                     ghost_opacity_);
      canvas.image(*pictures_[shown].picture.image, pictures_[shown].picture.rect, box_of(pictures_[shown]),
                   ghosts_.empty() ? 1 : 0.8);
      draw_boxes(canvas, i, px, py);
      if (clip_.marks.pivot) draw_pivot(canvas, px, py, cell);
    } else if (any_art_) {
      canvas.line(x, y, x + cell_width_, y + picture_height_, kWrong);
      canvas.line(x, y + picture_height_, x + cell_width_, y, kWrong);
    }
    canvas.frame(cell, kLine);
    y += picture_height_ + 6;
    canvas.text(x + 2, y - 2, std::to_string(i), {kNormal, true, kInk});
    const std::string begin = seconds_text(clip_.borders[i]);
    canvas.text(x + cell_width_ - canvas.text_width(begin, {kSmall, false, kInk}) - 2, y, begin, {kSmall, false, kInk});
    y += kLabelLine;
    canvas.text(x + 2, y, shows_text(i), {kSmall, false, kFaint});
    for (const std::string& label : labels_[i]) {
      y += kLabelLine;
      canvas.flag(x + 4, y + 13, 12, kCue);
      canvas.text(x + 15, y, label, {kSmall, false, kCue});
    }
  }

  // The boxes that are there at any time while frame `i` shows, in their roles' colours with their names.
  void draw_boxes(Canvas& canvas, std::size_t i, double px, double py) const {
    for (const BoxDef& box : clip_.marks.boxes) {
      const auto frame = static_cast<std::int32_t>(i);
      const auto shows = [&](const StretchDef& stretch) {
        return stretch.timed ? stretch.begin < clip_.borders[i + 1] && stretch.end > clip_.borders[i]
                             : frame >= stretch.first && frame <= stretch.last;
      };
      if (!box.stretches.empty() && std::none_of(box.stretches.begin(), box.stretches.end(), shows)) continue;
      const Color color = color_of_role(box.role.text);
      double left = 0, top = 0;
      if (const auto* rect = std::get_if<RectShape>(&box.shape)) {
        left = px + rect->left * scale_;
        top = py - (rect->bottom + rect->height) * scale_;
        canvas.fill({left, top, rect->width * scale_, rect->height * scale_}, color.faded(0.2));
        canvas.frame({left, top, rect->width * scale_, rect->height * scale_}, color, 1.5);
      } else if (const auto* circle = std::get_if<CircleShape>(&box.shape)) {
        left = px + (circle->x - circle->radius) * scale_;
        top = py - (circle->y + circle->radius) * scale_;
        canvas.circle(px + circle->x * scale_, py - circle->y * scale_, circle->radius * scale_, color.faded(0.2),
                      color, 1.5);
      }
      const double wide = canvas.text_width(box.name.text, {kSmall - 2, true, color});
      canvas.fill({left, top - 13, wide + 2, 12}, kPaper.faded(0.75));  // readable on dark art too
      canvas.text(left + 1, top - 14, box.name.text, {kSmall - 2, true, color});
    }
  }

  // A cross where the feet stand, on the line of the ground.
  static void draw_pivot(Canvas& canvas, double px, double py, const Box& cell) {
    canvas.line(cell.x, py, cell.x + cell.width, py, kPivot.faded(0.35));
    canvas.line(px - 6, py, px + 6, py, kPivot, 2);
    canvas.line(px, py - 6, px, py + 6, kPivot, 2);
  }

  // The clip along its time: frames as wide as they last, cues where they lie, spans and windows below.
  void draw_strip(Canvas& canvas, double y) const {
    const double width = kPageWidth - 2 * kMargin;
    const auto at = [&](Ticks ticks) {
      return kMargin + width * static_cast<double>(ticks.count) / static_cast<double>(clip_.length.count);
    };
    y += 22;
    canvas.fill({kMargin, y, width, kStripHeight}, kCellLight);
    const std::size_t frames = clip_.def.frames.size();
    for (std::size_t i = 0; i < frames; ++i) {
      const double left = at(clip_.borders[i]), right = at(clip_.borders[i + 1]);
      if (i % 2 == 1) canvas.fill({left, y, right - left, kStripHeight}, kCellDark);
      const std::string number = std::to_string(i);
      const double text = canvas.text_width(number, {kSmall, false, kFaint});
      if (right - left > text + 4) canvas.text((left + right - text) / 2, y + 1, number, {kSmall, false, kFaint});
    }
    canvas.frame({kMargin, y, width, kStripHeight}, kLine);
    for (const MarkDef& mark : clip_.marks.marks)
      if (!is_span(mark.at)) canvas.flag(at(clip_.begin_of(mark)), y + kStripHeight, kStripHeight + 14, kCue);
    canvas.text(kMargin, y + kStripHeight + 1, "0 s", {kSmall, false, kFaint});
    const std::string end = seconds_text(clip_.length);
    canvas.text(kMargin + width - canvas.text_width(end, {kSmall, false, kFaint}), y + kStripHeight + 1, end,
                {kSmall, false, kFaint});
    y += kStripHeight + 18;
    const auto bar = [&](Ticks begin, Ticks end_of_bar, const std::string& name, Color color) {
      const double left = at(begin), right = at(end_of_bar);
      canvas.fill({left, y + 4, std::max(2.0, right - left), 5}, color);
      const double text = canvas.text_width(name, {kSmall, false, color});
      const bool fits_right = right + 6 + text < kMargin + width;
      canvas.text(fits_right ? right + 6 : left - 6 - text, y - 2, name, {kSmall, false, color});
      y += 18;
    };
    for (const MarkDef& mark : clip_.marks.marks)
      if (is_span(mark.at)) bar(clip_.begin_of(mark), clip_.end_of(mark), mark.cue.text, kSpan);
    const auto bars = [&](const std::vector<StretchDef>& stretches, const std::string& name, Color color) {
      const double here = y;
      for (const StretchDef& stretch : stretches) {
        y = here;
        if (stretch.timed)
          bar(stretch.begin, stretch.end, name, color);
        else
          bar(clip_.borders[static_cast<std::size_t>(stretch.first)],
              clip_.borders[static_cast<std::size_t>(stretch.last) + 1], name, color);
      }
      y = here + 18;
    };
    for (const WindowDef& window : clip_.marks.windows) bars(window.stretches, "window " + window.name.text, kWindow);
    if (frames > 0) return;
    // No frames on which cues and boxes are named.
    for (const MarkDef& mark : clip_.marks.marks)
      if (!is_span(mark.at)) bar(mark.time, mark.time, mark.cue.text + " (" + seconds_text(mark.time) + ")", kCue);
    for (const BoxDef& box : clip_.marks.boxes) {
      const std::vector<StretchDef> whole = {{true, 0, 0, {}, clip_.length}};
      bars(box.stretches.empty() ? whole : box.stretches, "box " + box.name.text, color_of_role(box.role.text));
    }
  }

  const ClipInfo& clip_;
  double ghost_opacity_;
  std::size_t first_ = 0, last_ = 0;       // frames that are drawn, the last not included
  std::vector<Placed> pictures_, ghosts_;  // from `first_` on
  Bounds bounds_;
  std::vector<std::vector<std::string>> labels_;
  bool any_art_ = false;
  double scale_ = 1, cell_width_ = 0, picture_height_ = 0;
  std::size_t columns_ = 1, rows_ = 0, most_labels_ = 0, bars_ = 0;
};

// How long a frame shows, as parts of a second that fit 16 bits; to the nearest of 1/10000 s where none are exact.
Fraction delay_of(Ticks time) {
  const std::int64_t part = std::gcd(time.count, kTicksPerSecond);
  Fraction out{time.count / part, kTicksPerSecond / part};
  if (out.num > 65'535 || out.den > 65'535)
    out = {std::min<std::int64_t>(65'535, std::llround(time.to_seconds() * 10'000)), 10'000};
  return out;
}

// The clip moving at its own timing, as often as it plays.
Outcome write_film(const ClipInfo& clip, const ClipBlock& block, bool dark, const std::string& path) {
  std::vector<Image> frames;
  std::vector<Fraction> delays;
  const auto show = [&](std::size_t shown) {
    Canvas canvas(static_cast<int>(std::ceil(block.cell_width())), static_cast<int>(std::ceil(block.cell_height())),
                  dark);
    block.draw_alone(canvas, shown);
    frames.push_back(canvas.pixels());
    const std::size_t frame = block.first() + shown;
    delays.push_back(delay_of(clip.borders[frame + 1] - clip.borders[frame]));
  };
  for (std::size_t i = 0; i < block.count(); ++i) show(i);
  // The way back leaves out both ends, which show once.
  if (clip.def.play.kind == PlayKind::back_and_forth)
    for (std::size_t i = block.count() - 1; i-- > 1;) show(i);
  const std::int32_t plays = clip.def.play.kind == PlayKind::once ? 0 : clip.def.play.passes;
  return write_apng(frames, delays, plays, path);
}

}  // namespace
}  // namespace draw

Result<std::vector<std::string>> draw_sheet(const Machine& machine, const SheetOptions& options,
                                            const std::string& path) {
  std::vector<std::string> names;
  for (const ClipInfo& clip : machine.clips()) names.push_back(clip.def.name.text);
  const auto find = [&](const std::string& name) -> const ClipInfo* {
    const auto found = std::find(names.begin(), names.end(), name);
    return found == names.end() ? nullptr : &machine.clips()[static_cast<std::size_t>(found - names.begin())];
  };
  const auto unknown = [&](const std::string& name) { return no_such("clip", name, names); };
  std::vector<const ClipInfo*> chosen;
  for (const std::string& name : options.clips) {
    chosen.push_back(find(name));
    if (chosen.back() == nullptr) return unknown(name);
  }
  if (options.clips.empty())
    for (const ClipInfo& clip : machine.clips()) chosen.push_back(&clip);
  if (chosen.empty()) return Error{"there are no clips to draw", ""};
  const ClipInfo* ghost = options.ghost.empty() ? nullptr : find(options.ghost);
  if (!options.ghost.empty() && ghost == nullptr) return unknown(options.ghost);
  const auto lacks = [](const ClipInfo& clip, std::int32_t frame) {
    return Error{"there is no frame " + std::to_string(frame) + " in \"" + clip.def.name.text + "\", which has " +
                     std::to_string(clip.def.frames.size()) + ", numbered from 0",
                 ""};
  };
  const auto within = [](const ClipInfo& clip, std::int32_t frame) {
    return frame >= 0 && static_cast<std::size_t>(frame) < clip.def.frames.size();
  };
  if (ghost != nullptr && options.ghost_frame && !within(*ghost, *options.ghost_frame))
    return lacks(*ghost, *options.ghost_frame);
  if (options.frames) {
    const auto [first, last] = *options.frames;
    for (const ClipInfo* clip : chosen)
      for (const std::int32_t frame : {first, last})
        if (!within(*clip, frame)) return lacks(*clip, frame);
    if (first > last) {
      const std::string forwards = std::to_string(last) + "-" + std::to_string(first);
      return Error{"the frames " + std::to_string(first) + "-" + std::to_string(last) + " end before they begin", "",
                   "Write " + forwards + "."};
    }
  }

  const LookDef* look = nullptr;
  std::vector<std::string> looks;
  for (const LookDef& each : machine.looks()) {
    looks.push_back(each.name.text);
    if (each.name.text == options.look) look = &each;
  }
  if (!options.look.empty() && look == nullptr) return no_such("look", options.look, looks);
  draw::Art art(options.art_folder, look);
  draw::Canvas ruler(0, 0);
  std::vector<draw::ClipBlock> blocks;
  double height = draw::kMargin;
  double width = draw::kPageWidth;
  for (const ClipInfo* clip : chosen) {
    blocks.emplace_back(*clip, options, ghost, art, ruler);
    height += blocks.back().height();
    width = std::max(width, blocks.back().width());
  }
  if (path.ends_with(".apng")) {
    if (chosen.size() != 1 || blocks[0].count() == 0)
      return Error{"a film shows one clip with frames", "", "Name it: --clip NAME."};
    if (const Outcome written = draw::write_film(*chosen[0], blocks[0], options.dark, path); !written)
      return written.error();
    return std::move(art.messages);
  }
  if (height > draw::kMostPixels || width > draw::kMostPixels)
    return Error{"the picture would be " + std::to_string(static_cast<long>(width)) + " x " +
                     std::to_string(static_cast<long>(height)) +
                     " pixels; draw fewer clips with --clip, or fewer frames",
                 ""};
  draw::Canvas canvas(static_cast<int>(width), static_cast<int>(height), options.dark);
  double y = draw::kMargin;
  for (const draw::ClipBlock& block : blocks) {
    block.draw(canvas, y);
    y += block.height();
  }
  if (const Outcome written = canvas.write(path); !written) return written.error();
  return std::move(art.messages);
}

}  // namespace mobrin
