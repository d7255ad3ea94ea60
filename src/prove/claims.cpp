#include "claims.hpp"

#include <algorithm>
#include <functional>
#include <set>

#include "can.hpp"
#include "claim_runs.hpp"
#include "loose.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "model_parts.hpp"
#include "reach.hpp"
#include "space.hpp"
#include "within.hpp"

namespace mobrin {

namespace proof {

std::vector<Term> claims_in(ClaimKind kind, const Term& first) {
  std::vector<Term> out;
  if (kind != ClaimKind::never && kind != ClaimKind::always) return out;
  const detail::Op joins = kind == ClaimKind::never ? detail::Op::or_ : detail::Op::and_;
  const std::function<void(const Term&)> part = [&](const Term& term) {
    if (term.kind != Term::Kind::operation || term.op != joins) return out.push_back(term);
    for (const Term& each : term.operands) part(each);
  };
  part(first);
  return out;
}

bool holds_by_ranges(const Model& model, ClaimKind kind, const Term& term) {
  const std::vector<Span> inputs = model.any_inputs();
  const Values variables = model.nothing_known();
  return proof::holds(term, View{&inputs, &variables}) == (kind == ClaimKind::never ? Truth::no : Truth::yes);
}

std::string seconds_text(Ticks ticks) { return detail::short_text(ticks.to_seconds(), 4) + " s"; }

namespace {

// Of what can be come to, for a claim: there are several ways to know variables.
std::size_t steps_of_a_claim(const ProofLimits& limits) { return limits.steps / 2 * 5; }

class Prover {
 public:
  Prover(const Model& model, const Model& parts, const ClaimDef& claim, const Claimed& claimed,
         const ProofLimits& limits)
      : def_(model.definition()),
        claim_(claim),
        limits_(limits),
        model_(model),
        parts_(parts),
        asked_(claimed.asked),
        first_(claimed.first),
        second_(claimed.second) {
    for (const Term& term : claimed.all()) model_.cut(term), parts_.cut(term);
    known_ = parts_.known();
  }

  // Whether the machine, as far as the claim hangs on it, was too large to look at all configurations.
  [[nodiscard]] bool was_too_large() const { return tried_space_ && space_ == nullptr; }

  // `large`: there are too many configurations to look at them all.
  ClaimAnswer run(bool large) {
    large_ = large;
    ClaimAnswer out;
    out.claim = claim_.name;
    if (holds_by_ranges(first_)) return answer(out, Answer::proved, ground());
    const Claimed claimed{first_, second_, asked_};
    if (claim_.kind == ClaimKind::can && RunsAgainst(model_, parts_, claim_, claimed, limits_).refute_once_done(out))
      return out;
    if (answered_without_ends(out)) return out;
    if (answered_loosely(out)) return out;
    RunsAgainst runs(model_, parts_, claim_, claimed, limits_);
    if (has_many_configurations(50) && claim_.kind != ClaimKind::can && runs.refute_soon(out)) return out;
    // What can be come to, without the ways there, is often enough, and takes less.
    std::optional<bool> reached;  // whether that was looked at whole
    if (!conditional() && def_.assumed.empty()) {
      Model model = parts_;
      const Question question{asked_, claim_.kind};
      const Reach reach(model, steps_of_a_claim(limits_), &question);
      if (reach.holds()) return answer(out, Answer::proved, ground());
      reached = reach.whole();
      runs_away_ = reach.runaway();
    }
    std::optional<Space> space;
    tried_space_ = !large_;
    if (!large_) {
      Limits limits;
      limits.steps = limits_.steps;
      limits.times = timed();
      space.emplace(parts_, asked_, limits);
      if (space->whole()) space_ = &*space, runs_away_ = space->runaway();
    }
    if (space_ != nullptr) {
      if (!space->assumptions_kept() && !asked_.assumed.empty()) return answer(out, Answer::vacuous, kNoInstant);
      if (conditional() && std::none_of(space->edges().begin(), space->edges().end(),
                                        [&](const Edge& edge) { return first(edge) != Truth::no; }))
        return answer(out, Answer::vacuous, never_true());
      if (holds()) return answer(out, Answer::proved, ground());
    }
    const Question question{asked_, claim_.kind, timed()};
    bool whole = space_ != nullptr || reached.value_or(false);
    const bool inexact = space_ == nullptr || parts_.knows_less();
    const bool says_the_same = reached && (*reached || large_);
    if (inexact && !says_the_same && claim_.kind != ClaimKind::can) {
      const Reach reach(parts_, steps_of_a_claim(limits_), &question);
      whole = whole || reach.whole();
      runs_away_ = runs_away_ || reach.runaway();
      if (reach.whole() && !reach.assumptions_kept() && !asked_.assumed.empty())
        return answer(out, Answer::vacuous, kNoInstant);
      if (reach.holds() && conditional() && !reach.first_met()) return answer(out, Answer::vacuous, never_true());
      if (reach.holds() && over_in_time(parts_, reach.waiting())) return answer(out, Answer::proved, ground());
    }
    if (inexact && claim_.kind == ClaimKind::can && can_by_few(parts_, space_ == nullptr, whole, out)) return out;
    if (inexact && holds_in_parts()) return answer(out, Answer::proved, ground());
    if (holds_in_time()) return answer(out, Answer::proved, ground());
    runs.know(space_);
    if (runs.refute(out)) return out;
    if (!inexact && claim_.kind == ClaimKind::can && can_by_few(parts_, false, whole, out)) return out;
    std::string why = whole ? "" : "the machine has more configurations than the work limit allows; ";
    if (runs_away_) why += "it may never come to rest, which leaves much open: mend what is called runaway; ";
    if (runs.tried() == 0) return answer(out, Answer::open, why + "runs against such a claim are not looked for then");
    why += "no run against it among " + std::to_string(runs.tried()) + " that were tried";
    if (later_)
      why += "; `within: " + std::to_string((later_->count + milliseconds(1).count - 1) / milliseconds(1).count) +
             "ms` is proved";
    return answer(out, Answer::open, why);
  }

