// What is wrong with a machine's logic, found without running it. logic.cpp gathers and tells; logic_rules.cpp holds
// guards and rules against each other, logic_ways.cpp looks at what can be entered and left, logic_times.cpp at what
// comes too late, logic_uses.cpp at what nobody uses, logic_choices.cpp at what clips lack, logic_words.cpp at
// words that nobody looks for, logic_values.cpp at values that are hardly meant.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "guards.hpp"
#include "mobrin/check/logic.hpp"

namespace mobrin::check {

// Adds the names and words in a text.
void words_of(const std::string& text, std::set<std::string>& out);

// each(variable, the expression that is assigned to it)
template <class Each>
void each_assignment(const std::vector<ActionDef>& actions, const Each& each) {
  for (const ActionDef& action : actions) {
    const std::string& text = action.assign.text;
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) continue;
    std::set<std::string> variable;
    words_of(text.substr(0, equals), variable);
    if (!variable.empty()) each(*variable.begin(), text.substr(equals + 1));
  }
}

// A speed that is a constant; empty for an expression.
[[nodiscard]] std::optional<double> constant_speed(const StateDef& state);

// A state with all that is asked of it here.
struct StateView {
  const StateDef* def = nullptr;
  std::uint16_t index = 0;
  std::string path;
};

class Logic {
 public:
  Logic(const MachineDef& definition, const Machine& machine);
  std::vector<Finding> run();

 private:
  // --- what there is ---
  void gather(const StateDef& state, const std::string& path);
  [[nodiscard]] const StateInfo& info(std::uint16_t state) const { return machine_.states()[state]; }
  [[nodiscard]] bool within(std::uint16_t state, std::uint16_t of) const;
  // An ending: final, dead, or within one.
  [[nodiscard]] bool ending(std::uint16_t state) const;
  [[nodiscard]] bool seals_below(std::uint16_t owner) const;
  [[nodiscard]] const std::vector<std::uint32_t>& rules_of(std::uint16_t state) const { return rules_[state]; }
  // Those whose owner it is: of the root one without a name where it has no others.
  [[nodiscard]] const std::vector<const RegionInfo*>& regions_of(std::uint16_t state) const { return regions_[state]; }
  [[nodiscard]] const GoDef* go_of(std::uint32_t transition) const { return go_[transition]; }
  [[nodiscard]] std::string rule_words(std::uint32_t transition) const;
  [[nodiscard]] std::string line_words(std::uint32_t transition) const;

  // --- telling ---
  void tell(FindingCode code, Place place, const std::vector<Text>& accept, std::string message, std::string remedy,
            bool hint = false, const std::string& name = "");
  static std::string key_of(const Text& accept);
  void idle_accepts();

  // --- guards by themselves ---
  [[nodiscard]] bool told_of_cue(const std::string& cue) const;
  void guards();

  // --- rules against rules ---
  // Whether, wherever `below` holds, `above` holds too; both of one list or `above` further out.
  [[nodiscard]] std::optional<bool> above_holds(const GoDef& above, const GoDef& below);
  // Whether a rule that holds always decides while its owner's `leaf` is active: it is taken, or it stands in its list.
  [[nodiscard]] bool decides(std::uint32_t rule, const GoDef& go, std::uint16_t owner, bool same_list) const;
  void lists();
  // Rules that lead to what is active already.
  void rules_to_themselves();
  // `fade:` and `start: same` where what is left or entered has regions of its own.
  void lost_in_regions();
  // Whether it waits for nothing, and counts what its own guard asks for: then it counts on until that is false.
  [[nodiscard]] static bool counts_at_once(const GoDef& go);
  // Whether it stands in its list where its target is active, and passes the rest over.
  [[nodiscard]] static bool stands(const GoDef& go) {
    return go.pulse.empty() && go.cue.empty() && go.at != GoAt::loop;
  }
  [[nodiscard]] static bool leads_by_memory(const GoDef& go) {
    return go.to.text == "back" || go.to.text.ends_with("/last");
  }
  // Whether a rule above it in its list may stand while `state` is active: it passes the rest of the list over.
  [[nodiscard]] bool stands_before(std::uint32_t rule, std::uint16_t state) const;
  [[nodiscard]] bool sealed_between(std::uint16_t state, std::uint16_t outer) const;
  [[nodiscard]] bool split_between(std::uint16_t state, std::uint16_t outer) const;
  [[nodiscard]] bool asks_inputs_alone(const GoDef& go) const;

