// What holds in every place: clocks that begin late, locales, float modes, fingerprints; and the kinder behaviour.
#include <cfenv>
#include <clocale>

#if defined(__SSE__)
#include <xmmintrin.h>
#endif

#include "mobrin/contact/contacts.hpp"
#include "mobrin/contact/zones.hpp"
#include "mobrin/core/builder.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/floats.hpp"
#include "mobrin/core/wide.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/pack/pack.hpp"
#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// --- clocks ---------------------------------------------------------------------------------------------------------

const char* const kPuff = R"(
inputs: {go: pulse}
clips: {k: {frames: [0-7], fps: 10, play: loop}}
initial: i
states: {i: {go: [{pulse: go, to: s, start: clock}]}, s: {clip: k}}
)";

TEST(Clocks, StartClockIsInStepHoweverTheyWereSpawned) {
  const Machine machine = machine_of(kPuff);
  const Pulse go = *machine.pulse("go");
  Instance early(machine), late(machine, {.begin = milliseconds(330)});
  Crowd crowd(machine);
  CueList<8> cues;
  CrowdCues crowd_cues;
  const Member first = crowd.add();
  ASSERT_TRUE(early.advance(milliseconds(330), cues).complete());
  ASSERT_TRUE(crowd.advance(milliseconds(330), crowd_cues).complete());
  const Member second = crowd.add();
  EXPECT_EQ(late.now(), early.now());
  for (Instance* each : {&early, &late}) {
    each->pulse(go);
    ASSERT_TRUE(each->advance(milliseconds(50), cues).complete());
    EXPECT_NEAR(each->shown().seconds, 0.38, 1e-9);
  }
  for (const Member each : {first, second}) crowd.pulse(each, go);
  ASSERT_TRUE(crowd.advance(milliseconds(50), crowd_cues).complete());
  for (const Member each : {first, second}) EXPECT_NEAR(crowd.shown(each).seconds, 0.38, 1e-9);
  EXPECT_EQ(crowd.copy(second)->hash(), late.hash());
}

TEST(Clocks, BeginOnlyOnceAndTakeAlongWhatWasWritten) {
  const Machine machine =
      machine_of("inputs: {p: {pulse: 100ms}}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, b: {}}");
  Instance instance(machine);
  instance.pulse(*machine.pulse("p"));
  EXPECT_TRUE(instance.begin_at(seconds(60)));
  EXPECT_EQ(instance.now(), seconds(60));
  std::vector<std::string> log;
  listen(instance, milliseconds(10), log);
  EXPECT_EQ(text_of(log), "60000 enter a\n60000 leave a\n60000 enter b\n");
  EXPECT_FALSE(instance.begin_at(seconds(70)));
  EXPECT_EQ(Instance(machine, {.begin = Ticks(-5)}).now(), Ticks(0));
}

TEST(Clocks, WhoIsSpawnedInTheMiddleOfAGameHasNotLivedBefore) {
  const Machine machine = machine_of(
      "cues: {k: damage}\nclips: {c: {frames: [0-1], fps: 10, play: loop}}\nmarks: {c: {cues: {1: k}, boxes: [{name: "
      "n, "
      "role: hit, rect: [0, 0, 8, 8]}]}}\nstates: {a: {clip: c}}\n");
  TagNames tags;
  Contacts contacts(tags);
  Instance instance(machine);
  int told = 0;
  contacts.begin(seconds(60), seconds(60) + milliseconds(16));
  EXPECT_TRUE(contacts.advance({1, 0, true, {}, {}}, instance, [&](const Cue&) { ++told; }));
  EXPECT_EQ(instance.now(), seconds(60) + milliseconds(16));
  EXPECT_EQ(told, 0) << "not sixty seconds of cues";
}