 private:
  static constexpr const char* kNoInstant = "no first instant keeps what is assumed";
  [[nodiscard]] std::string never_true() const { return "\"" + claim_.first.text + "\" is never true"; }
  [[nodiscard]] bool timed() const { return is_timed(claim_); }
  [[nodiscard]] bool conditional() const { return claim_.kind != ClaimKind::never && claim_.kind != ClaimKind::always; }
  static ClaimAnswer& answer(ClaimAnswer& out, Answer kind, std::string says) {
    out.answer = kind;
    out.says = std::move(says);
    return out;
  }
  [[nodiscard]] Truth first(const Edge& edge) const { return space_->answers(edge)[0]; }
  [[nodiscard]] Truth second(const Edge& edge) const { return space_->answers(edge)[1]; }
  [[nodiscard]] const Edge& edge(std::uint32_t index) const { return space_->edges()[index]; }
  [[nodiscard]] const std::vector<std::uint32_t>& after(const Edge& edge) const { return space_->out_of()[edge.to]; }

  // `never: a or b` is two claims, `always: a and b` as well: each hangs on less.
  [[nodiscard]] bool holds_in_parts() {
    if (conditional()) return false;
    const std::vector<Term> parts = claims_in(claim_.kind, first_);
    return parts.size() > 1 &&
           std::all_of(parts.begin(), parts.end(), [&](const Term& each) { return holds_by_reach(each); });
  }
  // Where one timer is not over before another, or before a play is.
  [[nodiscard]] bool holds_in_time() {
    if (claim_.kind == ClaimKind::can) return false;
    // What comes of few steps is little, and mostly enough.
    return holds_in_time(4) || holds_in_time(32);
  }
  [[nodiscard]] bool holds_in_time(std::uint16_t steps) {
    Model model = parts_;
    model.compare_times({first_, second_}, steps);
    return model.has_times_to_compare() && holds_in(model);
  }
  [[nodiscard]] bool has_many_configurations(int many) const { return most_configurations(parts_) >= many; }
  // Whatever regions do of which it does not speak: where there are many they are as much as cannot be looked at.
  [[nodiscard]] bool answered_loosely(ClaimAnswer& out) {
    if (!has_many_configurations(100)) return false;
    const std::vector<Term> asked = Claimed{first_, second_, asked_}.all();
    std::vector<bool> loose;
    for (const bool guards : {false, true}) {
      const std::vector<bool> before = loose;
      loose = loose_regions(parts_, asked, guards ? regions_before(parts_, asked) : std::vector<bool>());
      if (loose == before || std::find(loose.begin(), loose.end(), true) == loose.end()) return false;
      Model model = parts_;
      model.loosen(loose);
      bool whole = false;
      if (claim_.kind == ClaimKind::can) {
        if (can_by_few(model, true, whole, out)) return true;
        continue;
      }
      if (holds_in_or_in_time(model)) return answer(out, Answer::proved, ground()), true;
    }
    return false;
  }
  // That another region may be done only makes a run shorter, by whole instants: where nothing is waited for, what
  // holds without that holds. A run against the claim that leaves it alone is the same.
  [[nodiscard]] bool answered_without_ends(ClaimAnswer& out) {
    if (claim_.kind == ClaimKind::can) return false;
    const Apart apart = model_.apart_from(Claimed{first_, second_, asked_}.all(), {}, false);
    if (apart.regions == parts_.left_out().regions) return false;
    Model model = model_;
    model.leave_out(apart);
    const Model left_alone = model;
    if (!timed() && holds_in_or_in_time(model)) return answer(out, Answer::proved, ground()), true;
    const ProofLimits less{limits_.steps, limits_.moments / 4, limits_.moves / 4};
    return RunsAgainst(model_, left_alone, claim_, {first_, second_, asked_}, less).refute(out);
  }
  [[nodiscard]] bool holds_in_or_in_time(Model& model) {
    if (holds_in(model)) return true;
    model.compare_times({first_, second_}, 4);
    return model.has_times_to_compare() && holds_in(model);
  }
  [[nodiscard]] bool holds_in(Model& model) {
    const Question question{asked_, claim_.kind, timed()};
    const Reach reach(model, steps_of_a_claim(limits_) / 4, &question);
    return reach.holds() && (asked_.assumed.empty() || reach.assumptions_kept()) &&
           (!conditional() || reach.first_met()) && over_in_time(model, reach.waiting());
  }
  // Of what is never or always so for all that inputs and variables may hold.
  [[nodiscard]] bool holds_by_ranges(const Term& term) const {
    return !conditional() && def_.assumed.empty() && proof::holds_by_ranges(model_, claim_.kind, term);
  }
  // Of what is never or always so.
  [[nodiscard]] bool holds_by_reach(const Term& term) {
    if (holds_by_ranges(term)) return true;
    Question question{asked_, claim_.kind};
    question.asked.after = {term};
    const Reach reach(parts_, steps_of_a_claim(limits_), &question);
    return reach.holds() && (asked_.assumed.empty() || reach.assumptions_kept());
  }