  // --- what can be entered ---
  void enter(std::uint16_t state);
  void enter_inside(std::uint16_t state);
  void reach();
  [[nodiscard]] bool inside_reached(std::uint16_t state) const;

  // --- what can be left ---
  void ways_out();
  [[nodiscard]] std::uint16_t leaf_of(std::uint16_t state) const;
  [[nodiscard]] bool play_ends(const StateDef& state) const;

  // --- what comes too late ---
  struct Leaving {
    std::uint32_t rule;
    double after;  // ticks from the entry on
  };
  struct Played {
    std::uint16_t clip;
    double from;  // ticks of the play before its first pass
    double speed;
    bool again;  // it was played before, in this very play
  };
  [[nodiscard]] std::optional<Leaving> leaves_by_itself(std::uint16_t leaf) const;
  [[nodiscard]] bool begins_within(std::uint16_t leaf) const;
  [[nodiscard]] std::vector<Played> played_forwards(const StateView& view) const;
  [[nodiscard]] bool too_late(const Played& played, const MarkDef& mark, const Leaving& leaving) const;
  [[nodiscard]] static std::string leaving_words(const Leaving& leaving);
  void cut_off();
  [[nodiscard]] std::optional<double> opens(const GoDef& go, const std::vector<Played>& played) const;
  void late_rules(const StateView& view, const Leaving& leaving, const std::vector<Played>& played);
  void one_way_marks();

  // --- two states that part at one value ---
  // `x < 5` as (x, 5, -1); the sign says on which side it is true.
  struct Edge {
    std::string input;
    double at = 0;
    int side = 0;
  };
  [[nodiscard]] std::optional<Edge> edge_of(const std::string& text) const;
  void flickers();

  // --- what is used ---
  void uses();
  void unused_reaches();
  // To what, without blanks, by variable.
  using Assigned = std::map<std::string, std::set<std::string>>;
  // What is never set, and what is set to one constant only. `read`: all names that something reads.
  void variables(const std::set<std::string>& read, const Assigned& assigned);
  [[nodiscard]] std::set<std::string> counted_to_an_end() const;

  // --- words that mean nothing as they are written ---
  void words();
  void words_of_cues();
  void look_at_kind(const CueDef& cue, const FieldDef& field);
  void words_of_boxes();
  // Tells that `what` is nearly the word `near`, unless that is empty.
  void misspelt(Place place, const std::vector<Text>& accept, const std::string& what, const std::string& word,
                const std::string& near, const std::string& does);

  // --- one pass with two blows ---
  void swings();

  // --- what a clip lacks that others like it have ---
  void replaced_marks();
  void choices();
  void uneven(const StateView& view, const std::vector<const ClipInfo*>& clips);
  void skipped_by_turns(const StateView& view, const std::vector<const ClipInfo*>& clips);

  // --- values that are hardly meant ---
  void values();
  void values_of_inputs();
  void values_of_times();
  void values_of_shapes();
  void pivot_as_share(const ClipInfo& clip);
  void hits_nobody();

  const MachineDef& def_;
  const Machine& machine_;
  std::vector<StateView> views_;
  std::map<std::string, std::uint16_t> index_;           // states by path
  std::vector<std::vector<std::uint32_t>> rules_;        // by state
  std::vector<std::vector<const RegionInfo*>> regions_;  // by state
  std::vector<const GoDef*> go_;                         // by transition
  std::vector<std::uint32_t> begin_later_;               // rules that do not begin what they lead to at its begin
  std::vector<Finding> out_;
  std::set<std::string> used_;
  std::vector<bool> never_, shadowed_, reached_;
  bool fades_tell_ = false;  // what fades out may go on telling, and fades that follow one another keep it for long
  std::size_t pairs_ = 0;
};

}  // namespace mobrin::check
