// No memory: every allocation in turn fails, through loading, compiling, packing, crowds and contacts. What makes
// something throws std::bad_alloc and changes nothing that was there; what would stand half changed ends the program.
#include <gtest/gtest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <functional>
#include <memory_resource>
#include <new>

#include "mobrin/contact/arena.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/router.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/pack/pack.hpp"
#include "random_machine.hpp"
#include "support.hpp"

namespace {

long allocations = 0, fails_at = 0;  // 0: none
long held = 0;                       // blocks that were taken and not given back

void* taken(std::size_t size, std::size_t alignment) {
  if (++allocations == fails_at) return nullptr;
  void* memory = alignment == 0 ? std::malloc(size)
                                : std::aligned_alloc(alignment, (size + alignment - 1) / alignment * alignment);
  if (memory != nullptr) ++held;
  return memory;
}
void* taken_or_thrown(std::size_t size, std::size_t alignment) {
  void* memory = taken(size, alignment);
  if (memory == nullptr) throw std::bad_alloc();
  return memory;
}
void give_back(void* memory) {
  if (memory != nullptr) --held;
  std::free(memory);
}

}  // namespace

void* operator new(std::size_t size) { return taken_or_thrown(size, 0); }
void* operator new[](std::size_t size) { return taken_or_thrown(size, 0); }
void* operator new(std::size_t size, const std::nothrow_t&) noexcept { return taken(size, 0); }
void* operator new[](std::size_t size, const std::nothrow_t&) noexcept { return taken(size, 0); }
void* operator new(std::size_t size, std::align_val_t to) {
  return taken_or_thrown(size, static_cast<std::size_t>(to));
}
void* operator new(std::size_t size, std::align_val_t to, const std::nothrow_t&) noexcept {
  return taken(size, static_cast<std::size_t>(to));
}
void operator delete(void* memory) noexcept { give_back(memory); }
void operator delete[](void* memory) noexcept { give_back(memory); }
void operator delete(void* memory, std::size_t) noexcept { give_back(memory); }
void operator delete[](void* memory, std::size_t) noexcept { give_back(memory); }
void operator delete(void* memory, std::align_val_t) noexcept { give_back(memory); }
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept { give_back(memory); }

