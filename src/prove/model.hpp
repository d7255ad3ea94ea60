// A machine as proofs see it: what may be active and what variables may hold, with time and inputs left free. Whatever
// the engine can do, the model can; it may be able to do more.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "guard_facts.hpp"
#include "model_facts.hpp"

namespace mobrin::proof {

class Model {
 public:
  // REQUIRES: `definition` compiled to `machine` without errors; both outlive the model.
  Model(const MachineDef& definition, const Machine& machine);

  [[nodiscard]] const MachineDef& definition() const { return def_; }
  [[nodiscard]] const Machine& machine() const { return machine_; }
  [[nodiscard]] const std::vector<StateFacts>& states() const { return states_; }
  [[nodiscard]] const std::vector<Rule>& rules() const { return rules_; }
  [[nodiscard]] const std::vector<Variable>& variables() const { return variables_; }
  [[nodiscard]] const std::vector<std::vector<bool>>& traits() const { return traits_; }
  [[nodiscard]] bool within(std::uint16_t state, std::uint16_t of) const;
  [[nodiscard]] bool ending(std::uint16_t state) const;
  // Whether one of these leaves is final: once its play is over the machine rests for ever, wherever else it is.
  [[nodiscard]] bool may_be_done(const Indices& leaves) const;
  // The same until it is left; not while what lingers is surely too young, where times are compared.
  [[nodiscard]] bool may_be_done_meanwhile(const Config& config) const;
  [[nodiscard]] const StateDef* definition_of(std::uint16_t state) const { return defs_[state]; }

  // On which nothing hangs of what these terms come to, in any run: what is active and assigned there changes nothing
  // elsewhere. `region`: one that is asked for as a whole. `ends`: whether that the machine is done there changes
  // something.
  [[nodiscard]] Apart apart_from(const std::vector<Term>& terms, std::optional<std::uint16_t> region = {},
                                 bool ends = true) const;
  // From now on nothing is ever active in these regions, and nothing is known of these variables. REQUIRES: they are
  // apart from all that is asked of the model.
  void leave_out(const Apart& apart);
  [[nodiscard]] const Apart& left_out() const { return left_out_; }
  // False of the root, and of no state.
  [[nodiscard]] bool leaves_out(std::uint16_t state) const {
    return state != 0 && state != kNoIndex && left_out_.regions[states_[state].region];
  }
  // How many are not left out.
  [[nodiscard]] std::size_t region_count() const;
  // From now on nothing is known of what is active in these regions, nor of variables that are assigned there; they
  // count as left out. REQUIRES: loose_regions() names them.
  void loosen(const std::vector<bool>& regions);
  // Rounds of a settling in which only what is loose changes: at most so many.
  [[nodiscard]] std::size_t loose_rounds() const { return loose_rounds_; }

  // From now on so much is known of rules, by rule, beside what follows from the moment: `no` is not taken, of `yes`
  // the window is open. Empty: nothing.
  void suppose(Truths known) { supposed_ = std::move(known); }
  // While a settling may not come to rest, not even what holds between two instants is sure.
  void set_unruly(bool unruly) { unruly_ = unruly; }
  [[nodiscard]] bool unruly() const { return unruly_; }

  // What the names of an expression stand for that stands at `owner`; of a claim at the root, where every state is
  // known by its own name too.
  [[nodiscard]] Vocabulary names_at(std::uint16_t owner, bool claim = false) const;

  // What the machine assumes, but for what cannot be read.
  [[nodiscard]] std::vector<Term> assumed() const;

  // Where the inputs' ranges are cut so that no comparison with a constant changes within a part.
  void cut(const Term& term);
  [[nodiscard]] const std::vector<std::vector<Span>>& cells() const;
  // The same with the values that are compared with apart from those beside them.
  [[nodiscard]] const std::vector<std::vector<Span>>& fine_cells() const;
  // The same, cut by what actions compare as well, and by the clips that choices pick: by input.
  [[nodiscard]] std::vector<std::vector<Span>> cells_to_write() const;
  // By input: an action compares it with a constant.
  [[nodiscard]] std::vector<bool> compared_by_actions() const;
  // By input: a guard holds it against another input, or a variable.
  [[nodiscard]] std::vector<bool> related_inputs() const;
  // What inputs may hold where nothing is known of them.
  [[nodiscard]] std::vector<Span> any_inputs() const;

