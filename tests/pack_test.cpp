// Packs: a machine comes back as it was; damaged and made-up bytes are refused or harmless.
#include "mobrin/pack/pack.hpp"

#include <cstring>
#include <random>

#include "../src/core/machine/hash.hpp"
#include "made_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

Machine demo(const char* file) {
  const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + file);
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  return *loaded.machine;
}

std::vector<std::string> log_of_script(const Machine& machine, const std::vector<ScriptEntry>& script) {
  Instance instance(machine);
  std::vector<std::string> log;
  for (const ScriptEntry& entry : script) {
    if (entry.at > instance.now()) listen(instance, entry.at - instance.now(), log);
    write(instance, entry);
  }
  listen(instance, seconds(1), log);
  return log;
}

void same(const Machine& machine, const Machine& again) {
  EXPECT_EQ(again.dump(), machine.dump());
  EXPECT_EQ(again.fingerprint(), machine.fingerprint());
  EXPECT_EQ(again.name(), machine.name());
  EXPECT_EQ(again.block_size(), machine.block_size());
  EXPECT_EQ(again.most_records_per_instant(), machine.most_records_per_instant());
  EXPECT_EQ(interface_of(again), interface_of(machine));
  EXPECT_EQ(pack(again), pack(machine));
}

TEST(Pack, BringsTheDemosMachinesBack) {
  for (const char* file : {"keeper.yaml", "hornet.yaml", "marsh_hornet.yaml", "hive.yaml", "smoker.yaml"}) {
    const Machine machine = demo(file);
    const auto again = load_pack(pack(machine));
    ASSERT_TRUE(again) << again.error().text();
    same(machine, *again);
  }
}

TEST(Pack, BringsRandomMachinesBackAsTheyBehave) {
  std::size_t records = 0;
  std::uint32_t from = 0;
  for (int more = 150; more > 0; --more) {
    SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    const auto again = load_pack(pack(subject.machine));
    ASSERT_TRUE(again) << "seed " << seed << ": " << again.error().text() << subject.machine.dump();
    same(subject.machine, *again);
    const auto script = random.script(20);
    const auto log = log_of_script(subject.machine, script);
    ASSERT_EQ(log_of_script(*again, script), log) << "seed " << seed;
    records += log.size();
  }
  EXPECT_GT(records, 1000u);
}

TEST(Pack, WithoutNamesItIsSmallerAndBehavesTheSame) {
  const Machine machine = demo("hornet.yaml");
  const std::vector<std::byte> whole = pack(machine), lean = pack(machine, {false});
  EXPECT_LT(lean.size(), whole.size());
  const auto again = load_pack(lean, interface_of(machine));
  ASSERT_TRUE(again) << again.error().text();
  EXPECT_FALSE(again->input<float>("distance"));
  Instance with(machine), without(*again);
  const auto run = [](Instance& hornet) {
    const Machine& m = hornet.machine();
    hornet.set(handle_at<Input<float>>(m, 0), 20.0f);
    hornet.set(handle_at<Input<bool>>(m, 1), true);
    std::vector<std::string> log;
    const auto note = [&](const Cue& cue) {
      log.push_back(ms(cue.at) + " " + std::to_string(cue.cue) + " " + std::to_string(cue.frame));
    };
    hornet.advance(milliseconds(300), note);
    hornet.pulse(handle_at<Pulse>(m, 2));
    hornet.advance(milliseconds(400), note);
    return log;
  };
  const auto log = run(with);
  EXPECT_EQ(run(without), log);
  EXPECT_EQ(log.size(), 4u);
  // What games look art up by stays.
  EXPECT_EQ(again->clips()[0].def.name.text, "hover");
  EXPECT_EQ(again->clips()[0].def.frames[0].art.source, machine.clips()[0].def.frames[0].art.source);
}

TEST(Pack, OfAnotherInterfaceIsRefused) {
  const Machine machine = demo("hornet.yaml");
  const auto packed = pack(machine);
  EXPECT_TRUE(load_pack(packed, interface_of(machine)));
  const auto other = load_pack(packed, interface_of(demo("keeper.yaml")));
  ASSERT_FALSE(other);
  EXPECT_NE(other.error().text().find("does not fit the program"), std::string::npos);
  const std::string text = "cues: {a: {}}\nstates: {s: {}}\n";
  EXPECT_EQ(interface_of(machine_of(text)), interface_of(machine_of("cues: {a: {}}\nstates: {s: {length: 1s}}\n")));
  for (const char* changed :
       {"cues: {b: {}}\nstates: {s: {}}\n", "cues: {a: {x: 1}}\nstates: {s: {}}\n", "cues: {a: {}}\nstates: {t: {}}\n",
        "inputs: {i: false}\ncues: {a: {}}\nstates: {s: {}}\n", "cues: {a: {}}\nstates: {s: {traits: [busy]}}\n"})
    EXPECT_NE(interface_of(machine_of(changed)), interface_of(machine_of(text))) << changed;
}