namespace mobrin::test {
namespace {

constexpr const char* kHornet = R"(mobrin: 1
machine: hornet
inputs: {near: {float: 9, min: 0, max: 9}, hit: {pulse: 100ms}}
cues: {sting: {kind: damage, amount: 1}, buzz: {kind: sound}}
clips: {fly: {frames: [0-3], fps: 12, play: loop}, dive: {frames: [0-4], fps: 15}, fall: {frames: [0, 1], fps: 8}}
marks:
  fly: {cues: {2: buzz}, boxes: [{name: body, role: hurt, frames: 0-3, circle: [0, 4, 6]}]}
  dive: {cues: {3: sting}, boxes: [{name: sting, role: hit, frames: 2-4, rect: [0, 0, 8, 4]}, {name: body, role: hurt, frames: 0-4, circle: [0, 4, 6]}]}
vars: {stung: 0}
initial: fly
go: [{pulse: hit, to: fall}]
states:
  fly: {clip: fly, go: [{when: near < 2, to: dive, fade: 60ms}]}
  dive: {clip: dive, enter: [stung = stung + 1], go: [{at: end, to: fly}]}
  fall: {clip: fall, traits: [dead], go: [{at: end, to: gone}]}
  gone: {final: true}
)";

Machine hornet() {
  const Loaded loaded = load_character_text(kHornet, "hornet.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  return *loaded.machine;
}

// How often memory is asked for in `work`.
long count_of(const std::function<void()>& work) {
  const long before = allocations;
  work();
  return allocations - before;
}

// Whether `work` came to its end although the `n`-th allocation in it fails.
bool completes(long n, const std::function<void()>& work) {
  fails_at = allocations + n;
  bool done = false;
  try {
    work();
    done = true;
  } catch (const std::bad_alloc&) {
  }
  fails_at = 0;
  return done;
}

// What reads texts lets nothing go: every block is given back.
TEST(NoMemory, ReadingATextGivesBackWhatItTook) {
  const std::string tape =
      "mobrin: 1\ntape: t\nmachine: hornet.yaml\nuntil: 2s\nsteps:\n  - {at: 0.5s, set: {near: 1}, pulse: hit}\n  - "
      "{at: 1s, expect: {in: fly}}\n";
  const std::string wrong =
      "mobrin: 1\nmachine: m\nstates: {a: {go: [{to: b}, {when: 1 +, to: a}]}, c: {clip: no}}\nclips: {d: {frames: "
      "[x]}}\n";
  for (const std::function<void()>& read : std::initializer_list<std::function<void()>>{
           [&] { (void)load_tape_text(tape, "t.yaml"); },
           [&] { (void)load_character_text("mobrin: 1\nclips: {a: [", "c.yaml"); },
           [&] { (void)tape_text(*load_tape_text(tape, "t.yaml").tape); }}) {
    read();  // what is made once is made
    const long count = count_of(read), before = held;
    ASSERT_GT(count, 20);
    for (long n = 1; n <= count; ++n) {
      (void)completes(n, read);
      ASSERT_EQ(held, before) << "allocation " << n << " of " << count;
    }
    EXPECT_TRUE(completes(count + 1, read));
  }
}

// Machines, packs, instances: nothing that is there changes, and the next try does it.
TEST(NoMemory, MakingSomethingChangesNothingThatIsThere) {
  const Machine machine = hornet();
  const std::vector<std::byte> packed = pack(machine);
  Instance it(machine);
  Crowd crowd(machine);
  const Member one = crowd.add();
  CrowdCues told;
  crowd.advance(milliseconds(100), told);
  const std::uint64_t hash = it.hash(), hashed = crowd.hash();
  MachineDef definition;
  for (std::uint32_t seed = 1; !compile(definition).machine; ++seed) definition = RandomMachine(seed).make();
  const std::uint64_t fingerprint = compile(definition).machine->fingerprint();
  struct Row {
    const char* what;
    std::function<void()> make;
  };
  for (const Row& row : std::initializer_list<Row>{{"load", [] { (void)load_character_text(kHornet, "hornet.yaml"); }},
                                                   {"compile", [&] { (void)compile(definition); }},
                                                   {"pack", [&] { (void)pack(machine); }},
                                                   {"load_pack", [&] { (void)load_pack(packed); }},
                                                   {"instance", [&] { Instance another(machine); }},
                                                   {"carry over",
                                                    [&] {
                                                      Instance another(machine);
                                                      (void)carry_over(it, another);
                                                    }},
                                                   {"crowd", [&] { Crowd another(machine); }},
                                                   {"snapshot",
                                                    [&] {
                                                      std::vector<std::byte> to;
                                                      crowd.snapshot(to);
                                                    }},
                                                   {"copy", [&] { (void)crowd.copy(one); }},
                                                   {"text", [&] { (void)machine.dump("plan"); }}}) {
    row.make();
    const long count = count_of(row.make);
    ASSERT_GT(count, 0) << row.what;
    // What ends the program is tried in one that is nobody's.
    const int step = count > 4000 ? 3 : 1;
    for (long n = 1; n <= count; n += step) {
      const pid_t child = fork();
      if (child == 0) {
        (void)freopen("/dev/null", "w", stderr);
        (void)completes(n, row.make);
        const bool same = it.hash() == hash && crowd.hash() == hashed &&
                          compile(definition).machine->fingerprint() == fingerprint &&
                          load_pack(packed)->fingerprint() == machine.fingerprint() &&
                          load_character_text(kHornet, "hornet.yaml").machine;
        _exit(same ? 0 : 3);
      }
      int status = 0;
      ASSERT_EQ(waitpid(child, &status, 0), child);
      ASSERT_TRUE((WIFEXITED(status) && WEXITSTATUS(status) == 0) ||
                  (WIFSIGNALED(status) && WTERMSIG(status) == SIGABRT))
          << row.what << ": allocation " << n << " of " << count << ": " << status;
    }
  }
}

// Runs `work` in a process of its own with the n-th allocation failing; what it gives, or -1 where it stopped.
int outcome(long n, const std::function<std::uint64_t()>& work, std::uint64_t wanted) {
  const pid_t child = fork();
  if (child == 0) {
    const rlimit none{0, 0};
    (void)setrlimit(RLIMIT_CORE, &none);
    (void)freopen("/dev/null", "w", stderr);
    fails_at = allocations + n;
    std::uint64_t got = 0;
    try {
      got = work();
    } catch (const std::bad_alloc&) {
      _exit(4);
    }
    _exit(got == wanted ? 0 : 3);
  }
  int status = 0;
  (void)waitpid(child, &status, 0);
  if (WIFSIGNALED(status)) return WTERMSIG(status) == SIGABRT ? -1 : -WTERMSIG(status);
  return WEXITSTATUS(status);
}

// A fight that grows all lists: contacts, zones, an arena, a router.
std::uint64_t fight(const Machine& machine) {
  struct Game : ArenaGame {
    std::uint64_t seen = 0;
    HitAnswer hit(const Hit& hit) override {
      seen = seen * 31 + hit.by * 7 + hit.on + static_cast<std::uint64_t>(hit.at.count);
      return hit.on % 2 == 0 ? HitAnswer::dies : HitAnswer::lives;
    }
  };
  TagNames tags;
  Arena arena(tags);
  Game game;
  std::vector<Instance> all;
  all.reserve(12);
  for (int i = 0; i < 12; ++i) all.emplace_back(machine);
  Crowd crowd(machine);
  std::vector<Member> members;
  members.reserve(6);
  for (int i = 0; i < 6; ++i) members.push_back(crowd.add());
  Router router(machine);
  std::uint64_t heard = 0;
  (void)router.on("sting", [&](const Cue&) { ++heard; });
  (void)router.on_kind("sound", [&](const Cue&) { ++heard; });
  for (int step = 0; step < 20; ++step) {
    arena.begin(milliseconds(50 * step), milliseconds(50 * step + 50));
    std::uint32_t id = 0;
    for (Instance& each : all) {
      each.set(*machine.input<float>("near"), id % 3 == 0 ? 1.0f : 9.0f);
      Participant who;
      who.id = id;
      who.from.at = who.to.at = {id * 0.2, 0};
      (void)arena.add(who, each);
      ++id;
    }
    for (const Member each : members) {
      Participant who;
      who.id = id++;
      who.from.at = who.to.at = {id * 0.1, 0.1};
      (void)arena.add(who, crowd, each);
    }
    (void)arena.run(game);
  }
  return game.seen * 31 + crowd.hash() + heard;
}

TEST(NoMemory, AFightEndsTheProgramOrIsTheSame) {
  const Machine machine = hornet();
  const std::uint64_t wanted = fight(machine);
  const long count = count_of([&] { (void)fight(machine); });
  ASSERT_GT(count, 100);
  int stopped = 0;
  for (long n = 1; n <= count; ++n) {
    const int got = outcome(
        n, [&] { return fight(machine); }, wanted);
    // 4: it was thrown where something is made.
    ASSERT_TRUE(got == 0 || got == -1 || got == 4) << "allocation " << n << " of " << count << ": " << got;
    stopped += got == -1;
  }
  EXPECT_GT(stopped, 20) << "lists grow";
  EXPECT_EQ(outcome(
                count + 1, [&] { return fight(machine); }, wanted),
            0);
}

// A source that gives nothing any more once so much was asked for.
class Scarce : public std::pmr::memory_resource {
 public:
  long left = 0;

 private:
  void* do_allocate(std::size_t bytes, std::size_t alignment) override {
    return left-- > 0 ? std::aligned_alloc(alignment, (bytes + alignment - 1) / alignment * alignment) : nullptr;
  }
  void do_deallocate(void* memory, std::size_t, std::size_t) override { std::free(memory); }
  [[nodiscard]] bool do_is_equal(const memory_resource& other) const noexcept override { return this == &other; }
};

TEST(NoMemory, ACrowdThatCannotGrowEndsTheProgramWithWords) {
  const Machine machine = hornet();
  Scarce scarce;
  scarce.left = 1'000'000;
  const auto grow = [&] {
    Crowd crowd(machine, CrowdOptions{.memory = &scarce});
    for (int i = 0; i < 2000; ++i) (void)crowd.add();
    CrowdCues told;
    crowd.advance(milliseconds(200), told);
    (void)crowd.shown_changed(0);
    return crowd.hash();
  };
  const std::uint64_t wanted = grow();
  const long count = 1'000'000 - scarce.left;
  ASSERT_GT(count, 10);
  for (long n = 0; n < count; ++n) {
    scarce.left = n;
    EXPECT_EQ(outcome(0, grow, wanted), -1) << "allocation " << n << " of " << count;
  }
  scarce.left = 2;
  EXPECT_DEATH((void)grow(), "mobrin: no memory is left .[0-9]+ bytes were wanted.; the program stops here");
}

// A list of cues says that it is full, and nothing is lost.
TEST(NoMemory, AListOfCuesIsFullAndTheStepGoesOnLater) {
  const Machine machine = hornet();
  const auto crowd_of = [&] {
    Crowd crowd(machine);
    for (int i = 0; i < 50; ++i) (void)crowd.add();
    return crowd;
  };
  const auto told_by = [](const CrowdCues& cues) {
    std::vector<std::string> out;
    for (const CrowdCue& each : cues) out.push_back(std::to_string(each.place) + " " + record(each.cue));
    return out;
  };
  Crowd whole = crowd_of();
  CrowdCues all;
  ASSERT_TRUE(whole.advance(seconds(1), all).complete());
  Scarce scarce;
  Crowd parts = crowd_of();
  std::vector<std::string> told;
  CrowdCues some(&scarce);
  Advanced part{{}, seconds(1)};
  for (int tries = 0; tries < 10'000 && part.left.count > 0; ++tries) {
    scarce.left = tries % 3;  // now and then nothing at all
    part = parts.advance(part.left, some);
    for (std::string& each : told_by(some)) told.push_back(std::move(each));
    some.clear();
  }
  EXPECT_EQ(told.size(), told_by(all).size());
  EXPECT_EQ(parts.hash(), whole.hash());
}

}  // namespace
}  // namespace mobrin::test