  [[nodiscard]] Flags active(const Config& config) const;
  // What a variable holds on entry, and counts as while its state is not active.
  [[nodiscard]] Span started(std::uint16_t variable) const;
  [[nodiscard]] Values at_start() const;
  // No variable known.
  [[nodiscard]] Values nothing_known() const;
  void know(std::uint16_t variable, Knowledge how) { known_[variable] = how; }
  void know(const std::vector<Knowledge>& all);                                 // but of what is left out
  [[nodiscard]] const std::vector<Knowledge>& known() const { return known_; }  // by variable
  // Known as well by what it is compared with as by each value.
  [[nodiscard]] bool counts_up(std::uint16_t variable) const;
  // Between which of the values that it is compared with a variable lies.
  [[nodiscard]] Span cell_of(std::uint16_t variable, const Span& value) const;
  // Of some variable, but for those that are left out, not each value.
  [[nodiscard]] bool knows_less() const;
  // Variables on which it may hang what these terms come to: those that they read, those that are assigned to them, and
  // so on. `guards`: also those that the guards of rules read which assign one.
  [[nodiscard]] std::vector<bool> variables_behind(const std::vector<Term>& terms, bool guards) const;
  // The same, and those that the guards of rules read which lead to a state of which they speak, or to a cue: all of
  // them, each alone, and none.
  using Some = std::vector<bool>;  // by variable
  [[nodiscard]] std::vector<Some> few_to_know(const std::vector<Term>& terms) const;
  // Inputs that likely change what these terms come to, and lead to a state, or to where a rule is taken: others may as
  // well, by ways that are longer. `one_way`: those of one way alone, of the fewest rules.
  [[nodiscard]] std::vector<bool> inputs_behind(const std::vector<Term>& terms, std::uint16_t state = 0,
                                                bool one_way = false) const;
  [[nodiscard]] std::vector<bool> inputs_behind(const Rule& rule, bool one_way = false) const;
  // Whether it is known where rules lead back: if not, wherever they may.
  void remember(bool remembers) { remembers_ = remembers; }
  [[nodiscard]] bool remembers() const { return remembers_ && !memories_.empty(); }
  [[nodiscard]] const std::vector<Memory>& memories() const { return memories_; }
  // From now on compares timers with what else takes its time: those of regions of which these terms speak, and of
  // which guards speak that lead to states of which they do. There are none if nothing is compared. Each is counted in
  // so many steps, rounded up.
  void compare_times(const std::vector<Term>& asked, std::uint16_t steps);
  [[nodiscard]] bool has_times_to_compare() const { return !clocks_.empty(); }
  // As the model tells configurations apart.
  [[nodiscard]] Config abstracted(Config config) const;
  void enter_once(std::uint16_t state) { entered_[state] = true; }
  void leave_once(std::uint16_t state) { left_[state] = true; }
  // Whether a state was left for the first time since this was asked last: `back` may lead to it.
  [[nodiscard]] bool take_grown();
  // How long a leaf is stayed in at most: its play ends or its time is over, and then a rule surely leads on.
  [[nodiscard]] std::optional<Ticks> stay(std::uint16_t leaf) const {
    return states_[leaf].children.empty() ? states_[leaf].stay : std::nullopt;
  }
  // How long a state that has others inside is stayed in at most, whichever of them is active.
  [[nodiscard]] std::optional<Ticks> stay_in(std::uint16_t state) const {
    return states_[state].children.empty() ? std::nullopt : states_[state].stay;
  }
  // The same of a leaf while the inputs are held, and while all else is as it is `known` to be, if that is given: for
  // as long as it is so at some time after.
  // `lasting`: also where that comes to be so only later; what comes as a play comes round, or at a cue, is missed
  // then.
  [[nodiscard]] std::optional<Ticks> stay_while(std::uint16_t leaf, const std::vector<Span>* held,
                                                const Config* known = nullptr, bool lasting = false) const;
  // All speeds that a leaf's expression may give with these inputs (null: any); nothing without one.
  [[nodiscard]] std::optional<Span> speeds_of(std::uint16_t state, const std::vector<Span>* held) const;
  // What it plays: one clip, several in turn, or one of several by an input. Nothing of a blend, or where it stands
  // still.
  [[nodiscard]] std::vector<const ClipInfo*> clips_of(std::uint16_t state) const;
  // Of a blend the one clip that is shown while the inputs are held; null where there are several, or it is not known.
  [[nodiscard]] const ClipInfo* blended_clip(std::uint16_t state, const std::vector<Span>& held) const;
  // Which way what is entered while the inputs are held runs, from its begin if a rule says nothing else.
  [[nodiscard]] Course course_of(std::uint16_t leaf, const std::vector<Span>& held) const;
  // Whether each pass of what it plays runs one way, so that it is known what is where for who runs backward.
  [[nodiscard]] bool may_run_backward(std::uint16_t state) const;
  // Whether what loops for ever goes on one way all the while that the inputs are held.
  [[nodiscard]] bool goes_round(std::uint16_t leaf, const std::vector<Span>& held) const;
  // How long after it was entered a leaf has come to a place of its clip, or length, in the first round: at most so
  // long while the inputs are held. Empty where it may stand, or does not run one way from its begin; `course`: the
  // way in which it did begin there, though its speed may have either sign.
  [[nodiscard]] std::optional<Ticks> comes_to(std::uint16_t leaf, Ticks place, const std::vector<Span>& held,
                                              Course course) const;
  [[nodiscard]] bool entered(std::uint16_t state) const { return entered_[state]; }
  // Whether a settling that was looked at may end while the state is active.
  [[nodiscard]] bool rested(std::uint16_t state) const { return rested_[state]; }
  // How long its play takes at most to end, at whatever speeds these inputs bring (null: any); empty where it may stand
  // or turn.
  [[nodiscard]] std::optional<Ticks> longest_play(std::uint16_t state, const std::vector<Span>* held) const;
  // The same of a play that goes on for ever: until it comes round next.
  [[nodiscard]] std::optional<Ticks> longest_round(std::uint16_t state, const std::vector<Span>* held) const;

