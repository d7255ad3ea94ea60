// What a game asks every frame, each in one call: values, names, pictures, a record's line; and a crowd's bulk calls.
#include <gtest/gtest.h>

#include <fstream>
#include <map>

#include "mobrin/check/expect.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/version.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/pack/pack.hpp"
#include "support.hpp"

namespace mobrin {
namespace {

using test::machine_of;

constexpr const char* kKeeper = R"(
inputs:
  veiled: false
  jars: {int: 3, min: 0, max: 9}
  move: {float: 0, min: -1, max: 1}
  carrying: {one_of: [nothing, net, smoker]}
  swing: {pulse: 100ms}
cues:
  net_out: {kind: damage, amount: 2, push: [0.5, 1], soft: true, word: swish, force: 0.25}
clips:
  idle: {frames: [0-3], fps: 4, play: loop, sheet: keeper.png, tile: [16, 20], margin: 1, spacing: 2}
  net: {images: [net_0.png, net_1.png], fps: 10}
  bare: {length: 1s}
marks:
  idle: {pivot: [8, 19], offset: [1, 0]}
  net: {cues: {1: net_out}}
looks:
  pale: {when: jars < 2, art: {keeper.png: keeper_pale.png}}
vars: {pace: 1.5, proud: false}
regions:
  body:
    initial: stand
    states:
      stand: {clip: idle, go: [{pulse: swing, to: net}]}
      net: {clip: net, vars: {blows: 2}, enter: ["blows = blows + 1", "proud = true"], go: [{at: end, to: stand}]}
  hat:
    states: {on: {clip: bare}}
)";

class Asks : public testing::Test {
 protected:
  Machine keeper = machine_of(kKeeper);
  Instance it{keeper};
  template <class T>
  [[nodiscard]] Input<T> input(const char* name) const {
    return *keeper.input<T>(name);
  }
};

TEST_F(Asks, ValuesByHandle) {
  it.set(input<bool>("veiled"), true);
  it.set(input<std::int32_t>("jars"), 11);
  it.set(input<float>("move"), 0.5f);
  it.set(input<Choice>("carrying"), *keeper.choice(input<Choice>("carrying"), "smoker"));
  EXPECT_TRUE(it.value(input<bool>("veiled")));
  EXPECT_EQ(it.value(input<std::int32_t>("jars")), 9);  // clamped
  EXPECT_EQ(it.value(input<float>("move")), 0.5f);
  EXPECT_EQ(it.value(input<Choice>("carrying")).index, 2);
  const Pulse swing = *keeper.pulse("swing");
  const Variable pace = *keeper.variable("pace"), proud = *keeper.variable("proud"),
                 blows = *keeper.variable("blows", "body/net");
  EXPECT_FALSE(it.value(swing));
  CueList<8> cues;
  (void)it.advance(seconds(1), cues);
  it.pulse(swing);
  EXPECT_TRUE(it.value(swing));
  EXPECT_EQ(it.value(proud), 0);
  (void)it.advance(Ticks(0), cues);
  EXPECT_FALSE(it.value(swing));  // taken
  EXPECT_EQ(it.value(pace), 1.5);
  EXPECT_EQ(it.value(proud), 1);
  EXPECT_EQ(it.value(blows), 3);
}

TEST_F(Asks, NamesThatAreNoneAndHandlesOfOthers) {
  EXPECT_EQ(keeper.variable("pacee").error().nearest, "pace");
  EXPECT_EQ(keeper.variable("blow", "body/net").error().nearest, "blows");
  EXPECT_FALSE(keeper.variable("blows", "body/nett"));
  EXPECT_EQ(keeper.clip("idel").error().nearest, "idle");
  EXPECT_EQ(keeper.region("bdy").error().nearest, "body");
  const Machine other = machine_of(kKeeper);
  (void)it.set(input<std::int32_t>("jars"), 5);
  EXPECT_EQ(it.value(*other.input<std::int32_t>("jars")), 0);
  EXPECT_EQ(it.value(*other.variable("pace")), 0);
  EXPECT_FALSE(it.shows(*other.clip("idle")));
  EXPECT_TRUE(it.shown(*other.region("body")).nothing());
  EXPECT_EQ(it.active(*other.region("body")), kNoIndex);
}

TEST_F(Asks, ClipsAndRegionsByHandleAndName) {
  CueList<8> cues;
  (void)it.advance(seconds(0.3), cues);
  const Region body = *keeper.region("body"), hat = *keeper.region("hat");
  EXPECT_EQ(it.shown(body).clip, keeper.clip("idle")->index);
  EXPECT_EQ(keeper.clip_name(it.shown(hat).clip), "bare");
  EXPECT_EQ(it.layers(body).size(), 1u);
  EXPECT_TRUE(it.shows(*keeper.clip("bare")));
  EXPECT_FALSE(it.shows(*keeper.clip("net")));
  EXPECT_EQ(it.active_path(body.index), "body/stand");
  EXPECT_EQ(keeper.state_path(it.active(hat)), "hat/on");
  EXPECT_EQ(keeper.region_path(hat.index), "hat");
  EXPECT_EQ(keeper.clip_name(kNoIndex), "");
  EXPECT_EQ(keeper.state_path(kNoIndex), "");
}

TEST_F(Asks, PicturesWithTheirLookAndPivot) {
  const auto images = keeper.images();
  ASSERT_EQ(std::vector<std::string>(images.begin(), images.end()),
            (std::vector<std::string>{"keeper.png", "net_0.png", "net_1.png", "keeper_pale.png"}));
  CueList<8> cues;
  (void)it.advance(seconds(0.6), cues);  // frame 2 of idle
  const Picture picture = it.picture();
  EXPECT_EQ(images[picture.image], "keeper.png");
  const PictureCut cut = picture.cut(38, 46);  // two cells a row
  EXPECT_EQ(cut.from.x, 1);
  EXPECT_EQ(cut.from.y, 23);
  EXPECT_EQ(cut.from.width, 16);
  EXPECT_EQ(cut.from.height, 20);
  EXPECT_EQ(cut.pivot_x, 7);  // the offset moves the art forwards
  EXPECT_EQ(cut.pivot_y, 19);
  EXPECT_EQ(it.picture(0, true).cut(38, 46).pivot_x, 9);
  EXPECT_TRUE(it.picture(0, true).mirrored);
  EXPECT_EQ(picture.cut(10, 10).from.width, 0);  // an image of another size
  it.set(input<std::int32_t>("jars"), 1);
  EXPECT_EQ(images[it.picture().image], "keeper_pale.png");
  EXPECT_FALSE(it.picture(1));  // a bare length has none
  EXPECT_FALSE(it.picture(7));
  // Without a pivot: the middle of the lower edge of the whole image.
  it.pulse(*keeper.pulse("swing"));
  (void)it.advance(Ticks(0), cues);
  const PictureCut whole = it.picture().cut(30, 40);
  EXPECT_EQ(whole.from.width, 30);
  EXPECT_EQ(whole.pivot_x, 15);
  EXPECT_EQ(whole.pivot_y, 40);
}

TEST_F(Asks, PicturesOfAPackAreThoseOfTheFile) {
  const auto packed = load_pack(pack(keeper));
  ASSERT_TRUE(packed);
  Instance again(*packed);
  CueList<8> cues;
  (void)it.advance(seconds(0.6), cues);
  (void)again.advance(seconds(0.6), cues);
  EXPECT_EQ(again.picture().image, it.picture().image);
  EXPECT_EQ(again.picture().cut(38, 46).from.y, 23);
  EXPECT_EQ(packed->images().size(), keeper.images().size());
  const auto nameless = load_pack(pack(keeper, {false}));
  ASSERT_TRUE(nameless);
  EXPECT_EQ(nameless->images()[0], "keeper.png");
}

// Each frame of the demo's characters: the same part of the same image as the loader of art finds.
TEST(AsksPictures, AgreeWithTheArt) {
  int frames = 0;
  for (const char* name : {"keeper", "hornet", "hive", "smoker"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    ASSERT_TRUE(loaded.machine);
    const Machine& machine = *loaded.machine;
    ArtStore store(MOBRIN_DEMO "/");
    for (std::uint16_t c = 0; c < machine.clips().size(); ++c) {
      const auto& list = machine.clips()[c].def.frames;
      for (std::size_t f = 0; f < list.size(); ++f) {
        if (list[f].art.source.empty()) continue;
        const Picture picture = machine.picture(c, static_cast<std::int32_t>(f));
        ASSERT_TRUE(picture);
        EXPECT_EQ(machine.images()[picture.image], list[f].art.source);
        const auto found = store.find(list[f].art);
        ASSERT_TRUE(found) << found.error().text();
        const PictureCut cut = picture.cut(found->image->width, found->image->height);
        EXPECT_EQ(cut.from.x, found->rect.x);
        EXPECT_EQ(cut.from.y, found->rect.y);
        EXPECT_EQ(cut.from.width, found->rect.width);
        ++frames;
      }
    }
  }
  EXPECT_GT(frames, 60);
}

TEST_F(Asks, RecordsAsLines) {
  std::vector<std::string> lines;
  it.pulse(*keeper.pulse("swing"));
  (void)it.advance(
      seconds(0.4), [&](const Cue& cue) { lines.push_back(cue.line()); }, kAllRecords);
  const std::vector<std::string> wanted = {
      "body/stand is entered",
      "hat/on is entered",
      "body/stand is left  pulse: swing",
      "body/net is entered  pulse: swing",
      "net_out (damage)  net frame 1  amount: 2  push: [0.5, 1]  soft: true  word: swish  force: 0.25",
      "body/net is left  at: end",
      "body/stand is entered  at: end",
  };
  EXPECT_EQ(lines, wanted);
}

TEST_F(Asks, BindingsFetchTheNewHandles) {
  Clip idle;
  Region hat;
  Variable blows;
  Bindings names(keeper);
  names.clip(idle, "idle").region(hat, "hat").variable(blows, "blows", "body/net");
  EXPECT_TRUE(names) << names.text();
  EXPECT_EQ(idle.machine, keeper.serial());
  names.clip(idle, "idel");
  ASSERT_EQ(names.errors().size(), 1u);
}

TEST_F(Asks, CrowdOneValueForAllAndBytesForBools) {
  Crowd crowd(keeper);
  std::vector<Member> all;
  for (int i = 0; i < 5; ++i) all.push_back(crowd.add());
  EXPECT_EQ(crowd.set_all(input<float>("move"), 0.25f), 0u);
  EXPECT_EQ(crowd.set_all(input<Choice>("carrying"), Choice{9}), 5u);  // no such choice: refused for each
  const std::vector<std::uint8_t> veiled = {1, 0, 2, 0, 1};
  EXPECT_EQ(crowd.set_all(input<bool>("veiled"), veiled), 0u);
  const std::vector<std::uint32_t> places = {1, 4};
  EXPECT_EQ(crowd.set(places, input<bool>("veiled"), std::vector<std::uint8_t>{1, 0}), 0u);
  std::string seen;
  for (const Member member : all) {
    EXPECT_EQ(crowd.value(member, input<float>("move")), 0.25f);
    EXPECT_EQ(crowd.value(member, input<Choice>("carrying")).index, 0);
    seen += crowd.value(member, input<bool>("veiled")) ? '1' : '0';
  }
  EXPECT_EQ(seen, "11100");
  const Machine other = machine_of(kKeeper);
  EXPECT_EQ(crowd.set_all(*other.input<float>("move"), 1.0f), 5u);
  EXPECT_EQ(crowd.value({}, input<float>("move")), 0);
}

TEST_F(Asks, CrowdBeginsOutOfPhase) {
  Crowd crowd(keeper);
  CrowdCues cues;
  (void)crowd.advance(seconds(3), cues);  // in the middle of a game
  const State stand = *keeper.state("body/stand");
  std::map<std::int32_t, int> frames;
  std::vector<Member> all;
  for (int i = 0; i < 8; ++i) {
    all.push_back(crowd.add());
    EXPECT_TRUE(crowd.place(all.back(), stand, milliseconds(125 * i)));
  }
  (void)crowd.advance(milliseconds(10), cues);
  for (const Member member : all) {
    ++frames[crowd.shown(member).frame];
    EXPECT_EQ(keeper.images()[crowd.picture(member).image], "keeper.png");
  }
  EXPECT_EQ(frames, (std::map<std::int32_t, int>{{0, 2}, {1, 2}, {2, 2}, {3, 2}}));
  EXPECT_FALSE(crowd.place({}, stand));
  EXPECT_FALSE(crowd.place(all[0], stand, Ticks(-1)));
  EXPECT_FALSE(crowd.place(all[0], *machine_of(kKeeper).state("body/stand")));
  // As an instance that is placed alike, from then on.
  Instance alone(keeper, {0, crowd.now()});
  EXPECT_TRUE(alone.place(stand, milliseconds(375)));
  const Member late = crowd.add();
  EXPECT_TRUE(crowd.place(late, stand, milliseconds(375)));
  for (int i = 0; i < 40; ++i) {
    CueList<8> told;
    (void)alone.advance(milliseconds(33), told);
    (void)crowd.advance(milliseconds(33), cues);
    EXPECT_EQ(crowd.shown(late).seconds, alone.shown().seconds);
    EXPECT_EQ(crowd.copy(late)->hash(), alone.hash());
  }
}

TEST(AsksExpression, WhatItComesToAndWhatItReads) {
  const Machine machine = machine_of(
      "inputs: {health: 3, tool: {one_of: [none, net]}, hop: {pulse: 100ms}}\nvars: {n: 2}\ninitial: a\nstates:\n"
      "  a: {vars: {own: 1.5}, go: [{pulse: hop, when: health > 9 or tool == net and n > own, to: b}]}\n"
      "  b: {go: [{pulse: hop, to: a}]}\n");
  Instance instance(machine);
  (void)instance.advance(Ticks(0), [](const Cue&) {});
  (void)instance.set_by_name("tool", FieldValue(std::string("net")));
  EXPECT_EQ(expression_value(instance, "n * health"), 6);
  EXPECT_TRUE(expression_holds(instance, "tool == net and health > n"));
  const auto reads = [&](std::string_view expression) {
    std::map<std::string, FieldValue> out;
    for (const FieldDef& each : expression_reads(instance, expression)) out[each.name.text] = each.value;
    return out;
  };
  EXPECT_EQ(reads("health > 2 and not (health < n) and tool == net"),
            (std::map<std::string, FieldValue>{
                {"health", std::int64_t{3}}, {"n", std::int64_t{2}}, {"tool", std::string("net")}}));
  EXPECT_EQ(reads("in(b) or max(own, 2) > 1 and true"), (std::map<std::string, FieldValue>{{"own", 1.5}}));
  instance.pulse(*machine.pulse("hop"));
  EXPECT_EQ(reads("hop"), (std::map<std::string, FieldValue>{{"hop", true}}));
  (void)instance.advance(milliseconds(1), [](const Cue&) {});
  EXPECT_EQ(reads("own > 1"), (std::map<std::string, FieldValue>{}));  // its state is not active any more
  const std::vector<FieldDef> order = expression_reads(instance, "n > health + n");
  ASSERT_EQ(order.size(), 2u);
  EXPECT_EQ(order[0].name.text + order[1].name.text, "nhealth");
}

// A look's condition reads variables of the whole machine as well.
TEST(AsksLook, ReadsVariables) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 4, play: loop}}\nvars: {worn: 0}\n"
      "looks: {torn: {when: worn > 2, art: {}}, frayed: {when: worn > 0, art: {}}}\n"
      "states: {a: {clip: c, each_loop: [worn = worn + 1]}}\n");
  const Machine read = *load_pack(pack(machine));
  Crowd crowd(machine);
  const Member member = crowd.add();
  for (const Machine* each : {&machine, &read}) {
    Instance it(*each);
    std::string looks;
    for (int second = 0; second < 4; ++second) {
      (void)it.advance(milliseconds(second == 0 ? 0 : 1000), [](const Cue&) {});
      looks += it.look() == kNoIndex ? "-" : std::to_string(it.look());
    }
    EXPECT_EQ(looks, "-110");
  }
  CrowdCues cues;
  (void)crowd.advance(milliseconds(1500), cues);
  EXPECT_EQ(crowd.look(member), 1);
  EXPECT_NE(test::findings_of("looks: {l: {when: own > 0, art: {}}}\nstates: {a: {vars: {own: 1}}}\n").find(
                "It is a variable of \"a\""),
            std::string::npos);
}

TEST(AsksVersion, IsOneNumber) {
  EXPECT_EQ(MOBRIN_VERSION, MOBRIN_VERSION_MAJOR * 10000 + MOBRIN_VERSION_MINOR * 100 + MOBRIN_VERSION_PATCH);
  EXPECT_EQ(linked_version(), MOBRIN_VERSION);
}

}  // namespace
}  // namespace mobrin