TEST(Contacts, ForgetWhoIsGone) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-1], fps: 10, play: loop}}\nmarks: {c: {boxes: [{name: n, role: hit, rect: [0, 0, 8, 8]}, "
      "{name: b, role: hurt, rect: [0, 0, 8, 8]}]}}\nstates: {a: {clip: c}}\n");
  TagNames tags;
  Contacts contacts(tags);
  std::uint32_t id = 0;
  Ticks now{};
  const auto step = [&](std::uint32_t by) {
    Instance a(machine, {.begin = now}), b(machine, {.begin = now});
    contacts.begin(now, now + milliseconds(20));
    contacts.advance({by, 0, true, {}, {}}, a, [](const Cue&) {});
    contacts.advance({by + 1, 0, true, {}, {}}, b, [](const Cue&) {});
    int hits = 0;
    contacts.resolve([&](const Hit&) { return ++hits, HitAnswer::lives; });
    now += milliseconds(20);
    return hits;
  };
  EXPECT_EQ(step(id), 2);
  for (int i = 0; i < 3000; ++i) EXPECT_EQ(step(id += 2), 2);
  EXPECT_EQ(step(0), 2) << "an id may be given anew after ten seconds";
}

TEST(Contacts, AnIdThatComesBackHitsAnew) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-1], fps: 10, play: loop}}\nmarks: {c: {boxes: [{name: n, role: hit, rect: [0, 0, 8, "
      "8]}]}}\nstates: {a: {clip: c}}\n");
  TagNames tags;
  Contacts contacts(tags);
  const PlainBox target{false, RectShape{0, 0, 8, 8}};
  const auto hits_at = [&](Ticks now, std::uint32_t id, double x) {
    Instance attacker(machine, {.begin = now});
    contacts.begin(now, now + milliseconds(20));
    contacts.advance({id, 0, true, {{x, 0}}, {{x, 0}}}, attacker, [](const Cue&) {});
    contacts.add({9999, 0, true, {}, {}}, std::span(&target, 1));
    int hits = 0;
    contacts.resolve([&](const Hit&) { return ++hits, HitAnswer::lives; });
    return hits;
  };
  EXPECT_EQ(hits_at(Ticks(0), 1, 0), 1);
  // Enough others, far away, that who is gone is forgotten; few hits, which would not be by themselves.
  for (std::uint32_t i = 0; i < 100; ++i) EXPECT_EQ(hits_at(seconds(11) + milliseconds(20 * i), 100 + i, 50), 0);
  EXPECT_EQ(hits_at(seconds(20), 1, 0), 1);
}

TEST(Zones, AMarginKeepsWhoHoversOnTheEdge) {
  const Machine machine = machine_of(
      "inputs: {near: false, came: pulse}\nzones: {z: {circle: [0, 0, 64], inside: near, enter: came}}\nstates: {a: "
      "{}}\n");
  const auto events = [&](double margin) {
    TagNames tags;
    Zones zones(tags, margin);
    Instance owner(machine);
    std::size_t count = 0;
    for (int k = 0; k < 50; ++k) {
      zones.begin(milliseconds(k * 16), milliseconds(k * 16 + 16));
      zones.add_owner(1, owner, {}, {});
      const double from = k % 2 == 0 ? 2.01 : 1.99, to = k % 2 == 0 ? 1.99 : 2.01;
      zones.add_visitor({2, 0, {from, 0}, {to, 0}});
      count += zones.resolve().size();
    }
    return count;
  };
  EXPECT_EQ(events(0), 50u);
  EXPECT_EQ(events(0.05), 1u);
}

TEST(Zones, OfManyOwnersAreThoseOfEachAlone) {
  const Machine machine = machine_of(
      "inputs: {n: 0}\nzones: {z: {circle: [0, 0, 40], inside: n}, y: {rect: [-20, -60, 90, 30]}}\nstates: {a: {}}\n");
  RandomMachine random(3);
  const auto any = [&] { return (random.pick(2001) - 1000) / 100.0; };
  TagNames tags;
  Zones all(tags);
  std::vector<Instance> owners;
  for (int i = 0; i < 30; ++i) owners.emplace_back(machine);
  std::vector<Vec2> at(60);
  for (Vec2& each : at) each = {any(), any()};
  std::vector<Zones> apart(30, Zones(tags));  // one owner each, so that nothing is sorted out
  std::size_t told = 0;
  for (int step = 0; step < 60; ++step) {
    std::vector<Vec2> to = at;
    for (Vec2& each : to)
      if (random.pick(2) == 0) each = {each.x + any() / 10, each.y + any() / 10};
    const Ticks from = milliseconds(step * 16), end = milliseconds(step * 16 + 16);
    const auto add = [&](Zones& zones, std::size_t owner, Instance& instance) {
      zones.add_owner(static_cast<std::uint32_t>(owner), instance, {at[owner]}, {to[owner]});
    };
    all.begin(from, end);
    for (std::size_t i = 0; i < 30; ++i) add(all, i, owners[i]);
    for (std::uint32_t i = 0; i < 60; ++i) all.add_visitor({i, 0, at[i], to[i]});
    std::vector<std::tuple<std::int64_t, std::uint32_t, std::uint16_t, std::uint32_t, bool>> one, other;
    for (const ZoneEvent& e : all.resolve()) one.emplace_back(e.at.count, e.owner, e.zone, e.visitor, e.entered);
    for (std::size_t i = 0; i < 30; ++i) {
      Instance alone(machine);
      apart[i].begin(from, end);
      add(apart[i], i, alone);
      for (std::uint32_t k = 0; k < 60; ++k) apart[i].add_visitor({k, 0, at[k], to[k]});
      for (const ZoneEvent& e : apart[i].resolve())
        other.emplace_back(e.at.count, e.owner, e.zone, e.visitor, e.entered);
    }
    std::sort(one.begin(), one.end());
    std::sort(other.begin(), other.end());
    ASSERT_EQ(one, other) << step;
    told += one.size();
    at = to;
  }
  EXPECT_GT(told, 50u);
}

// --- the same everywhere --------------------------------------------------------------------------------------------

// What a machine is and does, as numbers.
std::vector<std::uint64_t> prints(std::uint32_t seeds) {
  std::vector<std::uint64_t> out;
  for (std::uint32_t seed = 0; seed < seeds; ++seed) {
    RandomMachine random(seed);
    const Compiled compiled = compile(random.make());
    if (!compiled.machine) continue;
    out.push_back(compiled.machine->fingerprint());
    out.push_back(compiled.machine->block_size());
    Instance instance(*compiled.machine);
    for (int i = 0; i < 20; ++i) {
      random.write(instance);
      instance.advance(milliseconds(random.pick(50)), [](const Cue&) {});
      out.push_back(instance.hash());
    }
  }
  return out;
}

TEST(Everywhere, ADecimalCommaChangesNothing) {
  const char* const text =
      "inputs: {v: 0.0}\nclips: {c: {frames: [0-3], fps: 12.5, play: loop}}\nstates: {a: {clip: c, speed: 1.5, "
      "go: [{when: v > 0.25, to: a}]}}\n";
  const auto before = prints(40);
  const Machine machine = machine_of(text);
  const auto packed = pack(machine);
  Instance instance(machine);
  instance.set(*machine.input<float>("v"), 0.5f);
  instance.advance(seconds(0.1), [](const Cue&) {});
  const std::string save = save_text(instance), dump = machine.dump();
  const std::string bad = findings_of(
      "clips: {c: {frames: [0], fps: 2}}\nmarks: {c: {cues: {0.7s: k}}}\ncues: {k: x}\nstates: {a: {clip: c}}\n");
  ASSERT_NE(std::setlocale(LC_ALL, "de_DE.UTF-8"), nullptr) << "the tests make it from the package `locales`";
  ASSERT_STREQ(std::localeconv()->decimal_point, ",");
  EXPECT_EQ(prints(40), before);
  const Machine again = machine_of(text);
  EXPECT_EQ(pack(again), packed);
  EXPECT_EQ(again.dump(), dump);
  Instance other(again);
  other.set(*again.input<float>("v"), 0.5f);
  other.advance(seconds(0.1), [](const Cue&) {});
  EXPECT_EQ(save_text(other), save);
  EXPECT_TRUE(load(*read_save(save), other).empty());
  EXPECT_EQ(
      findings_of(
          "clips: {c: {frames: [0], fps: 2}}\nmarks: {c: {cues: {0.7s: k}}}\ncues: {k: x}\nstates: {a: {clip: c}}\n"),
      bad);
  std::setlocale(LC_ALL, "C");
}

TEST(Everywhere, OtherFloatModesAreNoticed) {
  EXPECT_TRUE(floats_are_exact());
  for (const int mode : {FE_UPWARD, FE_DOWNWARD, FE_TOWARDZERO}) {
    std::fesetround(mode);
    const bool exact = floats_are_exact();
    std::fesetround(FE_TONEAREST);
    EXPECT_FALSE(exact) << mode;
  }
#if defined(__SSE__)
  const unsigned before = _mm_getcsr();
  _mm_setcsr(before | 0x8040);  // flush to zero, denormals are zero
  const bool exact = floats_are_exact();
  _mm_setcsr(before);
  EXPECT_FALSE(exact);
#endif
  EXPECT_TRUE(floats_are_exact());
}

#if defined(__SSE__)
// Many games set it: what is compared with 0 must not change its mind.
TEST(Everywhere, ZeroIsNotAboveZeroWhereDenormalsAreZero) {
  for (const bool flushed : {false, true}) {
    const unsigned before = _mm_getcsr();
    if (flushed) _mm_setcsr(before | 0x8040);
    std::string holds;
    for (const char* guard : {"x > 0", "x >= 0", "x < 0", "x <= 0", "n > 0", "n < 0", "abs(x) > 0", "abs(x) <= 0"}) {
      const Machine machine =
          machine_of("inputs: {x: {float: 1}, n: {int: 1}}\nstates: {a: {go: [{when: " + std::string(guard) +
                     ", to: b}]}, b: {}}\ninitial: a");
      Instance instance(machine);
      instance.set(*machine.input<float>("x"), 0.0f);
      instance.set(*machine.input<std::int32_t>("n"), 0);
      CueList<8> cues;
      (void)instance.advance(milliseconds(1), cues);
      holds += instance.in(*machine.state("b")) ? "1" : "0";
    }
    _mm_setcsr(before);
    EXPECT_EQ(holds, "01010001") << flushed;
  }
}
#endif

TEST(Everywhere, AnInputNamedInfIsAnInput) {
  const Machine machine = machine_of(
      "inputs: {inf: {float: 1, min: -8, max: 8}}\nclips: {k: {frames: [0-3], fps: 10, play: loop}}\nstates: {s: "
      "{clip: k, speed: inf}}\n");
  Instance instance(machine);
  instance.set(*machine.input<float>("inf"), 0.0f);
  instance.advance(seconds(1), [](const Cue&) {});
  EXPECT_EQ(instance.shown().seconds, 0);
}

TEST(Wide, ComputesAsTheBuiltInTypeDoes) {
#if defined(__SIZEOF_INT128__)
  __extension__ using Built = __int128;
  std::mt19937_64 random(5);
  const auto any = [&] {
    const auto raw = static_cast<std::int64_t>(random());
    return raw >> (random() % 64);
  };
  const auto same = [](detail::Wide wide, Built built) {
    return static_cast<std::uint64_t>(wide) == static_cast<std::uint64_t>(built) &&
           static_cast<std::uint64_t>(wide >> 64) == static_cast<std::uint64_t>(built >> 64);
  };
  for (int i = 0; i < 100'000; ++i) {
    const std::int64_t a = any(), b = any(), c = any() | 1;
    const detail::Wide wide = detail::Wide(a) * b;
    const Built built = Built{a} * b;
    ASSERT_TRUE(same(wide, built));
    ASSERT_TRUE(same(wide + c, built + c) && same(wide - c, built - c) && same(-wide, -built));
    ASSERT_TRUE(same(wide / c, built / c) && same(wide % c, built % c)) << a << " " << b << " " << c;
    ASSERT_TRUE(same(wide / (detail::Wide(c) << 20), built / (Built{c} << 20)));
    ASSERT_EQ(wide < detail::Wide(c), built < c);
    const int bits = static_cast<int>(random() % 100);
    ASSERT_TRUE(same(wide >> bits, built >> bits));
  }
#endif
}

// --- fingerprints ---------------------------------------------------------------------------------------------------

TEST(Fingerprint, TellsApartWhatBehavesOtherwiseAndNothingElse) {
  const auto of = [](const std::string& change, const std::string& to) {
    std::string text =
        "# a comment\ninputs: {x: {float: 0, min: -1, max: 1}}\ncues: {a: {kind: damage, amount: 2}, c: {kind: damage, "
        "amount: 2}}\n"
        "clips: {k: {frames: [0-3], fps: 10, play: loop x3}}\nmarks: {k: {cues: {2: a}, boxes: [{name: n, role: hit, "
        "rect: [0, 0, 8, 8]}]}}\n"
        "initial: s\nstates:\n  s: {clip: k, vars: {n: 1}, enter: [n = n + 1], go: [{at: end, to: t}]}\n"
        "  t: {clip: k, go: [{when: x > 0.5, to: e}]}\n  e: {final: true, linger: 100ms}\n";
    const std::size_t at = text.find(change);
    EXPECT_NE(at, std::string::npos) << change;
    return machine_of(text.replace(at, change.size(), to)).fingerprint();
  };
  const std::uint64_t plain = of("", "");
  const std::pair<const char*, const char*> others[] = {{"x3", "x4"},
                                                        {"amount: 2}, c", "amount: 20}, c"},
                                                        {"{2: a}", "{2: c}"},
                                                        {"{2: a}", "{2: {a: {amount: 3}}}"},
                                                        {"100ms", "9s"},
                                                        {"to: t}", "to: t, start: same}"},
                                                        {"0.5", "0.5000001"},
                                                        {"t: {clip: k", "t: {sealed: true, clip: k"},
                                                        {"t: {clip: k", "t: {traits: [busy], clip: k"},
                                                        {"enter:", "exit:"},
                                                        {"[0, 0, 8, 8]", "[0, 0, 8, 9]"},
                                                        {"fps: 10", "fps: 11"},
                                                        {"min: -1", "min: -2"},
                                                        {"to: t}", "to: t, fade: 50ms}"}};
  std::set<std::uint64_t> all{plain};
  for (const auto& [change, to] : others) EXPECT_TRUE(all.insert(of(change, to)).second) << change << " -> " << to;
  EXPECT_EQ(of("# a comment\n", "\n\n# another\n"), plain);
  EXPECT_EQ(of("x > 0.5", "(x > 0.5)"), plain);
}

// --- behaviour ------------------------------------------------------------------------------------------------------

TEST(Behaviour, DecimalsMeanWhatInputsHold) {
  const Machine machine = machine_of(
      "inputs: {x: {float: 0, max: 0.1}, y: 0.0, n: 0}\ninitial: a\nstates: {a: {go: [{when: x > 0.1, to: wrong}, "
      "{when: y == 0.3, to: b}]}, "
      "b: {go: [{when: n == 16777217, to: c}]}, c: {}, wrong: {}}");
  Instance instance(machine);
  EXPECT_EQ(instance.set(*machine.input<float>("x"), 5.0f), Written::clamped);
  instance.advance(milliseconds(1), [](const Cue&) {});
  EXPECT_TRUE(instance.in(*machine.state("a")));
  instance.set(*machine.input<float>("y"), 0.3f);
  instance.advance(milliseconds(1), [](const Cue&) {});
  EXPECT_TRUE(instance.in(*machine.state("b")));
  instance.set(*machine.input<std::int32_t>("n"), 16777217);
  instance.advance(milliseconds(1), [](const Cue&) {});
  EXPECT_TRUE(instance.in(*machine.state("c"))) << "whole ones stay exact";
}

TEST(Behaviour, RateZeroHoldsATurnUntilItGoesOn) {
  const char* const lid = R"(
inputs: {dir: 1.0}
cues: {t: x}
clips: {lid: {frames: [0-3], fps: 10}, fan: {frames: [0-3], fps: 10, play: loop}}
marks: {lid: {spans: {t: 0-1}}}
initial: a
states: {a: {clip: lid, speed: dir, go: [{at: end, to: b}]}, b: {clip: fan, speed: dir}}
)";
  const Machine machine = machine_of(lid);
  EXPECT_EQ(
      text_of(log_of(machine,
                     tape_of("  - {at: 200ms, rate: 0}\n  - {at: 300ms, set: {dir: -1}}\n  - {at: 400ms, rate: 1}\n"),
                     milliseconds(700))),
      "0 enter a\n0 t> lid:0\n200 <t lid:1\n400 t> lid:1\n600 <t lid:0\n600 leave a\n600 enter b\n");
}

TEST(Behaviour, BackWithoutAMemoryAimsAtTheInitialLeaf) {
  const Machine machine = machine_of(R"(
inputs: {p: pulse}
initial: ground
states:
  ground:
    initial: stand
    states: {stand: {go: [{pulse: p, to: hop}]}, hop: {length: 50ms, go: [{at: end, to: back}]}, never: {}}
)");
  // `stand` is no leaf to rest in where the machine was placed in `hop` at once.
  Instance instance(machine);
  ASSERT_TRUE(instance.place(*machine.state("ground/hop")));
  std::vector<std::string> log;
  listen(instance, milliseconds(100), log);
  EXPECT_EQ(text_of(log), "50 leave ground/hop\n50 enter ground/stand\n");
}

TEST(Behaviour, LongStepsOverBareLoopsAreOneStep) {
  const Machine machine = machine_of(
      "cues: {k: x}\nclips: {c: {frames: [0], fps: 1000, play: loop}, d: {frames: [0-2], fps: 7, play: loop}}\n"
      "regions: {l: {states: {a: {clip: c, speed: 64}}}, r: {states: {b: {clip: d}}}}\n");
  Instance year(machine);
  CueList<4> cues;
  ASSERT_TRUE(year.advance(Ticks(kTicksPerSecond * 31'536'000), cues).complete());
  // The same in parts, heard and not heard.
  Instance parts(machine), heard(machine);
  for (int i = 0; i < 50; ++i) {
    ASSERT_TRUE(parts.advance(milliseconds(37), cues).complete());
    heard.advance(
        milliseconds(37), [](const Cue&) {}, i % 3 == 0 ? kAllRecords : kGameRecords);
    ASSERT_EQ(parts.hash(), heard.hash()) << i;
    ASSERT_EQ(parts.next_change(), heard.next_change());
  }
}

}  // namespace
}  // namespace mobrin::test
