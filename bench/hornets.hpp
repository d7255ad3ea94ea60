// Hornets twice: as a crowd, and as what a careful programmer writes by hand for this one machine. Both do the same
// work and must tell the same.
#pragma once

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <memory_resource>
#include <random>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin::bench {

inline constexpr Ticks kStep = seconds(1.0 / 60);

inline Machine load_hornet(const char* file) {
  const Loaded loaded = load_character(file);
  if (loaded.machine) return *loaded.machine;
  for (const Finding& finding : loaded.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  std::exit(1);
}

// What is told, as both say it.
enum class Say : std::uint8_t { buzz, stings, danger_begins, danger_ends, thud, done };
struct Event {
  std::int64_t at = 0;
  std::uint32_t who = 0;
  Say what = Say::buzz;
  friend bool operator==(const Event&, const Event&) = default;
};

// Written by hand: 24 bytes each, times in whole ticks since the clip began (32 bits would hold three seconds only), a
// switch over the states. Every hornet is
// looked at every step.
class HandHornets {
 public:
  HandHornets(std::uint32_t count, std::pmr::memory_resource* memory) : all_(count, memory) {}

  void set_distance(std::uint32_t who, float distance) { all_[who].distance = distance; }
  void set_sees(std::uint32_t who, bool sees) { all_[who].sees = sees; }
  void dive(std::uint32_t who) { all_[who].dive = true; }
  void stun(std::uint32_t who) { all_[who].stunned = true; }

  // `distances`: new ones of all, or null.
  void step(Ticks dt, const float* distances, auto& out) {
    for (std::uint32_t i = 0; i < all_.size(); ++i) {
      if (distances != nullptr) all_[i].distance = distances[i];
      update(all_[i], i, dt.count, out);
    }
    now_ += dt.count;
  }

 private:
  enum class State : std::uint8_t { hover, notice, dive, stunned, fall, gone };
  struct Hornet {
    std::int64_t time = 0;   // in the body's clip
    std::int64_t wings = 0;  // in the wings' clip
    float distance = 400;
    State state = State::hover;
    bool sees = false, dive = false, stunned = false;
  };
  static constexpr std::int64_t kSecond = kTicksPerSecond;
  static constexpr std::int64_t kHoverLength = kSecond / 2, kHoverBuzz = kSecond / 8;
  static constexpr std::int64_t kNoticeLength = kSecond / 2, kNoticeBuzz = kSecond / 10;
  static constexpr std::int64_t kDiveLength = kSecond / 2, kDiveDanger = kSecond / 6, kDiveSting = kSecond / 4,
                                kDiveOver = kSecond / 12 * 5;
  static constexpr std::int64_t kStunnedLength = kSecond / 3 * 4;
  static constexpr std::int64_t kFallLength = kSecond / 10 * 9, kFallThud = kSecond / 10 * 3;
  static constexpr std::int64_t kWingsLength = kSecond / 9;

  void enter(Hornet& h, State state, std::int64_t at, std::uint32_t who, auto& out) {
    if (h.state == State::dive && h.time >= kDiveDanger && h.time < kDiveOver)
      out.push_back({at, who, Say::danger_ends});
    h.state = state;
    h.time = 0;
    if (state == State::dive) out.push_back({at, who, Say::buzz});
    if (state == State::gone) out.push_back({at, who, Say::done});
  }

  // Takes transitions until none holds.
  void decide(Hornet& h, std::int64_t at, std::uint32_t who, auto& out) {
    for (;;) {
      switch (h.state) {
        case State::hover:
          if (h.stunned) {
            h.stunned = false;
            enter(h, State::stunned, at, who, out);
            continue;
          }
          if (h.sees && h.distance < 160) {
            enter(h, State::notice, at, who, out);
            continue;
          }
          return;
        case State::notice:
          if (h.stunned) {
            h.stunned = false;
            enter(h, State::stunned, at, who, out);
            continue;
          }
          if (h.dive) {
            h.dive = false;
            enter(h, State::dive, at, who, out);
            continue;
          }
          if (!h.sees || h.distance > 200) {
            enter(h, State::hover, at, who, out);
            continue;
          }
          return;
        case State::dive:
          if (h.stunned) {
            h.stunned = false;
            enter(h, State::stunned, at, who, out);
            continue;
          }
          if (h.time < kDiveLength) return;
          enter(h, State::hover, at, who, out);
          continue;
        case State::stunned:
          if (h.stunned) {
            h.stunned = false;
            enter(h, State::fall, at, who, out);
            continue;
          }
          if (h.time < kStunnedLength) return;
          enter(h, State::hover, at, who, out);
          continue;
        case State::fall:
          if (h.time < kFallLength) return;
          enter(h, State::gone, at, who, out);
          return;
        case State::gone:
          return;
      }
    }
  }

  static bool passes(std::int64_t place, std::int64_t from, std::int64_t to) { return from < place && place <= to; }

  void update(Hornet& h, std::uint32_t who, std::int64_t dt, auto& out) {
    // The common case first: nothing to decide, and the clip goes on.
    if (h.state == State::hover && !h.stunned && !(h.sees && h.distance < 160)) {
      const std::int64_t from = h.time, to = from + dt;
      if (passes(kHoverBuzz, from, to)) out.push_back({now_ + kHoverBuzz - from, who, Say::buzz});
      h.time = to >= kHoverLength ? to - kHoverLength : to;
      h.dive = false;
      flap(h, dt);
      return;
    }
    if (h.state == State::notice && h.time == kNoticeLength && !h.stunned && !h.dive && h.sees && h.distance <= 200) {
      flap(h, dt);
      return;
    }
    if (h.state == State::gone) return;
    decide(h, now_, who, out);
    h.dive = h.stunned = false;  // pressed at this instant only
    std::int64_t at = now_;
    for (std::int64_t left = dt;;) {
      const std::int64_t from = h.time;
      std::int64_t to = from + left;
      switch (h.state) {
        case State::hover:
          if (passes(kHoverBuzz, from, to)) out.push_back({at + kHoverBuzz - from, who, Say::buzz});
          if (to >= kHoverLength) to -= kHoverLength;
          h.time = to;
          break;
        case State::notice:
          if (passes(kNoticeBuzz, from, to)) out.push_back({at + kNoticeBuzz - from, who, Say::buzz});
          h.time = to < kNoticeLength ? to : kNoticeLength;
          break;
        case State::dive:
          if (passes(kDiveDanger, from, to)) out.push_back({at + kDiveDanger - from, who, Say::danger_begins});
          if (passes(kDiveSting, from, to)) out.push_back({at + kDiveSting - from, who, Say::stings});
          if (passes(kDiveOver, from, to)) out.push_back({at + kDiveOver - from, who, Say::danger_ends});
          h.time = to;
          if (to < kDiveLength) break;
          h.time = kDiveLength;
          break;
        case State::stunned:
          h.time = to < kStunnedLength ? to : kStunnedLength;
          break;
        case State::fall:
          if (passes(kFallThud, from, to)) out.push_back({at + kFallThud - from, who, Say::thud});
          h.time = to < kFallLength ? to : kFallLength;
          break;
        case State::gone:
          return;
      }
      const bool ends = (h.state == State::dive && h.time == kDiveLength) ||
                        (h.state == State::stunned && h.time == kStunnedLength) ||
                        (h.state == State::fall && h.time == kFallLength);
      if (!ends) break;
      at += h.time - from;
      left -= h.time - from;
      decide(h, at, who, out);
      if (left == 0) break;
    }
    if (h.state == State::fall || h.state == State::gone) return;  // the wings stand still
    flap(h, dt);
  }
  static void flap(Hornet& h, std::int64_t dt) {
    h.wings += dt;
    if (h.wings >= kWingsLength) h.wings -= kWingsLength;
  }

  std::pmr::vector<Hornet> all_;
  std::int64_t now_ = 0;
};

// The crowd's cues in the words of both.
class Translator {
 public:
  explicit Translator(const Machine& machine) {
    for (const CueDef& cue : machine.cues()) names_.push_back(cue.name.text);
  }
  [[nodiscard]] Event operator()(const CrowdCue& each) const {
    const Cue& cue = each.cue;
    if (cue.what == Told::done) return {cue.at.count, each.place, Say::done};
    const std::string& name = names_[cue.cue];
    const Say say = name == "buzz"            ? Say::buzz
                    : name == "stings"        ? Say::stings
                    : name == "thud"          ? Say::thud
                    : cue.edge == Edge::begin ? Say::danger_begins
                                              : Say::danger_ends;
    return {cue.at.count, each.place, say};
  }

 private:
  std::vector<std::string> names_;
};

// What is written each step, made once for both: a share of the hornets gets a new distance, a few of those dive or are
// hit. Distances move a little, as distances do, unless `jumps`: then each is any at all, and every second one of them
// makes a hornet change its mind. Each is written to twice, with different distances, in `kRounds` steps; then it
// begins anew.
struct Writes {
  static constexpr std::uint32_t kRounds = 16;
  struct Round {
    std::vector<std::uint32_t> who, diving, stunned;
    std::vector<float> distance;
    std::vector<float> of_all;  // where all get a new one
  };
  std::vector<Round> rounds;
  std::vector<bool> sees;
  std::vector<float> first;  // distances at the beginning

  Writes(std::uint32_t count, double share, bool all, bool jumps) {
    std::mt19937 random(7);
    const auto below = [&](std::uint32_t most) { return static_cast<std::uint32_t>(random() % most); };
    std::vector<float> speed(count);
    for (std::uint32_t i = 0; i < count; ++i) {
      sees.push_back(below(2) == 0);
      first.push_back(static_cast<float>(below(400)));
      speed[i] = static_cast<float>(below(5)) - 2;
    }
    for (std::uint32_t r = 0; r < kRounds; ++r) {
      Round& round = rounds.emplace_back();
      const auto writes = static_cast<std::uint32_t>(share * count);
      for (std::uint32_t i = 0; i < writes; ++i) {
        const auto begin = static_cast<std::uint32_t>(std::uint64_t{i} * count / writes);
        const auto end = static_cast<std::uint32_t>(std::uint64_t{i + 1} * count / writes);
        const std::uint32_t who = r < kRounds / 2 ? begin + below(end - begin) : rounds[r - kRounds / 2].who[i];
        round.who.push_back(who);
        round.distance.push_back(jumps ? static_cast<float>(below(400))
                                       : first[who] + static_cast<float>(below(21)) - 10);
        if (below(16) == 0) round.diving.push_back(who);
        if (below(64) == 0) round.stunned.push_back(who);
      }
      if (!all) continue;
      for (std::uint32_t i = 0; i < count; ++i) {
        const auto way = static_cast<float>(r < kRounds / 2 ? r : kRounds - r);
        round.of_all.push_back(first[i] + speed[i] * way);
      }
    }
  }
};

// Both kinds, written to and stepped alike.
class CrowdSide {
 public:
  // What a crowd takes if it is told nothing, where the loop takes what it takes then.
  static MemorySource source_of(std::pmr::memory_resource* memory) {
    return memory == std::pmr::get_default_resource() ? MemorySource() : MemorySource(memory);
  }
  CrowdSide(const Machine& machine, std::uint32_t count, std::pmr::memory_resource* memory)
      : crowd(machine, {.memory = source_of(memory)}),
        cues(source_of(memory)),
        distance_(*machine.input<float>("distance")),
        sees_(*machine.input<bool>("sees_keeper")),
        dive_(*machine.pulse("dive")),
        stunned_(*machine.pulse("stunned")) {
    crowd.reserve(count);
    cues.reserve(2 * std::size_t{count});
    for (std::uint32_t i = 0; i < count; ++i) crowd.add();
  }
  void begin(std::uint32_t who, bool sees, float distance) {
    crowd.set(crowd.at(who), sees_, sees);
    crowd.set(crowd.at(who), distance_, distance);
  }
  void stun(const std::vector<std::uint32_t>& who) { crowd.pulse(who, stunned_); }
  void step(const Writes::Round& round) {
    crowd.set(round.who, distance_, round.distance);
    if (!round.of_all.empty()) crowd.set_all(distance_, round.of_all);
    crowd.pulse(round.diving, dive_);
    crowd.pulse(round.stunned, stunned_);
    cues.clear();
    crowd.advance(kStep, cues);
  }
  void told(auto& out) const {
    const Translator translate(crowd.machine());
    for (const CrowdCue& cue : cues) out.push_back(translate(cue));
  }
  Crowd crowd;
  CrowdCues cues;

 private:
  Input<float> distance_;
  Input<bool> sees_;
  Pulse dive_, stunned_;
};

class HandSide {
 public:
  HandSide(const Machine&, std::uint32_t count, std::pmr::memory_resource* memory)
      : hornets_(count, memory), events_(memory) {
    events_.reserve(2 * std::size_t{count});
  }
  void begin(std::uint32_t who, bool sees, float distance) {
    hornets_.set_sees(who, sees);
    hornets_.set_distance(who, distance);
  }
  void stun(const std::vector<std::uint32_t>& who) {
    for (const std::uint32_t i : who) hornets_.stun(i);
  }
  void step(const Writes::Round& round) {
    for (std::size_t i = 0; i < round.who.size(); ++i) hornets_.set_distance(round.who[i], round.distance[i]);
    for (const std::uint32_t i : round.diving) hornets_.dive(i);
    for (const std::uint32_t i : round.stunned) hornets_.stun(i);
    events_.clear();
    hornets_.step(kStep, round.of_all.empty() ? nullptr : round.of_all.data(), events_);
  }
  void told(auto& out) const { out.insert(out.end(), events_.begin(), events_.end()); }

 private:
  HandHornets hornets_;
  std::pmr::vector<Event> events_;
};

// One side after a time in which all hornets got to different moments of their clips.
template <class Side>
class Running {
 public:
  Running(const Machine& machine, std::uint32_t count, const Writes& writes, std::pmr::memory_resource* memory)
      : side(machine, count, memory), writes_(writes) {
    for (std::uint32_t i = 0; i < count; ++i) side.begin(i, writes.sees[i], writes.first[i]);
    static constexpr std::uint32_t kPhases = 30;
    std::vector<std::vector<std::uint32_t>> phases(kPhases);
    for (std::uint32_t i = 0; i < count; ++i) phases[(i * 2'654'435'761u >> 8) % kPhases].push_back(i);
    const Writes::Round none;
    for (std::uint32_t k = 0; k < 120; ++k) {
      if (k < kPhases) side.stun(phases[k]);
      side.step(none);
    }
  }
  void step() { side.step(writes_.rounds[next_++ % Writes::kRounds]); }
  Side side;

 private:
  const Writes& writes_;
  std::uint32_t next_ = 0;
};

}  // namespace mobrin::bench
