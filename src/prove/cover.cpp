// Covering: few tapes that take every rule that can be taken.
#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include "guide.hpp"
#include "mobrin/prove/prove.hpp"
#include "parts.hpp"
#include "search.hpp"

namespace mobrin {
namespace proof {
namespace {

// Of one tape of a walk, so that it can be read.
constexpr std::size_t kMostSteps = 60;
// To what is next on a walk.
constexpr std::size_t kMostMoments = 12'000, kMostMoves = 40'000;
constexpr std::size_t kMovesOfAThing = 300;  // beside the usual work

class Coverer {
 public:
  Coverer(const MachineDef& definition, const Machine& machine, const ProofLimits& limits)
      : machine_(machine),
        limits_(limits),
        model_(definition, machine),
        rules_(static_cast<std::uint32_t>(machine.transitions().size())) {
    // What no run does is known where all that can be was looked at, as far as what is assumed is kept.
    whole_ = explore(model_, model_.assumed(), limits.steps).whole();
    for (const Apart& apart : parts_of(model_, model_.assumed())) parts_.emplace_back(model_).leave_out(apart);
    possible_.assign(rules_ + machine.states().size(), true);
    for (std::uint32_t t = 0; t < rules_; ++t) possible_[t] = !never(t);
    for (std::uint16_t s = 0; s < machine.states().size(); ++s)
      possible_[rules_ + s] = s > 0 && !(whole_ && !model_.entered(s));
  }

  Cover run() {
    // The shortest tapes, and where those do not come to all, longer ones on which a thing follows the other.
    if (!step_by_step(model_)) {
      std::vector<Tape> single = std::move(candidates_);
      candidates_.clear();
      met_.clear();
      walk(model_);
      // Where that did not do, each part as if it were all there is: what is met anew leads further.
      std::vector<const Model*> left;
      for (const Model& part : parts_)
        if (!all_met(part)) left.push_back(&part);
      for (const Model* part : left) {
        met_.clear();
        if (step_by_step(*part)) continue;
        met_.clear();
        walk(*part);
      }
      candidates_.insert(candidates_.end(), single.begin(), single.end());
      one_by_one();
    }
    Cover out;
    std::vector<bool> covered(possible_.size(), false);
    choose(out.tapes, covered);
    for (std::uint32_t t = 0; t < rules_; ++t)
      if (!covered[t]) out.left.push_back({t, never(t)});
    for (std::uint16_t s = 1; s < machine_.states().size(); ++s)
      if (!covered[rules_ + s]) out.states.push_back(s);
    return out;
  }

 private:
  // Rules by their index, states behind them.
  using Things = std::set<std::uint32_t>;

  [[nodiscard]] bool never(std::uint32_t rule) const { return whole_ && !model_.notes()[rule].taken; }
  void add(const Cue& cue, Things& things) const {
    if (cue.what != Told::enter) return;
    if (cue.transition != kNoTransition) things.insert(cue.transition);
    if (cue.state != 0) things.insert(rules_ + cue.state);
  }
  [[nodiscard]] Things things_of(const Seen& seen) const {
    Things out;
    for (const Cue& cue : seen.told) add(cue, out);
    return out;
  }
  // What is new at a moment is met from then on.
  bool meet(const Seen& seen) {
    bool fresh = false;
    for (const std::uint32_t each : things_of(seen)) fresh = met_.insert(each).second || fresh;
    return fresh;
  }
  void meet(const Tape& tape) {
    for (const std::uint32_t each : things_of(tape)) met_.insert(each);
  }
  [[nodiscard]] static bool fails(const Seen& seen) {
    return std::any_of(seen.told.begin(), seen.told.end(), [](const Cue& cue) { return cue.what == Told::fault; });
  }
  [[nodiscard]] bool is_left(std::uint32_t thing) const { return possible_[thing] && met_.count(thing) == 0; }
  [[nodiscard]] bool all_met(const Model& part) const {
    for (std::uint32_t each = 0; each < possible_.size(); ++each)
      if (is_left(each) && has(part, each)) return false;
    return true;
  }
  [[nodiscard]] std::uint16_t owner_of(std::uint32_t thing) const {
    return thing < rules_ ? model_.rules()[thing].owner : static_cast<std::uint16_t>(thing - rules_);
  }
  [[nodiscard]] bool has(const Model& part, std::uint32_t thing) const { return !part.leaves_out(owner_of(thing)); }

