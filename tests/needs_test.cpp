// What the people need, one named test each: the keeper, the smoker and small machines do what was asked for. The
// numbers are those of the needs in the design.
#include <algorithm>
#include <set>

#include "mobrin/core/carry.hpp"
#include "mobrin/core/router.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

// A machine with what a test writes and hears, in short.
class Play {
 public:
  explicit Play(const std::string& text) : machine(machine_of(text)), instance(machine) {}
  explicit Play(Machine loaded) : machine(std::move(loaded)), instance(machine) {}

  Play& set(const char* input, const FieldValue& value) {
    EXPECT_TRUE(instance.set_by_name(input, value)) << input;
    return *this;
  }
  Play& press(const char* pulse) {
    EXPECT_TRUE(instance.pulse_by_name(pulse)) << pulse;
    return *this;
  }
  // Everything told in the next `dt`.
  std::vector<std::string> run(Ticks dt, Listening listening = kGameRecords) {
    std::vector<std::string> log;
    EXPECT_TRUE(instance
                    .advance(
                        dt, [&](const Cue& cue) { log.push_back(line(cue)); }, listening)
                    .complete());
    return log;
  }
  [[nodiscard]] std::string state() const { return machine.states()[instance.active()].path; }
  [[nodiscard]] std::string clip() const {
    const Shown shown = instance.shown();
    return shown.nothing() ? "" : machine.clips()[shown.clip].def.name.text;
  }

  Machine machine;
  Instance instance;
};

