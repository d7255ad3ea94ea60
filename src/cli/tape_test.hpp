// One tape, run and held against what it expects.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"

namespace mobrin::cli {

struct TestResult {
  std::string tape;
  std::size_t expectations = 0;
  std::vector<Finding> findings;         // that keep it from running
  std::vector<std::string> failures;     // `file:line: expected ..., but ...`
  std::vector<BrokenAssumption> broken;  // what is assumed and not so
  std::vector<std::string> log;          // what was told
  std::vector<std::string> changed;      // the log that was kept and this one, line by line, where they differ
  std::string machine_file;
  std::optional<Machine> machine;
  std::set<std::uint32_t> taken;    // transitions
  std::set<std::uint16_t> entered;  // states
  double seconds = 0;               // of the run, in the game's time
  [[nodiscard]] bool passed() const { return findings.empty() && failures.empty(); }
};

// Hints: values beyond an input's range that a tape writes, and that change it.
[[nodiscard]] std::vector<Finding> clamped_writes(const Tape& tape, const std::string& path, const Machine& machine);
// What is wrong with the names, expressions and instants of what a tape expects.
[[nodiscard]] std::vector<Finding> expectation_findings(const Tape& tape, const std::string& path,
                                                        const MachineDef& definition, const Machine& machine);

// Loads the tape and its machine (or `on` in its place) and runs it. Prints nothing.
[[nodiscard]] TestResult test_tape(const std::string& path, const std::string& on);

}  // namespace mobrin::cli