  // Whether nothing is left that could be tried.
  bool step_by_step(const Model& part) {
    Search search(part, {limits_.moments, limits_.moves});
    (void)search.run([&](Seen& seen) {
      if (fails(seen) || search.breaks_assumed(seen)) return Verdict::ends;
      if (!meet(seen)) return Verdict::goes_on;
      candidates_.push_back(search.tape_to(seen));
      return all_met(part) ? Verdict::found : Verdict::goes_on;
    });
    return search.exhausted() || all_met(part);
  }

  // On and on to what is left, as far as rules lead there; from the begin where that leads nowhere.
  void walk(const Model& part) {
    Search search(part);
    std::size_t moves = 0, far = 1;
    const std::size_t most = std::min(2 * limits_.moves + kMovesOfAThing * possible_.size(), 10 * limits_.moves);
    std::optional<std::uint32_t> at;
    std::size_t steps = 0;
    const auto end_tape = [&] {
      if (at) candidates_.push_back(search.tape_to(*at));
      at.reset();
      steps = 0;
    };
    while (moves < most && !all_met(part)) {
      search.set_limits(far * kMostMoments, far * kMostMoves);
      search.prefer_new_states(owners_left(part));
      const auto found = search.go_on(at, [&](Seen& seen) {
        if (fails(seen) || search.breaks_assumed(seen)) return Verdict::ends;
        return meet(seen) ? Verdict::found : Verdict::goes_on;
      });
      moves += search.moves();
      if (!found) {
        if (!at && search.moves() <= far * kMostMoves && search.kept() <= far * kMostMoments) break;  // all was tried
        if (!at) far *= 3;
        end_tape();
        continue;
      }
      at = found;
      if (++steps >= kMostSteps) end_tape();
    }
    end_tape();
  }
  // What is left, each from the begin, by what likely has to do with it alone: then a run may be longer. States come
  // first: a rule of one that is not entered need not be looked for.
  void one_by_one() {
    for (const Tape& tape : candidates_) meet(tape);
    std::vector<std::uint32_t> things(possible_.size());
    std::iota(things.begin(), things.end(), 0);
    std::rotate(things.begin(), things.begin() + rules_, things.end());
    const auto is_open = [&](std::uint32_t thing) {
      return is_left(thing) && (thing >= rules_ || model_.rules()[thing].owner == 0 ||
                                met_.count(rules_ + model_.rules()[thing].owner) > 0);
    };
    std::size_t moves = 2 * limits_.moves;
    for (std::size_t i = 0; i < things.size() && moves > 0; ++i) {
      if (!is_open(things[i])) continue;
      const auto rest = static_cast<std::size_t>(
          std::count_if(things.begin() + static_cast<std::ptrdiff_t>(i), things.end(), is_open));
      const std::size_t share = std::clamp(moves / rest, limits_.moves / 40, limits_.moves / 4);
      moves -= std::min(moves, look_for(things[i], share));
    }
  }
  // Within so many moves; gives how many it took. First by what leads there on one way alone.
  std::size_t look_for(std::uint32_t thing, std::size_t most) {
    const std::vector<bool> behind = inputs_behind(thing, false), on_a_way = inputs_behind(thing, true);
    std::size_t moves = on_a_way == behind ? 0 : look_for(thing, on_a_way, most / 3);
    if (is_left(thing)) moves += look_for(thing, behind, most - std::min(moves, most));
    if (is_left(thing) && owner_of(thing) != 0) moves += look_by_guide(thing, behind, most / 2);
    return moves;
  }
  // To the state first, by what leads there in all that can be come to, and on from there by what has to do with it.
  std::size_t look_by_guide(std::uint32_t thing, const std::vector<bool>& writes, std::size_t most) {
    const std::uint16_t owner = owner_of(thing);
    SearchLimits limits{limits_.moments, most};
    limits.guide = &guide_to(owner);
    Search search(part_of(thing), limits);
    search.follow_guide();
    const auto watch = [&](const Seen& seen) {
      if (fails(seen) || search.breaks_assumed(seen)) return Verdict::ends;
      return things_of(seen).count(thing) > 0 ? Verdict::found : Verdict::goes_on;
    };
    auto found = search.run([&](Seen& seen) {
      const Verdict verdict = watch(seen);
      const bool there = (*seen.after.active)[owner] == 1;
      return verdict == Verdict::goes_on && there ? Verdict::found : verdict;
    });
    std::size_t moves = search.moves();
    if (found) {
      search.leave_guide(writes);
      search.prefer_new_states(goal_of(thing));
      const Tape there = search.tape_to(*found);
      found = things_of(there).count(thing) > 0 ? found : search.go_on(found, watch);
      moves += search.moves();
    }
    if (found) take(search.tape_to(*found));
    return moves;
  }
  [[nodiscard]] const Guide& guide_to(std::uint16_t state) {
    const auto [found, fresh] = guides_.try_emplace(state);
    if (!fresh) return found->second;
    Term active;
    active.kind = Term::Kind::state;
    active.index = state;
    const Question question{{model_.assumed(), {}, {active}}, ClaimKind::never};
    return found->second = guide_against(part_of(rules_ + state), question, limits_.steps / 4);
  }
  void take(Tape tape) {
    candidates_.push_back(std::move(tape));
    meet(candidates_.back());
  }
  std::size_t look_for(std::uint32_t thing, const std::vector<bool>& writes, std::size_t most) {
    SearchLimits narrow{limits_.moments, most / 2};
    narrow.writes = writes;
    Search search(part_of(thing), narrow);
    const auto watch = [&](Seen& seen) {
      if (fails(seen) || search.breaks_assumed(seen)) return Verdict::ends;
      return things_of(seen).count(thing) > 0 ? Verdict::found : Verdict::goes_on;
    };
    auto found = search.run(watch);
    std::size_t moves = search.moves();
    if (!found && !search.exhausted()) {
      Search::Numbers numbers;
      if (thing < rules_ && model_.rules()[thing].when) add_numbers(*model_.rules()[thing].when, numbers);
      search.prefer_new_states(goal_of(thing), numbers);
      found = search.run(watch);
      moves += search.moves();
    }
    if (found) take(search.tape_to(*found));
    return moves;
  }
  // What it has to do with: what goes its own way beside it is no matter.
  [[nodiscard]] const Model& part_of(std::uint32_t thing) const {
    const auto found = std::ranges::find_if(parts_, [&](const Model& part) { return has(part, thing); });
    return found == parts_.end() ? model_ : *found;
  }
  // What is worth writing for a thing: the state shall be active, and what the rule waits for be so.
  [[nodiscard]] std::vector<bool> inputs_behind(std::uint32_t thing, bool one_way) const {
    if (thing >= rules_) return model_.inputs_behind({}, static_cast<std::uint16_t>(thing - rules_), one_way);
    return model_.inputs_behind(model_.rules()[thing], one_way);
  }
  [[nodiscard]] std::vector<bool> goal_of(std::uint32_t thing) const {
    std::vector<bool> out(machine_.states().size(), false);
    out[owner_of(thing)] = true;
    return out;
  }
  // All that happens on a tape.
  [[nodiscard]] Things things_of(const Tape& tape) const {
    Things out;
    Instance instance(machine_);
    RunOptions options;
    options.until = tape.until.value_or(Ticks{});
    run_tape(instance, tape, options, [&](const Cue& cue) { add(cue, out); });
    return out;
  }
  // States of which a rule, or which themselves, are left.
  [[nodiscard]] std::vector<bool> owners_left(const Model& part) const {
    std::vector<bool> out(machine_.states().size(), false);
    for (std::uint32_t each = 0; each < possible_.size(); ++each)
      if (is_left(each) && has(part, each)) out[owner_of(each)] = true;
    return out;
  }

