// The core on its own: machines built in code, without files.
#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

MachineBuilder lamp() {
  MachineBuilder builder("lamp");
  builder.input("dark", BoolInput{}).pulse("tap", 50ms).cue("click", "sound", {{"gain", 0.5}});
  builder.clip("glow", 4, {10, 1}, PlayMode::loop());
  builder.mark("glow", 2, "click", {{"gain", 0.25}});
  StateDef off, lit;
  off.name = "off";
  off.go = {{.when = "dark", .to = "lit"}, {.pulse = "tap", .to = "lit"}};
  lit.name = "lit";
  lit.clip = "glow";
  lit.go = {{.after = 1s, .when = "not dark", .to = "off"}};
  builder.state(off).state(lit).initial("off");
  return builder;
}

TEST(Builder, MakesAMachineThatRuns) {
  const Compiled compiled = lamp().build();
  ASSERT_TRUE(compiled.machine) << compiled.findings.front().text();
  Instance instance(*compiled.machine);
  std::vector<std::string> heard;
  instance.pulse(*compiled.machine->pulse("tap"));
  instance.advance(2s, [&](const Cue& cue) {
    heard.push_back(std::string(cue.name()) + " " + std::to_string(*cue.number("gain")));
  });
  EXPECT_EQ(heard,
            (std::vector<std::string>{"click 0.250000", "click 0.250000", "click 0.250000"}));  // 200, 600 and 1000 ms
}

TEST(Builder, ReportsWithoutPlaces) {
  MachineBuilder builder = lamp();
  builder.go({.when = "drak", .to = "of"});
  const Compiled compiled = builder.build();
  EXPECT_FALSE(compiled.machine);
  ASSERT_EQ(compiled.findings.size(), 2u);
  EXPECT_EQ(compiled.findings[0].text(),
            "error: \"drak\" is no input or variable [unknown-name]\n    Did you mean \"dark\"?");
  EXPECT_EQ(compiled.findings[1].text(), "error: there is no state \"of\" [unknown-name]\n    Did you mean \"off\"?");
}

TEST(Builder, ImpossibleValuesAreFindingsAndNotAsserts) {
  const auto broken = [](auto change) {
    MachineBuilder builder = lamp();
    change(builder.definition());
    const Compiled compiled = builder.build();
    return !compiled.machine && !compiled.findings.empty();
  };
  EXPECT_TRUE(broken([](MachineDef& def) { def.clips[0].fps.den = 0; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.clips[0].frames[0].hold = -1; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.clips[0].play.passes = -3; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.clips[0].length = Ticks(5), def.clips[0].frames.clear(); }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.inputs[1].kind = PulseInput{Ticks(-5)}; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.inputs[0].kind = FloatInput{0, 1e300, 2e300, 0}; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.root.states[0].linger = Ticks(INT64_MAX); }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.root.states[1].pose = 17; }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.root.states[1].go[0].after = Ticks(INT64_MIN); }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.root.states.clear(); }));
  EXPECT_TRUE(broken([](MachineDef& def) { def.marks[0].marks[0].frame = -1; }));
  StateDef deep;
  deep.name = "deep";
  for (int i = 0; i < 40; ++i) {
    StateDef outer;
    outer.name = "deep";
    outer.states.push_back(deep);
    deep = outer;
  }
  EXPECT_TRUE(broken([&](MachineDef& def) { def.root.states.push_back(deep); }));
}

TEST(Machine, IsSharedByItsCopiesAndOutlivesThem) {
  std::optional<Instance> instance;
  {
    const Compiled compiled = lamp().build();
    instance.emplace(*compiled.machine);
  }
  CueList<4> cues;
  ASSERT_TRUE(instance->advance(1s, cues).complete());
  EXPECT_EQ(instance->machine().name(), "lamp");
}

TEST(Machine, DumpsWhatItCompiled) {
  EXPECT_EQ(lamp().build().machine->dump(),
            "machine lamp, block 64 bytes\n"
            "root\n"
            "state off\n"
            "  when: dark [dark] -> lit\n"
            "  pulse: tap -> lit\n"
            "state lit, clip glow\n"
            "  after: 1s, when: not dark [dark not] -> off\n"
            "  places 0(0,0) 141120000(1,0) 211680000(0,1) 282240000(0,0)\n");
}

}  // namespace
}  // namespace mobrin::test
