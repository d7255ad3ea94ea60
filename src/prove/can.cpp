#include "can.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "model_parts.hpp"

namespace mobrin::proof {

Can::Can(const Model& model, const Configurations& configurations, const Asked& asked, const Term& aim,
         std::size_t work, std::vector<std::vector<std::uint32_t>> next)
    : model_(model),
      configurations_(configurations),
      asked_(asked),
      aim_(aim),
      next_(std::move(next)),
      work_(work + kWorkOfANode * std::min(configurations.all().size(), kMostNodes)),
      none_(model.machine().inputs().size(), Truth::no),
      read_anywhere_(inputs_read(Flags(model.states().size(), 1))),
      sets_a_speed_(none_.size(), false),
      acted_on_(model.compared_by_actions()),
      cells_to_write_(model.cells_to_write()),
      related_(model.related_inputs()) {
  find_charges();
  find_windows();
  find_tellers();
  for (const StateFacts& state : model.states())
    if (state.speed)
      each_term(*state.speed, [&](const Term& term) {
        if (term.kind == Term::Kind::input) sets_a_speed_[term.index] = true;
      });
}

// `told`: by cue; null: none is.
Truth Can::aim_at(std::uint32_t node, const std::vector<Span>& inputs, const Truths* told) const {
  const Flags active = model_.active(config(node));
  const Values& variables = config(node).variables;
  const Truths quiet(model_.machine().cues().size(), Truth::no);
  return proof::holds(aim_,
                      View{&inputs, &variables, &active, &none_, told != nullptr ? told : &quiet, &model_.traits()});
}

std::optional<std::vector<Configurations::Outcome>> Can::outcomes(std::uint32_t node, const std::vector<Span>& inputs,
                                                                  const Truths& pulses, bool timed,
                                                                  std::uint16_t told) {
  if (work_ == 0) return std::nullopt;
  --work_;
  return configurations_.outcomes(node, inputs, pulses, timed, told);
}

// Of the inputs those that make a difference while these states are active, and to what is asked.
std::vector<bool> Can::inputs_read(const Flags& active) const {
  std::vector<bool> out(model_.machine().inputs().size(), false);
  for (std::uint16_t s = 0; s < model_.states().size(); ++s) {
    if (active[s] == 0) continue;
    const StateFacts& state = model_.states()[s];
    if (state.speed) note_inputs(*state.speed, out);
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) note_inputs(*actions, out);
    for (const std::uint32_t index : state.rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.def == nullptr) continue;
      if (rule.when) note_inputs(*rule.when, out);
      note_inputs(rule.actions, out);
    }
  }
  for (const auto* list : {&asked_.assumed, &asked_.before, &asked_.after})
    for (const Term& term : *list) note_inputs(term, out);
  return out;
}

// What a game may choose to write: each combination of parts, as far as they are few. First of what is read where it
// is; of `all` then also of what is read anywhere.
std::vector<std::vector<Span>> Can::choices(std::uint32_t node, bool all) const {
  constexpr std::size_t kMost = 512;
  const std::vector<bool> near = inputs_read(model_.active(config(node)));
  std::vector<std::vector<Span>> out = {model_.any_inputs()};
  const auto tell_apart = [&](std::size_t i) {
    std::vector<Span> cells = (acted_on_[i] ? cells_to_write_ : model_.cells())[i];
    // What nothing compares with a constant may be computed with: its ends. A speed is one of those that are alike.
    if (cells.size() == 1 && !cells[0].point())
      cells = {{cells[0].low, cells[0].low}, {cells[0].high, cells[0].high}};
    else if (!cells.empty() && sets_a_speed_[i]) {
      const std::vector<Span> parts = cells;
      for (const Span& part : parts) {
        const double middle = part.low + (part.high - part.low) / 2;
        if (!part.point()) cells.push_back({middle, middle});
      }
      if (!parts.back().point()) cells.push_back({parts.back().high, parts.back().high});
    } else if (!cells.empty() && related_[i]) {
      const Span first = cells.front(), last = cells.back();
      if (!first.point()) cells.push_back({first.low, first.low});
      if (!last.point()) cells.push_back({last.high, last.high});
    }
    std::erase_if(cells, [&](const Span& cell) { return !to_write(model_.machine().inputs()[i], cell); });
    if (cells.size() < 2 || out.size() * cells.size() > kMost) return;
    std::vector<std::vector<Span>> more;
    for (const auto& each : out)
      for (const Span& cell : cells) {
        more.push_back(each);
        more.back()[i] = cell;
      }
    out = std::move(more);
  };
  for (std::size_t i = 0; i < near.size(); ++i)
    if (near[i]) tell_apart(i);
  for (std::size_t i = 0; i < near.size() && all; ++i)
    if (!near[i] && read_anywhere_[i]) tell_apart(i);
  return out;
}