  // Whether nothing but rounds changes a variable while a leaf is active.
  [[nodiscard]] bool only_rounds_assign(std::uint16_t variable, std::uint16_t leaf) const;
  // What it holds after a round of what a region shows, where it held one of these.
  [[nodiscard]] Span after_a_round(const Config& config, std::uint16_t region, const std::vector<Span>& inputs,
                                   std::uint16_t variable, const Span& before) const;

  // How many rules at least lead from each state to what lies in one of these, whatever their guards and events say; at
  // most `most`.
  [[nodiscard]] std::vector<std::uint32_t> distances_to(const std::vector<bool>& goals, std::uint32_t most) const;

  // The first moment of a run: all initial states are entered.
  [[nodiscard]] Moment begin(const std::vector<Span>& inputs);
  // An instant begins: what is told by clips may be seen.
  // `timed`: it is time that brings it. What the game writes comes after what was told at the same tick.
  [[nodiscard]] Moment instant(const Config& config, const Truths& pulses, const Truths& looped,
                               const std::vector<Span>& inputs, bool timed);

  // The moments that it may be: what is done as plays come round may lead to several.
  [[nodiscard]] std::vector<Moment> instants(const Config& config, const Truths& pulses, const Truths& looped,
                                             const std::vector<Span>& inputs, bool timed);

  // Which plays may come round at one instant: by region, each choice of them.
  [[nodiscard]] std::vector<Truths> loops_of(const Config& config) const;
  // What may be alive of the pulses where time brings an instant: those with a buffer.
  [[nodiscard]] Truths pulses_in_time() const;

