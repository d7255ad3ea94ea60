// Proofs: what is true of a machine whatever the game does, and tapes for what is not.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// How much work a proof or a search may take. Work is counted, not timed: the answers are the same on every machine.
struct ProofLimits {
  std::size_t steps = 400'000;   ///< rounds of the model
  std::size_t moments = 12'000;  ///< that a search keeps
  std::size_t moves = 120'000;   ///< that a search tries

  /// So many times as much.
  [[nodiscard]] ProofLimits times(std::size_t count) const { return {steps * count, moments * count, moves * count}; }
};

enum class Answer : std::uint8_t { proved, refuted, open, vacuous };
/// `proved`, `refuted`, `open`, `vacuous`.
[[nodiscard]] std::string_view text_of(Answer answer);

/// What became of a claim.
struct ClaimAnswer {
  Text claim{};                  ///< its name and place
  Answer answer = Answer::open;  ///< what is known of it
  std::string says{};            ///< from what it is proved, what refutes it, or how far it was looked
  std::optional<Tape> tape{};    ///< of a refuted one: the shortest found, replayed by engine and reference
};

/// What is wrong with one expression in the words of claims, names and kinds of values; nothing where it fits the
/// machine. `truth`: it has to be true or false. REQUIRES: `definition` compiled to `machine`.
[[nodiscard]] std::optional<Finding> expression_finding(const MachineDef& definition, const Machine& machine,
                                                        const Text& expression, bool truth);

/// What in the claims and assumptions of `definition` does not fit the machine: names, expressions. Errors.
[[nodiscard]] std::vector<Finding> claim_findings(const MachineDef& definition, const Machine& machine);

/// Answers each claim of `definition`, in order. REQUIRES: `definition` compiled to `machine`, and claim_findings()
/// found nothing. Nothing is open that one more call with larger limits could not decide otherwise; what is proved or
/// refuted stays so. `too_large`: what logic_and_runs() said with the same limits, so that it need not be found again.
[[nodiscard]] std::vector<ClaimAnswer> prove(const MachineDef& definition, const Machine& machine,
                                             const ProofLimits& limits = {}, std::optional<bool> too_large = {});
/// The same; calls `tell`, on this thread, with each answer as soon as it and all before it are known. The work is
/// shared among up to eight threads, and what is answered is the same on one. What `tell` throws, or a lack of memory,
/// comes through.
void prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits,
           std::optional<bool> too_large, const std::function<void(const ClaimAnswer&)>& tell);

/// A finding, and where a run shows it the tape that does.
struct ProvedFinding {
  Finding finding{};           ///< what is told
  std::optional<Tape> tape{};  ///< a run that shows it, where there is one
};
/// What is known of a machine's logic.
struct LogicReport {
  std::vector<ProvedFinding> findings{};  ///< in the order of their places
  std::vector<FindingCode> undecided{};   ///< codes of which more could have been told with more work
  /// more configurations than the limits allow to look at one by one; not known where regions that go their own ways
  /// were looked at in parts
  std::optional<bool> too_large{};
};
/// All findings about logic: those of logic_findings() and claim_findings(), and about what runs can do: rules that no
/// run can take because of what variables hold or what is computed, runaways, presses that are lost, the dead revived,
/// plays that stand still. `accept:` is honoured, and one that accepts nothing is told, unless its code is undecided.
/// In order of places.
[[nodiscard]] LogicReport logic_and_runs(const MachineDef& definition, const Machine& machine,
                                         const ProofLimits& limits = {});

/// Writes of a tape after which something that `definition` assumes is not true any more: when, and what. What proofs
/// say of the machine does not hold of such a run. REQUIRES: claim_findings() and check_tape() found nothing.
struct BrokenAssumption {
  Ticks at{};             ///< the first instant at which it does not hold
  std::string assumed{};  ///< the `assume:` as it is written
};
[[nodiscard]] std::vector<BrokenAssumption> broken_assumptions(const MachineDef& definition, const Machine& machine,
                                                               const Tape& tape);

/// A few tapes that take all rules that can be taken and enter all states that can be entered.
struct Cover {
  std::vector<Tape> tapes{};  ///< which together come to all that can be reached
  /// What no tape comes to, and why.
  struct Left {
    std::uint32_t transition = 0;  ///< index into Machine::transitions()
    bool never = false;            ///< proved that no run takes it; else it is not known
  };
  std::vector<Left> left{};             ///< rules that no tape takes
  std::vector<std::uint16_t> states{};  ///< states that no tape enters
};
[[nodiscard]] Cover cover(const MachineDef& definition, const Machine& machine, const ProofLimits& limits = {});

}  // namespace mobrin
