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
// Of the inputs those that make a difference; in a speed: those that do there.
std::vector<bool> Can::inputs_read(bool in_speeds) const {
  std::vector<bool> out(model_.machine().inputs().size(), false);
  const auto add = [&](const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::input) out[each.index] = true;
    });
  };
  for (const StateFacts& state : model_.states())
    if (state.speed) add(*state.speed);
  if (in_speeds) return out;
  for (const Rule& rule : model_.rules()) {
    if (rule.def == nullptr) continue;
    if (rule.when) add(*rule.when);
    for (const Action& action : rule.actions)
      if (action.value) add(*action.value);
  }
  for (const StateFacts& state : model_.states())
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop})
      for (const Action& action : *actions)
        if (action.value) add(*action.value);
  for (const auto* list : {&asked_.assumed, &asked_.before, &asked_.after})
    for (const Term& term : *list) add(term);
  return out;
}
// What a game may choose to write: each combination of parts, as far as they are few.
std::vector<std::vector<Span>> Can::choices() const {
  std::vector<std::vector<Span>> out = {model_.any_inputs()};
  const std::vector<bool> read = inputs_read(false), sets_a_speed = inputs_read(true);
  for (std::size_t i = 0; i < model_.cells().size(); ++i) {
    if (!read[i]) continue;
    std::vector<Span> cells = model_.cells()[i];
    // What nothing compares with a constant may be computed with: its ends.
    if (cells.size() == 1 && !cells[0].point())
      cells = {{cells[0].low, cells[0].low}, {cells[0].high, cells[0].high}};
    else if (!cells.empty() && !cells.back().point() && sets_a_speed[i])
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
  constexpr std::size_t kMostWork = 100'000;
  std::size_t work = 0;
  const auto leads = [&](std::uint32_t n) {
    for (const std::vector<Span>& held : values) {
      if (++work > kMostWork) return false;
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
  const auto next_to_good = [&](std::uint32_t n) {
    const auto& edges = space_.out_of()[n];
    return std::any_of(edges.begin(), edges.end(), [&](std::uint32_t e) { return good[space_.edges()[e].to]; });
  };
  // First those before good ones; when there are none left, any: waiting may lead further.
  for (bool more = true, all = false; more || !all;) {
    all = !more;
    more = false;
    for (std::uint32_t n = 0; n < count && work <= kMostWork; ++n)
      if (!good[n] && (all || next_to_good(n)) && leads(n)) good[n] = more = true;
  }
  return good;
}
// What is written leads to something good, whatever the engine makes of it; `left`: presses that are pending after,
// where nothing took them.
bool Can::written_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& press,
                       const std::vector<Truth>& left, const std::vector<bool>& good) const {
  const auto ends = space_.outcomes(node, held, press, false);
  return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Space::Outcome& end) {
           return aim_at(end.node, held) == Truth::yes || goes_on_well(end.node, held, still_pending(left, end), good);
         });
}
// Of these presses those that nothing took.
std::vector<Truth> Can::still_pending(std::vector<Truth> presses, const Space::Outcome& end) {
  for (std::size_t i = 0; i < presses.size(); ++i)
    if (end.pulses[i] == Truth::no) presses[i] = Truth::no;
  return presses;
}
// The game writes these inputs and holds them still: it comes to good configurations only.
bool Can::settles_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& pending,
                       const std::vector<bool>& good) const {
  const auto first = space_.outcomes(node, held, pending, false);
  return first && std::all_of(first->begin(), first->end(), [&](const Space::Outcome& end) {
           return goes_on_well(end.node, held, still_pending(pending, end), good);
         });
}
// While the inputs are held and presses run out, it stays in good configurations.
bool Can::goes_on_well(std::uint32_t node, const std::vector<Span>& held, std::vector<Truth> pending,
                       const std::vector<bool>& good) const {
  using Place = std::pair<std::uint32_t, std::vector<Truth>>;
  std::set<Place> seen;
  std::vector<Place> open;
  const auto add = [&](std::uint32_t to, std::vector<Truth> presses) {
    Place place{to, std::move(presses)};
    if (seen.insert(place).second) open.push_back(std::move(place));
  };
  add(node, std::move(pending));
  while (!open.empty()) {
    const Place place = std::move(open.back());
    open.pop_back();
    if (!good[place.first] || seen.size() > 500) return false;
    if (std::all_of(place.second.begin(), place.second.end(), [](Truth truth) { return truth == Truth::no; })) continue;
    const auto next = space_.outcomes(place.first, held, place.second, true);
    if (!next) return false;
    for (const Space::Outcome& end : *next) add(end.node, still_pending(place.second, end));
  }
  return true;
}
// If nothing but time comes, what a region shows is over in time, and what follows is good: whatever else happens
// meanwhile, a rule leads on then.
bool Can::waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& none,
                     const std::vector<bool>& good) const {
  const std::vector<std::uint16_t>& leaves = space_.nodes()[node].leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if (leaves[r] == kNoIndex) continue;
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
      well = model_.stay_while(leaves[r], &held, &space_.nodes()[n]).has_value();
      if (!well) break;
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