  // All that may be taken next. `rests`: it may be that nothing is.
  struct Looked {
    std::vector<Step> steps;
    bool rests = false;
    // What is so depends on this input, of which more could be known; then steps and rests say nothing.
    std::optional<std::uint16_t> need;
    std::uint32_t need_of = 0;  // the rule whose guard reads it
    Config need_in{};           // as it stands where that is looked at
    bool too_many = false;      // more than are gone through: then steps and rests say nothing, too
  };
  // `split`: inputs of which more could be known. `noted`: what is looked at counts for notes().
  [[nodiscard]] Looked look(const Moment& moment, const std::vector<Span>& inputs, const std::vector<bool>& split,
                            bool noted = true);

  // Guards that are not true where a settling came to rest, see AtRest.
  [[nodiscard]] std::vector<const Term*> failing_guards(const Moment& rest);

  // Of these pulses those that may be alive while nothing is taken: what a rule surely takes is gone. `looked`: what
  // more must be known, if anything.
  [[nodiscard]] Truths pending(const Config& config, Truths alive, const std::vector<Span>& inputs,
                               const std::vector<bool>& split, Looked& looked);

  // Of all that was looked at, by rule: whether it may hold where its owner is active; whether it may when it is its
  // turn; whether it is taken, and out of a state that is dead; the rules that decided before it.
  struct Notes {
    bool possible = false, its_turn = false, taken = false, leaves_dead = false;
    std::map<std::uint32_t, bool> deciders{};
  };
  [[nodiscard]] const std::vector<Notes>& notes() const { return notes_; }
  // What was looked at of a model of the same machine that has some of its regions.
  void take_notes_of(const Model& part);
  // What was looked at of models of the same machine, in each of which some regions are loose: of each rule in one of
  // them. What is entered in all of them may be.
  void take_notes_of(const std::vector<Model>& looked, const std::vector<std::size_t>& of_rule);

 private:
  // `visit(input, points)`: where actions compare it.
  template <class Visit>
  void each_cut_by_actions(const Visit& visit) const;

