// What several tests share: machines from text, logs as short lines.
#pragma once

#include <gtest/gtest.h>

#include <cstdio>
#include <cstdlib>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin::test {

// How many random machines: so few whenever something was changed, as many as are asked for by `./dev agree`.
inline bool many_seeds() { return std::getenv("MOBRIN_SEEDS") != nullptr; }
inline int seeds(int few) { return many_seeds() ? std::atoi(std::getenv("MOBRIN_SEEDS")) : few; }

// An instant in milliseconds, with as many digits as needed: `500`, `583.333`.
inline std::string ms(Ticks at) {
  char text[40];
  std::snprintf(text, sizeof text, "%.9g",
                static_cast<double>(at.count) / (static_cast<double>(kTicksPerSecond) / 1000));
  return text;
}

// `500 enter walk`, `583.333 step walk:1`, `600 trail> net:2` (a span's begin; `<trail` its end), `1000 loop walk`.
inline std::string line(const Cue& cue) {
  const std::string at = ms(cue.at) + " ";
  switch (cue.what) {
    case Told::enter:
      return at + "enter " + std::string(cue.state_path());
    case Told::leave:
      return at + "leave " + std::string(cue.state_path());
    case Told::loop:
      return at + "loop " + std::string(cue.state_path());
    case Told::done:
      return at + "done " + std::string(cue.state_path());
    case Told::fault:
      return at + "runaway";
    case Told::cue:
      break;
  }
  std::string name(cue.name());
  if (cue.edge == Edge::begin) name += ">";
  if (cue.edge == Edge::end) name = "<" + name;
  if (cue.clip != kNoIndex)
    name += " " + std::string(cue.clip_name()) + (cue.frame < 0 ? "" : ":" + std::to_string(cue.frame));
  return at + name;
}

// A record with all that tells it from another.
inline std::string record(const Cue& cue) {
  return std::to_string(cue.at.count) + "#" + std::to_string(cue.ordinal) + " " + line(cue) + " " +
         std::to_string(cue.transition) + " " + std::to_string(cue.fields);
}

inline std::string joined(const std::vector<Finding>& findings) {
  std::string out;
  for (const Finding& finding : findings) out += finding.text() + "\n";
  return out;
}

// Loads a machine that must be sound. `text` goes without its first lines, `mobrin: 1` and its name.
inline Loaded loaded_from(const std::string& text) {
  Loaded loaded = load_character_text("mobrin: 1\nmachine: m\n" + text, "m.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings) << text;
  return loaded;
}
inline Machine machine_of(const std::string& text) {
  Loaded loaded = loaded_from(text);
  if (!loaded.machine) std::abort();
  return *loaded.machine;
}

// The findings of a machine, as text.
inline std::string findings_of(const std::string& text) {
  return joined(load_character_text("mobrin: 1\nmachine: m\n" + text, "m.yaml").findings);
}

inline Tape tape_of(const std::string& steps) {
  LoadedTape loaded = load_tape_text("mobrin: 1\ntape: t\nsteps:\n" + steps, "t.yaml");
  EXPECT_TRUE(loaded.tape) << joined(loaded.findings);
  return loaded.tape.value_or(Tape());
}

inline std::vector<std::string> log_of(const Machine& machine, const Tape& tape, Ticks until, std::int64_t rate_hz = 60,
                                       Listening listening = kAllRecords) {
  Instance instance(machine);
  std::vector<std::string> lines;
  run_tape(instance, tape, {rate_hz, until, listening}, [&](const Cue& cue) { lines.push_back(line(cue)); });
  return lines;
}

inline std::string text_of(const std::vector<std::string>& lines) {
  std::string out;
  for (const std::string& each : lines) out += each + "\n";
  return out;
}

// Advances and notes all that is told.
inline void listen(Instance& instance, Ticks dt, std::vector<std::string>& log) {
  instance.advance(
      dt, [&](const Cue& cue) { log.push_back(line(cue)); }, kAllRecords);
}

// A machine, what is written, and the whole log.
struct Row {
  const char* name;
  const char* machine;
  const char* tape;
  int until_ms;
  const char* log;
};
inline std::string name_of(const testing::TestParamInfo<Row>& info) { return info.param.name; }
inline void expect_log(const Row& row) {
  const Machine machine = machine_of(row.machine);
  for (const std::int64_t hz : {24, 60, 144, 1000})
    EXPECT_EQ(text_of(log_of(machine, tape_of(row.tape), milliseconds(row.until_ms), hz)), row.log)
        << row.name << " at " << hz << " Hz";
}

inline std::size_t errors_in(const std::vector<Finding>& findings) {
  return static_cast<std::size_t>(
      std::count_if(findings.begin(), findings.end(), [](const Finding& each) { return is_error(each); }));
}

// A file, or a part of one, and what is told of it.
struct ToldRow {
  const char* name;
  const char* text;
  const char* told;
};
inline std::string name_of_told(const testing::TestParamInfo<ToldRow>& row) { return row.param.name; }

// Only lines that hold one of the words.
inline std::vector<std::string> only(const std::vector<std::string>& lines, std::string_view word) {
  std::vector<std::string> out;
  for (const std::string& each : lines)
    if (each.find(word) != std::string::npos) out.push_back(each);
  return out;
}

}  // namespace mobrin::test
