#include "claims.hpp"

#include <algorithm>
#include <functional>

#include "can.hpp"
#include "hints.hpp"
#include "loose.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "model_parts.hpp"
#include "reach.hpp"
#include "search.hpp"
#include "space.hpp"
#include "within.hpp"

namespace mobrin {

namespace proof {
namespace {

// Of what can be come to, for a claim: there are several ways to know variables.
std::size_t steps_of_a_claim(const ProofLimits& limits) { return limits.steps / 2 * 5; }

std::string seconds_text(Ticks ticks) { return detail::short_text(ticks.to_seconds(), 4) + " s"; }

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
  }

  // Whether the machine, as far as the claim hangs on it, was too large to look at all configurations.
  [[nodiscard]] bool was_too_large() const { return tried_space_ && space_ == nullptr; }

  // `large`: there are too many configurations to look at them all.
  ClaimAnswer run(bool large) {
    large_ = large;
    ClaimAnswer out;
    out.claim = claim_.name;
    if (holds_by_ranges(first_)) return answer(out, Answer::proved, ground());
    const std::vector<Knowledge> known = parts_.known();
    if (answered_loosely(out)) return out;
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
    if (space_ == nullptr && claim_.kind == ClaimKind::can)
      if (can_by_reach(parts_, whole, out)) return out;
    if (inexact && claim_.kind == ClaimKind::can && can_by_few(known, out)) return out;
    if (inexact && holds_in_parts()) return answer(out, Answer::proved, ground());
    if (holds_in_time()) return answer(out, Answer::proved, ground());
    if (refute(out)) return out;
    if (!inexact && claim_.kind == ClaimKind::can && can_by_few(known, out)) return out;
    std::string why = whole ? "" : "the machine has more configurations than the work limit allows; ";
    if (runs_away_) why += "it may never come to rest, which leaves much open: mend what is called runaway; ";
    if (tried_ == 0) return answer(out, Answer::open, why + "runs against such a claim are not looked for then");
    return answer(out, Answer::open, why + "no run against it among " + std::to_string(tried_) + " that were tried");
  }