  // Those tapes first that show the most of what none before them does.
  void choose(std::vector<Tape>& out, std::vector<bool>& covered) const {
    std::vector<Things> shown;
    for (const Tape& tape : candidates_) shown.push_back(things_of(tape));
    const auto gain = [&](std::size_t i) {
      return static_cast<std::size_t>(
          std::count_if(shown[i].begin(), shown[i].end(), [&](std::uint32_t each) { return !covered[each]; }));
    };
    // What a tape shows anew only becomes less: who was known to show less than another does need not be counted again.
    std::vector<std::size_t> known;
    for (std::size_t i = 0; i < shown.size(); ++i) known.push_back(shown[i].size());
    for (;;) {
      std::size_t best = shown.size(), most = 0;
      for (std::size_t i = 0; i < shown.size(); ++i)
        if (known[i] > most && (known[i] = gain(i)) > most) best = i, most = known[i];
      if (best == shown.size()) return;
      for (const std::uint32_t each : shown[best]) covered[each] = true;
      out.push_back(candidates_[best]);
    }
  }

  const Machine& machine_;
  const ProofLimits& limits_;
  Model model_;
  std::uint32_t rules_;
  bool whole_ = false;
  std::vector<Model> parts_;    // of regions that go their own ways; none where the machine is one
  std::vector<bool> possible_;  // by thing
  Things met_;
  std::map<std::uint16_t, Guide> guides_;  // by state
  std::vector<Tape> candidates_;
};

}  // namespace
}  // namespace proof

Cover cover(const MachineDef& definition, const Machine& machine, const ProofLimits& limits) {
  return proof::Coverer(definition, machine, limits).run();
}

}  // namespace mobrin
