// What a run goes by, for the commands that run a machine: its file, and a tape from a file, from the command line, or
// from both.
#pragma once

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "mobrin/io/load.hpp"
#include "parameters.hpp"

namespace mobrin::cli {

// A press or a value of the command line.
struct TypedStep {
  std::string argument;  // as it is typed: `--press swing@0.9s`
  TapeStep step;
};

// What `--press` and `--set` say.
struct TypedSteps {
  std::vector<std::string> presses, sets;

  // Lets the command take both.
  void add_to(Parameters& parameters);
  // In order of time. Empty, with errors printed, where one cannot be read.
  [[nodiscard]] std::optional<std::vector<TypedStep>> read() const;
};

// That the file of a tape names a machine that is not there.
[[nodiscard]] std::optional<Finding> missing_machine(const Tape& tape, const std::string& tape_file);

// How long a tape that does not say it may last, as a file says it: somewhat beyond all that it does and expects.
[[nodiscard]] std::string possible_end(const Tape& tape);

struct RunSource {
  Tape tape;
  std::string path;  // of the machine
  Loaded loaded;
};
// `machine` empty: what the tape names; `tape` empty: only the steps. Or what the command ends with, and why is
// printed.
[[nodiscard]] std::variant<RunSource, int> run_source(const std::string& command, const std::string& machine,
                                                      const std::string& tape, const std::vector<TypedStep>& steps);

}  // namespace mobrin::cli
