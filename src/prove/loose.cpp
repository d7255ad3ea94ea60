#include "loose.hpp"

#include <algorithm>
#include <functional>
#include <optional>
#include <set>
#include <utility>

#include "model_parts.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostStates = 100;  // of a region

// A region by itself: no other region lies in it, and it lies in none.
class Alone {
 public:
  Alone(const Model& model, std::uint16_t region) : model_(model), region_(region) {}

  [[nodiscard]] bool may_be_loose(const std::vector<Term>& asked) const {
    if (model_.machine().regions()[region_].owner != 0) return false;
    std::size_t states = 0;
    for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
      const StateFacts& facts = model_.states()[s];
      if (facts.region != region_) continue;
      if (facts.final || !facts.regions.empty() || ++states > kMostStates) return false;
    }
    return keeps_to_itself() && !is_heard(asked);
  }

  // How many rounds of a settling it changes in at most; empty where that may go on for ever. What waits for time or
  // an end is taken first or never, as whatever is entered is fresh; what waits for a press, once each.
  [[nodiscard]] std::optional<std::size_t> most_rounds() {
    std::set<std::uint16_t> presses, owners;
    for (const Rule& rule : model_.rules()) {
      if (rule.def == nullptr || !is_here(rule.owner)) continue;
      if (rule.event == Event::pulse) presses.insert(rule.pulse);
      if (waits_around(rule)) owners.insert(rule.owner);
    }
    specials_ = presses.size() + owners.size();
    std::size_t most = 0;
    for (std::uint16_t leaf = 1; leaf < model_.states().size(); ++leaf) {
      if (!is_here(leaf) || !model_.states()[leaf].children.empty()) continue;
      const auto without = rounds_from(leaf, specials_);
      if (!without) return std::nullopt;
      most = std::max(most, *without);
      bool endless = false;
      each_way(leaf, [&](const Rule& rule, std::uint16_t to) {
        if (!first_only(rule)) return;
        const auto then = rounds_from(to, specials_);
        endless = endless || !then;
        most = std::max(most, 1 + then.value_or(0));
      });
      if (endless) return std::nullopt;
    }
    return most;
  }

 private:
  [[nodiscard]] bool is_here(std::uint16_t state) const {
    return state != 0 && model_.states()[state].region == region_;
  }
  // No rule leads in from elsewhere, or out.
  [[nodiscard]] bool keeps_to_itself() const {
    return std::all_of(model_.rules().begin(), model_.rules().end(), [&](const Rule& rule) {
      return rule.def == nullptr || rule.aim == Aim::back || is_here(rule.owner) == is_here(rule.target);
    });
  }
  // What it tells and the presses that it takes matter elsewhere.
  [[nodiscard]] bool is_heard(const std::vector<Term>& asked) const {
    std::set<std::uint16_t> told, taken;
    const auto tells = [&](const std::vector<Action>& actions) {
      for (const Action& action : actions)
        if (action.cue != kNoIndex) told.insert(action.cue);
    };
    for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
      if (!is_here(s)) continue;
      const StateFacts& facts = model_.states()[s];
      for (const auto* actions : {&facts.enter, &facts.exit, &facts.each_loop}) tells(*actions);
      for (const auto* cues : {&facts.cues, &facts.entry_cues, &facts.turn_cues})
        told.insert(cues->begin(), cues->end());
    }
    for (const Rule& rule : model_.rules()) {
      if (rule.def == nullptr || !is_here(rule.owner)) continue;
      tells(rule.actions);
      if (rule.pulse != kNoIndex) taken.insert(rule.pulse);
    }
    bool out = false;
    for (const Term& term : asked)
      each_term(term, [&](const Term& each) {
        out = out || (each.kind == Term::Kind::cue && told.count(each.index) > 0) ||
              (each.kind == Term::Kind::pulse && taken.count(each.index) > 0);
      });
    return out || std::any_of(model_.rules().begin(), model_.rules().end(), [&](const Rule& rule) {
             return rule.def != nullptr && !is_here(rule.owner) &&
                    (told.count(rule.cue) > 0 || taken.count(rule.pulse) > 0);
           });
  }

  // Whether what is around a leaf is over in time: it may be so in a later round, too.
  [[nodiscard]] bool waits_around(const Rule& rule) const {
    return rule.event == Event::after && !model_.states()[rule.owner].children.empty();
  }
  [[nodiscard]] bool first_only(const Rule& rule) const {
    if (rule.event == Event::end) return !ends_at_once();
    return rule.event == Event::loop || (rule.event == Event::after && !waits_around(rule));
  }
  // Whether a play may stand at its end as it begins.
  [[nodiscard]] bool ends_at_once() const {
    for (std::uint16_t s = 1; s < model_.states().size(); ++s)
      if (is_here(s) && model_.states()[s].turns) return true;
    return std::any_of(model_.rules().begin(), model_.rules().end(), [&](const Rule& rule) {
      return rule.def != nullptr && is_here(rule.owner) && rule.def->start.kind != StartKind::begin;
    });
  }
  [[nodiscard]] std::uint16_t leaf_of(std::uint16_t state) const {
    while (model_.states()[state].initial != kNoIndex) state = model_.states()[state].initial;
    return state;
  }
  // The rules that may be taken in a leaf, and the leaves to which they lead.
  void each_way(std::uint16_t leaf, const std::function<void(const Rule&, std::uint16_t)>& visit) const {
    for (std::uint16_t up = leaf; up != 0; up = model_.states()[up].parent)
      for (const std::uint32_t index : model_.states()[up].rules) {
        const Rule& rule = model_.rules()[index];
        if (rule.def == nullptr) continue;
        if (rule.aim == Aim::state) {
          if (rule.def->restart || !model_.within(leaf, rule.target)) visit(rule, leaf_of(rule.target));
          continue;
        }
        for (std::uint16_t s = 1; s < model_.states().size(); ++s)
          if (is_here(s) && model_.states()[s].children.empty()) visit(rule, s);
      }
  }
  // Rounds that may follow in a leaf that was just entered, while so many rules may be taken that are not taken again.
  std::optional<std::size_t> rounds_from(std::uint16_t leaf, std::size_t specials) {
    const auto [known, fresh] = rounds_.try_emplace({leaf, specials});
    if (!fresh) return known->second;  // empty while it is looked at: then it leads round
    std::optional<std::size_t> most = 0;
    each_way(leaf, [&](const Rule& rule, std::uint16_t to) {
      const bool special = rule.event == Event::pulse || waits_around(rule);
      if (!most || first_only(rule) || (special && specials == 0)) return;
      const auto then = rounds_from(to, specials - (special ? 1 : 0));
      most = then ? std::optional<std::size_t>(std::max(*most, 1 + *then)) : std::nullopt;
    });
    rounds_[{leaf, specials}] = most;
    return most;
  }

  const Model& model_;
  std::uint16_t region_;
  std::size_t specials_ = 0;
  std::map<std::pair<std::uint16_t, std::size_t>, std::optional<std::size_t>> rounds_;
};

}  // namespace

