// Clip sheets.
#include "mobrin/draw/sheet.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

#include "canvas.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {
namespace draw {
namespace {

constexpr double kMargin = 28;
constexpr double kPageWidth = 1240;
constexpr double kGap = 14;
constexpr double kLabelLine = 17;
constexpr double kStripHeight = 18;
constexpr int kMostPixels = 30'000;  // a side of a picture; Cairo's own limit is 32767

std::string seconds_text(Ticks ticks) {
  char text[32];
  std::snprintf(text, sizeof text, "%.3f s", ticks.to_seconds());
  return text;
}

struct FramePicture {
  const Image* image = nullptr;
  PixelRect rect;
};

// Finds frames' pictures, reading each image once.
class Art {
 public:
  explicit Art(std::string folder) : folder_(std::move(folder)) {}

  FramePicture find(const ClipInfo& clip, std::size_t frame) {
    const FrameArt& art = clip.def.frames[frame].art;
    if (art.source.empty()) return {};
    const auto [entry, fresh] = images_.try_emplace(art.source);
    if (fresh) {
      if (auto image = load_png(art.source.front() == '/' ? art.source : folder_ + art.source))
        entry->second = std::move(*image);
      else
        messages.push_back(image.error().message);
    }
    const Image& image = entry->second;
    if (image.width == 0) return {};
    const auto rect = rect_on_image(art, image.width, image.height);
    if (!rect) {
      messages.push_back("frame " + std::to_string(frame) + " of \"" + clip.def.name.text + "\" lies outside " +
                         art.source + ", which is " + std::to_string(image.width) + " x " +
                         std::to_string(image.height) + " pixels");
      return {};
    }
    return {&image, *rect};
  }

  std::vector<std::string> messages;

 private:
  std::string folder_;
  std::map<std::string, Image> images_;
};

// One clip's block on the page: sizes first, drawing second.
class ClipBlock {
 public:
  ClipBlock(const ClipInfo& clip, Art& art, Canvas& ruler) : clip_(clip) {
    const std::size_t count = clip.def.frames.size();
    std::int32_t widest = 1, highest = 1;
    for (std::size_t i = 0; i < count; ++i) {
      pictures_.push_back(art.find(clip, i));
      if (pictures_.back().image == nullptr) continue;
      widest = std::max(widest, pictures_.back().rect.width);
      highest = std::max(highest, pictures_.back().rect.height);
      any_art_ = true;
    }
    scale_ = any_art_ ? std::max(1.0, std::floor(150.0 / std::max(widest, highest))) : 1;
    if (any_art_ && std::max(widest, highest) > 400) scale_ = 400.0 / std::max(widest, highest);
    cell_width_ = any_art_ ? std::max(96.0, widest * scale_) : 96;
    picture_height_ = any_art_ ? highest * scale_ : 40;
    labels_.resize(count);
    for (std::size_t i = 0; i < count; ++i)
      cell_width_ = std::max(cell_width_, ruler.text_width(shows_text(i), {kSmall, false, kFaint}) + 6);
    for (const MarkDef& mark : clip.marks.marks) {
      if (mark.at == MarkAt::frames) continue;
      const std::size_t frame = mark.at == MarkAt::time ? static_cast<std::size_t>(clip.frame_at(mark.time).value_or(0))
                                                        : static_cast<std::size_t>(mark.frame);
      std::string text = mark.cue.text;
      if (mark.at == MarkAt::frame_end) text += " (at its end)";
      if (mark.at == MarkAt::time) text += " (" + seconds_text(mark.time) + ")";
      if (mark.way != MarkWay::both) text += mark.way == MarkWay::forward ? " forward" : " backward";
      if (frame < count) {
        cell_width_ = std::max(cell_width_, ruler.text_width(text, {kSmall, false, kCue}) + 18);
        labels_[frame].push_back(std::move(text));
      }
    }
    for (const auto& labels : labels_) most_labels_ = std::max(most_labels_, labels.size());
    columns_ =
        std::max<std::size_t>(1, static_cast<std::size_t>((kPageWidth - 2 * kMargin + kGap) / (cell_width_ + kGap)));
    rows_ = count == 0 ? 0 : (count + columns_ - 1) / columns_;
    for (const MarkDef& mark : clip.marks.marks)
      if (mark.at == MarkAt::frames) ++bars_;
    bars_ += clip.marks.windows.size();
  }