  [[nodiscard]] Span snapped(std::uint16_t variable, const Span& span) const;
  void find_ranges();
  void find_counters();
  void note_computed(const Term& term);
  void assigned(const std::vector<Action>& actions, const Term* guard, const std::vector<bool>& stays,
                const std::vector<Span>& inputs, Values& held, Values& out) const;
  [[nodiscard]] static Span stored(const Variable& variable, Span value);
  void cut_by_rules();
  void find_leads();
  void find_memories();
  void find_clocks();
  // How long a clock's state is active at most.
  [[nodiscard]] std::optional<Ticks> oldest(const Moment& at, std::uint16_t clock) const;
  [[nodiscard]] bool too_early(const Rule& rule) const;
  void note_ages(std::uint16_t first);
  [[nodiscard]] Indices early_rules(const Config& at_rest) const;
  [[nodiscard]] bool is_over(const Moment& moment) const;
  [[nodiscard]] Some variables_leading_to(const std::vector<Term>& terms) const;
  void find_begins();
  void find_layer_cues();
  void find_inner_cues();
  // The clip that a state shows, if it is one, and moves.
  void find_sure_cues();
  void find_begin_cues();
  void each_lead(std::uint16_t leaf, const std::vector<Span>* held, const Config* known,
                 const std::function<void(const Rule&)>& visit) const;
  [[nodiscard]] bool leads_outside(const Rule& rule) const;
  [[nodiscard]] bool sealed_beside(const Rule& rule, std::uint16_t leaf) const;
  void take_states();
  void gather(const StateDef& state, const std::string& path);
  void bind_state(std::uint16_t state);
  void bind_rule(Rule& rule, const GoDef& go, std::uint16_t owner);
  void facts_of_plays(std::uint16_t state);
  void note_choice(std::uint16_t state);
  [[nodiscard]] Span own_speeds(std::uint16_t state, const std::vector<Span>* held) const;
  // Of a play that runs forward, where it is over.
  void know_the_end(const StateDef& def, const std::vector<std::string>& clips, StateFacts& facts) const;
  [[nodiscard]] bool begins_in(const StretchDef& stretch, std::uint16_t state) const;
  [[nodiscard]] static bool open_at_end(const Rule& rule, const StateFacts& facts);
  [[nodiscard]] std::optional<Ticks> longest_until(std::uint16_t leaf, Ticks place,
                                                   const std::vector<Span>* held) const;
  [[nodiscard]] std::optional<Ticks> longest_of_choices(std::uint16_t state, const std::vector<Span>* held) const;
  [[nodiscard]] std::optional<Ticks> longest_way(Ticks way, std::uint16_t state, const std::vector<Span>* held,
                                                 bool changes = false) const;
  [[nodiscard]] std::uint16_t cue_of(const std::string& name) const;
  [[nodiscard]] std::vector<Action> actions_of(const std::vector<ActionDef>& all, std::uint16_t owner) const;
  [[nodiscard]] std::optional<std::uint16_t> find_state(const std::string& path, std::uint16_t owner, bool claim) const;
  // `over`: the time that it waits for.
  [[nodiscard]] Truth rule_holds(const Rule& rule, std::uint16_t target, bool over = false);
  template <class Visit>
  void each_target(const Rule& rule, const Visit& visit) const;
  // Where a rule leads that has nothing to lead back to.
  [[nodiscard]] std::uint16_t initial_for(const Rule& rule) const;
  [[nodiscard]] std::uint16_t played_leaf(std::uint16_t owner) const;
  [[nodiscard]] bool sealed_off(std::uint16_t owner, std::uint16_t target) const;
  [[nodiscard]] std::uint16_t first_entered(std::uint16_t target) const;
  [[nodiscard]] bool fresh(std::uint16_t state) const;
  [[nodiscard]] Begun begun_at(std::uint16_t leaf) const {
    return static_cast<Begun>(now_->begun[states_[leaf].region]);
  }
  [[nodiscard]] bool lies_in(std::uint16_t region, std::uint16_t other) const;
  [[nodiscard]] bool leaves_dead(std::uint16_t target) const;
  [[nodiscard]] bool may_be_left_for(std::uint16_t state, std::uint16_t other) const;
  // What is done so far of a round.
  struct Round {
    Moment moment{};
    Flags active{};
    Truths fired{};      // cues: the next round sees them
    Indices pulses{};    // taken, and gone when it is over
    bool takes = false;  // anything
  };
  // `regions`: what is looked at afterwards, the last of them first.
  void go_on(const Round& round, Indices regions);
  // `surely`: it decides whatever is not known; then it is taken, if all_taken, or stands.
  struct Turn {
    Indices targets{};  // to which it may be taken
    bool may_hold = false, stands = false, all_taken = true, surely = false;
  };
  Turn turn_of(const Rule& rule, bool over = false);
  // That a state is not as old as this, and that its play is not over, each by a rule of its own.
  struct Young {
    std::optional<Ticks> than{};
    std::uint32_t by = 0;
    std::optional<std::uint32_t> plays_by{};
  };
  void look_at(const Round& round, std::uint16_t state, const Indices& regions, std::size_t from, Young young);
  [[nodiscard]] bool closes_in(const Rule& rule) const;
  // Where a play of this leaf, which surely begins at its begin, surely tells a cue.
  [[nodiscard]] std::optional<Ticks> sure_place(std::uint16_t leaf, std::uint16_t cue) const;
  void note_young(const Rule& rule, const Turn& turn, Young& young);
  // By which rule a later one's time is not over, if that is known.
  [[nodiscard]] std::optional<std::uint32_t> outlasted(const Rule& rule, const Young& young) const;
  [[nodiscard]] bool not_yet(const Rule& rule) const;
  // How old its owner is when a rule's time is over, if that is known.
  [[nodiscard]] std::optional<Ticks> time_of(const Rule& rule) const;
  void look_below(const Round& round, std::uint16_t state, Indices regions);
  // `surely`: the rule holds whatever is not known.
  void take(const Round& round, const Rule& rule, std::uint16_t target, Indices regions, bool surely);
  [[nodiscard]] Indices passed_over(Indices& regions, std::uint16_t from, std::uint16_t changed) const;
  void end_round(const Round& round);
  void note_hidden(std::uint16_t state, std::uint32_t decider, std::size_t from, std::size_t to = SIZE_MAX);
  void note_hidden_below(std::uint16_t state, std::uint32_t decider, std::uint16_t region = kNoIndex);
  [[nodiscard]] std::uint16_t active_child(std::uint16_t state) const;
  [[nodiscard]] Moment taken(const Rule& rule, std::uint16_t target);
  // The moments that it may be, with each variable of which comparisons are known between two of them.
  [[nodiscard]] std::vector<Moment> told_apart(Moment moment) const;
  // What is made of each way in which that may go which is not known, told apart.
  [[nodiscard]] std::vector<Moment> each_choice(const std::function<Moment()>& make);
  // Changes of the moment that is being made.
  void leave(std::uint16_t state);
  void enter(std::uint16_t state, const std::vector<std::uint16_t>& way, std::size_t at);
  void act(const std::vector<Action>& actions);
  [[nodiscard]] Begun begun(std::uint16_t state) const;
  void mark_fresh(std::uint16_t state, Begun begun);
  void hush(const std::vector<std::uint16_t>& cues);
  void hush_for(const Rule& rule, std::uint16_t leaf);
  void remember_rest(std::uint16_t state);
  void remember_last(std::uint16_t of, std::uint16_t child);

