// A definition made in code with something in it that no file would say: any field with any value, lists with an
// element more or less.
#pragma once

#include <cmath>
#include <functional>
#include <limits>
#include <type_traits>

#include "kit.hpp"
#include "mobrin/core/definition.hpp"

namespace mobrin::fuzz {

class Spoiler {
 public:
  Spoiler(MachineDef& definition, Source& from) : from_(from) {
    for (const char* word :
         {"",  "a", "1x",   "not",   "back",   "x/last",    "s0",    "s1/last", "c0",   "cue0", "p", "q",
          "v", "w", "v > ", "n + 1", "in(s0)", "v / 0 > 1", "w = v", "w = ",    "true", "\xff", "y"})
      words_.emplace_back(word);
    words_.push_back(std::string("a\0b", 3));
    words_.push_back(std::string(3'000, 'a'));
    part(definition);
  }
  // Changes one thing.
  void spoil() {
    if (!changes_.empty()) changes_[from_.pick(changes_.size())]();
  }

 private:
  template <class... T>
  void parts(T&... each) {
    (part(each), ...);
  }
  template <class T>
  void number(T& to, std::initializer_list<T> values) {
    const std::vector<T> all(values);
    changes_.emplace_back([this, &to, all] { to = all[from_.pick(all.size())]; });
  }
  void part(bool& to) {
    changes_.emplace_back([&to] { to = !to; });
  }
  void part(std::int32_t& to) {
    number(to, {0, 1, -1, 2, 3, 64, 9'999, 10'000, 10'001, 65'535, 65'536, INT32_MIN, INT32_MAX});
  }
  void part(std::int64_t& to) {
    number<std::int64_t>(to, {0, 1, -1, 2, 1'000, 1'000'000'000'000, 1'000'000'000'001, INT64_MIN, INT64_MAX});
  }
  void part(double& to) {
    constexpr double kInfinite = std::numeric_limits<double>::infinity();
    number(to, {0.0, -0.0, 1.0, -1.0, 0.1, 1e-320, 1e6, 1e7, 3.5e38, 1e300, kInfinite, -kInfinite, std::nan("")});
  }
  void part(Ticks& to) {
    number<std::int64_t>(to.count, {0, 1, -1, 705'599, 705'600, 705'600'000, 25'401'600'000'000, 25'401'600'000'001,
                                    INT64_MIN, INT64_MAX});
  }
  void part(std::string& to) {
    changes_.emplace_back([this, &to] { to = words_[from_.pick(words_.size())]; });
  }
  template <class T>
  requires std::is_enum_v<T>
  void part(T& to) {
    changes_.emplace_back([this, &to] { to = static_cast<T>(from_.pick(9) == 8 ? 255 : from_.pick(8)); });
  }
  template <class T>
  void part(std::optional<T>& to) {
    if (to) part(*to);
    changes_.emplace_back([&to] { to ? to.reset() : static_cast<void>(to.emplace()); });
  }
  template <class... T>
  void part(std::variant<T...>& to) {
    std::visit([this](auto& holds) { this->part(holds); }, to);
    (changes_.emplace_back([&to] { to = T{}; }), ...);
  }
  template <class T>
  void part(std::vector<T>& to) {
    for (T& each : to) part(each);
    changes_.emplace_back([this, &to] {
      const std::size_t at = from_.pick(to.size());
      switch (from_.pick(5)) {
        case 0:
          return to.clear();
        case 1:
          return to.emplace_back(), void();
        case 2:
          if (!to.empty()) to.push_back(T(to[at]));
          return;
        case 3:
          if (!to.empty()) to.pop_back();
          return;
        default:
          if (!to.empty()) std::swap(to[at], to.back());
      }
    });
  }
  template <class A, class B>
  void part(std::pair<A, B>& to) {
    parts(to.first, to.second);
  }
  void part(Text& to) { part(to.text); }
  void part(FieldDef& to) { parts(to.name, to.value); }
  void part(BoolInput& to) { part(to.start); }
  void part(IntInput& to) { parts(to.start, to.min, to.max); }
  void part(FloatInput& to) { parts(to.start, to.min, to.max, to.grain); }
  void part(ChoiceInput& to) { parts(to.choices, to.start); }
  void part(PulseInput& to) { part(to.buffer); }
  void part(InputDef& to) { parts(to.name, to.kind, to.accept); }
  void part(CueDef& to) { parts(to.name, to.kind, to.fields, to.accept); }
  void part(Fraction& to) { parts(to.num, to.den); }
  void part(PlayMode& to) { parts(to.kind, to.passes); }
  void part(PixelRect& to) { parts(to.x, to.y, to.width, to.height); }
  void part(FrameArt& to) { parts(to.source, to.tile, to.rect, to.margin, to.spacing, to.whole); }
  void part(FrameDef& to) { parts(to.hold, to.time, to.art); }
  void part(ClipDef& to) { parts(to.name, to.frames, to.fps, to.length, to.play, to.accept); }
  void part(MarkDef& to) { parts(to.cue, to.at, to.frame, to.last_frame, to.time, to.until, to.way, to.fields); }
  void part(StretchDef& to) { parts(to.timed, to.first, to.last, to.begin, to.end); }
  void part(WindowDef& to) { parts(to.name, to.stretches); }
  void part(RectShape& to) { parts(to.left, to.bottom, to.width, to.height); }
  void part(CircleShape& to) { parts(to.x, to.y, to.radius); }
  void part(ConeShape& to) { parts(to.x, to.y, to.length, to.angle); }
  void part(BoxDef& to) { parts(to.name, to.role, to.stretches, to.shape, to.hits, to.spares, to.every); }
  void part(TrackKey& to) { parts(to.time, to.value, to.in, to.out); }
  void part(TrackDef& to) { parts(to.name, to.curve, to.keys); }
  void part(OffsetDef& to) { parts(to.first, to.last, to.x, to.y); }
  void part(ClipMarksDef& to) {
    parts(to.clip, to.pivot, to.offset, to.offsets, to.airborne, to.boxes, to.tracks, to.marks, to.windows);
  }
  void part(ActionDef& to) { parts(to.assign, to.tell, to.fields); }
  void part(VarDef& to) { parts(to.name, to.start); }
  void part(StartDef& to) { parts(to.kind, to.frame, to.time); }
  void part(GoDef& to) {
    parts(to.pulse, to.cue, to.at, to.after, to.when, to.during, to.during_stretch, to.to, to.restart, to.start,
          to.fade, to.fade_cues, to.actions, to.accept);
  }
  void part(RegionDef& to) { parts(to.name, to.initial, to.states); }
  void part(ClipByDef& to) { parts(to.input, to.clips); }
  void part(BlendPointDef& to) { parts(to.x, to.y, to.clip, to.mirrored, to.backward); }
  void part(BlendDef& to) { parts(to.x, to.y, to.points, to.floor, to.cues_above); }
  void part(StateDef& to) {
    parts(to.name, to.clip, to.sequence, to.clip_by, to.blend, to.pose, to.pose_time, to.length, to.speed, to.traits, to.vars,
          to.enter, to.exit, to.each_loop, to.final, to.sealed, to.linger, to.initial, to.go, to.states, to.regions,
          to.accept);
  }
  void part(ReachDef& to) { parts(to.name, to.shape, to.hits, to.spares, to.accept); }
  void part(ZoneDef& to) { parts(to.name, to.shape, to.tags, to.inside, to.enter, to.leave); }
  void part(LookDef& to) { parts(to.name, to.when, to.art); }
  void part(ClaimDef& to) { parts(to.name, to.kind, to.first, to.second, to.within); }
  void part(KeysDef& to) { parts(to.input, to.codes); }
  void part(MachineDef& to) {
    parts(to.name, to.inputs, to.cues, to.clips, to.marks, to.unit, to.reaches, to.zones, to.looks, to.accept,
          to.claims, to.assumed, to.keys, to.root);
  }

  Source& from_;
  std::vector<std::string> words_;
  std::vector<std::function<void()>> changes_;  // each may end others: one a definition's walk
};

}  // namespace mobrin::fuzz
