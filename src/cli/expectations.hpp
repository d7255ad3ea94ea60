// What a tape expects, held against a run of its machine: alone, or as an actor of a scene.
#pragma once

#include <deque>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "mobrin/check/expect.hpp"
#include "mobrin/core/parts.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/scene.hpp"

namespace mobrin::cli {

// The instants of a run at which a value or a state that an expression reads may change: something is written, or told.
class Changes {
 public:
  // They count from `begin`.
  explicit Changes(Ticks begin = {}) : begin_(begin) {}
  Changes(const Changes&) = delete;  // hooks know where it lies
  Changes& operator=(const Changes&) = delete;

  // For that instance, which outlives it.
  [[nodiscard]] WriteHook hook_of(const Instance& instance);
  void hear(const Cue& cue) {
    if (cue.what != Told::cue) at_.insert(cue.at - begin_);
  }
  [[nodiscard]] const std::set<Ticks>& at() const { return at_; }

 private:
  struct Watched {
    const Instance& instance;
    Changes& to;
  };
  Ticks begin_;
  std::set<Ticks> at_;
  std::deque<Watched> watched_;
};

// The run is gone through twice: first for its Changes, then cut at those that instants() names, which changes nothing.
class Expectations {
 public:
  // All of them outlive it. Failures are told as of `path`, of the actor `who`; empty: of a machine alone.
  Expectations(const std::vector<TapeExpect>& expects, const std::string& path, std::string who,
               const Instance& instance, std::vector<std::string>& failures)
      : expects_(expects), path_(path), who_(std::move(who)), instance_(instance), failures_(failures) {}

  // Whether anything hangs on the run's changes.
  [[nodiscard]] bool asks_for_changes() const;
  // Where look() is to be called.
  void instants(const Changes& changes, std::set<Ticks>& to) const;
  // All that is told, in order.
  void hear(const Cue& cue);
  // The instance has come to this instant, and all that is written at it has taken effect.
  void look(Ticks at);
  // The run is over.
  void finish();

 private:
  [[nodiscard]] const Machine& machine() const { return instance_.machine(); }
  [[nodiscard]] std::string held(const std::string& expression) const;
  [[nodiscard]] std::string since() const;
  [[nodiscard]] std::string shown(const Text& wanted, bool& found) const;
  void look_at(const TapeExpect& expect);
  void look_at_stretch(const TapeExpect& expect, Ticks at);
  void finish(const TapeExpect& expect);
  void fail(const TapeExpect& expect, const std::string& what);

  const std::vector<TapeExpect>& expects_;
  const std::string& path_;
  std::string who_;
  const Instance& instance_;
  std::vector<std::string>& failures_;
  std::vector<Cue> told_;
  std::optional<Cue> last_;  // that entered or left a state
  std::set<const TapeExpect*> failed_;
};

// What is expected of a run that ends at `until`, by a `tape` or a `scene`.
struct Expected {
  const std::vector<TapeExpect>& expects;
  std::optional<Ticks> until;
  const char* by;
};
// What is wrong with the names, expressions and instants of that.
[[nodiscard]] std::vector<Finding> expectation_findings(const Expected& expected, const std::string& path,
                                                        const MachineDef& definition, const Machine& machine);
// Of all actors of a scene.
[[nodiscard]] std::vector<Finding> expectation_findings(const LoadedScene& loaded, const std::string& path);

}  // namespace mobrin::cli
