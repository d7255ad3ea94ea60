#include "can.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <utility>

#include "model_parts.hpp"

namespace mobrin::proof {

bool is_never(const Model& model, const Term& term, const Flags& active, const Values& variables) {
  const std::vector<Span> any = model.any_inputs();
  const Truths pulses(any.size(), Truth::maybe), silent(model.machine().cues().size(), Truth::no);
  return proof::holds(term, View{&any, &variables, &active, &pulses, &silent, &model.traits()}) == Truth::no;
}

Can::Can(const Model& model, const Configurations& configurations, const Asked& asked, const Term& aim,
         std::size_t work, std::vector<std::vector<std::uint32_t>> before)
    : model_(model),
      configurations_(configurations),
      asked_(asked),
      aim_(aim),
      before_(std::move(before)),
      work_(work + kWorkOfANode * std::min(configurations.all().size(), kMostNodes)),
      none_(model.machine().inputs().size(), Truth::no),
      blend_points_(none_.size()),
      good_(configurations.all().size(), false),
      missed_in_(good_.size(), 0) {
  find_charges();
  find_windows();
  find_tellers();
  read_anywhere_ = inputs_read(Flags(model.states().size(), 1));
  find_parts();
  few_ = few_choices();
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

// Whether it stays final until it is done, and what is aimed at is not true then whatever is written.
bool Can::ends_without(std::uint32_t node) const {
  const auto& states = model_.states();
  const auto is_free = [&](std::uint32_t rule) { return model_.rules()[rule].def != nullptr; };
  const bool ends = std::ranges::any_of(config(node).leaves, [&](std::uint16_t leaf) {
    return leaf != kNoIndex && states[leaf].final && !states[leaf].speed &&
           std::ranges::none_of(states[leaf].rules, is_free);
  });
  return ends && is_never(model_, aim_, model_.active(config(node)), config(node).variables);
}

// First the game holds its inputs still until no press is pending, then it goes on from what is good.
bool Can::from_all(const std::vector<std::uint32_t>& nodes) {
  if (nodes.empty()) return true;
  if (std::any_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) { return ends_without(node); })) return false;
  find_order();
  const bool charges = std::find(charges_.begin(), charges_.end(), true) != charges_.end();
  for (const bool charging : {false, true}) {
    if (charging && !charges) return false;
    charging_ = charging;  // that takes long
    for (const Breadth breadth : {Breadth::few, Breadth::guided, Breadth::near, Breadth::all})
      for (const bool deep : {false, true}) {
        breadth_ = breadth;
        deep_ = deep;
        if (breadth == Breadth::guided && !guide_) find_guide();
        std::erase_if(later_, [](const auto& each) { return !each.second.leads; });
        find_good();
        if (leads_from_all(nodes)) return true;
      }
  }
  return false;
}

// Whether it is known to be good. If not, what asked for it is looked at again once it is.
bool Can::is_good(std::uint32_t node) {
  if (!good_[node]) miss(node);
  return good_[node];
}
void Can::miss(std::uint32_t node) {
  if (missed_in_[node] != look_) missed_.push_back(node);
  missed_in_[node] = look_;
}

bool Can::leads_from_all(const std::vector<std::uint32_t>& nodes) {
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    const Truths pending = configurations_.pending(node);
    return std::ranges::any_of(std::array{Breadth::few, Breadth::guided, Breadth::all}, [&](Breadth breadth) {
      return std::ranges::any_of(choices(node, breadth), [&](const std::vector<Span>& held) {
        return (allowed(node, held, none_) && settles_well(node, held, pending)) ||
               (pending != none_ && presses_at_once(node, held, pending));
      });
    });
  });
}

// Those from which fewer rules lead there are likely good before others.
void Can::find_order() {
  std::vector<bool> goals(model_.states().size(), false);
  each_term(aim_, [&](const Term& term) {
    if (term.kind == Term::Kind::state) goals[term.index] = true;
  });
  const std::vector<std::uint32_t> far = model_.distances_to(goals, static_cast<std::uint32_t>(goals.size()));
  for (std::uint32_t n = 0; n < good_.size(); ++n) {
    std::uint32_t least = UINT32_MAX;
    for (const std::uint16_t leaf : config(n).leaves)
      if (leaf != kNoIndex) least = std::min(least, far[leaf]);
    order_.push_back({least, n});
  }
  std::sort(order_.begin(), order_.end());
}

