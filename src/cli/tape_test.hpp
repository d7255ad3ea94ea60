// One tape or scene, run and held against what it expects.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"

namespace mobrin::cli {

// What runs of a machine took and entered.
struct MachineRun {
  std::string file;
  Machine machine;
  std::set<std::uint32_t> taken{};    // transitions
  std::set<std::uint16_t> entered{};  // states

  void hear(const Cue& cue) {
    if (cue.transition != kNoTransition) taken.insert(cue.transition);
    if (cue.what == Told::enter) entered.insert(cue.state);
  }
};

struct TestResult {
  std::string file;
  bool is_scene = false;
  std::size_t expectations = 0;
  std::vector<Finding> findings;         // that keep it from running
  std::vector<std::string> failures;     // `file:line: expected ..., but ...`
  std::vector<BrokenAssumption> broken;  // what is assumed and not so
  std::vector<std::string> log;          // what was told
  std::vector<std::string> changed;      // the log that was kept and this one, line by line, where they differ
  std::vector<MachineRun> runs;          // one a machine
  [[nodiscard]] bool passed() const { return findings.empty() && failures.empty(); }
  // That of the machine in `file`, begun where there is none.
  MachineRun& run_of(const std::string& file, const Machine& machine);
};

// Hints: values beyond an input's range that a tape writes, and that change it.
[[nodiscard]] std::vector<Finding> clamped_writes(const Tape& tape, const std::string& path, const Machine& machine);

// Loads the tape and its machine (or `on` in its place) and runs it. Prints nothing.
[[nodiscard]] TestResult test_tape(const std::string& path, const std::string& on);
// The same of a scene, whose actors' steps may expect something.
[[nodiscard]] TestResult test_scene(const std::string& path);

}  // namespace mobrin::cli
