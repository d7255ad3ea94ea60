// What a session is made of: the line that is shown, moments to go back to, futures that were left.
#pragma once

#include <algorithm>
#include <deque>
#include <iterator>

#include "mobrin/live/session.hpp"

namespace mobrin {

// A list whose entries keep their numbers while the first ones are forgotten.
template <class T>
struct Session::Numbered {
  std::deque<T> all;
  std::uint64_t first = 0;
  [[nodiscard]] std::uint64_t end() const { return first + all.size(); }
  [[nodiscard]] const T& operator[](std::uint64_t index) const { return all[static_cast<std::size_t>(index - first)]; }
  void cut(std::uint64_t from, std::deque<T>& tail) {
    const auto at = all.begin() + static_cast<std::ptrdiff_t>(std::min(from, end()) - first);
    tail.assign(std::make_move_iterator(at), std::make_move_iterator(all.end()));
    all.erase(at, all.end());
  }
  void append(std::deque<T>& tail) {
    all.insert(all.end(), std::make_move_iterator(tail.begin()), std::make_move_iterator(tail.end()));
  }
};

struct Session::Moment {
  Spot spot;
  std::uint32_t stretch = 0;
  bool reloaded = false;  // made by a reload that stands just before it in the line
  SceneRun::Moment state;
};

struct Session::Line {
  Numbered<SessionWrite> writes;
  Numbered<SessionRecord> records;
  std::deque<Moment> moments;
  Ticks end{};
  std::uint64_t settled = 0;  // writes before this one have taken effect; those after it wait at the end
};

struct Session::Strand {
  std::uint32_t id = 0;
  std::uint32_t parent = 0;  // the strand that holds what comes before it; 0: the line that is shown
  Spot from;
  Ticks end{};
  std::uint64_t settled = 0;
  std::deque<SessionWrite> writes;
  std::deque<SessionRecord> records;
  std::deque<Moment> moments;
};

}  // namespace mobrin
