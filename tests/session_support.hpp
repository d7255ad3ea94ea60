// What the tests of sessions share.
#pragma once

#include <gtest/gtest.h>

#include <map>
#include <random>

#include "mobrin/io/file.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/live/session.hpp"
#include "support.hpp"

namespace mobrin::test {

inline const std::string kDemo = std::string(MOBRIN_DEMO) + "/";

inline std::shared_ptr<const Cast> cast_of(const std::string& path, const FileText& instead = {}) {
  LoadedCast loaded = load_cast(path, instead);
  EXPECT_TRUE(loaded.cast) << joined(loaded.findings);
  return loaded.cast;
}

inline TapeStep set_by_hand(const std::string& input, FieldValue value) {
  TapeStep step;
  step.set.emplace_back(input, std::move(value));
  return step;
}
inline TapeStep press_by_hand(const std::string& input) {
  TapeStep step;
  step.pulses.emplace_back(input);
  return step;
}

// All that a session shows: who is there, where, in which state.
inline std::string state_of(const Session& session) {
  std::string out = std::to_string(session.stretch()) + ":";
  const SceneRun& run = session.run();
  for (std::size_t i = 0; i < run.actors(); ++i) {
    if (run.gone(i)) continue;
    const Placement place = run.placement(i, run.now());
    out += run.actor(i).name.text + " " + std::to_string(run.instance(i).hash()) + " " + std::to_string(place.at.x) +
           " " + std::to_string(place.at.y) + (place.faces_left ? " <\n" : " >\n");
  }
  return out;
}

inline std::string told_in(const std::vector<SessionRecord>& records) {
  std::string out;
  for (const SessionRecord& each : records)
    out += std::to_string(each.at.count) + " " + std::to_string(each.actor) + " " +
           std::to_string(static_cast<int>(each.what)) + " " + std::to_string(static_cast<int>(each.cue.what)) + " " +
           std::string(each.cue.state_path()) + std::string(each.cue.what == Told::cue ? each.cue.name() : "") +
           each.text + "\n";
  return out;
}

inline std::string whole_file(const std::string& path) { return *mobrin::read_file(path); }
inline std::string with_words(std::string text, const std::string& from, const std::string& to) {
  const std::size_t at = text.find(from);
  EXPECT_NE(at, std::string::npos) << from;
  return at == std::string::npos ? text : text.replace(at, from.size(), to);
}

}  // namespace mobrin::test