// Pulses that rules wait for: those where it is, or of `all` anywhere.
std::vector<std::uint16_t> Can::presses(std::uint32_t node, bool all) const {
  const Flags active = model_.active(config(node));
  std::vector<std::uint16_t> out;
  for (const Rule& rule : model_.rules())
    if (rule.def != nullptr && rule.event == Event::pulse && (all || active[rule.owner] != 0))
      add_once(out, rule.pulse);
  return out;
}

bool Can::allowed(std::uint32_t node, const std::vector<Span>& inputs, const Truths& written) const {
  const Flags active = model_.active(config(node));
  const Values& variables = config(node).variables;
  return std::all_of(asked_.assumed.begin(), asked_.assumed.end(), [&](const Term& term) {
    return proof::holds(term, View{&inputs, &variables, &active, &written, nullptr, &model_.traits()}) == Truth::yes;
  });
}

// First the game holds its inputs still until no press is pending, then it goes on from what is good.
bool Can::from_all(const std::vector<std::uint32_t>& nodes) {
  if (nodes.empty()) return true;
  std::vector<bool> good(configurations_.all().size(), false);
  find_good(good);
  if (leads_from_all(nodes, good)) return true;
  if (std::find(charges_.begin(), charges_.end(), true) == charges_.end()) return false;
  charging_ = true;  // that takes long
  later_.clear();
  find_good(good);
  return leads_from_all(nodes, good);
}

bool Can::leads_from_all(const std::vector<std::uint32_t>& nodes, const std::vector<bool>& good) {
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    const std::vector<std::vector<Span>> values = choices(node, true);
    const Truths pending = configurations_.pending(node);
    return std::any_of(values.begin(), values.end(), [&](const std::vector<Span>& held) {
      return allowed(node, held, none_) && settles_well(node, held, pending, good);
    });
  });
}

