// Claims: proved over the model, or refuted by a run of the engine.
#include <algorithm>
#include <functional>
#include <map>
#include <set>

#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "search.hpp"
#include "space.hpp"

namespace mobrin {

std::string_view text_of(Answer answer) {
  constexpr std::string_view kTexts[] = {"proved", "refuted", "open", "vacuous"};
  return kTexts[static_cast<std::size_t>(answer)];
}

namespace proof {
namespace {

std::string seconds_text(Ticks ticks) { return detail::short_text(ticks.to_seconds(), 4) + " s"; }

bool reads_before(ClaimKind kind) { return kind == ClaimKind::when; }

class Prover {
 public:
  Prover(const MachineDef& definition, const Machine& machine, const ClaimDef& claim, const ProofLimits& limits)
      : def_(definition), claim_(claim), limits_(limits), model_(definition, machine) {
    const Vocabulary names = model_.names_at(0, true);
    for (const Text& text : definition.assumed)
      asked_.assumed.push_back(*bind_term(text.text, names, detail::ExprWords::claim).term);
    first_ = *bind_term(claim.first.text, names, detail::ExprWords::claim).term;
    if (!claim.second.empty()) second_ = *bind_term(claim.second.text, names, detail::ExprWords::claim).term;
    (reads_before(claim.kind) ? asked_.before : asked_.after).push_back(first_);
    if (!claim.second.empty()) asked_.after.push_back(second_);
  }

  ClaimAnswer run() {
    ClaimAnswer out;
    out.claim = claim_.name;
    Limits limits;
    limits.steps = limits_.steps;
    const Space space(model_, asked_, limits);
    space_ = &space;
    if (space.whole()) {
      if (!space.assumptions_kept() && !asked_.assumed.empty())
        return answer(out, Answer::vacuous, "no first instant keeps what is assumed");
      const bool conditional = claim_.kind != ClaimKind::never && claim_.kind != ClaimKind::always;
      if (conditional && std::none_of(space.edges().begin(), space.edges().end(),
                                      [&](const Edge& edge) { return first(edge) != Truth::no; }))
        return answer(out, Answer::vacuous, "\"" + claim_.first.text + "\" is never true");
      if (holds()) return answer(out, Answer::proved, ground());
    }
    if (refute(out)) return out;
    std::string why = space.whole() ? "" : "the machine has more configurations than the work limit allows; ";
    return answer(out, Answer::open, why + "no run against it among " + std::to_string(tried_) + " that were tried");
  }

 private:
  static ClaimAnswer& answer(ClaimAnswer& out, Answer kind, std::string says) {
    out.answer = kind;
    out.says = std::move(says);
    return out;
  }
  [[nodiscard]] Truth first(const Edge& edge) const { return space_->answers(edge)[0]; }
  [[nodiscard]] Truth second(const Edge& edge) const { return space_->answers(edge)[1]; }
  [[nodiscard]] const Edge& edge(std::uint32_t index) const { return space_->edges()[index]; }
  [[nodiscard]] const std::vector<std::uint32_t>& after(const Edge& edge) const { return space_->out_of()[edge.to]; }

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
        return can();
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
    const std::vector<std::uint32_t> all = waiting();
    if (all.empty()) return true;
    if (claim_.within.count == 0) return false;
    const std::size_t regions = model_.machine().regions().size();
    for (std::uint16_t r = 0; r < regions && r < 64; ++r)
      if (const auto longest = longest_stay(all, r); longest && *longest <= claim_.within) {
        bounded_ = true;
        longest_ = longest;
        return true;
      }
    return false;
  }
  // The longest way through what a region may show meanwhile; empty where it has a ring or a state that may be stayed
  // in.
  [[nodiscard]] std::optional<Ticks> longest_stay(const std::vector<std::uint32_t>& all, std::uint16_t region) const {
    std::map<std::uint16_t, std::set<std::uint16_t>> next;
    std::vector<bool> waits(space_->nodes().size(), false);
    for (const std::uint32_t e : all) waits[edge(e).to] = true;
    const auto leaf = [&](std::uint32_t node) { return space_->nodes()[node].leaves[region]; };
    for (const std::uint32_t e : all) {
      const std::uint16_t to = leaf(edge(e).to);
      if (to == kNoIndex || !model_.stay(to)) return std::nullopt;
      next[to];
      if (edge(e).from != UINT32_MAX && waits[edge(e).from] && (edge(e).entered >> region & 1) != 0)
        next[leaf(edge(e).from)].insert(to);
    }
    std::map<std::uint16_t, std::optional<Ticks>> known;
    std::set<std::uint16_t> under_way;
    bool ring = false;
    const std::function<Ticks(std::uint16_t)> longest = [&](std::uint16_t at) -> Ticks {
      if (!under_way.insert(at).second) return ring = true, Ticks{};
      if (!known[at]) {
        Ticks most{};
        for (const std::uint16_t each : next[at]) most = std::max(most, longest(each));
        known[at] = *model_.stay(at) + most;
      }
      under_way.erase(at);
      return *known[at];
    };
    Ticks out{};
    std::vector<std::uint16_t> starts;
    for (const auto& [at, ways] : next) starts.push_back(at);
    for (const std::uint16_t at : starts) out = std::max(out, longest(at));
    return ring ? std::nullopt : std::optional(out);
  }
  // --- what can be reached ---

