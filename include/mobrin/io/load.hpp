// Loading: machines, clips, marks and tapes from YAML or JSON files.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "mobrin/core/carry.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin {

/// What loading gives: all findings, and the machine if none of them is an error.
struct Loaded {
  std::optional<Machine> machine;        ///< what was loaded; empty where there is an error
  std::vector<Finding> findings;         ///< errors and warnings, in the order of their places
  std::vector<std::string> files;        ///< all files read, the named one first
  std::optional<MachineDef> definition;  ///< what the files say, as it was compiled; set with `machine`
  bool has_machine = true;  ///< false for a file of clips, marks, inputs or cues alone; `machine` then holds those
};

/// Whether names under `use:`, `sheet:`, `images:` and their like may lead out of the folder of the file that is
/// loaded, or of a character's machine (`../`). At first they may not, which is an error (outside-folder); whole paths
/// always may. For the whole process: set it before anything is loaded.
void allow_outside(bool allow);
[[nodiscard]] bool outside_is_allowed();

/// Loads a machine file, or a character's file, and all it uses. Never throws; what cannot be read is a finding. Art is
/// not opened.
[[nodiscard]] Loaded load_character(const std::string& path);

/// The same, with `text` in place of what one of the files holds: to see what an edit would do before it is written.
struct FileText {
  std::string path;  ///< which file
  std::string text;  ///< what it is taken to hold
};
[[nodiscard]] Loaded load_character(const std::string& path, const FileText& instead);

/// The same from text in memory. `name` stands for the file in findings; `use:` is relative to its folder.
[[nodiscard]] Loaded load_character_text(std::string_view text, const std::string& name);

/// One entry of a tape: what is written at an instant, in the order of its members.
struct TapeStep {
  Ticks at;                                      ///< the instant
  bool settled = false;                          ///< after what stands above it at this instant has taken effect
  std::optional<Text> place{};                   ///< the path of a state: see Instance::place
  Ticks played{};                                ///< of `place`: how long it has been active; at most 10 hours
  bool reset = false;                            ///< put back to its begin
  std::vector<std::pair<Text, FieldValue>> set;  ///< inputs and their values, in the file's order
  std::vector<Text> pulses;                      ///< pulses sent
  std::optional<double> rate{};                  ///< see Instance::set_rate
  std::optional<Ticks> freeze{};                 ///< see Instance::freeze
  std::optional<Text> force{};                   ///< the path of a state: see Instance::force
};

/// What a tape says must be so: at an instant, after all of its tick, or over a stretch of time. Empty texts ask
/// nothing.
struct TapeExpect {
  Place place{};              ///< where it stands in its file
  Ticks at{};                 ///< of a stretch: from, included
  std::optional<Ticks> to{};  ///< of a stretch: its end, not included
  Ticks rounded{};            ///< of `cue`: half the last digit that was written; its instant may lie that far off
  Text in{};                  ///< a state, by its path
  Text shows{};               ///< `clip` or `clip/frame`, in any region
  Text is{};                  ///< a trait
  Text holds{};               ///< an expression
  Text look{};                ///< the look that is worn; `none`: none is
  Text cue{};                 ///< one that is told at this instant
  Text never{};               ///< of a stretch: an expression
  Text always{};              ///< of a stretch: an expression
  std::vector<std::pair<Text, std::int32_t>> cues{};  ///< of a stretch: how often each is told
};

/// Recorded inputs over time. Steps are in order of time; those of one instant act in the order of the file: they are
/// written together, but what stands above a reset, a force or a step that is
/// `settled` acts before it.
struct Tape {
  std::string name;             ///< as it names itself
  std::string machine;          ///< path of the machine file, resolved against the tape's; empty if the tape names none
  std::vector<TapeStep> steps;  ///< in order of time
  std::optional<Ticks>
      until;  ///< where it ends, as `until:` says or a last step of nothing but `at:`; a run says it else
  std::vector<TapeExpect> expects{};       ///< what is to hold, in the file's order
  std::int32_t faults = 0;                 ///< runaways that are expected
  std::optional<SavedInstance> save{};     ///< the state that its run begins with; its instants count from there
  std::optional<std::vector<Text>> log{};  ///< all that its run told when it was kept: see tape_log.hpp
  Place machine_place{};                   ///< where its file names the machine
};

/// A tape, or why there is none.
struct LoadedTape {
  std::optional<Tape> tape;       ///< empty where there is an error
  std::vector<Finding> findings;  ///< errors and warnings
};

[[nodiscard]] LoadedTape load_tape(const std::string& path);
[[nodiscard]] LoadedTape load_tape_text(std::string_view text, const std::string& name);

/// What in `tape` does not fit `machine`: names and types. `file` stands for the tape in findings.
[[nodiscard]] std::vector<Finding> check_tape(const Tape& tape, const Machine& machine, const std::string& file);

/// Whether what stands above it at its instant takes effect before it is written. `written`: something stands there.
[[nodiscard]] bool takes_turn(const TapeStep& step, bool written);
/// Writes one entry to an instance. What does not fit it is passed over; see check_tape.
void write_step(Instance& instance, const TapeStep& step);

/// How a tape is run. Cutting time differently changes nothing in what is told.
struct RunOptions {
  std::int64_t rate_hz = 60;          ///< steps a second; 0 or below: one from each of the tape's instants to the next
  std::optional<Ticks> until;         ///< overrides the tape's
  Listening listening = kAllRecords;  ///< which records are told
  bool at_wakes = false;              ///< also one to each of its wakes, so that who is told sees it as it is then
};

/// Runs `tape` on a fresh or running `instance` and calls `told` for each record. Time starts at the instance's now; a
/// tape with a save gives the instance that state first. REQUIRES: check_tape found no error, and the tape or the
/// options say until when.
void run_tape(Instance& instance, const Tape& tape, const RunOptions& options,
              const std::function<void(const Cue&)>& told);

/// A duration with its unit, as files write it (`110ms`, `1.5s`), to the nearest tick, half up; empty where `text` is
/// none.
[[nodiscard]] std::optional<Ticks> parse_duration(std::string_view text);

/// Whether a file is a tape, judged by its top-level keys; empty where it cannot be read as YAML.
[[nodiscard]] std::optional<bool> is_tape(const std::string& path);

/// Whether a file is a character; empty where it cannot be read as YAML.
[[nodiscard]] std::optional<bool> is_character(const std::string& path);
/// The files of `loaded`, which is a character's, that are its own and not its machine's; all of another's.
[[nodiscard]] std::vector<std::string> own_files(const Loaded& loaded);

/// The JSON Schema (draft 2020-12) of machine, clips and marks, and tape files, as text.
[[nodiscard]] std::string json_schema();
/// The tables of keys in docs/format.md, as Markdown, for the section named (`state`, `clip`, ...).
[[nodiscard]] std::string key_table(std::string_view section);

}  // namespace mobrin