  [[nodiscard]] double width() const { return 2 * kMargin + cell_width_; }
  [[nodiscard]] double height() const { return 34 + static_cast<double>(rows_) * row_height() + strip_height() + 26; }

  void draw(Canvas& canvas, double top) const {
    double x = kMargin;
    x += canvas.text(x, top, clip_.def.name.text, {kTitle, true, kInk}) + 14;
    canvas.text(x, top + 6, summary(), {kNormal, false, kFaint});
    top += 34;
    for (std::size_t i = 0; i < pictures_.size(); ++i)
      draw_frame(canvas, i, kMargin + static_cast<double>(i % columns_) * (cell_width_ + kGap),
                 top + static_cast<double>(i / columns_) * row_height());
    draw_strip(canvas, top + static_cast<double>(rows_) * row_height());
  }

 private:
  [[nodiscard]] double row_height() const {
    return picture_height_ + 6 + kLabelLine * (2 + static_cast<double>(most_labels_)) + 10;
  }
  [[nodiscard]] double strip_height() const { return 26 + kStripHeight + 18 + static_cast<double>(bars_) * 18; }

  [[nodiscard]] std::string summary() const {
    char rate[48] = "";
    if (clip_.def.fps.num > 0)
      std::snprintf(rate, sizeof rate, "%g fps, ",
                    static_cast<double>(clip_.def.fps.num) / static_cast<double>(clip_.def.fps.den));
    const std::size_t frames = clip_.def.frames.size();
    return clip_.def.play.text() + ", " +
           (frames == 0 ? "no frames, " : std::to_string(frames) + (frames == 1 ? " frame, " : " frames, ")) + rate +
           seconds_text(clip_.length);
  }

  // How long a frame shows.
  [[nodiscard]] std::string shows_text(std::size_t i) const {
    const std::int32_t hold = clip_.def.frames[i].hold;
    char shows[48];
    std::snprintf(shows, sizeof shows, "for %.3g ms", (clip_.borders[i + 1] - clip_.borders[i]).to_seconds() * 1000);
    return shows + (hold > 1 ? ", held " + std::to_string(hold) : std::string());
  }