  [[nodiscard]] Truth second_at(std::uint32_t node, const std::vector<Span>& inputs) const {
    const Config& config = space_->nodes()[node];
    const std::vector<std::uint8_t> active = model_.active(config);
    const std::vector<Span>& variables = config.variables;
    const std::vector<Truth> silent(model_.machine().inputs().size(), Truth::no);
    const std::vector<Truth> quiet(model_.machine().cues().size(), Truth::no);
    return proof::holds(second_, View{&inputs, &variables, &active, &silent, &quiet, &model_.traits()});
  }
  [[nodiscard]] std::vector<Span> all_inputs() const {
    std::vector<Span> out;
    for (const auto& cells : model_.cells())
      out.push_back(cells.empty() ? Span{} : Span{cells.front().low, cells.back().high});
    return out;
  }
  [[nodiscard]] bool sets_a_speed(std::uint16_t input) const {
    bool reads = false;
    for (const StateFacts& state : model_.states())
      if (state.speed)
        each_term(*state.speed,
                  [&](const Term& term) { reads = reads || (term.kind == Term::Kind::input && term.index == input); });
    return reads;
  }
  // What a game may choose to write: each combination of parts, as far as they are few.
  [[nodiscard]] std::vector<std::vector<Span>> choices() const {
    std::vector<std::vector<Span>> out = {all_inputs()};
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
  [[nodiscard]] bool allowed(std::uint32_t node, const std::vector<Span>& inputs,
                             const std::vector<Truth>& written) const {
    const std::vector<std::uint8_t> active = model_.active(space_->nodes()[node]);
    const std::vector<Span>& variables = space_->nodes()[node].variables;
    return std::all_of(asked_.assumed.begin(), asked_.assumed.end(), [&](const Term& term) {
      return proof::holds(term, View{&inputs, &variables, &active, &written, nullptr, &model_.traits()}) == Truth::yes;
    });
  }

  // From every configuration that is asked for, the game can surely bring it about: first it holds its inputs still
  // until no press is pending, then it goes on from what is good.
  [[nodiscard]] bool can() {
    const std::size_t count = space_->nodes().size();
    if (count > 2'000 || space_->runaway()) return false;
    const std::vector<std::vector<Span>> values = choices();
    const auto pulses = model_.machine().inputs();
    std::vector<Truth> none(pulses.size(), Truth::no), pending = none;
    for (std::size_t i = 0; i < pulses.size(); ++i)
      if (const auto* pulse = std::get_if<PulseInput>(&pulses[i].kind); pulse != nullptr && pulse->buffer.count > 0)
        pending[i] = Truth::maybe;
    const std::vector<bool> good = good_nodes(values, none);
    std::vector<std::optional<bool>> known(count);
    return std::all_of(space_->edges().begin(), space_->edges().end(), [&](const Edge& e) {
      if (first(e) == Truth::no || second(e) == Truth::yes) return true;
      if (!known[e.to])
        known[e.to] = std::any_of(values.begin(), values.end(), [&](const std::vector<Span>& held) {
          return allowed(e.to, held, none) && settles_well(e.to, held, pending, good);
        });
      return *known[e.to];
    });
  }
  // From where the game can surely bring it about if no press is pending.
  [[nodiscard]] std::vector<bool> good_nodes(const std::vector<std::vector<Span>>& values,
                                             const std::vector<Truth>& none) const {
    const std::size_t count = space_->nodes().size();
    const std::vector<Span> any = all_inputs();
    std::vector<bool> good(count, false);
    for (std::uint32_t n = 0; n < count; ++n) good[n] = second_at(n, any) == Truth::yes;
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
  [[nodiscard]] bool written_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& press,
                                  const std::vector<Truth>& left, const std::vector<bool>& good) const {
    const auto ends = space_->outcomes(node, held, press, false);
    const bool pending = std::any_of(left.begin(), left.end(), [](Truth truth) { return truth != Truth::no; });
    return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Space::Outcome& end) {
             if (second_at(end.node, held) == Truth::yes) return true;
             return pending ? settles_well(end.node, held, left, good) : good[end.node];
           });
  }
  // While the inputs are held and presses run out, it comes to good configurations only.
  [[nodiscard]] bool settles_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& pending,
                                  const std::vector<bool>& good) const {
    std::set<std::uint32_t> seen;
    const auto first = space_->outcomes(node, held, pending, false);
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
      const auto next = space_->outcomes(n, held, pending, true);
      if (!next) return false;
      std::for_each(next->begin(), next->end(), add);
    }
    return true;
  }
  // If nothing but time comes, what a region shows is over in time, and what follows is good.
  [[nodiscard]] bool waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& none,
                                const std::vector<bool>& good) const {
    const std::vector<std::uint16_t>& leaves = space_->nodes()[node].leaves;
    for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
      if (leaves[r] == kNoIndex || !model_.stay_while(leaves[r], &held)) continue;
      std::set<std::uint32_t> seen = {node};
      std::vector<std::uint32_t> open = {node};
      bool well = true;
      const auto follow = [&](const std::optional<std::vector<Space::Outcome>>& ends) {
        if (!ends) well = false;
        for (std::size_t i = 0; ends && i < ends->size(); ++i) {
          const Space::Outcome& end = (*ends)[i];
          if (good[end.node] || second_at(end.node, held) == Truth::yes) continue;
          if (space_->nodes()[end.node].leaves[r] != leaves[r] || (end.entered >> r & 1) != 0)
            well = false;
          else if (seen.insert(end.node).second)
            open.push_back(end.node);
        }
      };
      follow(space_->outcomes(node, held, none, false));
      while (well && !open.empty() && seen.size() < 500) {
        const std::uint32_t n = open.back();
        open.pop_back();
        follow(space_->outcomes(n, held, none, true));
      }
      if (well && open.empty()) return true;
    }
    return false;
  }
  // Configurations from which no run leads to it.
  [[nodiscard]] std::vector<bool> hopeless() const {
    const std::size_t count = space_->nodes().size();
    std::vector<std::vector<std::uint32_t>> into(count);
    std::vector<bool> hope(count, false);
    std::vector<std::uint32_t> open;
    for (const Edge& e : space_->edges()) {
      if (e.from == UINT32_MAX) continue;
      into[e.to].push_back(e.from);
      if (second(e) != Truth::no && !hope[e.from]) hope[e.from] = true, open.push_back(e.from);
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

  // --- runs against it ---

  [[nodiscard]] bool refute(ClaimAnswer& out) {
    SearchLimits limits;
    limits.nodes = limits_.moments;
    limits.moves = limits_.moves;
    const bool timed = (claim_.kind == ClaimKind::when || claim_.kind == ClaimKind::within) && claim_.within.count > 0;
    limits.memory_is_time = timed;
    for (const auto* list : {&asked_.assumed, &asked_.before, &asked_.after})
      for (const Term& term : *list) limits.reads.push_back(&term);
    if (timed) limits.patience = claim_.within + Ticks(705'600);
    Search search(model_, limits);
    std::vector<bool> no_hope;
    if (claim_.kind == ClaimKind::can) {
      if (!space_->whole()) return false;
      no_hope = hopeless();
    }
    const auto found = search.run([&](Seen& seen) { return watch(seen, no_hope); });
    tried_ = search.moves();
    if (!found) return false;
    Tape tape = search.tape_to(*found);
    if (!replays(model_, tape)) return false;
    out.answer = Answer::refuted;
    out.says = "at " + seconds_text(search.at(*found)) + ": " + found_;
    tape.name = claim_.name.text;
    out.tape = std::move(tape);
    return true;
  }

  Verdict watch(Seen& seen, const std::vector<bool>& no_hope) {
    for (const Term& term : asked_.assumed)
      if (proof::holds(term, seen.before) == Truth::no) return Verdict::ends;
    // Nothing settled: no instant of its own.
    const bool quiet = seen.told.empty() && seen.press.empty() && seen.parent != UINT32_MAX;
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
        if (two)
          seen.memory = 0;
        else if (one && seen.memory == 0)
          seen.memory = now + 1;
        return Verdict::goes_on;
      case ClaimKind::can: {
        if (!one || two) return Verdict::goes_on;
        const auto node = space_->find(model_.abstracted(seen.config));
        return node && no_hope[*node] ? tell("no run leads from here to " + second) : Verdict::goes_on;
      }
    }
    return Verdict::goes_on;
  }

  const MachineDef& def_;
  const ClaimDef& claim_;
  const ProofLimits& limits_;
  Model model_;
  Asked asked_;
  Term first_, second_;
  const Space* space_ = nullptr;
  bool bounded_ = false;
  std::optional<Ticks> longest_;
  std::size_t tried_ = 0;
  std::string found_;
};

}  // namespace
}  // namespace proof

std::vector<ClaimAnswer> prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits) {
  std::vector<ClaimAnswer> out;
  for (const ClaimDef& claim : definition.claims)
    out.push_back(proof::Prover(definition, machine, claim, limits).run());
  return out;
}

}  // namespace mobrin
