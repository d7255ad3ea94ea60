// Findings about what runs can do.
#include <algorithm>
#include <map>
#include <set>

#include "mobrin/check/logic.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "parts.hpp"
#include "search.hpp"
#include "solver.hpp"

namespace mobrin {
namespace proof {
namespace {

constexpr std::size_t kMostOfARing = 8;   // rules that a message names
constexpr std::size_t kMostSolved = 300;  // questions to the solver in a machine

class RunFindings {
 public:
  RunFindings(const MachineDef& definition, const Machine& machine, const ProofLimits& limits)
      : def_(definition), limits_(limits), model_(definition, machine) {
    for (Finding& finding : logic_findings(definition, machine)) out_.push_back({std::move(finding), {}});
    for (Finding& finding : claim_findings(definition, machine)) out_.push_back({std::move(finding), {}});
  }

  LogicReport run() {
    computed();
    timers();
    const Explored explored = explore(model_, {}, limits_.steps);
    if (explored.whole) {
      never_taken();
    } else {
      undecided_ = {FindingCode::unreachable, FindingCode::never_holds, FindingCode::shadowed};
    }
    if (worth_a_run(explored) && !runs())
      for (const FindingCode code :
           {FindingCode::runaway, FindingCode::press_lost, FindingCode::revived, FindingCode::stands_still})
        undecided_.push_back(code);
    // An `accept:` that was of use here is not idle.
    std::erase_if(out_, [&](const ProvedFinding& each) {
      return each.finding.code == FindingCode::idle_accept &&
             (speaks_of_undecided(each.finding) ||
              used_.count(place_key(each.finding.file, each.finding.line, each.finding.column)) > 0);
    });
    std::stable_sort(out_.begin(), out_.end(), [](const ProvedFinding& a, const ProvedFinding& b) {
      return std::tie(a.finding.file, a.finding.line, a.finding.column) <
             std::tie(b.finding.file, b.finding.line, b.finding.column);
    });
    LogicReport report{std::move(out_), std::move(undecided_), {}};
    if (!explored.in_parts) report.too_large = !explored.one_by_one;
    return report;
  }

 private:
  // --- telling ---

  [[nodiscard]] bool speaks_of_undecided(const Finding& idle) const {
    return std::any_of(undecided_.begin(), undecided_.end(),
                       [&](FindingCode code) { return idle.subject == text_of(code); });
  }

  static std::string place_key(const std::string& file, std::uint32_t line, std::uint32_t column) {
    return file + ":" + std::to_string(line) + ":" + std::to_string(column);
  }
  [[nodiscard]] std::string file_of(Place place) const {
    return place.file < def_.files.size() ? def_.files[place.file] : "";
  }
  bool accepted(const std::vector<Text>& accept, std::string_view code) {
    for (const Text& each : accept)
      if (each.text == code) {
        used_.insert(place_key(file_of(each.place), each.place.line, each.place.column));
        return true;
      }
    return false;
  }
  // At a rule; empty where it is meant so.
  ProvedFinding* tell(FindingCode code, const Rule& rule, std::string message, std::string remedy, bool hint = false) {
    const std::string_view word = text_of(code);
    if (accepted(rule.def->accept, word) || accepted(def_.accept, word)) return nullptr;
    for (std::uint16_t up = rule.owner;; up = model_.states()[up].parent) {
      if (const StateDef* state = model_.definition_of(up); state != nullptr && accepted(state->accept, word))
        return nullptr;
      if (up == 0) break;
    }
    ProvedFinding& out = out_.emplace_back();
    out.finding = finding_in(file_of(rule.def->place), code, std::move(message), std::move(remedy),
                             rule.def->place.line, rule.def->place.column);
    out.finding.hint = hint;
    return &out;
  }
  // Whether something is told of this rule already, warnings only.
  [[nodiscard]] bool told(const Rule& rule) const {
    return std::any_of(out_.begin(), out_.end(), [&](const ProvedFinding& each) {
      return !each.finding.hint && each.finding.file == file_of(rule.def->place) &&
             (each.finding.line == rule.def->place.line ||
              (!rule.def->when.empty() && each.finding.line == rule.def->when.place.line)) &&
             each.finding.line > 0;
    });
  }
  [[nodiscard]] bool hinted(const Rule& rule) const {
    return std::any_of(out_.begin(), out_.end(), [&](const ProvedFinding& each) {
      return each.finding.code == FindingCode::always_holds && each.finding.file == file_of(rule.def->place) &&
             each.finding.line == rule.def->when.place.line && each.finding.line > 0;
    });
  }
  [[nodiscard]] std::string line_of(std::uint32_t rule) const {
    const TransitionInfo& info = model_.machine().transitions()[rule];
    return info.place.line > 0 ? "the rule in line " + std::to_string(info.place.line)
                               : "the rule \"" + info.text + "\" to " + info.to;
  }
  [[nodiscard]] const std::string& path(std::uint16_t state) const { return model_.machine().states()[state].path; }
  [[nodiscard]] std::string in(std::uint16_t state) const { return state == 0 ? "here" : "in \"" + path(state) + "\""; }