  // From what it is proved.
  [[nodiscard]] std::string ground() const {
    std::string out = "for all values of the inputs";
    if (!def_.assumed.empty())
      out += def_.assumed.size() == 1 ? " that keep what is assumed" : " that keep all that is assumed";
    out += bounded_ ? ", at rate 1 without freezes" : ", at any rate";
    if (longest_) out += "; it takes at most " + seconds_text(*longest_);
    return out;
  }

  // --- proofs ---

  [[nodiscard]] bool holds() {
    const auto& edges = space_->edges();
    switch (claim_.kind) {
      case ClaimKind::never:
        return std::all_of(edges.begin(), edges.end(), [&](const Edge& e) { return first(e) == Truth::no; });
      case ClaimKind::always:
        return std::all_of(edges.begin(), edges.end(), [&](const Edge& e) { return first(e) == Truth::yes; });
      case ClaimKind::once:
        return stays();
      case ClaimKind::next:
        return std::all_of(edges.begin(), edges.end(), [&](const Edge& e) {
          return first(e) == Truth::no || std::all_of(after(e).begin(), after(e).end(), [&](std::uint32_t next) {
                   return first(edge(next)) == Truth::yes || second(edge(next)) == Truth::yes;
                 });
        });
      case ClaimKind::when:
      case ClaimKind::within:
        return reaches();
      case ClaimKind::can:
        return can_from_each();
    }
    return false;
  }

