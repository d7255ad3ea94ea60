#include "frames_change.hpp"

#include <algorithm>

namespace mobrin::io {

bool FramesChange::changes() const {
  if (!renamed.empty() || before != now || to.size() != from.size()) return true;
  for (std::size_t i = 0; i < to.size(); ++i)
    if (to[i] != static_cast<std::int32_t>(i)) return true;
  return false;
}

std::optional<std::int32_t> FramesChange::frame(std::int32_t was) const {
  if (was >= frames_before()) return was;
  const std::int32_t is = to[static_cast<std::size_t>(was)];
  return is < 0 ? std::nullopt : std::optional(is);
}

std::vector<FramesChange::Range> FramesChange::ranges(const std::vector<Range>& were) const {
  std::vector<bool> held(to.size(), false), in(from.size(), false);
  std::vector<Range> out, beyond;
  for (const Range& r : were) {
    for (std::int32_t f = r.first; f <= r.second && f < frames_before(); ++f) held[static_cast<std::size_t>(f)] = true;
    if (r.second >= frames_before()) beyond.emplace_back(std::max(r.first, frames_before()), r.second);
  }
  for (std::size_t f = 0; f < held.size(); ++f)
    if (held[f] && to[f] >= 0) in[static_cast<std::size_t>(to[f])] = true;
  const bool whole = std::find(held.begin(), held.end(), false) == held.end();
  // Each run of new frames between two that were there.
  for (std::size_t begin = 0; begin < from.size();) {
    std::size_t end = begin;
    while (end < from.size() && from[end] < 0) ++end;
    const bool inside = begin > 0 && end < from.size() && in[begin - 1] && in[end];
    if (inside || whole)
      std::fill(in.begin() + static_cast<std::ptrdiff_t>(begin), in.begin() + static_cast<std::ptrdiff_t>(end), true);
    begin = end + 1;
  }
  for (std::size_t i = 0; i < in.size(); ++i) {
    const auto f = static_cast<std::int32_t>(i);
    if (!in[i]) continue;
    if (!out.empty() && out.back().second + 1 == f)
      out.back().second = f;
    else
      out.emplace_back(f, f);
  }
  out.insert(out.end(), beyond.begin(), beyond.end());
  return out;
}

std::optional<Ticks> FramesChange::time(Ticks was, bool ending) const {
  if (before.size() < 2 || was > before.back()) return was;
  std::size_t f = 0;
  while (f + 2 < before.size() && (ending ? before[f + 1] < was : before[f + 1] <= was)) ++f;
  const auto is = frame(static_cast<std::int32_t>(f));
  if (!is) return std::nullopt;
  const auto at = static_cast<std::size_t>(*is);
  if (ending && was == before[f + 1]) return now[at + 1];
  return std::min(now[at] + (was - before[f]), now[at + 1]);
}

std::int32_t FramesChange::frame_at(Ticks was) const {
  std::size_t f = 0;
  while (f + 2 < before.size() && before[f + 1] <= was) ++f;
  return static_cast<std::int32_t>(f);
}

}  // namespace mobrin::io
