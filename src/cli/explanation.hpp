// An explanation: at one instant, round by round, what became of each rule and why, and which were not looked at.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/core/trace.hpp"

namespace mobrin::cli {

// Which rules are asked for; empty: all.
struct RulesWanted {
  std::string state;  // those of this state
  std::string to;     // those to this one, as it is written or by its whole path
};

// Prints what its hook hears of one instant.
class Explanation {
 public:
  Explanation(const Machine& machine, RulesWanted wanted) : machine_(machine), wanted_(std::move(wanted)) {}
  Explanation(const Explanation&) = delete;
  Explanation& operator=(const Explanation&) = delete;

  [[nodiscard]] TraceHook hook() {
    return {[](void* context, const Considered& considered) { static_cast<Explanation*>(context)->add(considered); },
            this};
  }
  void listen_at(Ticks at) { at_ = at; }
  // Whether anything was looked at, wanted or not.
  [[nodiscard]] bool has_heard() const { return round_.has_value(); }
  // After the last: what is left to say of its round, and of wanted rules whose state no round found active.
  void end();

 private:
  void add(const Considered& considered);
  [[nodiscard]] bool wants(std::uint32_t rule) const;
  [[nodiscard]] std::string verdict_text(const Considered& considered) const;
  [[nodiscard]] std::string event_text(const TransitionInfo& rule) const;
  void end_round();
  [[nodiscard]] std::string skipped_text(const Skipped& skipped) const;
  void head(std::uint32_t rule);
  void tell_number();
  [[nodiscard]] std::string name_of(std::uint16_t state) const;
  [[nodiscard]] std::string leaves() const;

  const Machine& machine_;
  RulesWanted wanted_;
  Ticks at_{-1};
  std::optional<SettlingRound> round_;
  bool is_numbered_ = false;                 // the number of the round is printed
  std::vector<std::uint16_t> first_active_;  // when the first round began
  std::vector<std::uint16_t> was_active_;    // in one of the rounds
  std::vector<std::uint16_t> taken_pulses_;  // by the rounds before
};

}  // namespace mobrin::cli