  [[nodiscard]] bool can_from_each() const {
    std::set<std::uint32_t> nodes;
    std::vector<std::vector<std::uint32_t>> before(space_->nodes().size());
    for (const Edge& e : space_->edges()) {
      if (first(e) != Truth::no && second(e) != Truth::yes) nodes.insert(e.to);
      if (e.from != UINT32_MAX) before[e.to].push_back(e.from);
    }
    Can can(parts_, space_->configurations(), asked_, second_, limits_.steps, std::move(before));
    return !space_->runaway() && can.from_all({nodes.begin(), nodes.end()});
  }

  // The same where only what can be come to is known, not the ways there; whether that answers it.
  [[nodiscard]] bool can_by_reach(Model model, bool& whole, ClaimAnswer& out) {
    const Question question{{asked_.assumed}, ClaimKind::can};
    const Reach reach(model, steps_of_a_claim(limits_), &question);
    whole = whole || reach.whole();
    if (!reach.whole() || reach.runaway() || !looked_with_.emplace(reach.known(), reach.remembered()).second)
      return false;
    if (!reach.assumptions_kept()) return answer(out, Answer::vacuous, kNoInstant), true;
    model.know(reach.known());
    model.remember(reach.remembered());
    Configurations rests(model, asked_.after);
    for (const Config& config : reach.rests()) (void)rests.add(config);
    std::vector<std::uint32_t> nodes;
    bool met = false;
    const std::vector<Span> any = model.any_inputs();
    const Truths pulses(model.machine().inputs().size(), Truth::maybe);
    const Truths cues(model.machine().cues().size(), Truth::maybe);
    for (std::uint32_t n = 0; n < rests.all().size(); ++n) {
      const Config& config = rests.all()[n];
      const Flags active = model.active(config);
      const View view{&any, &config.variables, &active, &pulses, &cues, &model.traits()};
      if (proof::holds(first_, view) == Truth::no) continue;
      met = true;
      if (proof::holds(second_, view) != Truth::yes) nodes.push_back(n);
    }
    if (!met) return answer(out, Answer::vacuous, never_true()), true;
    if (!Can(model, rests, asked_, second_, limits_.steps).from_all(nodes)) return false;
    return answer(out, Answer::proved, ground()), true;
  }