  void draw_frame(Canvas& canvas, std::size_t i, double x, double y) const {
    const FramePicture& picture = pictures_[i];
    const Box cell{x, y, cell_width_, picture_height_};
    canvas.fill(cell, kCellLight);
    if (picture.image != nullptr) {
      const double width = picture.rect.width * scale_, height = picture.rect.height * scale_;
      const Box at{x + std::floor((cell_width_ - width) / 2), y + picture_height_ - height, width, height};
      canvas.fill(at, kCellDark);
      canvas.image(*picture.image, picture.rect, at);
      if (clip_.marks.pivot) draw_pivot(canvas, at, cell);
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

  void draw_pivot(Canvas& canvas, const Box& picture, const Box& cell) const {
    const double px = picture.x + clip_.marks.pivot->first * scale_;
    const double py = picture.y + clip_.marks.pivot->second * scale_;
    if (px < cell.x || px > cell.x + cell.width || py < cell.y || py > cell.y + cell.height) return;
    canvas.line(cell.x, py, cell.x + cell.width, py, {kPivot.red, kPivot.green, kPivot.blue, 0.35});
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
    for (const MarkDef& mark : clip_.marks.marks) {
      if (mark.at == MarkAt::frames) continue;
      const Ticks time =
          mark.at == MarkAt::time
              ? mark.time
              : clip_.borders[static_cast<std::size_t>(mark.frame + (mark.at == MarkAt::frame_end ? 1 : 0))];
      canvas.flag(at(time), y + kStripHeight, kStripHeight + 14, kCue);
    }
    canvas.text(kMargin, y + kStripHeight + 1, "0 s", {kSmall, false, kFaint});
    const std::string end = seconds_text(clip_.length);
    canvas.text(kMargin + width - canvas.text_width(end, {kSmall, false, kFaint}), y + kStripHeight + 1, end,
                {kSmall, false, kFaint});
    y += kStripHeight + 18;
    const auto bar = [&](Ticks begin, Ticks end_of_bar, const std::string& name, Color color) {
      const double left = at(begin), right = at(end_of_bar);
      canvas.fill({left, y + 4, right - left, 5}, color);
      const double text = canvas.text_width(name, {kSmall, false, color});
      const bool fits_right = right + 6 + text < kMargin + width;
      canvas.text(fits_right ? right + 6 : left - 6 - text, y - 2, name, {kSmall, false, color});
      y += 18;
    };
    for (const MarkDef& mark : clip_.marks.marks)
      if (mark.at == MarkAt::frames)
        bar(clip_.borders[static_cast<std::size_t>(mark.frame)],
            clip_.borders[static_cast<std::size_t>(mark.last_frame) + 1], mark.cue.text, kSpan);
    for (const WindowDef& window : clip_.marks.windows) {
      const double here = y;
      for (const StretchDef& stretch : window.stretches) {
        y = here;
        if (stretch.timed)
          bar(stretch.begin, stretch.end, "window " + window.name.text, kWindow);
        else
          bar(clip_.borders[static_cast<std::size_t>(stretch.first)],
              clip_.borders[static_cast<std::size_t>(stretch.last) + 1], "window " + window.name.text, kWindow);
      }
      y = here + 18;
    }
  }

  const ClipInfo& clip_;
  std::vector<FramePicture> pictures_;
  std::vector<std::vector<std::string>> labels_;
  bool any_art_ = false;
  double scale_ = 1, cell_width_ = 0, picture_height_ = 0;
  std::size_t columns_ = 1, rows_ = 0, most_labels_ = 0, bars_ = 0;
};

}  // namespace
}  // namespace draw

Result<std::vector<std::string>> draw_sheet(const Machine& machine, const SheetOptions& options,
                                            const std::string& path) {
  std::vector<const ClipInfo*> chosen;
  std::vector<std::string> names;
  for (const ClipInfo& clip : machine.clips()) names.push_back(clip.def.name.text);
  for (const std::string& name : options.clips) {
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end()) return Error{"there is no clip \"" + name + "\"", nearest_name(name, names)};
    chosen.push_back(&machine.clips()[static_cast<std::size_t>(found - names.begin())]);
  }
  if (options.clips.empty())
    for (const ClipInfo& clip : machine.clips()) chosen.push_back(&clip);
  if (chosen.empty()) return Error{"there are no clips to draw", ""};

  draw::Art art(options.art_folder);
  draw::Canvas ruler(0, 0);
  std::vector<draw::ClipBlock> blocks;
  double height = draw::kMargin;
  double width = draw::kPageWidth;
  for (const ClipInfo* clip : chosen) {
    blocks.emplace_back(*clip, art, ruler);
    height += blocks.back().height();
    width = std::max(width, blocks.back().width());
  }
  if (height > draw::kMostPixels || width > draw::kMostPixels)
    return Error{"the picture would be " + std::to_string(static_cast<long>(height)) +
                     " pixels high; draw fewer clips with --clip",
                 ""};
  draw::Canvas canvas(static_cast<int>(width), static_cast<int>(height));
  double y = draw::kMargin;
  for (const draw::ClipBlock& block : blocks) {
    block.draw(canvas, y);
    y += block.height();
  }
  if (!canvas.write_png(path)) return Error{"the picture cannot be written to \"" + path + "\"", ""};
  return std::move(art.messages);
}

}  // namespace mobrin