Play keeper() {
  const Loaded loaded = load_character(MOBRIN_DEMO "/keeper.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  Play play(*loaded.machine);
  play.set("carrying", std::string("net"));
  play.run(0ms);
  return play;
}

using Lines = std::vector<std::string>;

TEST(Needs, N2_FrameAndLengthOfAClipAtAnyTime) {
  const Machine machine = keeper().machine;
  const ClipInfo& net = *std::find_if(machine.clips().begin(), machine.clips().end(),
                                      [](const ClipInfo& clip) { return clip.def.name.text == "net"; });
  EXPECT_EQ(net.length, Ticks(400ms));
  EXPECT_EQ(net.frame_at(149ms), 2);
  EXPECT_EQ(net.frame_at(150ms), 3);
  EXPECT_EQ(net.frame_at(299ms), 3);  // held three frames long
  EXPECT_EQ(net.frame_at(300ms), 4);
}

TEST(Needs, N5_MarksLiveApartFromTheClips) {
  const Loaded art_only = load_character(MOBRIN_DEMO "/keeper.clips.yaml");
  ASSERT_TRUE(art_only.machine);
  for (const ClipInfo& clip : art_only.machine->clips()) EXPECT_TRUE(clip.marks.marks.empty());
  const Machine whole = keeper().machine;
  EXPECT_TRUE(std::any_of(whole.clips().begin(), whole.clips().end(),
                          [](const ClipInfo& clip) { return !clip.marks.marks.empty(); }));
}

TEST(Needs, N7_StartsInANamedStateThatMayShowNothing) {
  Play play("initial: out\nstates: {lit: {}, out: {}}");
  EXPECT_EQ(play.run(10ms, kAllRecords), Lines{"0 enter out"});
  EXPECT_TRUE(play.instance.shown().nothing());
}

TEST(Needs, N8_AskingForWhatPlaysDoesNotRestartIt) {
  Play play = keeper();
  play.set("move", 1.0).run(200ms);
  EXPECT_EQ(play.clip(), "walk");
  const double before = play.instance.shown().seconds;
  play.set("move", 0.9).set("move", 1.0).run(0ms);
  EXPECT_EQ(play.instance.shown().seconds, before);
}

TEST(Needs, N9_SwitchesOnHeldInputPressThresholdChoiceEndLoopAndTime) {
  Play play(
      "inputs: {held: false, press: pulse, health: 6, mind: {one_of: [calm, angry]}}\nclips: {c: {frames: [0-1], fps: "
      "10}, "
      "l: {frames: [0-1], fps: 10, play: loop}}\ninitial: a\nstates:\n  a: {go: [{when: held, to: b}]}\n  b: {go: "
      "[{pulse: "
      "press, to: c}]}\n  c: {go: [{when: health < 3, to: d}]}\n  d: {go: [{when: mind == angry, to: e}]}\n  e: {clip: "
      "c, go: "
      "[{at: end, to: f}]}\n  f: {clip: l, go: [{at: loop, to: g}]}\n  g: {go: [{after: 50ms, to: h}]}\n  h: {}");
  const auto next = [&](Ticks dt) {
    play.run(dt);
    return play.state();
  };
  EXPECT_EQ(next(10ms), "a");
  EXPECT_EQ((play.set("held", true), next(10ms)), "b");
  EXPECT_EQ((play.press("press"), next(10ms)), "c");
  EXPECT_EQ((play.set("health", std::int64_t{3}), next(10ms)), "c");
  EXPECT_EQ((play.set("health", std::int64_t{2}), next(10ms)), "d");
  EXPECT_EQ((play.set("mind", std::string("angry")), next(10ms)), "e");
  EXPECT_EQ(next(189ms), "e");
  EXPECT_EQ(next(1ms), "f");
  EXPECT_EQ(next(200ms), "g");
  EXPECT_EQ(next(49ms), "g");
  EXPECT_EQ(next(1ms), "h");
}

TEST(Needs, N10_TheFirstRuleThatHoldsDecides) {
  const std::string inputs = "inputs: {left: false, right: false}\n";
  const std::string both = "{when: left and right, to: stand}", left = "{when: left, to: run_left}",
                    right = "{when: right, to: run_right}";
  for (const bool both_first : {true, false}) {
    Play play(inputs + "initial: stand\ngo: [" +
              (both_first ? both + ", " + left + ", " + right : left + ", " + right + ", " + both) +
              "]\nstates: {stand: {}, run_left: {}, run_right: {}}");
    play.set("left", true).set("right", true).run(10ms);
    EXPECT_EQ(play.state(), both_first ? "stand" : "run_left");
  }
}

TEST(Needs, N11_DeathHoldsFromAnywhereAndIsNotUndone) {
  for (const char* way : {"ground/stand", "ground/walk", "ground/net", "air/leap", "hurt"}) {
    Play play = keeper();
    EXPECT_TRUE(play.instance.force(*play.machine.state(way)));
    play.run(10ms);
    play.set("health", std::int64_t{0}).run(0ms);
    EXPECT_EQ(play.state(), "faint/sag") << way;
    play.press("stung").set("health", std::int64_t{6}).run(500ms);
    EXPECT_EQ(play.state(), "faint/sag") << way;
  }
}

TEST(Needs, N12_HurtGoesBackToWalkingNotIntoTheBlow) {
  Play play(
      "inputs: {swing: pulse, stung: pulse}\nclips: {c: {frames: [0-3], fps: 10}}\ninitial: walk\ngo: [{pulse: stung, "
      "to: "
      "hurt}]\nstates: {walk: {go: [{pulse: swing, to: net}]}, net: {clip: c, go: [{at: end, to: walk}]}, hurt: {clip: "
      "c, go: "
      "[{at: end, to: back}]}}");
  play.run(10ms);
  play.press("swing").run(100ms);
  EXPECT_EQ(play.state(), "net");
  play.press("stung").run(399ms);
  EXPECT_EQ(play.state(), "hurt");
  play.run(1ms);
  EXPECT_EQ(play.state(), "walk");
}

TEST(Needs, N13_APressDoesNotLieAroundAndALoopIsNotWaitedOn) {
  Play play = keeper();
  play.press("stung").run(0ms);  // taken at once
  play.run(400ms);
  EXPECT_EQ(play.state(), "ground/stand");
  play.press("hop").set("grounded", false).run(200ms);  // not possible now, and over after its buffer
  play.set("grounded", true).run(200ms);
  EXPECT_EQ(play.state(), "ground/stand");
  EXPECT_NE(findings_of("clips: {c: {frames: [0-3], fps: 10, play: loop}}\ninitial: a\nstates: {a: {clip: c, go: [{at: "
                        "end, to: b}]}, b: {}}")
                .find("never holds"),
            std::string::npos);
}

TEST(Needs, N14_AnEarlyPressCountsAndIsOpenOnlyInItsWindow) {
  Play play = keeper();
  play.press("swing").run(150ms);  // the blow lands on frame 3
  play.press("swing");             // too early by 150 ms, and its buffer lasts 110
  play.run(260ms);
  EXPECT_EQ(play.state(), "ground/stand");
  play.press("swing").run(200ms);
  play.press("swing").run(101ms);  // 100 ms before the window opens: still alive then
  EXPECT_EQ(play.state(), "ground/net");
  EXPECT_LT(play.instance.shown().seconds, 0.01);  // began anew
}

TEST(Needs, N15_OneClipBothWaysFromWhereItIs) {
  Play hive(*load_character(MOBRIN_DEMO "/hive.yaml").machine);
  hive.set("keeper_near", true).run(1s);
  EXPECT_EQ(hive.state(), "shut");  // not without the lit smoker
  hive.set("smoker_lit", true).run(400ms);
  EXPECT_EQ(hive.instance.shown().frame, 3);
  hive.set("keeper_near", false).run(0ms);
  EXPECT_EQ(hive.state(), "closing");
  EXPECT_DOUBLE_EQ(hive.instance.shown().seconds, 0.4);  // from where it was
  hive.run(100ms);
  EXPECT_DOUBLE_EQ(hive.instance.shown().seconds, 0.25);
  hive.set("keeper_near", true).run(500ms);
  EXPECT_EQ(hive.state(), "opening");
  EXPECT_EQ(hive.instance.shown().frame, 5);
  EXPECT_EQ(only(hive.set("smoker_lit", false).run(5s), "thud").size(), 1u);
  EXPECT_EQ(hive.state(), "shut");
}

TEST(Needs, N16_SpeedFollowsAnInputAndIsChangedLoopByLoop) {
  Play play = keeper();
  play.set("move", 0.5).run(500ms);
  EXPECT_DOUBLE_EQ(play.instance.shown().seconds, 0.25);
  const Loaded smoker = load_character(MOBRIN_DEMO "/smoker.yaml");
  ASSERT_TRUE(smoker.machine);
  Play puffs(*smoker.machine);
  puffs.press("lit");
  const Lines told = puffs.run(10s);
  EXPECT_EQ(told.size(), 9u);  // nine puffs, each later than the one before
  EXPECT_EQ(puffs.state(), "out");
}

TEST(Needs, N17_CrossFadesForThoseWhoBlendInstantForThoseWhoDoNot) {
  for (const bool blends : {true, false}) {
    Play play(
        std::string("inputs: {go: false}\nclips: {a: {frames: [0-3], fps: 10, play: loop}, b: {frames: [0-3], fps: 10, "
                    "play: loop}}\ninitial: a\nstates: {a: {clip: a, go: [{when: go, to: b") +
        (blends ? ", fade: 200ms" : "") + "}]}, b: {clip: b}}");
    play.set("go", true).run(50ms);
    const ShownLayers layers = play.instance.layers();
    ASSERT_EQ(layers.size(), blends ? 2u : 1u);
    EXPECT_DOUBLE_EQ(layers[0].weight, blends ? 0.25 : 1.0);
    EXPECT_EQ(play.clip(), "b");
  }
}

TEST(Needs, N22_SlowMotionPauseAndAFreezeOfAFewFrames) {
  Play play = keeper();
  play.press("swing").run(100ms);
  EXPECT_TRUE(play.instance.freeze(50ms));
  EXPECT_EQ(play.run(99ms), Lines{});
  EXPECT_EQ(play.run(1ms), Lines{"200 net_out net:3"});  // 50 ms later than without
  EXPECT_TRUE(play.instance.set_rate(0));
  EXPECT_EQ(play.run(5s), Lines{});
  EXPECT_TRUE(play.instance.set_rate(0.5));
  EXPECT_EQ(play.run(400ms), Lines{"5600 <trail net:4"});  // 200 ms of the clip at half the pace
}

TEST(Needs, N23_SlowTheClipDownAndTheEventMovesWithIt) {
  for (const double speed : {1.0, 0.5, 0.25}) {
    Play play(
        "inputs: {v: 1.0}\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {hit: {}}\nmarks: {c: {cues: {2: "
        "hit}}}\nstates: {a: {clip: c, speed: v}}");
    play.set("v", speed);
    EXPECT_EQ(play.run(2s),
              Lines{ms(Ticks(static_cast<std::int64_t>(200 / speed) * kTicksPerSecond / 1000)) + " hit c:2"})
        << speed;
  }
}

TEST(Needs, N24_OncePerPassAlsoOnTheFirstAndTheLastFrame) {
  for (const int step_ms : {1, 7, 16, 100, 900}) {
    Play play(
        "clips: {c: {frames: [0-2], fps: 10, play: loop}}\ncues: {first: {}, last: {}}\nmarks: {c: {cues: {0: first, "
        "2: last}}}\nstates: {a: {clip: c}}");
    Lines all;
    for (int at = 0; at < 6300; at += step_ms) {
      const Lines some = play.run(milliseconds(std::min(step_ms, 6300 - at)));
      all.insert(all.end(), some.begin(), some.end());
    }
    EXPECT_EQ(only(all, "first").size(), 22u) << step_ms;  // at 0, 300, ... 6300 ms
    EXPECT_EQ(only(all, "last").size(), 21u) << step_ms;
  }
}

TEST(Needs, N25_AMarkOverridesAFieldAndTheGameHearsClipFrameAndTime) {
  Play play = keeper();
  Router router(play.machine);
  Lines heard;
  ASSERT_TRUE(router.on("step", [&](const Cue& cue) {
    heard.push_back(std::string(cue.text("foot")) + " " + std::string(cue.clip_name()) + std::to_string(cue.frame) +
                    " " + ms(cue.at));
  }));
  play.set("move", 1.0);
  play.instance.advance(400ms, router);
  EXPECT_EQ(heard, (Lines{"left walk1 83.3333333", "right walk4 333.333333"}));
}

TEST(Needs, N26_DamageSoundsImpulseSpawnAndDone) {
  std::set<std::string> kinds;
  for (const char* name : {"keeper", "hornet", "hive", "smoker"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    ASSERT_TRUE(loaded.machine);
    for (const CueDef& cue : loaded.machine->cues()) kinds.insert(cue.kind);
  }
  for (const char* kind : {"damage", "sound", "impulse", "spawn"}) EXPECT_EQ(kinds.count(kind), 1u) << kind;
}

TEST(Needs, N27_BeginAndEndOfAFrameAndEventsThatLast) {
  Play play(
      "clips: {c: {frames: [0-3], fps: 10}}\ncues: {b: {}, e: {}, s: {}}\nmarks: {c: {cues: {1: b, 1.end: e}, spans: "
      "{s: 2-3}}}\ninitial: a\nstates: {a: {clip: c, go: [{after: 350ms, to: z}]}, z: {}}");
  EXPECT_EQ(play.run(1s), (Lines{"100 b c:1", "200 e c:1", "200 s> c:2", "350 <s c:3"}));
}

TEST(Needs, N28_OneClipInSeveralStatesKeepsItsEventsAndTheyDriveTransitions) {
  Play play(
      "clips: {c: {frames: [0-3], fps: 10}}\ncues: {hit: {}}\nmarks: {c: {cues: {2: hit}}}\ninitial: a\nstates: {a: "
      "{clip: c, go: [{cue: hit, to: b}]}, b: {clip: c, speed: 2, go: [{cue: hit, to: d}]}, d: {}}");
  EXPECT_EQ(play.run(1s), (Lines{"200 hit c:2", "300 hit c:2"}));
  EXPECT_EQ(play.state(), "d");
}

TEST(Needs, N33_EntryAndExitWorkRunsOnce) {
  Play play(
      "cues: {begin: {}, over: {}}\ninputs: {x: false}\ninitial: a\nstates: {a: {go: [{when: x, to: b}]}, b: {enter: "
      "[tell: begin], exit: [tell: over], go: [{when: not x, to: a}]}}");
  play.set("x", true);
  EXPECT_EQ(play.run(1s), Lines{"0 begin"});
  play.set("x", false);
  EXPECT_EQ(play.run(1s), Lines{"1000 over"});
}

TEST(Needs, N34_AnEndingSaysRemoveMeExactlyOnce) {
  Play play = keeper();
  play.set("health", std::int64_t{0});
  EXPECT_EQ(only(play.run(60s), "done"), Lines{"2200 done faint/lie"});  // the clip's 0.7 s, and 1.5 s on the ground
  EXPECT_TRUE(play.instance.done());
  EXPECT_EQ(play.instance.shown().frame, 5);
}

TEST(Needs, N35_TheGameAsksWhetherItIsBusy) {
  Play play = keeper();
  const auto busy = play.machine.trait("busy");
  ASSERT_TRUE(busy);
  EXPECT_FALSE(play.instance.is(*busy));
  play.press("swing").set("move", 1.0).run(399ms);
  EXPECT_TRUE(play.instance.is(*busy));  // and it does not walk
  EXPECT_EQ(play.state(), "ground/net");
  play.run(1ms);
  EXPECT_FALSE(play.instance.is(*busy));
}

TEST(Needs, N36_ARespawnBeginsAnew) {
  Play play = keeper();
  play.set("health", std::int64_t{0}).run(10s);
  play.set("health", std::int64_t{6});
  play.instance.reset();
  play.run(0ms);
  EXPECT_EQ(play.state(), "ground/stand");
  EXPECT_FALSE(play.instance.done());
}

TEST(Needs, N37_GameCodeAsksForAnActionAndPolls) {
  Play hornet(*load_character(MOBRIN_DEMO "/hornet.yaml").machine);
  const auto poll = [&](Ticket ticket, Ticks dt) {
    hornet.run(dt);
    return hornet.instance.status(ticket);
  };
  const Pulse dive = *hornet.machine.pulse("dive");
  EXPECT_EQ(poll(hornet.instance.ask(dive), 1ms), TicketStatus::failed);  // it has not noticed anybody
  hornet.set("sees_keeper", true).set("distance", 100.0).run(0ms);
  const Ticket first = hornet.instance.ask(dive);
  EXPECT_EQ(poll(first, 499ms), TicketStatus::running);
  EXPECT_EQ(poll(first, 1ms), TicketStatus::succeeded);
  const Ticket second = hornet.instance.ask(dive);
  EXPECT_EQ(poll(second, 100ms), TicketStatus::running);
  hornet.press("stunned");
  EXPECT_EQ(poll(second, 0ms), TicketStatus::interrupted);
  // A loop never succeeds: hovering is over only when something else begins.
  hornet.set("sees_keeper", false).run(2s);
  const Ticket hover = hornet.instance.follow(*hornet.machine.state("body/hover"));
  EXPECT_EQ(poll(hover, 60s), TicketStatus::running);
  hornet.set("sees_keeper", true);
  EXPECT_EQ(poll(hover, 0ms), TicketStatus::interrupted);
}

TEST(Needs, N38_NamesAreChecked) {
  EXPECT_NE(
      findings_of("clips: {walk: {frames: [0], fps: 1}}\nstates: {a: {clip: wakl}}").find("Did you mean \"walk\"?"),
      std::string::npos);
  EXPECT_NE(
      findings_of("inputs: {move: 0}\nstates: {a: {go: [{when: mvoe > 0, to: a}]}}").find("Did you mean \"move\"?"),
      std::string::npos);
  EXPECT_NE(
      findings_of("initial: a\nstates: {a: {go: [{after: 1s, to: faitn}]}, faint: {}}").find("Did you mean \"faint\"?"),
      std::string::npos);
  EXPECT_NE(findings_of("cues: {step: {}}\nstates: {a: {enter: [tell: stpe]}}").find("Did you mean \"step\"?"),
            std::string::npos);
}

TEST(Needs, N39_OneLogicForTwoCharactersAndOneListOfCuesForAll) {
  for (const char* name : {"hornet", "marsh_hornet"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    Play play(*loaded.machine);
    play.set("sees_keeper", true).set("distance", 100.0).run(0ms);
    play.press("dive");
    const bool marsh = play.machine.name() == "marsh_hornet";
    EXPECT_EQ(only(play.run(450ms), "stings"), Lines{marsh ? "363.636363 stings dive:3" : "250 stings dive:3"});
    EXPECT_EQ(play.clip(), "dive");
  }
  const auto cues = [](const char* name) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    std::set<std::string> out;
    for (const CueDef& cue : loaded.machine->cues()) out.insert(cue.name.text);
    return out;
  };
  for (const char* name : {"keeper", "hornet", "hive"}) EXPECT_EQ(cues(name).count("thud"), 1u) << name;
}

TEST(Needs, N41_APastMomentRunsAgainWithoutNewSounds) {
  Play play = keeper();
  play.set("move", 1.0).run(300ms);
  const std::vector<std::byte> moment(play.instance.block().begin(), play.instance.block().end());
  const auto sounds = [&] {
    std::set<std::pair<std::int64_t, std::uint32_t>> identities;
    play.instance.advance(1s, [&](const Cue& cue) { identities.emplace(cue.at.count, cue.ordinal); });
    return identities;
  };
  const auto first = sounds();
  ASSERT_TRUE(play.instance.restore(moment));
  EXPECT_EQ(sounds(), first);  // the same identities: a game plays none of them twice
  EXPECT_EQ(first.size(), 4u);
}

TEST(Needs, N44_TheFileChangesWhileItRunsAndWhatPlaysGoesOn) {
  Play before = keeper();
  before.set("move", 1.0).run(300ms);
  Instance after(*load_character(MOBRIN_DEMO "/keeper.yaml").machine);
  EXPECT_TRUE(carry_over(before.instance, after).empty());
  EXPECT_TRUE(after.in(*after.machine().state("ground/walk")));
  EXPECT_EQ(after.shown().frame, before.instance.shown().frame);
}

}  // namespace
}  // namespace mobrin::test
