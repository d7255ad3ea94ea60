// What leads to a moment that was found: as a tape, with as little written as is needed.
#include <algorithm>
#include <utility>

#include "search.hpp"

namespace mobrin::proof {

std::optional<std::uint32_t> Search::follow(const Written& presses, Ticks until, const Watch& watch) {
  forget();
  follows_ = true;
  const auto last = [&] { return static_cast<std::uint32_t>(moments_.size() - 1); };
  // On from the last moment; false: nothing further is found there, as the run is over or it was found.
  bool found = false;
  const auto go = [&](const Press& press, Ticks delay, Ticks after) {
    const std::size_t before = moments_.size();
    found = move(before == 0 ? std::nullopt : std::optional(last()), press, delay, after, watch);
    return !found && (moments_.size() > before || !press.empty());
  };
  const auto wait_for = [&](Ticks time) {
    while (moments_[last()].at < time) {
      (void)instance_.restore(moments_[last()].block);
      const Ticks now = instance_.now(), wake = instance_.next_wake();
      if (wake > time) return true;
      if (!go({}, {}, std::max(wake, now + Ticks(1)) - now)) return false;
    }
    return true;
  };
  const bool at_once = !presses.empty() && presses[0].first.count == 0;
  bool more = go(at_once ? presses[0].second : Press{}, {}, {});
  for (std::size_t i = at_once ? 1 : 0; more && !moments_.empty() && i < presses.size(); ++i)
    more = wait_for(presses[i].first) && go(presses[i].second, presses[i].first - moments_[last()].at, {});
  if (more && !moments_.empty() && wait_for(until) && moments_[last()].at < until)
    (void)go({}, {}, until - moments_[last()].at);
  follows_ = false;
  return found ? std::optional(last()) : std::nullopt;
}

std::uint32_t Search::shorten(std::uint32_t found, const Watch& watch) {
  Written presses = written_to(found);
  Ticks until = moments_[found].at;
  std::erase_if(presses, [](const auto& each) { return each.second.empty(); });
  std::vector<Node> shortest = std::move(moments_);
  const auto keep_if = [&](const Written& less) {
    const auto again = follow(less, until, watch);
    if (!again) return false;
    presses = less;
    until = moments_[*again].at;
    found = *again;
    shortest = std::move(moments_);
    return true;
  };
  for (std::size_t i = presses.size(); i-- > 0;) {
    Written less = presses;
    less.erase(less.begin() + static_cast<std::ptrdiff_t>(i));
    if (keep_if(less)) continue;
    const auto without_some = [&](auto of) {
      for (std::size_t k = (presses[i].second.*of).size(); k-- > 0;) {
        less = presses;
        auto& list = less[i].second.*of;
        list.erase(list.begin() + static_cast<std::ptrdiff_t>(k));
        if (!less[i].second.empty()) (void)keep_if(less);
      }
    };
    without_some(&Press::values);
    without_some(&Press::pulses);
  }
  moments_ = std::move(shortest);
  return found;
}

Search::Written Search::written_to(std::uint32_t moment) const {
  Written out;
  for (std::uint32_t n = moment; n != UINT32_MAX; n = moments_[n].parent)
    out.insert(out.begin(), {moments_[n].at, moments_[n].press});
  return out;
}

Tape Search::tape_to(std::uint32_t moment) const { return tape_of(written_to(moment), moments_[moment].at); }
Tape Search::tape_to(const Seen& seen) const {
  Written presses;
  if (seen.parent != UINT32_MAX) presses = written_to(seen.parent);
  presses.emplace_back(seen.instance.now(), seen.press);
  return tape_of(presses, seen.instance.now());
}

Tape Search::tape_of(const Written& presses, Ticks until) const {
  Tape out;
  out.until = until;
  const auto inputs = model_.machine().inputs();
  std::vector<double> held;
  for (const InputDef& input : inputs)
    held.push_back(in_its_bits(input, start_of(input)));  // it need not fall on the grain
  for (const auto& [at, press] : presses) {
    TapeStep step;
    step.at = at;
    for (const auto& [input, value] : press.values)  // only what changes what is held
      if (const double kept = stored(inputs[input], value); std::exchange(held[input], kept) != kept)
        step.set.emplace_back(inputs[input].name, field_of(inputs[input], value));
    for (const std::uint16_t pulse : press.pulses) step.pulses.push_back(inputs[pulse].name);
    if (!step.set.empty() || !step.pulses.empty()) out.steps.push_back(std::move(step));
  }
  return out;
}

}  // namespace mobrin::proof