  // --- what is computed ---

  void computed() {
    std::size_t asked = 0;
    Solver solver(model_);
    const auto never = [&](const std::vector<const Term*>& all, const std::vector<const Term*>& none) {
      return ++asked <= kMostSolved && solver.impossible(all, none);
    };
    for (const StateFacts& state : model_.states())
      for (std::size_t b = 0; b < state.rules.size(); ++b) {
        const Rule& below = model_.rules()[state.rules[b]];
        if (below.def == nullptr || !below.when || told(below)) continue;
        const bool odd = computes(*below.when);
        if (odd && never({&*below.when}, {})) {
          tell(FindingCode::never_holds, below, "no values satisfy \"" + below.def->when.text + "\"",
               "Check what is computed against the ranges of the inputs.");
          continue;
        }
        if (odd && !hinted(below) && never({}, {&*below.when}))
          tell(FindingCode::always_holds, below, "\"" + below.def->when.text + "\" is true for all values",
               "Leave the guard out, or check the comparison.", true);
        for (std::size_t a = 0; a < b; ++a) {
          const Rule& above = model_.rules()[state.rules[a]];
          if (above.def == nullptr || !above.when || above.event != Event::none || !above.def->during.empty() ||
              above.def->during_frames || state.splits_below || (!odd && !computes(*above.when)))
            continue;
          if (!share(*above.when, *below.when) || !never({&*below.when}, {&*above.when})) continue;
          if (never({&*above.when}, {&*below.when}))
            tell(FindingCode::shadowed, below, line_of(above.index) + " decides whenever this one holds",
                 "Remove one of them, or tell their guards apart.");
          else
            tell(FindingCode::wrong_order, below,
                 line_of(above.index) + " decides whenever this one holds, and in more cases",
                 "Swap them, so that both have their turn.");
          break;
        }
      }
  }

  // --- what comes too late, and too soon ---