// From where the game can surely bring it about if no press is pending.
void Can::find_good(std::vector<bool>& good) {
  const std::size_t count = configurations_.all().size();
  const std::vector<Span> any = model_.any_inputs();
  for (std::uint32_t n = 0; n < count; ++n) good[n] = good[n] || aim_at(n, any) == Truth::yes;
  // Those from which fewer rules lead there are likely good before others.
  std::vector<bool> goals(model_.states().size(), false);
  each_term(aim_, [&](const Term& term) {
    if (term.kind == Term::Kind::state) goals[term.index] = true;
  });
  const std::vector<std::uint32_t> far = model_.distances_to(goals, static_cast<std::uint32_t>(goals.size()));
  std::vector<std::pair<std::uint32_t, std::uint32_t>> order;
  for (std::uint32_t n = 0; n < count; ++n) {
    std::uint32_t least = UINT32_MAX;
    for (const std::uint16_t leaf : config(n).leaves)
      if (leaf != kNoIndex) least = std::min(least, far[leaf]);
    order.push_back({least, n});
  }
  std::sort(order.begin(), order.end());
  const auto leads = [&](std::uint32_t n) {
    return std::any_of(next_[n].begin(), next_[n].end(), [&](std::uint32_t to) { return good[to]; });
  };
  const auto any_leaf = [&](std::uint32_t n, const std::vector<bool>& of) {
    const Indices& leaves = config(n).leaves;
    return std::any_of(leaves.begin(), leaves.end(), [&](std::uint16_t l) { return l != kNoIndex && of[l]; });
  };
  const auto may_lead = [&](std::uint32_t n) {
    return next_.empty() || !aim_cues_.empty() || leads(n) ||
           std::any_of(next_[n].begin(), next_[n].end(), [&](std::uint32_t to) {
             return (any_leaf(to, has_windows_) || any_leaf(to, tells_) || any_leaf(to, charges_)) && leads(to);
           });
  };
  for (const bool all : {false, true})
    for (bool more = true; more && work_ > 0;) {
      more = false;
      for (const auto& [distance, n] : order)
        if (!good[n] && work_ > 0 && (all || may_lead(n)) && leads_to_good(n, all, good)) good[n] = more = true;
    }
}
bool Can::rests_for_ever(std::uint32_t node) const {
  const Indices& leaves = config(node).leaves;
  return std::any_of(leaves.begin(), leaves.end(),
                     [&](std::uint16_t leaf) { return leaf != kNoIndex && model_.states()[leaf].final; });
}
bool Can::leads_to_good(std::uint32_t node, bool all, const std::vector<bool>& good) {
  if (rests_for_ever(node)) return false;
  const std::vector<std::uint16_t> pulses = presses(node, all);
  for (const std::vector<Span>& held : choices(node, all)) {
    if (!allowed(node, held, none_)) continue;
    if (written_well(node, held, none_, none_, good) || waits_well(node, held, good) ||
        tells_in_a_round(node, held, good))
      return true;
    const auto pressed_well = [&](const std::vector<std::uint16_t>& together) {
      Truths press = none_, left = none_;
      for (const std::uint16_t pulse : together) {
        press[pulse] = Truth::yes;
        if (std::get<PulseInput>(model_.machine().inputs()[pulse].kind).buffer.count > 0) left[pulse] = Truth::maybe;
      }
      return allowed(node, held, press) && written_well(node, held, press, left, good);
    };
    for (const std::uint16_t pulse : pulses)
      if (pressed_well({pulse})) return true;
    if (all && pulses.size() > 1 && pressed_well(pulses)) return true;
  }
  return false;
}
// What is written leads to something good, whatever the engine makes of it; `left`: presses that are pending after,
// where nothing took them.
bool Can::written_well(std::uint32_t node, const std::vector<Span>& held, const Truths& press, const Truths& left,
                       const std::vector<bool>& good) {
  const auto ends = outcomes(node, held, press, false);
  return ends && !ends->empty() && all_well(*ends, held, left, good);
}
bool Can::all_well(const std::vector<Configurations::Outcome>& ends, const std::vector<Span>& held, const Truths& left,
                   const std::vector<bool>& good) {
  return std::all_of(ends.begin(), ends.end(), [&](const Configurations::Outcome& end) {
    if (aim_after(end, held) == Truth::yes) return true;
    const Truths pending = still_pending(left, end);
    return goes_on_well(end.node, held, pending, good) || (pending == none_ && leads_later(end, good));
  });
}
// Of these presses those that nothing took.
Truths Can::still_pending(Truths presses, const Configurations::Outcome& end) {
  for (std::size_t i = 0; i < presses.size(); ++i)
    if (end.pulses[i] == Truth::no) presses[i] = Truth::no;
  return presses;
}
// The game writes these inputs and holds them still: it comes to good configurations only.
bool Can::settles_well(std::uint32_t node, const std::vector<Span>& held, const Truths& pending,
                       const std::vector<bool>& good) {
  const auto first = outcomes(node, held, pending, false);
  return first && std::all_of(first->begin(), first->end(), [&](const Configurations::Outcome& end) {
           return goes_on_well(end.node, held, still_pending(pending, end), good);
         });
}
// While the inputs are held and presses run out, it stays in good configurations.
bool Can::goes_on_well(std::uint32_t node, const std::vector<Span>& held, Truths pending,
                       const std::vector<bool>& good) {
  using Place = std::pair<std::uint32_t, Truths>;
  std::map<std::uint32_t, std::vector<Truths>> seen;
  std::vector<Place> open;
  const auto add = [&](std::uint32_t to, Truths presses) {
    // Where more may be pending all may come that comes of less.
    const auto covers = [&](const Truths& each) {
      return std::equal(each.begin(), each.end(), presses.begin(),
                        [](Truth one, Truth other) { return one == other || one == Truth::maybe; });
    };
    std::vector<Truths>& known = seen[to];
    if (std::any_of(known.begin(), known.end(), covers)) return;
    known.push_back(presses);
    open.emplace_back(to, std::move(presses));
  };
  add(node, std::move(pending));
  while (!open.empty()) {
    const Place place = std::move(open.back());
    open.pop_back();
    if (!good[place.first] || work_ == 0) return false;
    if (std::all_of(place.second.begin(), place.second.end(), [](Truth truth) { return truth == Truth::no; })) continue;
    const auto next = outcomes(place.first, held, place.second, true);
    if (!next) return false;
    for (const Configurations::Outcome& end : *next) add(end.node, still_pending(place.second, end));
  }
  return true;
}
// If nothing but time comes, what a region shows is over in time, or comes round, and what follows is good: whatever
// else happens meanwhile, a rule leads on then.
bool Can::waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<bool>& good) {
  const Indices& leaves = config(node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if (leaves[r] == kNoIndex) continue;
    std::set<std::uint32_t> seen = {node};
    std::vector<std::uint32_t> open = {node};
    bool well = true, by_rounds = false, goes_round = false;
    const auto follow = [&](const std::optional<std::vector<Configurations::Outcome>>& ends) {
      if (!ends) well = false;
      for (std::size_t i = 0; ends && i < ends->size(); ++i) {
        const Configurations::Outcome& end = (*ends)[i];
        if (good[end.node] || aim_after(end, held) == Truth::yes || leads_later(end, good)) continue;
        // A round is over as well, and maybe leads on little by little.
        goes_round = goes_round || (by_rounds && (end.looped >> r & 1) != 0);
        const bool over = (end.entered >> r & 1) != 0;
        if (over || config(end.node).leaves[r] != leaves[r] || rests_for_ever(end.node))
          well = false;
        else if (seen.insert(end.node).second)
          open.push_back(end.node);
      }
    };
    follow(outcomes(node, held, none_, false));
    while (well && !open.empty()) {
      const std::uint32_t n = open.back();
      open.pop_back();
      by_rounds = !model_.stay_while(leaves[r], &held, &config(n)) && !model_.stay(leaves[r]);
      if (by_rounds && !model_.longest_round(leaves[r], &held)) well = false;
      if (!well) break;
      follow(outcomes(n, held, none_, true));
    }
    if (well && open.empty() && (!goes_round || rounds_in(seen, r, held))) return true;
  }
  return false;
}
// Whether one of the regions has just begun what leads to something good by a place of it. REQUIRES: no press is
// pending.
bool Can::leads_later(const Configurations::Outcome& end, const std::vector<bool>& good) {
  const Indices& leaves = config(end.node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if ((end.begun >> r & 1) == 0 || leaves[r] == kNoIndex) continue;
    if (!has_windows_[leaves[r]] && !tells_[leaves[r]] && !charges_[leaves[r]]) continue;
    const std::pair place(end.node, r);
    const auto good_count = static_cast<std::size_t>(std::count(good.begin(), good.end(), true));
    const auto known = later_.find(place);
    if (known != later_.end() && (known->second.leads || known->second.good_count == good_count)) {
      if (known->second.leads) return true;
      continue;
    }
    later_[place] = {false, good_count};  // also where it is come to again from here
    ++depth_;
    const bool leads =
        opens_well(end.node, r, good) || tells_well(end.node, r, good) || charges_well(end.node, r, good);
    --depth_;
    if (leads)
      later_[place].leads = true;
    else if (depth_ > 0)
      later_.erase(place);  // it may have hung on one that is looked at just now
    if (leads) return true;
  }
  return false;
}

