// Recorder: turns what a game writes to a live instance into a tape.
#pragma once

#include <string>

#include "mobrin/io/load.hpp"

namespace mobrin {

/// Listens to one instance from when it is made until it is destroyed, and keeps what is written at its exact tick:
/// inputs, pulses, rate, freezes, resets, forces and places. Where the instance is restored to an earlier instant, what
/// was written after that is cut off (of that very instant it keeps the values, rate and freeze that the block has, and
/// pulses, resets, forces and places that wait in it; one that had taken effect is cut off too: take snapshots before
/// such or advance first); to one before the recorder was made, the tape begins anew there.
/// Its tape begins with the values that differ from the machine's start; running it on a fresh instance tells what the
/// live one told (but for a machine that ran away before, of an input that was written to and fro at one instant).
/// Recorded from the middle of a run, replay it on an instance that load() or restore() brought to that point. Takes
/// the instance's write hook for itself. Not thread-safe. Allocates as it records.
class Recorder {
 public:
  /// REQUIRES: `instance` outlives the recorder and does not move.
  Recorder(Instance& instance, std::string name);
  ~Recorder();
  Recorder(const Recorder&) = delete;
  Recorder& operator=(const Recorder&) = delete;

  /// What was written so far, until the instance's now. Its instants count from when the recorder was made.
  [[nodiscard]] Tape tape() const;

 private:
  static void written(void* self, const InstanceWrite& write);
  TapeStep& step_now(bool settled = false, bool anew = false);
  void begin();
  void cut_back(const InstanceWrite& restored);
  [[nodiscard]] TapeStep difference() const;
  void add(const TapeStep& more);

  Instance& instance_;
  Ticks begin_;
  double rate_ = 1;       // as it is now
  bool lets_go_ = false;  // the last step has a rate that ended a 0
  Tape tape_;
};

/// A tape as a file, in YAML. `load_tape_text` reads it back as it was, if it has at most 500,000 steps (a game that
/// writes at every frame takes more than two hours for so many).
[[nodiscard]] std::string tape_text(const Tape& tape);

}  // namespace mobrin