 private:
  static constexpr const char* kNoInstant = "no first instant keeps what is assumed";
  [[nodiscard]] std::string never_true() const { return "\"" + claim_.first.text + "\" is never true"; }
  [[nodiscard]] bool timed() const {
    return (claim_.kind == ClaimKind::when || claim_.kind == ClaimKind::within) && claim_.within.count > 0;
  }
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
    std::vector<Term> parts;
    const detail::Op joins = claim_.kind == ClaimKind::never ? detail::Op::or_ : detail::Op::and_;
    const std::function<void(const Term&)> part = [&](const Term& term) {
      if (term.kind != Term::Kind::operation || term.op != joins) return parts.push_back(term);
      for (const Term& each : term.operands) part(each);
    };
    part(first_);
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
  // Whatever regions do of which it does not speak: where there are many they are as much as cannot be looked at.
  [[nodiscard]] bool answered_loosely(ClaimAnswer& out) {
    constexpr double kManyConfigurations = 100;
    if (most_configurations(parts_) < kManyConfigurations) return false;
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
        if (can_by_reach(model, whole, out)) return true;
        continue;
      }
      bool holds = holds_in(model);
      if (!holds) model.compare_times({first_, second_}, 4);
      if (!holds && model.has_times_to_compare()) holds = holds_in(model);
      if (holds) return answer(out, Answer::proved, ground()), true;
    }
    return false;
  }
  [[nodiscard]] bool holds_in(Model& model) {
    const Question question{asked_, claim_.kind, timed()};
    const Reach reach(model, steps_of_a_claim(limits_) / 4, &question);
    return reach.holds() && (asked_.assumed.empty() || reach.assumptions_kept()) &&
           (!conditional() || reach.first_met()) && over_in_time(model, reach.waiting());
  }
  // Of what is never or always so for all that inputs and variables may hold.
  [[nodiscard]] bool holds_by_ranges(const Term& term) const {
    if (conditional() || !def_.assumed.empty()) return false;
    const std::vector<Span> inputs = model_.any_inputs();
    const Values variables = model_.nothing_known();
    const Truth truth = proof::holds(term, View{&inputs, &variables});
    return truth == (claim_.kind == ClaimKind::never ? Truth::no : Truth::yes);
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
    std::vector<std::vector<std::uint32_t>> next(space_->nodes().size());
    for (const Edge& e : space_->edges()) {
      if (first(e) != Truth::no && second(e) != Truth::yes) nodes.insert(e.to);
      if (e.from != UINT32_MAX) next[e.from].push_back(e.to);
    }
    Can can(parts_, space_->configurations(), asked_, second_, limits_.steps, std::move(next));
    return !space_->runaway() && can.from_all({nodes.begin(), nodes.end()});
  }

  // The same where only what can be come to is known, not the ways there; whether that answers it.
  [[nodiscard]] bool can_by_reach(Model& model, bool& whole, ClaimAnswer& out) {
    const Question question{{asked_.assumed}, ClaimKind::can};
    const Reach reach(model, steps_of_a_claim(limits_), &question);
    whole = whole || reach.whole();
    if (!reach.whole() || reach.runaway()) return false;
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
  [[nodiscard]] bool can_by_few(const std::vector<Knowledge>& known, ClaimAnswer& out) {
    for (const Model::Some& few : parts_.few_to_know({first_, second_}))
      for (const Knowledge others : {Knowledge::comparisons, Knowledge::nothing}) {
        std::vector<Knowledge> some = known;
        for (std::size_t v = 0; v < some.size(); ++v)
          if (!few[v]) some[v] = others;
        if (some == known || some == parts_.known()) continue;
        Model model = parts_;
        model.know(some);
        bool whole = false;
        if (can_by_reach(model, whole, out)) return true;
        if (whole) break;  // less would say less
      }
    return false;
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
      all.push_back({goes_on ? edge(e).from : UINT32_MAX, edge(e).to, edge(e).looped, edge(e).fresh});
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
    return false;
  }
  // --- runs against it ---

  [[nodiscard]] bool refute(ClaimAnswer& out) {
    SearchLimits limits;
    limits.nodes = limits_.moments;
    limits.moves = limits_.moves;
    limits.memory_is_time = timed();
    for (const auto* list : {&asked_.before, &asked_.after})
      for (const Term& term : *list) limits.reads.push_back(&term);
    if (timed()) limits.patience = claim_.within + Ticks(705'600);
    if (space_ != nullptr) limits.hints = hints_against(*space_, parts_, claim_);
    std::vector<bool> no_hope;
    if (claim_.kind == ClaimKind::can) {
      if (space_ == nullptr) return false;
      no_hope = hopeless(*space_);
    }
    // First what likely has to do with it: where there is little to write, a run may be longer.
    std::vector<Term> terms = {first_};
    if (!claim_.second.empty()) terms.push_back(second_);
    SearchLimits narrow = limits;
    narrow.writes = model_.inputs_behind(terms);
    narrow.moves /= 4;
    const bool all = std::find(narrow.writes.begin(), narrow.writes.end(), false) == narrow.writes.end();
    if (!all && refute_within(narrow, no_hope, false, out)) return true;
    return refute_within(limits, no_hope, true, out);
  }

  [[nodiscard]] bool refute_within(const SearchLimits& limits, const std::vector<bool>& no_hope, bool closely,
                                   ClaimAnswer& out) {
    Search search(model_, limits);
    const auto look = [&](Seen& seen) { return watch(seen, search, no_hope); };
    auto found = search.run(look);
    tried_ += search.moves();
    if (!found && !search.exhausted()) {
      std::vector<bool> goals(model_.states().size(), false);
      Search::Numbers numbers;
      for (const Term* term : {&first_, &second_}) {
        each_term(*term, [&](const Term& each) {
          if (each.kind == Term::Kind::state) goals[each.index] = true;
        });
        add_numbers(*term, numbers);
      }
      search.prefer_new_states(goals, numbers);
      found = search.run(look);
      tried_ += search.moves();
    }
    if (!found && closely) {
      search.look_closer();
      found = search.run(look);
      tried_ += search.moves();
    }
    if (!found) return false;
    found = search.shorten(*found, look);
    Tape tape = search.tape_to(*found);
    if (!replays(model_, tape)) return false;
    out.answer = Answer::refuted;
    out.says = "at " + seconds_text(search.at(*found)) + ": " + found_;
    tape.name = claim_.name.text;
    out.tape = std::move(tape);
    return true;
  }

  Verdict watch(Seen& seen, const Search& search, const std::vector<bool>& no_hope) {
    if (search.breaks_assumed(seen)) return Verdict::ends;
    // Nothing settled: no instant of its own. Rounds on which something hangs are one.
    const bool round =
        seen.settles && std::any_of(seen.config.leaves.begin(), seen.config.leaves.end(), [&](auto leaf) {
          return leaf != kNoIndex && model_.machine().states()[leaf].uses_loops;
        });
    const bool quiet = seen.told.empty() && seen.press.empty() && seen.parent != UINT32_MAX && !round;
    const bool one = proof::holds(first_, reads_before(claim_.kind) ? seen.before : seen.after) == Truth::yes;
    const bool two = !claim_.second.empty() && proof::holds(second_, seen.after) == Truth::yes;
    const std::string first = "\"" + claim_.first.text + "\"", second = "\"" + claim_.second.text + "\"";
    const auto tell = [&](std::string words) {
      found_ = std::move(words);
      return Verdict::found;
    };
    const std::int64_t now = seen.instance.now().count;
    switch (claim_.kind) {
      case ClaimKind::never:
        return one ? tell(first + " is true") : Verdict::goes_on;
      case ClaimKind::always:
        return !one ? tell(first + " is not true") : Verdict::goes_on;
      case ClaimKind::once:
        if ((one || seen.memory != 0) && !two) return tell(second + " is not true");
        seen.memory = one || seen.memory != 0 ? 1 : 0;
        return Verdict::goes_on;
      case ClaimKind::next:
        // What came due and tells nothing may be an instant, or not: a window that opens where a rule stands.
        if (quiet && seen.settles && !one) seen.memory = 0;
        if (quiet) return Verdict::goes_on;
        if (seen.memory != 0 && !one && !two) return tell("neither " + first + " nor " + second + " is true");
        seen.memory = one ? 1 : 0;
        return Verdict::goes_on;
      case ClaimKind::when:
      case ClaimKind::within:
        if (claim_.within.count == 0)
          return one && !two ? tell(first + " was true, " + second + " is not") : Verdict::goes_on;
        if (seen.memory != 0 && now - (seen.memory - 1) > claim_.within.count)
          return tell(first + " was true at " + seconds_text(Ticks(seen.memory - 1)) + ", " + second +
                      " was not within " + seconds_text(claim_.within));
        if (!seen.settles) return Verdict::goes_on;
        if (two)
          seen.memory = 0;
        else if (one && seen.memory == 0)
          seen.memory = now + 1;
        return Verdict::goes_on;
      case ClaimKind::can: {
        if (!one || two) return Verdict::goes_on;
        const auto node = space_->configurations().find(parts_.abstracted(seen.config));
        return node && no_hope[*node] ? tell("no run leads from here to " + second) : Verdict::goes_on;
      }
    }
    return Verdict::goes_on;
  }

  const MachineDef& def_;
  const ClaimDef& claim_;
  const ProofLimits& limits_;
  Model model_;  // the whole machine
  Model parts_;  // without what the claim does not hang on
  Asked asked_;
  Term first_, second_;
  bool large_ = false;
  Space* space_ = nullptr;  // where all of it was looked at
  bool bounded_ = false;
  std::optional<Ticks> longest_;
  bool tried_space_ = false, runs_away_ = false;
  std::size_t tried_ = 0;
  std::string found_;
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
