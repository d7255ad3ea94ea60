// Which part of which image a frame shows, and in which look.
#include "mobrin/core/picture.hpp"

#include <charconv>
#include <tuple>
#include <unordered_map>

#include "machine/machine_data.hpp"

namespace mobrin {
namespace detail {

void list_images(MachineData& m) {
  std::unordered_map<std::string_view, std::uint32_t> known;
  const auto number_of = [&](const std::string& source) {
    const auto [at, is_new] = known.try_emplace(source, static_cast<std::uint32_t>(m.images.size()));
    if (is_new) m.images.push_back(source);
    return at->second;
  };
  m.image_of_frame.resize(m.clip_infos.size());
  for (std::size_t c = 0; c < m.clip_infos.size(); ++c) {
    const std::vector<FrameDef>& frames = m.clip_infos[c].def.frames;
    for (std::size_t f = 0; f < frames.size(); ++f) {
      if (frames[f].art.source.empty()) continue;
      m.image_of_frame[c].resize(frames.size(), kNoImage);
      m.image_of_frame[c][f] = number_of(frames[f].art.source);
    }
  }
  for (const LookDef& look : m.looks) {
    auto& exchanged = m.exchanged_images.emplace_back();
    for (const auto& [from, to] : look.art)
      if (const auto at = known.find(from); at != known.end()) exchanged.emplace_back(at->second, number_of(to));
  }
}

}  // namespace detail

std::optional<PixelRect> rect_on_image(const FrameArt& art, std::int32_t width, std::int32_t height) {
  PixelRect rect = art.rect;
  if (rect.width == 0) rect = {0, 0, width, height};
  if (rect.x < 0) {
    const std::int32_t wide = rect.width + art.spacing, high = rect.height + art.spacing;
    const std::int32_t columns = (width - 2 * art.margin + art.spacing) / wide;
    if (columns <= 0) return std::nullopt;
    std::int64_t number = -1;
    std::from_chars(art.tile.data(), art.tile.data() + art.tile.size(), number);
    if (number < 0 || number / columns > height / high) return std::nullopt;
    rect.x = art.margin + static_cast<std::int32_t>(number % columns) * wide;
    rect.y = art.margin + static_cast<std::int32_t>(number / columns) * high;
  }
  if (rect.x > width - rect.width || rect.y > height - rect.height) return std::nullopt;
  return rect;
}

std::pair<double, double> pivot_on_cut(const FrameArt& art, const PixelRect& cut,
                                       std::optional<std::pair<double, double>> pivot) {
  const PixelRect whole = art.whole.width > 0 ? art.whole : PixelRect{0, 0, cut.width, cut.height};
  const auto [x, y] = pivot.value_or(std::pair(whole.width / 2.0, static_cast<double>(whole.height)));
  return {x - whole.x, y - whole.y};
}

PictureCut Picture::cut(std::int32_t width, std::int32_t height) const {
  if (art == nullptr) return {};
  PictureCut out;
  if (const auto rect = rect_on_image(*art, width, height)) out.from = *rect;
  std::optional<std::pair<double, double>> marked;
  if (has_pivot) marked = {pivot_x, pivot_y};
  std::tie(out.pivot_x, out.pivot_y) = pivot_on_cut(*art, out.from, marked);
  if (mirrored) out.pivot_x = out.from.width - out.pivot_x;
  return out;
}

std::span<const std::string> Machine::images() const { return data_->images; }

Picture Machine::picture(std::uint16_t clip, std::int32_t frame, std::uint16_t look, bool mirrored) const {
  const detail::MachineData& m = *data_;
  Picture out;
  out.clip = clip;
  out.frame = frame;
  if (clip >= m.image_of_frame.size() || frame < 0) return out;
  const auto at = static_cast<std::size_t>(frame);
  if (at >= m.image_of_frame[clip].size() || m.image_of_frame[clip][at] == kNoImage) return out;
  out.image = m.image_of_frame[clip][at];
  if (look < m.exchanged_images.size())
    for (const auto& [from, to] : m.exchanged_images[look])
      if (from == m.image_of_frame[clip][at]) out.image = to;
  const ClipInfo& info = m.clip_infos[clip];
  out.art = &info.def.frames[at].art;
  if (out.art->rect.width == 0 && !out.art->tile.empty())
    std::from_chars(out.art->tile.data(), out.art->tile.data() + out.art->tile.size(), out.file_frame);
  out.mirrored = mirrored;
  if (const auto pivot = info.pivot_of(frame)) {
    out.has_pivot = true;
    out.pivot_x = pivot->first;
    out.pivot_y = pivot->second;
  }
  return out;
}

}  // namespace mobrin
