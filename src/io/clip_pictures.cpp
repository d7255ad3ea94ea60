#include "clip_pictures.hpp"

#include <algorithm>
#include <cstdio>
#include <map>

#include "mobrin/io/file.hpp"

namespace mobrin::io {
namespace {

// FNV-1a, of which 48 bits are written.
class Print {
 public:
  void add(std::uint8_t byte) { value_ = (value_ ^ byte) * 0x100000001b3u; }
  void add(std::int32_t number) {
    for (int shift = 0; shift < 32; shift += 8) add(static_cast<std::uint8_t>(number >> shift));
  }
  [[nodiscard]] std::string text() const {
    char out[20];
    std::snprintf(out, sizeof out, "%012llx",
                  static_cast<unsigned long long>((value_ ^ value_ >> 48) & 0xffff'ffff'ffff));
    // All digits would be a number.
    if (out[0] >= '0' && out[0] <= '9') out[0] = static_cast<char>('g' + (out[0] - '0'));
    return out;
  }

 private:
  std::uint64_t value_ = 0xcbf29ce484222325u;
};

}  // namespace

std::string print_of(const Image& image, const PixelRect& part) {
  Print print;
  print.add(part.width);
  print.add(part.height);
  for (std::int32_t y = part.y; y < part.y + part.height; ++y)
    for (std::int32_t x = part.x; x < part.x + part.width; ++x) {
      const std::uint8_t* pixel =
          image.rgba.data() +
          (static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(x)) * 4;
      // What is not seen has no colour.
      for (int i = 0; i < 4; ++i) print.add(pixel[3] == 0 ? std::uint8_t{0} : pixel[i]);
    }
  return print.text();
}

std::string print_of_bytes(const std::string& bytes) {
  Print print;
  for (const char c : bytes) print.add(static_cast<std::uint8_t>(c));
  return print.text();
}

std::string print_of_file(const std::string& path) {
  if (const auto image = load_image(path)) return print_of(*image, {0, 0, image->width, image->height});
  const auto bytes = read_file(path);
  return bytes ? print_of_bytes(*bytes) : "";
}

std::vector<std::int32_t> match_pictures(const std::vector<ArtPicture>& before, const std::vector<ArtPicture>& now) {
  std::vector<std::int32_t> matched(before.size(), -1);
  std::vector<bool> taken(now.size(), false);
  std::map<std::string, std::vector<std::size_t>> by_name, by_print;
  for (std::size_t j = 0; j < now.size(); ++j) {
    by_name[now[j].name].push_back(j);
    if (!now[j].print.empty()) by_print[now[j].print].push_back(j);
  }
  const auto take = [&](std::size_t i, std::size_t j) {
    matched[i] = static_cast<std::int32_t>(j);
    taken[j] = true;
  };
  const auto same_name = [&](bool same_pixels) {
    for (std::size_t i = 0; i < before.size(); ++i) {
      if (matched[i] >= 0) continue;
      for (const std::size_t j : by_name[before[i].name])
        if (!taken[j] && (!same_pixels || before[i].print.empty() || before[i].print == now[j].print)) {
          take(i, j);
          break;
        }
    }
  };
  same_name(true);
  std::int64_t last = -1;
  for (std::size_t i = 0; i < before.size(); ++i) {
    if (matched[i] < 0 && !before[i].print.empty()) {
      // Of several alike the first behind the one before it, else the first at all.
      std::int64_t found = -1;
      for (const std::size_t j : by_print[before[i].print]) {
        if (taken[j]) continue;
        if (found < 0 || (found <= last && static_cast<std::int64_t>(j) > last)) found = static_cast<std::int64_t>(j);
      }
      if (found >= 0) take(i, static_cast<std::size_t>(found));
    }
    if (matched[i] >= 0) last = matched[i];
  }
  same_name(false);
  return matched;
}

MergedFrames merge_frames(const std::vector<PictureFrame>& before, std::size_t pictures_before,
                          const std::vector<std::int32_t>& matched, std::size_t pictures_now, Ticks new_time) {
  MergedFrames out;
  std::vector<bool> known(pictures_now, false);
  for (std::size_t i = 0; i < pictures_before; ++i)
    if (matched[i] >= 0) known[static_cast<std::size_t>(matched[i])] = true;
  for (std::size_t f = 0; f < before.size(); ++f) {
    const std::int32_t now = matched[static_cast<std::size_t>(before[f].picture)];
    if (now < 0) continue;
    out.frames.push_back({now, before[f].hold, before[f].time});
    out.from.push_back(static_cast<std::int32_t>(f));
  }
  const bool in_order = std::is_sorted(
      before.begin(), before.end(), [](const PictureFrame& a, const PictureFrame& b) { return a.picture < b.picture; });
  if (in_order) {
    std::vector<std::size_t> order(out.frames.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return out.frames[a].picture < out.frames[b].picture; });
    MergedFrames sorted;
    for (const std::size_t i : order) {
      sorted.frames.push_back(out.frames[i]);
      sorted.from.push_back(out.from[i]);
    }
    out = std::move(sorted);
  }
  for (std::size_t j = 0; j < pictures_now; ++j) {
    if (known[j]) continue;
    // Behind the nearest picture before it that is shown; where those behind it come first, before them.
    const auto picture = static_cast<std::int32_t>(j);
    std::size_t place = 0;
    std::int32_t nearest = -1;
    for (std::size_t f = 0; f < out.frames.size(); ++f)
      if (out.frames[f].picture < picture && out.frames[f].picture >= nearest) {
        nearest = out.frames[f].picture;
        place = f + 1;
      }
    if (nearest >= 0 && !in_order) {
      std::size_t first = place - 1;
      while (first > 0 && out.frames[first - 1].picture == nearest) --first;
      const bool falls = first > 0 && out.frames[first - 1].picture > picture &&
                         (place == out.frames.size() || out.frames[place].picture < nearest);
      if (falls) place = first;
    } else if (nearest < 0 && !in_order) {
      std::int32_t next = -1;  // the nearest behind it: it comes first, or last where they fall
      for (std::size_t f = 0; f < out.frames.size(); ++f)
        if (next < 0 || out.frames[f].picture < next) {
          next = out.frames[f].picture;
          place = f + 1 == out.frames.size() && f > 0 && out.frames[f - 1].picture > next ? f + 1 : f;
        }
    }
    out.frames.insert(out.frames.begin() + static_cast<std::ptrdiff_t>(place), {picture, 1, new_time});
    out.from.insert(out.from.begin() + static_cast<std::ptrdiff_t>(place), -1);
  }
  out.to.assign(before.size(), -1);
  for (std::size_t f = 0; f < out.from.size(); ++f)
    if (out.from[f] >= 0) out.to[static_cast<std::size_t>(out.from[f])] = static_cast<std::int32_t>(f);
  return out;
}

}  // namespace mobrin::io