void note_regions(const Model& model, const Term& term, std::vector<bool>& regions) {
  const auto& states = model.states();
  const auto assigns = [](const std::vector<Action>& actions, std::uint16_t variable) {
    return std::any_of(actions.begin(), actions.end(),
                       [&](const Action& action) { return action.variable == variable; });
  };
  each_term(term, [&](const Term& each) {
    if (each.kind == Term::Kind::state && each.index != 0) regions[states[each.index].region] = true;
    for (std::uint16_t s = 1; each.kind == Term::Kind::trait && s < states.size(); ++s)
      if (model.traits()[s][each.index]) regions[states[s].region] = true;
    if (each.kind != Term::Kind::variable) return;
    for (std::uint16_t s = 1; s < states.size(); ++s)
      if (s == model.variables()[each.index].owner || assigns(states[s].enter, each.index) ||
          assigns(states[s].exit, each.index) || assigns(states[s].each_loop, each.index))
        regions[states[s].region] = true;
    for (const Rule& rule : model.rules())
      if (rule.owner != 0 && assigns(rule.actions, each.index)) regions[states[rule.owner].region] = true;
  });
}

std::vector<bool> regions_before(const Model& model, const std::vector<Term>& asked) {
  std::vector<bool> states(model.states().size(), false), out(model.machine().regions().size(), false);
  for (const Term& term : asked)
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::state) states[each.index] = true;
    });
  for (const Rule& rule : model.rules())
    if (rule.def != nullptr && rule.when && rule.aim == Aim::state && states[rule.target])
      note_regions(model, *rule.when, out);
  return out;
}

std::vector<bool> loose_regions(const Model& model, const std::vector<Term>& asked, std::vector<bool> kept) {
  const std::size_t regions = model.machine().regions().size();
  kept.resize(regions, false);
  for (const Term& term : asked) note_regions(model, term, kept);
  std::vector<bool> out(regions, false);
  for (std::uint16_t r = 0; r < regions; ++r) {
    if (kept[r] || model.left_out().regions[r]) continue;
    Alone alone(model, r);
    out[r] = alone.may_be_loose(asked) && alone.most_rounds();
  }
  return out;
}

double most_configurations(const Model& model) {
  std::vector<double> leaves(model.machine().regions().size(), 0);
  for (std::uint16_t s = 1; s < model.states().size(); ++s)
    if (model.states()[s].children.empty()) ++leaves[model.states()[s].region];
  double out = 1;
  for (std::size_t r = 0; r < leaves.size(); ++r)
    if (!model.left_out().regions[r]) out *= std::max(leaves[r], 1.0);
  return out;
}

void Model::take_notes_of(const std::vector<Model>& looked, const std::vector<std::size_t>& of_rule) {
  for (const Rule& rule : rules_)
    if (rule.def != nullptr) notes_[rule.index] = looked[of_rule[rule.index]].notes_[rule.index];
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    if (leaves_out(s)) continue;
    entered_[s] = rested_[s] = true;
    for (const Model& each : looked) {
      if (each.leaves_out(s)) continue;
      entered_[s] = entered_[s] && each.entered_[s];
      rested_[s] = rested_[s] && each.rested_[s];
      left_[s] = left_[s] || each.left_[s];
    }
  }
}

void Model::loosen(const std::vector<bool>& regions) {
  Apart apart = left_out_;
  for (std::uint16_t r = 0; r < regions.size(); ++r) {
    if (!regions[r]) continue;
    apart.regions[r] = true;
    loose_rounds_ += Alone(*this, r).most_rounds().value_or(0);
    for (std::uint16_t s = 1; s < states_.size(); ++s)
      if (states_[s].region == r) loose_.push_back(s);
  }
  const auto forget = [&](const std::vector<Action>& actions) {
    for (const Action& action : actions)
      if (action.variable != kNoIndex) apart.variables[action.variable] = true;
  };
  for (const std::uint16_t s : loose_) {
    for (const auto* actions : {&states_[s].enter, &states_[s].exit, &states_[s].each_loop}) forget(*actions);
    for (const std::uint16_t variable : states_[s].variables) apart.variables[variable] = true;
    for (const std::uint32_t rule : states_[s].rules) forget(rules_[rule].actions);
  }
  leave_out(apart);
}

}  // namespace mobrin::proof
