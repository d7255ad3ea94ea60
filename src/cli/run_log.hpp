// The log of a run, of a machine alone or of an actor of a scene: a line an event, with its reason.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "json.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin::cli {

// What became of presses: whether each was taken, and how long after.
class Presses {
 public:
  explicit Presses(const Machine& machine) : machine_(machine) {}
  void pressed(std::uint16_t input, Ticks at);
  // Its age, where one was waiting.
  std::optional<Ticks> taken(std::uint16_t input, Ticks at);
  void forget() { waiting_.clear(); }  // a reset does
  // Those whose life ended before `now`, untaken, with the instant it did; each once, in order of time.
  std::vector<std::pair<std::uint16_t, Ticks>> ran_out(Ticks now);
  [[nodiscard]] Ticks life(std::uint16_t input) const;
  struct Waiting {
    std::uint16_t input = 0;
    Ticks at{};
  };
  [[nodiscard]] const std::vector<Waiting>& waiting() const { return waiting_; }

 private:
  const Machine& machine_;
  std::vector<Waiting> waiting_;
};

// `110 ms`, `12.35 s`
[[nodiscard]] std::string ms_text(Ticks time);

// A transition as its author wrote it, with its place: `pulse: swing  (keeper.yaml:49)`.
[[nodiscard]] std::string rule_text(const Machine& machine, const TransitionInfo& transition);
// The same for machines: file, line, text; null for none.
[[nodiscard]] Json rule_json(const Machine& machine, std::uint32_t transition);

class RunLog {
 public:
  // A line of text.
  using Line = std::function<void(Ticks at, std::string_view what, const std::string& text)>;
  using JsonLine = std::function<void(Json json)>;

  // One of both is set. The instance is only read; it is to be given the log's hook.
  RunLog(const Instance& instance, Line line, JsonLine json, bool all_loops);
  RunLog(const RunLog&) = delete;
  RunLog& operator=(const RunLog&) = delete;

  // Tells the log what is written.
  [[nodiscard]] WriteHook hook() {
    return {[](void* log, const InstanceWrite& write) { static_cast<RunLog*>(log)->written(write); }, this};
  }
  void add(const Cue& record);
  // Nothing more comes before `now`: what waits to be told is told.
  void pass(Ticks now);
  // Nor at the instant of what came last.
  void flush();
  void end();
  [[nodiscard]] bool faults() const { return faults_; }

  // Paths of the innermost active states, in region order.
  static std::vector<std::string> active_leaves(const Machine& machine, const Instance& instance);

 private:
  struct Pending {
    Ticks at{};
    std::string what, text;
    bool state = false;
  };
  void written(const InstanceWrite& write);
  void put(Ticks at, std::string_view what, std::string text, bool state = false);
  void put(Json json);
  void join();  // the states of one transition as one line
  void tell_runaway(const Cue& record);
  void run_out(Ticks now);
  void note_look();
  void tell_look(Ticks at);
  [[nodiscard]] std::string values_of(const std::vector<std::uint32_t>& transitions) const;

  const Instance& instance_;
  const Machine& machine_;
  Line line_;
  JsonLine json_;
  bool all_loops_;
  bool faults_ = false;
  Presses presses_;
  std::uint16_t look_ = kNoIndex, told_look_ = kNoIndex;
  std::vector<Pending> pending_;  // of one instant
  // The transition that is being told.
  bool joining_ = false;
  Ticks at_{};
  std::uint32_t transition_ = kNoTransition;
  std::string left_;
  std::vector<std::string> entered_;
  // The transitions of this instant, for a runaway.
  std::vector<std::uint32_t> taken_;
  std::vector<std::string> went_;
};

}  // namespace mobrin::cli