TEST(Pack, CutAnywhereItIsRefused) {
  const auto packed = pack(demo("hive.yaml"));
  for (std::size_t size = 0; size < packed.size(); ++size)
    ASSERT_FALSE(load_pack(std::span(packed).first(size))) << size;
  auto longer = packed;
  longer.push_back(std::byte{0});
  EXPECT_FALSE(load_pack(longer));
}

TEST(Pack, WithAnyBitTurnedItIsRefused) {
  const auto sound = pack(demo("smoker.yaml"));
  auto packed = sound;
  for (std::size_t at = 0; at < packed.size(); ++at)
    for (int bit = 0; bit < 8; ++bit) {
      packed[at] ^= static_cast<std::byte>(1 << bit);
      ASSERT_FALSE(load_pack(packed)) << "byte " << at << " bit " << bit;
      packed[at] = sound[at];
    }
}

TEST(Pack, OfAnotherVersionSaysSo) {
  auto packed = pack(demo("smoker.yaml"));
  packed[8] = std::byte{5};
  const auto loaded = load_pack(packed);
  ASSERT_FALSE(loaded);
  EXPECT_NE(loaded.error().text().find("version is 5, not 4"), std::string::npos);
}

// What was written before the version counted two began otherwise.
TEST(Pack, OfTheFirstVersionSaysSo) {
  std::vector<std::byte> old(60);
  std::memcpy(old.data(), "MOBRINBK", 8);
  const auto loaded = load_pack(old);
  ASSERT_FALSE(loaded);
  EXPECT_NE(loaded.error().text().find("version is 1, not 4"), std::string::npos) << loaded.error().text();
  EXPECT_NE(loaded.error().text().find("Pack the machine again"), std::string::npos) << loaded.error().text();
}

// Somebody who makes the checksum right, too: what loads may be run without harm.
TEST(Pack, MadeUpTablesAreRefusedOrHarmless) {
  std::mt19937 random(3);
  int refused = 0, ran = 0;
  for (const char* file : {"hornet.yaml", "keeper.yaml"}) {
    const auto sound = pack(demo(file), {false});
    for (std::size_t at = 40; at < sound.size(); ++at) {
      auto packed = sound;
      packed[at] ^= static_cast<std::byte>(1u << random() % 8);
      detail::Hash hash;
      hash.add(std::span(packed).subspan(32));
      const std::uint64_t checksum = hash.value();
      for (std::size_t i = 0; i < 8; ++i) packed[24 + i] = static_cast<std::byte>(checksum >> (8 * i));
      const auto loaded = load_pack(packed);
      if (!loaded) {
        ++refused;
        continue;
      }
      ++ran;
      Instance instance(*loaded);
      CueList<64> cues;
      for (int step = 0; step < 4; ++step) {
        for (std::uint16_t i = 0; i < loaded->inputs().size(); ++i) {
          const auto kind = loaded->inputs()[i].kind.index();
          if (kind == 0) instance.set(handle_at<Input<bool>>(*loaded, i), random() % 2 == 0);
          if (kind == 2) instance.set(handle_at<Input<float>>(*loaded, i), static_cast<float>(random() % 300));
          if (kind == 4) instance.pulse(handle_at<Pulse>(*loaded, i));
        }
        cues.clear();
        static_cast<void>(instance.advance(milliseconds(150), cues));
        static_cast<void>(instance.shown());
        static_cast<void>(instance.look());
      }
    }
  }
  EXPECT_GT(refused, 1000);
  EXPECT_GT(ran, 1000);
}

TEST(Pack, AHeaderNamesEveryHandle) {
  const auto header = header_text(demo("hornet.yaml"), {"Hornet", "hornet.yaml"});
  ASSERT_TRUE(header) << header.error().text();
  for (const char* part :
       {"class Hornet {", "mobrin::Input<float> distance;", "mobrin::Pulse dive;", "mobrin::State body_hover;",
        "mobrin::Trait dead;", "static constexpr std::uint16_t stings = ", "mobrin::handle_at<mobrin::Pulse>(of, 2)"})
    EXPECT_NE(header->find(part), std::string::npos) << part;
  EXPECT_NE(header_text(demo("keeper.yaml"), {"Keeper", ""})->find("struct carrying_choices {"), std::string::npos);
  // Words of the language get a stroke; what would have one name twice is an error.
  EXPECT_NE(header_text(machine_of("inputs: {default: false}\nstates: {s: {}}\n"), {"A", ""})->find("bool> default_;"),
            std::string::npos);
  EXPECT_FALSE(header_text(machine_of("inputs: {default: false, default_: false}\nstates: {s: {}}\n"), {"A", ""}));
  EXPECT_FALSE(header_text(demo("hornet.yaml"), {"7up", ""}));
}

}  // namespace
}  // namespace mobrin::test
