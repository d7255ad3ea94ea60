// Tapes that the tool makes: as lines to read, and as files.
#pragma once

#include <string>
#include <vector>

#include "json.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin::cli {

// The steps as a tape writes them, `{at: 0s, set: {move: 1}, pulse: swing}`; instants are exact.
[[nodiscard]] std::vector<std::string> tape_lines(const Tape& tape);
[[nodiscard]] Json json_of(const Tape& tape);

// `no dead steps` as the name of a file: `no-dead-steps`.
[[nodiscard]] std::string file_name_of(const std::string& name);

// Writes the tape to FOLDER/NAME.tape.yaml, with its machine as seen from there; makes the folder. The path; empty with
// an error printed where that cannot be.
[[nodiscard]] std::string write_tape(Tape tape, const std::string& folder, const std::string& name,
                                     const std::string& machine);

}  // namespace mobrin::cli