// All that it may come to while what a region has just begun goes on and these things are known of rules; nothing where
// that may be left for what is not good.
std::optional<std::vector<std::uint32_t>> Can::waits_in(std::uint32_t node, std::uint16_t region,
                                                        const std::vector<Span>& held, const Truths& known,
                                                        const std::vector<bool>& good) {
  const std::uint16_t leaf = config(node).leaves[region];
  std::vector<std::uint32_t> out;
  std::set<std::uint32_t> seen;
  const auto follow = [&](std::uint32_t from, bool timed) {
    configurations_.suppose(known);
    const auto ends = outcomes(from, held, none_, timed);
    configurations_.suppose({});
    return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Configurations::Outcome& end) {
             const bool left = config(end.node).leaves[region] != leaf || (end.entered >> region & 1) != 0;
             if (left) return all_well({end}, held, none_, good);
             if (good[end.node]) return true;
             if (rests_for_ever(end.node)) return false;
             if (seen.insert(end.node).second) out.push_back(end.node);
             return true;
           });
  };
  if (!follow(node, false)) return std::nullopt;
  for (std::size_t i = 0; i < out.size(); ++i)
    if (!allowed(out[i], held, none_) || !follow(out[i], true)) return std::nullopt;
  return out;
}

std::vector<bool> hopeless(const Space& space) {
  const std::size_t count = space.nodes().size();
  std::vector<std::vector<std::uint32_t>> into(count);
  std::vector<bool> hope(count, false);
  std::vector<std::uint32_t> open;
  for (const Edge& e : space.edges()) {
    if (e.from == UINT32_MAX) continue;
    into[e.to].push_back(e.from);
    if (space.answers(e)[1] != Truth::no && !hope[e.from]) hope[e.from] = true, open.push_back(e.from);
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
