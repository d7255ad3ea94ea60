// What a question does not hang on at all: regions that go their own ways beside what it speaks of, and variables that
// nothing reads there. The model leaves them out, which changes nothing of what is asked. Rounds are counted for all
// regions together: one that never comes to rest ends an instant for all, but what settles has settled by then.
#include <algorithm>
#include <optional>

#include "model.hpp"

namespace mobrin::proof {

namespace {

// Gathers what terms hang on: what they read, what changes that, and what stirs or stops that.
class Together {
 public:
  Together(const Model& model, bool ends)
      : model_(model),
        ends_(ends),
        regions_(model.machine().regions().size(), false),
        variables_(model.variables().size(), false),
        cues_(model.machine().cues().size(), false),
        pulses_(model.machine().inputs().size(), false) {}

  Apart without(const std::vector<Term>& terms, std::optional<std::uint16_t> region) {
    for (const Term& term : terms) read(term);
    if (region) need(*region);
    do {
      more_ = false;
      for (const Rule& rule : model_.rules())
        if (rule.def != nullptr) is_with(rule.owner) ? follow(rule) : disturb(rule);
      for (std::uint16_t s = 0; s < model_.states().size(); ++s) is_with(s) ? follow(s) : disturb(s);
    } while (more_);
    Apart out{regions_, variables_};
    out.regions.flip();
    out.variables.flip();
    return out;
  }

 private:
  [[nodiscard]] const StateFacts& facts(std::uint16_t state) const { return model_.states()[state]; }
  [[nodiscard]] std::uint16_t owner_of(std::uint16_t region) const { return model_.machine().regions()[region].owner; }
  [[nodiscard]] bool is_with(std::uint16_t state) const { return state == 0 || regions_[facts(state).region]; }
  void set(std::vector<bool>& of, std::size_t at) {
    more_ = more_ || !of[at];
    of[at] = true;
  }
  // With it the regions it lies in.
  void need(std::uint16_t region) {
    set(regions_, region);
    if (owner_of(region) != 0) need(facts(owner_of(region)).region);
  }
  void need_state(std::uint16_t state) {
    if (state != 0) need(facts(state).region);
  }
  void read(const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::state) need_state(each.index);
      if (each.kind == Term::Kind::cue) set(cues_, each.index);
      if (each.kind == Term::Kind::variable) {
        set(variables_, each.index);
        need_state(model_.variables()[each.index].owner);
      }
      for (std::uint16_t s = 0; each.kind == Term::Kind::trait && s < model_.states().size(); ++s)
        if (model_.traits()[s][each.index]) need_state(s);
    });
  }
  // The region in which it ends, where that is one.
  [[nodiscard]] std::uint16_t region_of_target(const Rule& rule) const {
    return facts(rule.aim == Aim::back ? rule.owner : rule.target).region;
  }
  void follow(const std::vector<Action>& actions) {
    for (const Action& action : actions)
      if (action.variable != kNoIndex && variables_[action.variable] && action.value) read(*action.value);
  }
  void follow(const Rule& rule) {
    need(region_of_target(rule));
    if (rule.when) read(*rule.when);
    if (rule.pulse != kNoIndex) set(pulses_, rule.pulse);
    if (rule.cue != kNoIndex) set(cues_, rule.cue);
    follow(rule.actions);
  }
  void follow(std::uint16_t state) {
    for (const auto* actions : {&facts(state).enter, &facts(state).exit, &facts(state).each_loop}) follow(*actions);
  }
  [[nodiscard]] bool changes(const std::vector<Action>& actions) const {
    return std::any_of(actions.begin(), actions.end(), [&](const Action& action) {
      return (action.cue != kNoIndex && cues_[action.cue]) ||
             (action.variable != kNoIndex && variables_[action.variable]);
    });
  }
  // Of what lies elsewhere: it leads there, takes what is waited for there, or changes it.
  void disturb(const Rule& rule) {
    if (regions_[region_of_target(rule)] || (rule.pulse != kNoIndex && pulses_[rule.pulse]) || changes(rule.actions))
      need_state(rule.owner);
  }
  // Of what lies elsewhere: whether rules of what is needed may lead out of what is around it.
  [[nodiscard]] bool lies_in_one_that_may_be_left(std::uint16_t state) const {
    while (!is_with(state)) state = owner_of(facts(state).region);
    return state != 0;
  }
  // Of what lies elsewhere: it is told there, or stops what is around it.
  void disturb(std::uint16_t state) {
    const StateFacts& f = facts(state);
    bool does = (ends_ && f.final) || (f.sealed && lies_in_one_that_may_be_left(state)) || changes(f.enter) ||
                changes(f.exit) || changes(f.each_loop);
    for (const auto* told : {&f.cues, &f.entry_cues, &f.turn_cues})
      for (const std::uint16_t cue : *told) does = does || cues_[cue];
    if (does) need_state(state);
  }

  const Model& model_;
  const bool ends_;  // whether it matters that the machine is done
  std::vector<bool> regions_, variables_, cues_;
  std::vector<bool> pulses_;  // that rules there wait for
  bool more_ = false;
};

}  // namespace

Apart Model::apart_from(const std::vector<Term>& terms, std::optional<std::uint16_t> region, bool ends) const {
  return Together(*this, ends).without(terms, region);
}

void Model::take_notes_of(const Model& part) {
  for (const Rule& rule : part.rules_)
    if (rule.def != nullptr) notes_[rule.index] = part.notes_[rule.index];
  for (std::uint16_t s = 0; s < states_.size(); ++s) {
    entered_[s] = entered_[s] || part.entered_[s];
    rested_[s] = rested_[s] || part.rested_[s];
    left_[s] = left_[s] || part.left_[s];
  }
}

std::size_t Model::region_count() const {
  return static_cast<std::size_t>(std::count(left_out_.regions.begin(), left_out_.regions.end(), false));
}

void Model::know(const std::vector<Knowledge>& all) {
  known_ = all;
  for (std::uint16_t v = 0; v < variables_.size(); ++v)
    if (left_out_.variables[v]) known_[v] = Knowledge::nothing;
}

void Model::leave_out(const Apart& apart) {
  left_out_ = apart;
  know(std::vector<Knowledge>(known_));
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    StateFacts& facts = states_[s];
    if (!apart.regions[facts.region]) continue;
    facts.speed.reset();
    for (const std::uint32_t index : facts.rules) {
      rules_[index].def = nullptr;
      rules_[index].cue = rules_[index].pulse = kNoIndex;
    }
  }
  cut_by_rules();
}

}  // namespace mobrin::proof