// Of which an instant may make what is good, or goes on to that by places of what it shows: by one, or, `far`, by one
// after the other.
std::vector<bool> Can::leading(bool far) const {
  if (breadth_ == Breadth::all || before_.empty() || !aim_cues_.empty()) return std::vector<bool>(good_.size(), true);
  std::vector<bool> out(good_.size(), false);
  std::vector<std::pair<std::uint32_t, int>> open;
  for (std::uint32_t n = 0; n < good_.size(); ++n)
    if (good_[n]) open.emplace_back(n, 0);
  const auto goes_on = [&](std::uint16_t leaf) {
    return leaf != kNoIndex && (has_windows_[leaf] || tells_[leaf] || (charging_ && charges_[leaf]));
  };
  for (std::size_t i = 0; i < open.size(); ++i) {
    const auto [to, places] = open[i];
    for (const std::uint32_t n : before_[to]) {
      if (out[n]) continue;
      out[n] = true;
      const Indices& leaves = config(n).leaves;
      if (deep_ && (far || places == 0) && std::any_of(leaves.begin(), leaves.end(), goes_on))
        open.emplace_back(n, places + 1);
    }
  }
  return out;
}

// From where the game can surely bring it about if no press is pending.
void Can::find_good() {
  const std::vector<Span> any = model_.any_inputs();
  for (std::uint32_t n = 0; n < good_.size(); ++n) good_[n] = good_[n] || aim_at(n, any) == Truth::yes;
  std::vector<bool> stirred(good_.size(), true);
  std::vector<std::vector<std::uint32_t>> asks(good_.size());  // by configuration those that asked for it
  for (bool more = true, far = false; (more || (deep_ && !far)) && work_ > 0;) {
    far = !more;
    more = false;
    const std::vector<bool> leads = leading(far);
    for (const auto& [distance, n] : order_) {
      if (good_[n] || !stirred[n] || work_ == 0 || !leads[n]) continue;
      stirred[n] = false;
      missed_.clear();
      look_ = ++looks_;
      if (leads_to_good(n)) {
        good_[n] = more = true;
        for (const std::uint32_t each : asks[n]) stirred[each] = true;
        continue;
      }
      for (const std::uint32_t each : missed_) asks[each].push_back(n);
    }
  }
}
// `until`: a region of which that does not count until its play is over.
bool Can::rests_for_ever(std::uint32_t node, std::uint16_t until) const {
  Indices leaves = config(node).leaves;
  if (until != kNoIndex && leaves[until] != kNoIndex && model_.states()[leaves[until]].may_end)
    leaves[until] = kNoIndex;
  return model_.may_be_done(leaves);
}
bool Can::leads_to_good(std::uint32_t node) {
  if (rests_for_ever(node)) return false;
  const bool all = breadth_ == Breadth::all;
  const std::vector<std::uint16_t> pulses = presses(node, all);
  for (const std::vector<Span>& held : choices(node, breadth_)) {
    if (!allowed(node, held, none_)) continue;
    if (written_well(node, held, none_, none_) || waits_well(node, held) || tells_in_a_round(node, held)) return true;
    for (const std::uint16_t pulse : pulses)
      if (pressed_well(node, held, {pulse}, none_)) return true;
    if (all && pulses.size() > 1 && pressed_well(node, held, pulses, none_)) return true;
  }
  return false;
}
// Before what is pending has run out, as what shows may be over until then.
bool Can::presses_at_once(std::uint32_t node, const std::vector<Span>& held, const Truths& pending) {
  const std::vector<std::uint16_t> pulses = presses(node, false);
  return std::any_of(pulses.begin(), pulses.end(),
                     [&](std::uint16_t pulse) { return pressed_well(node, held, {pulse}, pending); });
}
Can::Press Can::press_of(const std::vector<std::uint16_t>& together, const Truths& pending) const {
  Press out{none_, pending, pending};
  for (const std::uint16_t pulse : together) {
    out.written[pulse] = out.alive[pulse] = Truth::yes;
    if (std::get<PulseInput>(model_.machine().inputs()[pulse].kind).buffer.count > 0) out.left[pulse] = Truth::maybe;
  }
  return out;
}
bool Can::pressed_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<std::uint16_t>& together,
                       const Truths& pending) {
  const Press press = press_of(together, pending);
  return allowed(node, held, press.written) && written_well(node, held, press.alive, press.left);
}
// What is written leads to something good, whatever the engine makes of it; `left`: presses that are pending after,
// where nothing took them.
bool Can::written_well(std::uint32_t node, const std::vector<Span>& held, const Truths& press, const Truths& left) {
  const auto ends = outcomes(node, held, press, false);
  return ends && !ends->empty() && all_well(*ends, held, left);
}
bool Can::all_well(const std::vector<Configurations::Outcome>& ends, const std::vector<Span>& held,
                   const Truths& left) {
  return std::all_of(ends.begin(), ends.end(), [&](const Configurations::Outcome& end) {
    if (aim_after(end, held) == Truth::yes) return true;
    const Truths pending = still_pending(left, end);
    return goes_on_well(end.node, held, pending) || (pending == none_ && leads_later(end, held));
  });
}
// Of these presses those that nothing took.
Truths Can::still_pending(Truths presses, const Configurations::Outcome& end) {
  for (std::size_t i = 0; i < presses.size(); ++i)
    if (end.pulses[i] == Truth::no) presses[i] = Truth::no;
  return presses;
}
// The game writes these inputs and holds them still: it comes to good configurations only.
bool Can::settles_well(std::uint32_t node, const std::vector<Span>& held, const Truths& pending) {
  const auto first = outcomes(node, held, pending, false);
  return first && std::all_of(first->begin(), first->end(), [&](const Configurations::Outcome& end) {
           return goes_on_well(end.node, held, still_pending(pending, end));
         });
}
// While the inputs are held and presses run out, it stays in good configurations.
bool Can::goes_on_well(std::uint32_t node, const std::vector<Span>& held, Truths pending) {
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
    if (!is_good(place.first) || work_ == 0) return false;
    if (std::all_of(place.second.begin(), place.second.end(), [](Truth truth) { return truth == Truth::no; })) continue;
    const auto next = outcomes(place.first, held, place.second, true);
    if (!next) return false;
    for (const Configurations::Outcome& end : *next) add(end.node, still_pending(place.second, end));
  }
  return true;
}
// If nothing but time comes, what a region shows is over in time, or comes round, and what follows is good: whatever
// else happens meanwhile, a rule leads on then.
bool Can::waits_well(std::uint32_t node, const std::vector<Span>& held) {
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
        if (is_good(end.node) || aim_after(end, held) == Truth::yes || leads_later(end, held)) continue;
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
// pending. `held`: the inputs as it began.
bool Can::leads_later(const Configurations::Outcome& end, const std::vector<Span>& held) {
  const Indices& leaves = config(end.node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if ((end.begun >> r & 1) == 0 || leaves[r] == kNoIndex) continue;
    if (!has_windows_[leaves[r]] && !tells_[leaves[r]] && !charges_[leaves[r]]) continue;
    const Course course = model_.course_of(leaves[r], held);
    const std::tuple place(end.node, r, course);
    if (const auto known = later_.find(place); known != later_.end()) {
      Later& later = known->second;
      if (later.leads) return true;
      if (later.depth > 0) {
        lowest_ = std::min(lowest_, later.depth);
        continue;
      }
      if (std::none_of(later.missed.begin(), later.missed.end(), [&](std::uint32_t n) { return good_[n]; })) {
        if (later.noted_in != look_)
          for (const std::uint32_t each : later.missed) miss(each);
        later.noted_in = look_;
        continue;
      }
    }
    if (!deep_) continue;
    later_[place] = {.depth = ++depth_};
    const int lowest_before = std::exchange(lowest_, INT_MAX);
    std::vector<std::uint32_t> missed_before = std::move(missed_);
    const std::uint64_t look_before = std::exchange(look_, ++looks_);
    missed_.clear();
    const bool leads = opens_well(end.node, r, course) || tells_well(end.node, r, course) || charges_well(end.node, r);
    missed_.swap(missed_before);
    look_ = look_before;
    for (const std::uint32_t each : missed_before) miss(each);
    const bool by_itself = lowest_ >= depth_--;  // it hangs on none that is looked at around it
    lowest_ = by_itself ? lowest_before : std::min(lowest_, lowest_before);
    if (leads)
      later_[place] = {.leads = true};
    else if (by_itself)
      later_[place] = {.missed = std::move(missed_before)};
    else
      later_.erase(place);
    if (leads) return true;
  }
  return false;
}

// All that it may come to while what a region has just begun goes on and these things are known of rules; nothing where
// that may be left for what is not good.
std::optional<std::vector<std::uint32_t>> Can::waits_in(std::uint32_t node, std::uint16_t region,
                                                        const std::vector<Span>& held, const Truths& known) {
  const std::uint16_t leaf = config(node).leaves[region];
  std::vector<std::uint32_t> out;
  std::set<std::uint32_t> seen;
  const auto follow = [&](std::uint32_t from, bool timed) {
    configurations_.suppose(known);
    const auto ends = outcomes(from, held, none_, timed);
    configurations_.suppose({});
    return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Configurations::Outcome& end) {
             const bool left = config(end.node).leaves[region] != leaf || (end.entered >> region & 1) != 0;
             if (left) return all_well({end}, held, none_);
             if (is_good(end.node)) return true;
             if (rests_for_ever(end.node, region)) return false;
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
