// Router: binding handlers to cues and calling them.
#include "mobrin/core/router.hpp"

#include <algorithm>
#include <utility>

#include "machine_data.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {

Router::Router(Machine machine)
    : machine_(std::move(machine)), by_cue_(machine_.cues().size()), by_kind_(machine_.cues().size()) {}

Outcome Router::on(std::string_view cue, Handler handler) {
  std::vector<std::string> names;
  for (std::size_t i = 0; i < by_cue_.size(); ++i) {
    names.push_back(machine_.cues()[i].name.text);
    if (names.back() != cue) continue;
    by_cue_[i].push_back(std::move(handler));
    return Done{};
  }
  return Error{"there is no cue \"" + std::string(cue) + "\"", nearest_name(cue, names)};
}

Outcome Router::on_kind(std::string_view kind, Handler handler) {
  std::vector<std::string> kinds;
  bool found = false;
  for (std::size_t i = 0; i < by_kind_.size(); ++i) {
    kinds.push_back(machine_.cues()[i].kind);
    if (kind.empty() || kinds.back() != kind) continue;
    by_kind_[i].push_back(handler);
    found = true;
  }
  if (found) return Done{};
  return Error{"no cue is of the kind \"" + std::string(kind) + "\"", nearest_name(kind, kinds)};
}

void Router::on_all(Handler handler) { all_.push_back(std::move(handler)); }
void Router::on_done(Handler handler) { done_.push_back(std::move(handler)); }

void Router::operator()(const Cue& cue) const {
  if (cue.machine != &machine_.data()) return;
  if (cue.what == Told::cue) {
    for (const Handler& handler : by_cue_[cue.cue]) handler(cue);
    for (const Handler& handler : by_kind_[cue.cue]) handler(cue);
  }
  if (cue.what == Told::done)
    for (const Handler& handler : done_) handler(cue);
  for (const Handler& handler : all_) handler(cue);
}

}  // namespace mobrin
