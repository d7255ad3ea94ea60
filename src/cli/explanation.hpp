// An explanation: at one instant, round by round, what became of each rule and why, and which were not looked at.
#pragma once

#include <fmt/format.h>

#include <iterator>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/core/trace.hpp"

namespace mobrin::cli {

// Which rules are asked for.
struct RulesWanted {
  std::optional<std::uint16_t> state{};   // those of this state; none: of all
  std::string to{};                       // those that are written so, or lead to `target`; empty: all
  std::optional<std::uint16_t> target{};  // a state by its path: also rules to a state around it

  [[nodiscard]] bool all() const { return !state && to.empty(); }
  [[nodiscard]] bool leads_there(const Machine& machine, const TransitionInfo& rule) const;
};

// Gathers what its hook hears of one instant, and prints it.
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
  // Something was written at an instant: if at this one, it settles once more.
  void written(Ticks at) { was_written_ = was_written_ || at == at_; }
  // Whether anything was looked at, wanted or not.
  [[nodiscard]] bool has_heard() const { return round_.has_value(); }
  // After the last: prints all.
  void end();

 private:
  void add(const Considered& considered);
  [[nodiscard]] bool wants(std::uint32_t rule) const;
  [[nodiscard]] std::string verdict_text(const Considered& considered) const;
  [[nodiscard]] std::string event_text(const TransitionInfo& rule) const;
  [[nodiscard]] std::string window_text(const TransitionInfo& rule, const Shown& shown) const;
  void end_round();
  [[nodiscard]] std::string skipped_text(const Skipped& skipped) const;
  void head(std::uint32_t rule);
  void tell_inactive();
  void tell_number();
  void begin_settling();
  template <class... Values>
  void put(fmt::format_string<Values...> format, Values&&... values) {
    fmt::format_to(std::back_inserter(text_), format, std::forward<Values>(values)...);
  }
  [[nodiscard]] std::string name_of(std::uint16_t state) const;

  const Machine& machine_;
  RulesWanted wanted_;
  Ticks at_{-1};
  std::optional<SettlingRound> round_;
  std::string text_;
  std::size_t settled_ = 0;  // so much of it is of settlings before
  bool was_written_ = false;
  bool is_numbered_ = false;                 // the number of the round is printed
  std::string leaves_;                       // the innermost states that were active when the first round began
  std::vector<std::uint16_t> was_active_;    // in one of the rounds
  std::vector<std::uint16_t> taken_pulses_;  // by the rounds before
};

}  // namespace mobrin::cli
