// Prints what random machines and a fight are and do, as numbers: the same lines on every processor and system, in C++
// and by way of the C interface. See `./dev cross`.
#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <vector>

#include "made_machine.hpp"
#include "mobrin/c/mobrin.h"
#include "mobrin/contact/arena.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/pack/pack.hpp"

namespace {

using namespace mobrin;

class Log {
 public:
  void add(std::uint64_t value) { hash_ = (hash_ ^ value) * 0x100000001b3u; }
  void add(const Cue& cue) {
    add(static_cast<std::uint64_t>(cue.at.count)), add(cue.ordinal), add(cue.transition), add(cue.state);
    add(cue.cue), add(static_cast<std::uint64_t>(cue.frame)), add(static_cast<std::uint64_t>(cue.what));
  }
  [[nodiscard]] std::uint64_t value() const { return hash_; }

 private:
  std::uint64_t hash_ = 0xcbf29ce484222325u;
};

void check(bool holds, const char* what) {
  if (holds) return;
  std::printf("this is not so: %s\n", what);
  std::exit(1);
}

// The same machine out of its pack, by way of C, from one step of an instance to the next.
class InC {
 public:
  explicit InC(const Machine& machine) : packed_(pack(machine)) {
    mobrin_error error;
    mobrin_init(error);
    machine_ = mobrin_machine_from_pack(packed_.data(), packed_.size(), 0, &error);
    check(machine_ != nullptr, error.text);
    check(mobrin_machine_fingerprint(machine_) == machine.fingerprint(), "it is the same machine");
    it_ = mobrin_instance_new(machine_, nullptr);
    cues_ = mobrin_cues_new(20'000, MOBRIN_ALL_RECORDS);
  }
  ~InC() {
    mobrin_cues_free(cues_);
    mobrin_instance_free(it_);
    mobrin_machine_free(machine_);
  }
  InC(const InC&) = delete;
  InC& operator=(const InC&) = delete;
  void begin(const Instance& from) {
    check(mobrin_restore(it_, from.block().data(), from.block().size()) == 1, "a block is taken");
  }
  Log advance(Ticks dt) {
    Log log;
    mobrin_advanced how;
    mobrin_init(how);
    how.left = dt.count;
    do {
      mobrin_cues_clear(cues_);
      (void)mobrin_advance(it_, how.left, cues_, &how);
      for (std::uint32_t i = 0; i < mobrin_cues_count(cues_); ++i)
        log.add(*reinterpret_cast<const Cue*>(mobrin_cues_at(cues_, i)));
    } while (how.stopped != 0);
    return log;
  }
  [[nodiscard]] std::uint64_t hash() const { return mobrin_hash(it_); }
  [[nodiscard]] const std::vector<std::byte>& packed() const { return packed_; }

 private:
  std::vector<std::byte> packed_;
  mobrin_machine* machine_ = nullptr;
  mobrin_instance* it_ = nullptr;
  mobrin_cues* cues_ = nullptr;
};

void random_machines() {
  std::vector<Cue> memory(20'000);
  Log log;
  std::uint32_t from = 0;
  for (int more = 400; more > 0; --more) {
    test::SoundMachine subject = test::next_sound(from);
    Instance instance(subject.machine);
    InC in_c(subject.machine);
    CueBuffer cues(memory, kAllRecords);
    for (int step = 0; step < 25; ++step) {
      subject.random.write(instance);
      in_c.begin(instance);
      Log told;
      const Ticks dt(subject.random.pick(40'000'000));
      for (Advanced part{{}, dt, 0, true}; !part.complete(); cues.clear()) {
        part = instance.advance(part.left, cues);
        for (const Cue& cue : cues) log.add(cue), told.add(cue);
      }
      check(in_c.advance(dt).value() == told.value() && in_c.hash() == instance.hash(), "C tells what C++ tells");
    }
    Log bytes;
    for (const std::byte each : in_c.packed()) bytes.add(std::to_integer<std::uint64_t>(each));
    std::printf("%u %016" PRIx64 " %zu %016" PRIx64 " %016" PRIx64 " %016" PRIx64 "\n", subject.seed,
                subject.machine.fingerprint(), subject.machine.block_size(), log.value(), instance.hash(),
                bytes.value());
  }
}

// Two who meet: a net that swings, a hornet that comes.
Machine swinger() {
  MachineDef def;
  def.name = "swinger";
  def.inputs.push_back({"swing", PulseInput{}});
  def.inputs.push_back({"hit", PulseInput{}});
  def.cues.push_back({"blow", "damage", {}});
  ClipDef rest{"rest", plain_frames(2), {4, 1}, {}, PlayMode::loop()}, swing{"swing", plain_frames(5), {20, 1}};
  def.clips = {rest, swing};
  ClipMarksDef at_rest, swinging;
  at_rest.clip = "rest";
  at_rest.boxes.push_back({"body", "hurt", {}, RectShape{-6, 0, 12, 26}});
  swinging.clip = "swing";
  swinging.marks.push_back({.cue = "blow", .at = MarkAt::frame_begin, .frame = 2});
  swinging.boxes.push_back({"net", "hit", {{false, 2, 3}}, CircleShape{17, 8, 7}});
  def.marks = {at_rest, swinging};
  StateDef stand, swings, struck;
  stand.name = "stand", stand.clip = "rest";
  stand.go = {{.pulse = "hit", .to = "struck"}, {.pulse = "swing", .to = "swings"}};
  swings.name = "swings", swings.clip = "swing";
  swings.go = {{.at = GoAt::end, .to = "stand"}};
  struck.name = "struck", struck.traits = {"dead"};
  struck.go = {{.after = milliseconds(700), .to = "stand"}};
  def.root.states = {stand, swings, struck};
  def.root.initial = "stand";
  const Compiled compiled = compile(def);
  for (const Finding& finding : compiled.findings) std::printf("%s\n", finding.text().c_str());
  check(compiled.machine.has_value(), "the swinger is sound");
  return *compiled.machine;
}

struct Fight : ArenaGame {
  HitAnswer hit(const Hit& hit) override {
    log.add(static_cast<std::uint64_t>(hit.at.count));
    log.add(std::bit_cast<std::uint64_t>(hit.distance));
    log.add(hit.by * 100 + hit.on);
    ++hits;
    arena->instance(hit.on)->pulse(struck);
    return HitAnswer::lives;
  }
  void told(std::uint32_t id, const Cue& cue) override { log.add(id), log.add(cue); }
  Log log;
  int hits = 0;
  Arena* arena = nullptr;
  Pulse struck{};
};

void fights() {
  const Machine machine = swinger();
  TagNames tags;
  Arena arena(tags);
  Crowd crowd(machine);
  Instance keeper(machine);
  std::vector<Member> members;
  for (int i = 0; i < 5; ++i) members.push_back(crowd.add());
  Fight fight;
  fight.arena = &arena;
  fight.struck = *machine.pulse("hit");
  for (int step = 0; step < 240; ++step) {
    if (step % 30 == 5) keeper.pulse(*machine.pulse("swing"));
    arena.begin(step_end(step, 60), step_end(step + 1, 60));
    check(arena.add({0, 0, true, {{0, 0}}, {{0, 0}}}, keeper), "the keeper takes part");
    for (int i = 0; i < 5; ++i) {
      const auto way = [&](int at) { return Placement{{1.4 - 0.01 * ((at + 13 * i) % 110), 0.05 * i}, true, 1}; };
      check(arena.add({static_cast<std::uint32_t>(i + 1), 0, true, way(step), way(step)}, crowd,
                      members[static_cast<std::size_t>(i)]),
            "a member takes part");
    }
    (void)arena.run(fight);
  }
  check(fight.hits > 3, "somebody is hit");
  std::printf("fight %d %016" PRIx64 " %016" PRIx64 "\n", fight.hits, fight.log.value(), keeper.hash());
}

// Fifty members of plain machines that are written to alike: what they tell and show.
void crowds() {
  std::uint32_t from = 0;
  for (int more = 40; more > 0; --more) {
    test::SoundMachine subject = test::next_quick(from);
    test::RandomMachine& random = subject.random;
    const Machine& machine = subject.machine;
    Crowd crowd(machine);
    CrowdCues cues;
    Log log;
    for (int i = 0; i < 50; ++i) {
      crowd.add();
      if (i % 9 == 0) crowd.advance(milliseconds(7 + i), cues);
    }
    for (int step = 0; step < 120; ++step) {
      if (random.pick(2) == 0) crowd.set_all(*machine.input<bool>("b"), random.pick(2) == 0);
      if (random.pick(4) == 0) crowd.set_all(*machine.input<std::int32_t>("n"), std::int32_t{random.pick(7)} - 3);
      if (random.pick(4) == 0) crowd.set_all(*machine.input<Choice>("h"), Choice{static_cast<std::uint8_t>(step % 3)});
      if (random.pick(4) == 0) crowd.set_all(*machine.input<float>("v"), static_cast<float>(random.pick(17) - 8) / 2);
      for (std::uint32_t place = 0; place < 50 && step % 3 == 0; ++place)
        crowd.pulse(crowd.at(place), *machine.pulse("q"));
      cues.clear();
      check(crowd.advance(milliseconds(random.pick(60)), cues).complete(), "all is told");
      for (const CrowdCue& each : cues) log.add(each.place), log.add(each.cue);
      for (const CrowdChange& each : crowd.shown_changed()) {
        log.add(each.place);
        log.add(each.shown.clip);
        log.add(static_cast<std::uint64_t>(each.shown.frame));
      }
    }
    for (std::uint32_t place = 0; place < 50; ++place) log.add(crowd.copy(crowd.at(place))->hash());
    std::printf("crowd %u %016" PRIx64 "\n", static_cast<unsigned>(subject.seed), log.value());
  }
}

}  // namespace

int main() {
  random_machines();
  crowds();
  fights();
  return 0;
}
