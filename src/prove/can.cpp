#include "can.hpp"

#include <algorithm>
#include <set>

namespace mobrin::proof {

Truth Can::aim_at(std::uint32_t node, const std::vector<Span>& inputs) const {
  const Config& config = space_.nodes()[node];
  const std::vector<std::uint8_t> active = model_.active(config);
  const std::vector<Span>& variables = config.variables;
  const std::vector<Truth> silent(model_.machine().inputs().size(), Truth::no);
  const std::vector<Truth> quiet(model_.machine().cues().size(), Truth::no);
  return proof::holds(aim_, View{&inputs, &variables, &active, &silent, &quiet, &model_.traits()});
}
bool Can::sets_a_speed(std::uint16_t input) const {
  bool reads = false;
  for (const StateFacts& state : model_.states())
    if (state.speed)
      each_term(*state.speed,
                [&](const Term& term) { reads = reads || (term.kind == Term::Kind::input && term.index == input); });
  return reads;
}
// What a game may choose to write: each combination of parts, as far as they are few.
std::vector<std::vector<Span>> Can::choices() const {
  std::vector<std::vector<Span>> out = {model_.any_inputs()};
  for (std::size_t i = 0; i < model_.cells().size(); ++i) {
    std::vector<Span> cells = model_.cells()[i];
    // What nothing compares with a constant may be computed with: its ends.
    if (cells.size() == 1 && !cells[0].point())
      cells = {{cells[0].low, cells[0].low}, {cells[0].high, cells[0].high}};
    else if (!cells.empty() && !cells.back().point() && sets_a_speed(static_cast<std::uint16_t>(i)))
      cells.push_back({cells.back().high, cells.back().high});
    if (cells.size() < 2 || out.size() * cells.size() > 512) continue;
    std::vector<std::vector<Span>> more;
    for (const auto& each : out)
      for (const Span& cell : cells) {
        more.push_back(each);
        more.back()[i] = cell;
      }
    out = std::move(more);
  }
  return out;
}
bool Can::allowed(std::uint32_t node, const std::vector<Span>& inputs, const std::vector<Truth>& written) const {
  const std::vector<std::uint8_t> active = model_.active(space_.nodes()[node]);
  const std::vector<Span>& variables = space_.nodes()[node].variables;
  return std::all_of(asked_.assumed.begin(), asked_.assumed.end(), [&](const Term& term) {
    return proof::holds(term, View{&inputs, &variables, &active, &written, nullptr, &model_.traits()}) == Truth::yes;
  });
}

// From every configuration that is asked for, the game can surely bring it about: first it holds its inputs still
// until no press is pending, then it goes on from what is good.
bool Can::from_everywhere() const {
  const std::size_t count = space_.nodes().size();
  if (count > 2'000 || space_.runaway()) return false;
  const std::vector<std::vector<Span>> values = choices();
  const std::vector<Truth> none(model_.machine().inputs().size(), Truth::no), pending = model_.pulses_in_time();
  const std::vector<bool> good = good_nodes(values, none);
  std::vector<std::optional<bool>> known(count);
  return std::all_of(space_.edges().begin(), space_.edges().end(), [&](const Edge& e) {
    if (space_.answers(e)[0] == Truth::no || space_.answers(e)[1] == Truth::yes) return true;
    if (!known[e.to])
      known[e.to] = std::any_of(values.begin(), values.end(), [&](const std::vector<Span>& held) {
        return allowed(e.to, held, none) && settles_well(e.to, held, pending, good);
      });
    return *known[e.to];
  });
}
// From where the game can surely bring it about if no press is pending.
std::vector<bool> Can::good_nodes(const std::vector<std::vector<Span>>& values, const std::vector<Truth>& none) const {
  const std::size_t count = space_.nodes().size();
  const std::vector<Span> any = model_.any_inputs();
  std::vector<bool> good(count, false);
  for (std::uint32_t n = 0; n < count; ++n) good[n] = aim_at(n, any) == Truth::yes;
  std::size_t work = 0;
  const auto leads = [&](std::uint32_t n) {
    for (const std::vector<Span>& held : values) {
      if (++work > 20'000) return false;
      if (!allowed(n, held, none)) continue;
      if (written_well(n, held, none, none, good) || waits_well(n, held, none, good)) return true;
      for (std::size_t i = 0; i < none.size(); ++i) {
        const auto* pulse = std::get_if<PulseInput>(&model_.machine().inputs()[i].kind);
        if (pulse == nullptr) continue;
        std::vector<Truth> press = none, left = none;
        press[i] = Truth::yes;
        if (pulse->buffer.count > 0) left[i] = Truth::maybe;
        if (allowed(n, held, press) && written_well(n, held, press, left, good)) return true;
      }
    }
    return false;
  };
  for (bool more = true; more;) {
    more = false;
    for (std::uint32_t n = 0; n < count; ++n)
      if (!good[n] && leads(n)) good[n] = more = true;
  }
  return good;
}
// What is written leads to something good, whatever the engine makes of it; `left`: presses that are pending after.
bool Can::written_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& press,
                       const std::vector<Truth>& left, const std::vector<bool>& good) const {
  const auto ends = space_.outcomes(node, held, press, false);
  const bool pending = std::any_of(left.begin(), left.end(), [](Truth truth) { return truth != Truth::no; });
  return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Space::Outcome& end) {
           if (aim_at(end.node, held) == Truth::yes) return true;
           return pending ? settles_well(end.node, held, left, good) : good[end.node];
         });
}
// While the inputs are held and presses run out, it comes to good configurations only.
bool Can::settles_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& pending,
                       const std::vector<bool>& good) const {
  std::set<std::uint32_t> seen;
  const auto first = space_.outcomes(node, held, pending, false);
  if (!first) return false;
  std::vector<std::uint32_t> open;
  const auto add = [&](const Space::Outcome& end) {
    if (seen.insert(end.node).second) open.push_back(end.node);
  };
  std::for_each(first->begin(), first->end(), add);
  while (!open.empty()) {
    const std::uint32_t n = open.back();
    open.pop_back();
    if (!good[n] || seen.size() > 500) return false;
    const auto next = space_.outcomes(n, held, pending, true);
    if (!next) return false;
    std::for_each(next->begin(), next->end(), add);
  }
  return true;
}
// If nothing but time comes, what a region shows is over in time, and what follows is good.
bool Can::waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& none,
                     const std::vector<bool>& good) const {
  const std::vector<std::uint16_t>& leaves = space_.nodes()[node].leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if (leaves[r] == kNoIndex || !model_.stay_while(leaves[r], &held)) continue;
    std::set<std::uint32_t> seen = {node};
    std::vector<std::uint32_t> open = {node};
    bool well = true;
    const auto follow = [&](const std::optional<std::vector<Space::Outcome>>& ends) {
      if (!ends) well = false;
      for (std::size_t i = 0; ends && i < ends->size(); ++i) {
        const Space::Outcome& end = (*ends)[i];
        if (good[end.node] || aim_at(end.node, held) == Truth::yes) continue;
        if (space_.nodes()[end.node].leaves[r] != leaves[r] || (end.entered >> r & 1) != 0)
          well = false;
        else if (seen.insert(end.node).second)
          open.push_back(end.node);
      }
    };
    follow(space_.outcomes(node, held, none, false));
    while (well && !open.empty() && seen.size() < 500) {
      const std::uint32_t n = open.back();
      open.pop_back();
      follow(space_.outcomes(n, held, none, true));
    }
    if (well && open.empty()) return true;
  }
  return false;
}
// Configurations from which no run leads to it.
std::vector<bool> Can::hopeless() const {
  const std::size_t count = space_.nodes().size();
  std::vector<std::vector<std::uint32_t>> into(count);
  std::vector<bool> hope(count, false);
  std::vector<std::uint32_t> open;
  for (const Edge& e : space_.edges()) {
    if (e.from == UINT32_MAX) continue;
    into[e.to].push_back(e.from);
    if (space_.answers(e)[1] != Truth::no && !hope[e.from]) hope[e.from] = true, open.push_back(e.from);
  }
  while (!open.empty()) {
    const std::uint32_t n = open.back();
    open.pop_back();
    for (const std::uint32_t from : into[n])
      if (!hope[from]) hope[from] = true, open.push_back(from);
  }
  hope.flip();
  return hope;
}

}  // namespace mobrin::proof
