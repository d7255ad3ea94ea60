// Rounds that bring something about little by little: `moist = max(moist - 0.5, 0)` leads below 20 from any value, as
// each round takes some of it, however many values there are; also in a state that is left after a time, if there is
// time for as many rounds as that takes.
#include <algorithm>
#include <cmath>

#include "can.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

constexpr double kMostPieces = 512;  // of a variable's range, each looked at by itself

// The parts of a range, the values of a whole variable one by one if they are not too many; none where it has no end.
std::vector<Span> pieces_of(const Span& all, bool whole) {
  if (!std::isfinite(all.low) || !std::isfinite(all.high)) return {};
  if (all.point()) return {all};
  const double size = whole ? std::floor((all.high - all.low) / kMostPieces) + 1 : (all.high - all.low) / kMostPieces;
  std::vector<Span> out;
  for (double low = all.low; low <= all.high && static_cast<double>(out.size()) < kMostPieces; low += size)
    out.push_back({low, whole ? low + size - 1 : low + size});
  out.back().high = all.high;
  return out;
}

}  // namespace

bool Model::only_rounds_assign(std::uint16_t variable, std::uint16_t leaf) const {
  const auto assigns = [&](const std::vector<Action>& actions) {
    return std::any_of(actions.begin(), actions.end(),
                       [&](const Action& action) { return action.variable == variable; });
  };
  const std::uint16_t region = states_[leaf].region;
  for (const Rule& rule : rules_)
    if (rule.def != nullptr && assigns(rule.actions) &&
        (rule.aim != Aim::state || states_[rule.target].region != region))
      return false;
  for (std::uint16_t s = 0; s < states_.size(); ++s) {
    const StateFacts& facts = states_[s];
    // What is around several regions comes round with each of them.
    const bool here = s == 0 ? machine_.regions().size() == 1 : facts.region == region;
    if (!here && (assigns(facts.enter) || assigns(facts.exit) || assigns(facts.each_loop))) return false;
  }
  return true;
}

Span Model::after_a_round(const Config& config, std::uint16_t region, const std::vector<Span>& inputs,
                          std::uint16_t variable, const Span& before) const {
  Values values = config.variables;
  values[variable] = before;
  const Flags active = this->active(config);
  for (std::uint16_t up = config.leaves[region]; up != kNoIndex; up = states_[up].parent) {
    for (const Action& action : states_[up].each_loop)
      if (action.variable != kNoIndex)
        values[action.variable] =
            action.value ? stored(variables_[action.variable],
                                  compute(*action.value, View{&inputs, &values, &active, nullptr, nullptr, &traits_}))
                         : variables_[action.variable].range;
    if (up == 0 || states_[up].region != region) break;
  }
  return values[variable];
}

void Can::find_charges() {
  charges_.assign(model_.states().size(), false);
  for (const Rule& rule : model_.rules()) {
    const StateFacts& facts = model_.states()[rule.owner];
    if (rule.def == nullptr || rule.event != Event::after || !facts.children.empty() || !facts.may_loop) continue;
    for (std::uint16_t up = rule.owner; up != kNoIndex; up = up == 0 ? kNoIndex : model_.states()[up].parent)
      if (!model_.states()[up].each_loop.empty()) charges_[rule.owner] = true;
  }
}

// After how many rounds of what a region shows all of these are left, where each round takes something of a variable,
// or each adds to it. While one is in them the inputs are held.
std::optional<double> Can::rounds_in(const std::set<std::uint32_t>& nodes, std::uint16_t region,
                                     const std::vector<Span>& held) const {
  const std::uint16_t leaf = config(*nodes.begin()).leaves[region];
  for (std::uint16_t v = 0; v < model_.variables().size(); ++v) {
    const Variable& variable = model_.variables()[v];
    if (variable.kind == Variable::Kind::truth || model_.known()[v] == Knowledge::nothing ||
        !model_.only_rounds_assign(v, leaf))
      continue;
    Span all = config(*nodes.begin()).variables[v];
    for (const std::uint32_t n : nodes)
      all = {std::min(all.low, config(n).variables[v].low), std::max(all.high, config(n).variables[v].high)};
    double less = HUGE_VAL, more = HUGE_VAL;  // that a round takes, or adds, at least
    for (const std::uint32_t n : nodes) {
      const std::vector<Span> pieces = pieces_of(config(n).variables[v], variable.kind == Variable::Kind::whole);
      if (pieces.empty()) less = more = 0;
      for (const Span& piece : pieces) {
        if (less <= 0 && more <= 0) break;
        const Span after = model_.after_a_round(config(n), region, held, v, piece);
        if (after.high < all.low || after.low > all.high) continue;  // they are left
        less = std::min(less, piece.low - after.high);
        more = std::min(more, after.low - piece.high);
      }
    }
    const double step = std::max(less, more);
    if (step > 0) return std::floor((all.high - all.low) / step) + 1;
  }
  return std::nullopt;
}

// Whether it comes to something good by rounds of what a region has just begun, before its timers are over.
bool Can::charges_well(std::uint32_t node, std::uint16_t region) {
  const std::uint16_t leaf = config(node).leaves[region];
  if (!charging_ || !charges_[leaf]) return false;
  Truths early(model_.rules().size(), Truth::maybe);
  Ticks soonest{INT64_MAX};
  for (const std::uint32_t index : model_.states()[leaf].rules) {
    const Rule& rule = model_.rules()[index];
    if (rule.def == nullptr || rule.event != Event::after) continue;
    early[index] = Truth::no;
    soonest = std::min(soonest, *rule.def->after);
  }
  for (const std::vector<Span>& held : choices(node, std::min(breadth_, Breadth::near))) {
    const auto round = model_.longest_round(leaf, &held);
    if (!round || !rounds_in({node}, region, held) || !allowed(node, held, none_)) continue;
    const auto there = waits_in(node, region, held, early);
    if (!there) continue;
    if (there->empty()) return true;
    const auto rounds = rounds_in({there->begin(), there->end()}, region, held);
    if (rounds && *rounds * static_cast<double>((*round + kSurely).count) < static_cast<double>(soonest.count))
      return true;
  }
  return false;
}

}  // namespace mobrin::proof