  // The rule by which a leaf is left in time, whatever else happens.
  [[nodiscard]] const Rule* leaves_by(std::uint16_t leaf) const {
    const auto time = model_.stay(leaf);
    for (std::uint16_t up = leaf; time; up = model_.states()[up].parent) {
      for (const std::uint32_t index : model_.states()[up].rules) {
        const Rule& rule = model_.rules()[index];
        if (rule.def == nullptr || !rule.def->when.empty() || !rule.def->during.empty() || rule.def->during_frames)
          continue;
        const bool by_end = rule.event == Event::end && model_.states()[leaf].length == time;
        const bool by_time = rule.event == Event::after && up == leaf && rule.def->after == time;
        if (by_end || by_time) return &rule;
      }
      if (up == 0) break;
    }
    return nullptr;
  }
  void timers() {
    for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
      const Rule* sooner = leaves_by(s);
      if (sooner == nullptr) continue;
      for (const std::uint32_t index : model_.states()[s].rules) {
        const Rule& rule = model_.rules()[index];
        if (rule.def == nullptr || rule.event != Event::after || &rule == sooner || told(rule)) continue;
        const Ticks time = *model_.stay(s);
        if (*rule.def->after < time || (*rule.def->after == time && rule.index < sooner->index)) continue;
        tell(FindingCode::shadowed, rule, line_of(sooner->index) + " leads on before its time is over",
             "Remove one of them, or wait for less.");
      }
      ring_of(s);
    }
  }
  // States that follow each other by themselves, round and round, in less than a tenth of a second.
  void ring_of(std::uint16_t first) {
    constexpr Ticks kShort{70'560'000};
    Ticks total{};
    std::uint16_t least = first;
    const Rule* at_least = leaves_by(first);
    for (std::uint16_t at = first;;) {
      const Rule* rule = leaves_by(at);
      if (rule == nullptr || rule->aim != Aim::state) return;
      total += *model_.stay(at);
      if (total >= kShort) return;
      at = rule->target;
      while (model_.states()[at].initial != kNoIndex) at = model_.states()[at].initial;
      if (at < least) return;  // told where its first state is looked at
      if (at == first) break;
    }
    if (once(FindingCode::flicker, at_least->index))
      tell(FindingCode::flicker, *at_least,
           "it leads round and back to \"" + path(first) + "\" by itself within " +
               std::to_string(total.count / 705'600) + " ms",
           "Let it wait for longer, or for something.", true);
  }

  // --- what no run takes ---

  void never_taken() {
    for (const Rule& rule : model_.rules()) {
      if (rule.def == nullptr || (rule.owner != 0 && !model_.entered(rule.owner)) || told(rule)) continue;
      const Model::Notes& notes = model_.notes()[rule.index];
      if (notes.taken) continue;
      if (!notes.possible)
        never_possible(rule);
      else if (!notes.its_turn && !notes.deciders.empty())
        hidden(rule, notes);
    }
  }
  void never_possible(const Rule& rule) {
    if (rule.event == Event::cue) {
      const std::string& cue = rule.def->cue.text;
      // Told at all, but never while its state is active?
      bool heard = false;
      for (std::uint16_t s = 1; s < model_.states().size(); ++s)
        if (model_.entered(s) &&
            (rule.owner == 0 || model_.within(s, rule.owner) || model_.machine().regions().size() > 1))
          for (const std::uint16_t each : model_.states()[s].cues) heard = heard || each == rule.cue;
      if (!heard && !told_by_actions(rule.cue))
        return void(tell(FindingCode::never_holds, rule,
                         "nothing tells the cue \"" + cue + "\" while " +
                             (rule.owner == 0 ? "it runs" : "\"" + path(rule.owner) + "\" is active"),
                         "Put it on a clip that is played there, or move the rule."));
    }
    if (!rule.def->during.empty()) {
      bool open = false;
      for (std::uint16_t s = 0; s < model_.states().size(); ++s)
        if (model_.within(s, rule.owner))
          for (const std::string& window : model_.states()[s].windows) open = open || window == rule.def->during.text;
      if (!open)
        return void(
            tell(FindingCode::never_holds, rule,
                 "no clip that is played " + in(rule.owner) + " has the window \"" + rule.def->during.text + "\"",
                 "Give it to one of them, or move the rule."));
    }
    // Where its play does not do so at all, compiling has told it.
    bool comes = rule.event != Event::end && rule.event != Event::loop;
    for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
      const StateFacts& state = model_.states()[s];
      if (model_.within(s, rule.owner) && model_.entered(s))
        comes = comes || (rule.event == Event::end ? state.may_end : state.may_loop);
    }
    if (!comes || !rule.when) return;
    tell(FindingCode::never_holds, rule, "no run makes \"" + rule.def->when.text + "\" true " + in(rule.owner),
         "Check what its variables are set to, and where.");
  }
  [[nodiscard]] bool told_by_actions(std::uint16_t cue) const {
    const auto in_list = [&](const std::vector<Action>& all) {
      return std::any_of(all.begin(), all.end(), [&](const Action& action) { return action.cue == cue; });
    };
    for (const StateFacts& state : model_.states())
      if (in_list(state.enter) || in_list(state.exit) || in_list(state.each_loop)) return true;
    return std::any_of(model_.rules().begin(), model_.rules().end(),
                       [&](const Rule& rule) { return in_list(rule.actions); });
  }
  void hidden(const Rule& rule, const Model::Notes& notes) {
    std::string who;
    std::size_t count = 0;
    for (const auto& [decider, yes] : notes.deciders)
      if (++count <= 3) who += (who.empty() ? "" : ", or ") + line_of(decider);
    tell(FindingCode::shadowed, rule,
         "in every run " + who + (count > 3 ? ", or another" : "") + " decides before it, whenever it holds",
         "Remove one of them, or tell their guards apart.");
  }

  // --- what a run shows ---

  [[nodiscard]] bool leaves_the_dead(const Rule& rule) const {
    if (rule.def == nullptr || !model_.notes()[rule.index].taken) return false;
    for (std::uint16_t s = 1; s < model_.states().size(); ++s)
      if (model_.states()[s].dead && (rule.owner == 0 || model_.within(s, rule.owner) || model_.within(rule.owner, s)))
        return true;
    return false;
  }
  [[nodiscard]] bool waits_for_its_play(const Rule& rule) const {
    return rule.def != nullptr && (rule.event == Event::end || rule.event == Event::loop);
  }
  [[nodiscard]] bool worth_a_run(const Explored& explored) const {
    return explored.runaway || !explored.one_by_one || explored.goes_on_from_a_pulse || worth_a_run();
  }
  [[nodiscard]] bool worth_a_run() const {
    for (const Rule& rule : model_.rules())
      if (leaves_the_dead(rule)) return true;
    return std::any_of(model_.states().begin(), model_.states().end(),
                       [](const StateFacts& state) { return state.plays && !state.steady; }) &&
           std::any_of(model_.rules().begin(), model_.rules().end(),
                       [&](const Rule& rule) { return waits_for_its_play(rule); });
  }