  const MachineDef& def_;
  const Machine& machine_;
  std::map<std::string, std::uint16_t> index_, clips_, cues_;  // states by path, clips and cues by name
  std::vector<const StateDef*> defs_;
  std::vector<StateFacts> states_;
  std::vector<std::uint16_t> sealing_, dead_;  // states that are sealed or final; that are dead
  std::vector<Rule> rules_;
  std::vector<Variable> variables_;
  std::vector<std::vector<bool>> traits_;
  std::vector<bool> entered_, left_, rested_;
  std::vector<Knowledge> known_;  // by variable
  std::vector<bool> counter_;     // by variable: see find_counters
  Apart left_out_;
  std::vector<std::uint16_t> loose_;  // states
  std::size_t loose_rounds_ = 0;
  std::vector<Memory> memories_;
  // A state with rules that wait, and for how long at most.
  struct Clock {
    std::uint16_t state = 0;
    Ticks longest{}, step{};
  };
  std::vector<Clock> clocks_;
  std::vector<std::uint16_t> clock_of_;   // by state
  std::vector<std::uint16_t> memory_of_;  // by rule; kNoIndex: it has a target
  bool remembers_ = true, compares_times_ = false;
  bool grown_ = false;
  std::vector<bool> leads_back_;  // by region: a rule says `back`
  // A rule that leads on for sure once its play has ended or its time is over: by rule.
  std::vector<bool> leads_on_;
  // Comparisons with constants of one input or variable, and the values at which they, or else what is computed of it,
  // change.
  struct Cuts {
    std::vector<double> points{}, others{};
    std::map<std::string, Term> comparisons{};  // each once
  };
  [[nodiscard]] std::vector<Span> alike(std::vector<Span> cells, const Cuts& cuts, const Term& named) const;
  [[nodiscard]] const std::vector<Span>& variable_cells(std::uint16_t variable) const;
  std::vector<Cuts> cuts_, variable_cuts_;  // by input, by variable
  mutable std::vector<std::vector<Span>> cells_, fine_cells_, variable_cells_;
  std::vector<Notes> notes_;
  Truths supposed_;  // by rule
  GuardFacts guard_facts_;

  // While looking and taking.
  const Moment* now_ = nullptr;
  const std::vector<Span>* inputs_ = nullptr;
  const std::vector<bool>* split_ = nullptr;
  const Flags* active_ = nullptr;
  Looked* out_ = nullptr;
  Moment made_;
  Flags made_active_;
  Truths fired_;
  enum class Noted : std::uint8_t { hidden, its_turn, taken, leaves_dead };
  struct Note {
    std::uint32_t rule;
    Noted what;
    std::uint32_t decider;
  };
  std::vector<Note> seen_notes_;
  std::vector<std::uint16_t> seen_entered_;
  bool noted_ = true, unruly_ = false;
  Choices* choices_ = nullptr;       // while actions are done
  const StartDef* start_ = nullptr;  // of the rule that is taken; nothing as a run begins
  bool all_entry_cues_ = false;
};

}  // namespace mobrin::proof