  // The same where only variables are known by their values that lead to it, all of them, or one, or none: all together
  // may be too much to count out.
  // `also_all`: what the model knows was not tried.
  [[nodiscard]] bool can_by_few(const Model& of, bool also_all, bool& whole, ClaimAnswer& out) {
    looked_with_.clear();
    std::vector<std::vector<Knowledge>> all;
    if (also_all) all.push_back(of.known());
    for (const Model::Some& few : of.few_to_know({first_, second_}))
      for (const Knowledge others : {Knowledge::nothing, Knowledge::comparisons}) {
        std::vector<Knowledge> some = known_;
        for (std::size_t v = 0; v < some.size(); ++v)
          if (!few[v]) some[v] = others;
        Model model = of;
        model.know(some);
        if (model.known() != of.known()) add_once(all, model.known());
      }
    // What is less takes less, and is often enough.
    const auto rank = [](const std::vector<Knowledge>& known) {
      return std::pair(std::count(known.begin(), known.end(), Knowledge::nothing) * -1,
                       std::count(known.begin(), known.end(), Knowledge::values));
    };
    std::stable_sort(all.begin(), all.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
    return std::any_of(all.begin(), all.end(), [&](const std::vector<Knowledge>& known) {
      Model model = of;
      model.know(known);
      return can_by_reach(std::move(model), whole, out);
    });
  }

  [[nodiscard]] bool stays() const {
    std::vector<bool> seen(space_->edges().size(), false);
    std::vector<std::uint32_t> open;
    for (std::uint32_t e = 0; e < space_->edges().size(); ++e)
      if (first(edge(e)) != Truth::no) seen[e] = true, open.push_back(e);
    while (!open.empty()) {
      const std::uint32_t e = open.back();
      open.pop_back();
      if (second(edge(e)) != Truth::yes) return false;
      for (const std::uint32_t next : after(edge(e)))
        if (!seen[next]) seen[next] = true, open.push_back(next);
    }
    return true;
  }

  // Edges after which it is still waited for.
  [[nodiscard]] std::vector<std::uint32_t> waiting() const {
    std::vector<bool> seen(space_->edges().size(), false);
    std::vector<std::uint32_t> out;
    for (std::uint32_t e = 0; e < space_->edges().size(); ++e)
      if (first(edge(e)) != Truth::no && second(edge(e)) != Truth::yes) seen[e] = true, out.push_back(e);
    for (std::size_t i = 0; i < out.size(); ++i)
      for (const std::uint32_t next : after(edge(out[i])))
        if (!seen[next] && second(edge(next)) != Truth::yes) seen[next] = true, out.push_back(next);
    return out;
  }

  [[nodiscard]] bool reaches() {
    std::vector<Wait> all;
    const std::vector<std::uint32_t> edges = waiting();
    std::vector<bool> waits(space_->nodes().size(), false);
    for (const std::uint32_t e : edges) waits[edge(e).to] = true;
    for (const std::uint32_t e : edges) {
      const bool goes_on = edge(e).from != UINT32_MAX && waits[edge(e).from];
      const bool rests = parts_.may_be_done(space_->nodes()[edge(e).to].leaves);
      all.push_back({goes_on ? edge(e).from : UINT32_MAX, edge(e).to, edge(e).looped, rests, edge(e).fresh});
    }
    return over_in_time(parts_, space_->nodes(), all);
  }
  // The same where only the leaves are known in which it is waited.
  [[nodiscard]] bool over_in_time(Model& model, const std::vector<Waiting>& all) {
    constexpr std::uint64_t kAny = ~std::uint64_t{0};
    Configurations nodes(model, {});
    std::vector<Wait> waits;
    const Values variables = model.nothing_known();
    const auto node = [&](const Indices& leaves) { return nodes.add({leaves, variables}).first; };
    for (const Waiting& each : all) {
      Wait& wait = waits.emplace_back();
      if (!each.from.empty()) wait.from = node(each.from);
      wait.to = node(each.to);
      wait.looped = kAny;
      wait.rests = each.rests;
      for (std::size_t r = 0; r < each.to.size(); ++r)
        wait.fresh.push_back(r < 64 && (each.entered >> r & 1) != 0 ? std::uint16_t{0} : kNoIndex);
    }
    return over_in_time(model, nodes.all(), waits);
  }
  // Whether what is waited for comes in time.
  [[nodiscard]] bool over_in_time(const Model& model, const std::vector<Config>& nodes,
                                  const std::vector<Wait>& waits) {
    if (waits.empty()) return true;
    if (claim_.within.count == 0) return false;
    const std::size_t regions = model.machine().regions().size();
    for (std::uint16_t r = 0; r < regions && r < 64; ++r)
      if (const auto longest = longest_wait(model, nodes, waits, r, claim_.within)) {
        bounded_ = true;
        longest_ = longest;
        return true;
      }
    for (std::uint16_t r = 0; r < regions && r < 64; ++r)
      if (const auto later = longest_wait(model, nodes, waits, r, Ticks(claim_.within.count * 2)))
        later_ = std::min(*later, later_.value_or(*later));
    return false;
  }
  const MachineDef& def_;
  const ClaimDef& claim_;
  const ProofLimits& limits_;
  Model model_;                   // the whole machine
  Model parts_;                   // without what the claim does not hang on
  std::vector<Knowledge> known_;  // of variables, before anything is looked at
  Asked asked_;
  Term first_, second_;
  std::set<std::pair<std::vector<Knowledge>, bool>> looked_with_;  // of `can`: variables, and where rules lead back
  bool large_ = false;
  Space* space_ = nullptr;  // where all of it was looked at
  bool bounded_ = false;
  std::optional<Ticks> longest_;
  bool tried_space_ = false, runs_away_ = false;
  std::optional<Ticks> later_;  // until when it surely comes, where that is too late
};

}  // namespace

Proved answer_claim(const Model& model, const Model& parts, const ClaimDef& claim, const Claimed& claimed,
                    const ProofLimits& limits, bool large) {
  Prover prover(model, parts, claim, claimed, limits);
  Proved out{prover.run(large)};
  out.too_large = prover.was_too_large();
  return out;
}

}  // namespace proof

}  // namespace mobrin