  // Whether all was tried that there is to try.
  bool runs() {
    SearchLimits limits;
    limits.nodes = limits_.moments;
    limits.moves = limits_.moves;
    Search search(model_, limits);
    const auto look = [&](Seen& seen) {
      if (search.breaks_assumed(seen)) return Verdict::ends;
      if (std::any_of(seen.told.begin(), seen.told.end(), [](const Cue& cue) { return cue.what == Told::fault; })) {
        runaway(seen, search);
        return Verdict::ends;  // what comes of it says nothing more
      }
      lost_press(seen, search);
      revived(seen, search);
      stands(seen, search);
      return Verdict::goes_on;
    };
    (void)search.run(look);
    if (search.exhausted()) {
      search.look_closer();
      (void)search.run(look);
      return true;
    }
    // What is not met yet may lie further than the shortest runs come.
    bool all = true;
    for (std::uint16_t s = 1; s < model_.states().size(); ++s)
      all = all && (!model_.entered(s) || !model_.states()[s].children.empty() || search.has_met(s));
    if (all) return false;
    search.prefer_new_states();
    (void)search.run(look);
    return false;
  }
  void shown_by(ProvedFinding* finding, const Seen& seen, const Search& search) {
    if (finding == nullptr) return;
    Tape tape = search.tape_to(seen);
    if (!replays(model_, tape)) return void(out_.pop_back());
    tape.name = std::string(text_of(finding->finding.code));
    finding->tape = std::move(tape);
  }
  bool once(FindingCode code, std::uint32_t rule) { return shown_.insert({code, rule}).second; }

  void runaway(const Seen& seen, const Search& search) {
    // The ring: what was taken since a rule was taken last.
    std::vector<std::uint32_t> taken;
    for (const Cue& cue : seen.told)
      if (cue.what == Told::enter && cue.transition != kNoTransition &&
          (taken.empty() || taken.back() != cue.transition))
        taken.push_back(cue.transition);
    if (taken.empty()) return;
    std::vector<std::uint32_t> ring = {taken.back()};
    for (std::size_t i = taken.size() - 1; i-- > 0 && taken[i] != taken.back();) ring.insert(ring.begin(), taken[i]);
    std::rotate(ring.begin(), std::min_element(ring.begin(), ring.end()), ring.end());
    // Those that share a rule are one mistake.
    const bool known = std::any_of(ring.begin(), ring.end(), [&](std::uint32_t each) {
      return shown_.count({FindingCode::runaway, each}) > 0;
    });
    for (const std::uint32_t each : ring) (void)once(FindingCode::runaway, each);
    if (known) return;
    std::string way;
    bool always = true;
    for (std::size_t i = 0; i < ring.size(); ++i) {
      const Rule& rule = model_.rules()[ring[i]];
      always = always && rule.event == Event::none && (!rule.when || rule.def->when.text == "true") &&
               rule.def->during.empty() && !rule.def->during_frames;
      if (i >= kMostOfARing) continue;
      const TransitionInfo& info = model_.machine().transitions()[ring[i]];
      way +=
          (way.empty() ? "" : ", ") + std::string(rule.owner == 0 ? "anywhere" : path(rule.owner)) + " -> " + info.to;
      if (info.place.line > 0) way += " (line " + std::to_string(info.place.line) + ")";
    }
    std::string values;
    for (std::uint16_t i = 0; i < model_.machine().inputs().size(); ++i) {
      bool read = false;
      for (const std::uint32_t each : ring)
        if (model_.rules()[each].when)
          each_term(*model_.rules()[each].when,
                    [&](const Term& term) { read = read || (term.kind == Term::Kind::input && term.index == i); });
      if (!read) continue;
      const FieldValue value = seen.instance.input_value(i);
      std::string text;
      if (const auto* truth = std::get_if<bool>(&value)) text = *truth ? "true" : "false";
      if (const auto* whole = std::get_if<std::int64_t>(&value)) text = std::to_string(*whole);
      if (const auto* words = std::get_if<std::string>(&value)) text = *words;
      if (const auto* number = std::get_if<double>(&value)) text = detail::shortest_text(static_cast<float>(*number));
      values += (values.empty() ? " with " : ", ") + model_.machine().inputs()[i].name.text + " " + text;
    }
    ProvedFinding* finding = tell(FindingCode::runaway, model_.rules()[ring.front()],
                                  "it never comes to rest" + values + ": " + way + ", and so on",
                                  "Let the guards of the ring exclude each other.");
    if (finding != nullptr) finding->finding.severe = always;
    shown_by(finding, seen, search);
  }

