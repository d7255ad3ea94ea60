// Findings about what runs can do: what they never do is proved (findings.cpp, of timers timer_findings.cpp), what they
// may do is shown by one (run_findings.cpp).
#pragma once

#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/prove/prove.hpp"
#include "parts.hpp"
#include "search.hpp"

namespace mobrin::proof {

class RunFindings {
 public:
  RunFindings(const MachineDef& definition, const Machine& machine, const ProofLimits& limits);
  LogicReport run();

 private:
  // --- telling ---
  [[nodiscard]] bool speaks_of_undecided(const Finding& idle) const;
  [[nodiscard]] std::string file_of(Place place) const;
  bool accepted(const std::vector<Text>& accept, std::string_view code);
  // Whether it is meant so, by the state, by one around it or by the file.
  bool accepted_in(std::uint16_t state, std::string_view code);
  // At a rule; null where it is meant so.
  ProvedFinding* tell(FindingCode code, const Rule& rule, std::string message, std::string remedy, bool hint = false);
  // Whether something is told of this rule already, warnings only.
  [[nodiscard]] bool told(const Rule& rule) const;
  [[nodiscard]] bool hinted(const Rule& rule) const;
  [[nodiscard]] std::string line_of(std::uint32_t rule) const;
  [[nodiscard]] const std::string& path(std::uint16_t state) const { return model_.machine().states()[state].path; }
  [[nodiscard]] std::string in(std::uint16_t state) const { return state == 0 ? "here" : "in \"" + path(state) + "\""; }
  bool once(FindingCode code, std::uint32_t rule) { return shown_.insert({code, rule}).second; }

  // --- guards by themselves ---
  void computed();
  // Comparisons within guards that say nothing.
  void idle_parts();

  // --- what comes too late, and too soon ---
  // The rule by which a leaf is left in time, whatever else happens.
  [[nodiscard]] const Rule* leaves_by(std::uint16_t leaf) const;
  void timers();
  void ring_of(std::uint16_t first);

  // --- what no run does ---
  // What is known of the part that a state is in.
  [[nodiscard]] PartFacts facts_with(std::uint16_t state) const { return explored_.of(model_.states()[state].region); }
  void never_taken();
  void never_possible(const Rule& rule);
  [[nodiscard]] bool told_by_actions(std::uint16_t cue) const;
  void hidden(const Rule& rule, const Model::Notes& notes);
  bool left_before_its_end(const Rule& rule);
  void tell_never_true(const Rule& rule);
  // The rule by which a leaf is left as it is entered, in every run, though it has something to show.
  [[nodiscard]] const Rule* leaves_at_once(std::uint16_t leaf) const;
  void never_shown();

  // --- what a run shows ---
  // The findings that a run may show, as far as the model of a part knows.
  [[nodiscard]] static std::vector<FindingCode> may_be_shown(const Model& part, const PartFacts& facts);
  // `whole`: all was looked at, so what is not known to be entered never is.
  [[nodiscard]] static bool may_stand(const Model& part, bool whole);
  [[nodiscard]] static std::vector<std::uint32_t> waiting_for(const Model& part, std::uint16_t leaf);
  // Looks for runs that show something; what may be shown, where not all was tried, is undecided.
  void runs();
  // The same in a part, with a share of the limits.
  void runs_in(const Model& part, const PartFacts& facts, std::size_t share);
  // Whether all was tried that there is to try.
  bool look_for_runs(const Model& part, std::size_t share);
  void shown_by(ProvedFinding* finding, const Seen& seen, const Search& search);
  void runaway(const Seen& seen, const Search& search);
  void lost_press(const Seen& seen, const Search& search);
  void revived(const Seen& seen, const Search& search);
  void stands(const Seen& seen, const Search& search);

  const MachineDef& def_;
  const ProofLimits& limits_;
  Model model_;
  std::vector<ProvedFinding> out_;
  std::vector<FindingCode> undecided_;
  Explored explored_;
  std::vector<const Rule*> hidden_;  // by others in every run; told when it is known whether those come to rest
  // By state that is left as it is entered, rules that would have their turn there later.
  std::map<std::uint16_t, std::vector<const Rule*>> never_true_;
  std::set<std::string> used_;
  std::set<std::pair<FindingCode, std::uint32_t>> shown_;  // of which rules they are told, or why others are
};

}  // namespace mobrin::proof
