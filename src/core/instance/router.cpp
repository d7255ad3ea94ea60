// Router: binding handlers to cues and calling them.
#include "mobrin/core/router.hpp"

#include <utility>

#include "instance/stale.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {

Router::Router(Machine machine)
    : machine_(std::move(machine)), by_cue_(machine_.cues().size()), by_kind_(machine_.cues().size()) {}

Outcome Router::bind(By by, std::string_view what, detail::Handler handler) {
  bound_.push_back({by, std::string(what), std::move(handler)});
  Outcome outcome = connect(static_cast<std::uint32_t>(bound_.size() - 1));
  if (!outcome) bound_.pop_back();
  return outcome;
}

Outcome Router::connect(std::uint32_t index) {
  const Bound& bound = bound_[index];
  std::vector<std::string> known;
  bool found = false;
  switch (bound.by) {
    case By::all:
      return all_.push_back(index), Done{};
    case By::done:
      return done_.push_back(index), Done{};
    case By::name:
      for (std::size_t i = 0; i < by_cue_.size(); ++i) {
        known.push_back(machine_.cues()[i].name.text);
        if (known.back() == bound.what) return by_cue_[i].push_back(index), Done{};
      }
      return Error{"there is no cue \"" + bound.what + "\"", nearest_name(bound.what, known)};
    case By::kind:
      for (std::size_t i = 0; i < by_kind_.size(); ++i) {
        known.push_back(machine_.cues()[i].kind);
        if (bound.what.empty() || known.back() != bound.what) continue;
        by_kind_[i].push_back(index);
        found = true;
      }
      if (found) return Done{};
      return Error{"no cue is of the kind \"" + bound.what + "\"", nearest_name(bound.what, known)};
  }
  return Done{};
}

std::vector<Error> Router::rebind(Machine machine) {
  machine_ = std::move(machine);
  strangers_ = 0;
  by_cue_.assign(machine_.cues().size(), {});
  by_kind_.assign(machine_.cues().size(), {});
  all_.clear();
  done_.clear();
  std::vector<Error> gone;
  for (std::uint32_t i = 0; i < bound_.size(); ++i)
    if (const Outcome bound = connect(i); !bound) gone.push_back(bound.error());
  return gone;
}

bool Router::operator()(const Cue& cue) const {
  if (cue.machine != &machine_.data()) {
    if (strangers_++ == 0) detail::tell_stale("a router", machine_);
    return false;
  }
  if (cue.what == Told::cue) {
    for (const std::uint32_t i : by_cue_[cue.cue]) bound_[i].handler(cue);
    for (const std::uint32_t i : by_kind_[cue.cue]) bound_[i].handler(cue);
  }
  if (cue.what == Told::done)
    for (const std::uint32_t i : done_) bound_[i].handler(cue);
  for (const std::uint32_t i : all_) bound_[i].handler(cue);
  return true;
}

}  // namespace mobrin