  void lost_press(const Seen& seen, const Search& search) {
    if (seen.press.pulses.size() > 1) return;     // one of two at a time undoes what the other did
    std::map<std::uint16_t, std::uint32_t> left;  // leaves, by the rule that took a pulse
    std::optional<std::uint32_t> cause;           // the rule that is taken next
    for (const Cue& cue : seen.told) {
      if (cue.transition == kNoTransition || cue.at != seen.instance.now()) continue;
      const Rule& rule = model_.rules()[cue.transition];
      const bool leaf = !model_.machine().states()[cue.state].has_children;
      if (cue.what == Told::leave && leaf && rule.event == Event::pulse && (*seen.before.active)[cue.state] != 0 &&
          left.count(cue.state) == 0)
        left[cue.state] = cue.transition;
      if (!cause && !left.empty() && rule.event != Event::pulse) cause = cue.transition;
      if (cue.what != Told::enter || left.count(cue.state) == 0 || left[cue.state] == cue.transition) continue;
      const Rule& taker = model_.rules()[left[cue.state]];
      if (taker.def == nullptr || !once(FindingCode::press_lost, cause.value_or(taker.index))) continue;
      shown_by(tell(FindingCode::press_lost, taker,
                    "it takes \"" + taker.def->pulse.text + "\", and at the same instant " + line_of(cue.transition) +
                        " leads back to \"" + path(cue.state) + "\": the press is lost",
                    "Let that rule wait (`after:`), or guard it against what is still true of the state before."),
               seen, search);
    }
  }

  void revived(const Seen& seen, const Search& search) {
    for (const Cue& cue : seen.told) {
      if (cue.what != Told::leave || cue.transition == kNoTransition || !model_.states()[cue.state].dead ||
          (*seen.before.active)[cue.state] == 0)
        continue;
      const Rule& rule = model_.rules()[cue.transition];
      const std::uint16_t region = model_.states()[cue.state].region;
      const std::uint16_t now = seen.instance.active(region);
      if (rule.def == nullptr || now == kNoIndex || model_.ending(now) || !once(FindingCode::revived, rule.index))
        continue;
      shown_by(tell(FindingCode::revived, rule,
                    "it leads out of \"" + path(cue.state) + "\", which is dead, to \"" + path(now) + "\"",
                    "Guard it, seal the dead state (`sealed: true`, `final: true`), or say that it is meant."),
               seen, search);
    }
  }

  void stands(const Seen& seen, const Search& search) {
    for (std::uint16_t r = 0; r < seen.instance.region_count(); ++r) {
      const std::uint16_t leaf = seen.instance.active(r);
      if (leaf == kNoIndex || !model_.states()[leaf].speed) continue;
      const Term& speed = *model_.states()[leaf].speed;
      if (compute(speed, seen.after) != Span{0, 0}) continue;
      const bool always = speed.kind == Term::Kind::constant;
      for (std::uint16_t up = leaf; !always; up = model_.states()[up].parent) {
        for (const std::uint32_t index : model_.states()[up].rules) {
          const Rule& rule = model_.rules()[index];
          const bool waits = (rule.event == Event::end && model_.states()[leaf].may_end) ||
                             (rule.event == Event::loop && model_.states()[leaf].may_loop);
          if (rule.def == nullptr || !waits || !once(FindingCode::stands_still, index)) continue;
          shown_by(tell(FindingCode::stands_still, rule,
                        std::string(rule.event == Event::end ? "`at: end`" : "`at: loop`") +
                            " waits for the play of \"" + path(leaf) +
                            "\", which stands while `speed: " + model_.definition_of(leaf)->speed.text + "` is 0",
                        "Keep the speed above 0, or give the state another way out."),
                   seen, search);
        }
        if (up == 0 || model_.states()[up].region != r) break;
      }
    }
  }

  const MachineDef& def_;
  const ProofLimits& limits_;
  Model model_;
  std::vector<ProvedFinding> out_;
  std::vector<FindingCode> undecided_;
  std::set<std::string> used_;
  std::set<std::pair<FindingCode, std::uint32_t>> shown_;
};

}  // namespace
}  // namespace proof

LogicReport logic_and_runs(const MachineDef& definition, const Machine& machine, const ProofLimits& limits) {
  return proof::RunFindings(definition, machine, limits).run();
}

}  // namespace mobrin
