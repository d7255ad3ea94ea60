// A crowd behaves as separate instances do, whatever the machine and the writes.
#include <numeric>

#include "made_machine.hpp"
#include "mobrin/core/crowd.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

void write(Crowd& crowd, Member member, const ScriptEntry& entry) {
  const Machine& machine = crowd.machine();
  switch (entry.kind) {
    case ScriptEntry::Kind::set:
      if (entry.name == "v") crowd.set(member, *machine.input<float>("v"), static_cast<float>(entry.value));
      if (entry.name == "n")
        crowd.set(member, *machine.input<std::int32_t>("n"), static_cast<std::int32_t>(entry.value));
      if (entry.name == "h")
        crowd.set(member, *machine.input<Choice>("h"), Choice{static_cast<std::uint8_t>(entry.value)});
      if (entry.name == "b") crowd.set(member, *machine.input<bool>("b"), entry.value != 0);
      break;
    case ScriptEntry::Kind::pulse:
      crowd.pulse(member, *machine.pulse(entry.name));
      break;
    case ScriptEntry::Kind::rate:
      crowd.set_rate(member, entry.value);
      break;
    case ScriptEntry::Kind::freeze:
      crowd.freeze(member, entry.duration);
      break;
    case ScriptEntry::Kind::reset:
      crowd.reset(member);
      break;
  }
}

std::string picture(const Instance& instance) {
  std::string out;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    out += std::to_string(instance.active(r));
    for (const Shown& shown : instance.layers(r))
      out += " " + std::to_string(shown.clip) + ":" + std::to_string(shown.frame) + "@" +
             std::to_string(shown.seconds) + "*" + std::to_string(shown.weight);
    out += "; ";
  }
  return out + (instance.done() ? "done" : "");
}

// To the bit; words are made only of what differs.
bool looks_alike(const Instance& a, const Instance& b) {
  if (a.region_count() != b.region_count() || a.done() != b.done()) return false;
  for (std::uint16_t r = 0; r < a.region_count(); ++r) {
    const ShownLayers one = a.layers(r), two = b.layers(r);
    if (a.active(r) != b.active(r) || one.size() != two.size()) return false;
    for (std::size_t i = 0; i < one.size(); ++i)
      if (one[i].clip != two[i].clip || one[i].frame != two[i].frame || one[i].seconds != two[i].seconds ||
          one[i].weight != two[i].weight || one[i].mirrored != two[i].mirrored)
        return false;
  }
  return true;
}

// Who was told a record.
struct MemberCue {
  std::uint32_t member;
  Cue cue;
  friend bool operator==(const MemberCue& a, const MemberCue& b) {
    return a.member == b.member && a.cue.at == b.cue.at && a.cue.ordinal == b.cue.ordinal &&
           a.cue.transition == b.cue.transition && a.cue.frame == b.cue.frame && a.cue.fields == b.cue.fields &&
           a.cue.cue == b.cue.cue && a.cue.state == b.cue.state && a.cue.clip == b.cue.clip &&
           a.cue.what == b.cue.what && a.cue.edge == b.cue.edge;
  }
  friend void PrintTo(const MemberCue& each, std::ostream* out) { *out << each.member << " " << record(each.cue); }
};

// How many, and how often they are written to one by one and all at once: once in so many times.
struct Crowding {
  std::uint32_t members;
  int one_by_one, together;
};
constexpr Crowding kFew{6, 1, 6}, kMany{80, 60, 1};

// Values for all, by the calls for many: one for each, or one for most, or one of two; of numbers also some that lie
// near it.
template <class T, class Any>
void set_all(Crowd& crowd, std::vector<Instance>& apart, RandomMachine& random, Input<T> input, const Any& any) {
  using Given = std::conditional_t<std::is_same_v<T, bool>, std::uint8_t, T>;
  std::vector<std::uint32_t> places;
  std::vector<Given> values;
  const T most = any(), other = any();
  const bool alike = random.pick(3) != 0, two = random.pick(2) == 0, near = random.pick(2) == 0;
  for (std::uint32_t i = 0; i < apart.size(); ++i) {
    places.push_back(i);
    T value = !alike || random.pick(20) == 0 ? any() : two && random.pick(2) == 0 ? other : most;
    if constexpr (std::is_same_v<T, float>) value += near ? static_cast<float>(random.pick(5)) / 20 : 0;
    values.push_back(value);
  }
  if (random.pick(2) == 0) {
    crowd.set(places, input, std::span<const Given>(values));
  } else {
    crowd.set_all(input, std::span<const Given>(values));
  }
  for (std::size_t i = 0; i < apart.size(); ++i) apart[i].set(input, static_cast<T>(values[i]));
}

// A value or pulse for all at once.
void write_all(Crowd& crowd, std::vector<Instance>& apart, RandomMachine& random) {
  const Machine& machine = crowd.machine();
  switch (random.pick(6)) {
    case 0:
    case 1: {
      std::vector<std::uint32_t> places(apart.size());
      std::iota(places.begin(), places.end(), 0);
      const Pulse pulse = *machine.pulse(random.pick(2) == 0 ? "p" : "q");
      crowd.pulse(places, pulse);
      for (Instance& each : apart) each.pulse(pulse);
      return;
    }
    case 2:
      return set_all(crowd, apart, random, *machine.input<bool>("b"), [&] { return random.pick(2) == 0; });
    case 3:
      return set_all(crowd, apart, random, *machine.input<std::int32_t>("n"),
                     [&] { return std::int32_t{random.pick(9)} - 4; });
    case 4:
      return set_all(crowd, apart, random, *machine.input<Choice>("h"),
                     [&] { return Choice{static_cast<std::uint8_t>(random.pick(3))}; });
    default:
      return set_all(crowd, apart, random, *machine.input<float>("v"),
                     [&] { return static_cast<float>(random.pick(17) - 8) / 2; });
  }
}

// Random members of a random machine, written to at random, as a crowd and as instances.
void compare(std::uint32_t seed, const Machine& machine, Listening listening, const Crowding& crowding) {
  const std::uint32_t members = crowding.members;
  static std::vector<Cue> memory(20'000);
  RandomMachine random(seed ^ 0xc0ffee);
  Crowd crowd(machine, {listening});
  std::vector<Instance> apart;
  for (std::uint32_t i = 0; i < members; ++i) {
    ASSERT_EQ(crowd.add().place, i);
    apart.emplace_back(machine);
  }
  CrowdCues cues;
  const bool keeps = random.pick(2) == 0;
  std::vector<std::vector<CrowdShown>> followed(apart[0].region_count());
  const auto frame = [](const CrowdShown& shown) {
    return std::tuple(shown.clip, shown.frame, shown.mirrored, shown.weight);
  };
  // Machines that never come to rest tell endlessly; so much of them, and of one step, is enough.
  const std::size_t most = many_seeds() ? 20'000 : 5'000, most_of_a_step = many_seeds() ? 100'000 : 30'000;
  std::size_t compared = 0;
  for (int step = 0; step < 25 && compared < most; ++step) {
    // Several writes at one instant, sometimes with a step of no time between two of them.
    std::vector<MemberCue> expected, told;
    bool endless = false;  // it tells something at every tick of a long step
    const auto step_by = [&](Ticks dt) {
      for (std::uint32_t i = 0; i < members; ++i) {
        CueBuffer list(memory, listening);
        for (Advanced part{{}, dt, 0, true}; !part.complete() && !endless; list.clear()) {
          part = apart[i].advance(part.left, list);
          ASSERT_EQ(part.needs, 0u);
          for (const Cue& cue : list) expected.push_back({i, cue});
          endless = expected.size() > most_of_a_step;
        }
      }
      if (endless) return;
      cues.clear();
      ASSERT_TRUE(crowd.advance(dt, cues).complete());
      for (const CrowdCue& each : cues) told.push_back({each.place, each.cue});
    };
    for (int part = random.pick(4) == 0 ? 2 + random.pick(2) : 1; part > 0; --part) {
      for (std::uint32_t i = 0; i < members; ++i) {
        if (random.pick(crowding.one_by_one) != 0) continue;
        for (const ScriptEntry& entry : random.script(random.pick(3))) {
          test::write(apart[i], entry);
          write(crowd, crowd.at(i), entry);
        }
      }
      if (random.pick(crowding.together) == 0) write_all(crowd, apart, random);
      if (part > 1) {
        ASSERT_NO_FATAL_FAILURE(step_by(Ticks(0)));
        if (endless) return;
      }
    }
    // Now and then a step that ends where a clip comes round.
    Ticks dt = Ticks(milliseconds(16).count + step);
    if (random.pick(5) == 0) dt = milliseconds(random.pick(900));
    if (random.pick(8) == 0) dt = Ticks(kTicksPerSecond - crowd.now().count % kTicksPerSecond);
    ASSERT_NO_FATAL_FAILURE(step_by(dt));
    if (endless) return;
    compared += told.size();
    ASSERT_EQ(told, expected) << "seed " << seed << " step " << step << "\n" << machine.dump();
    for (std::uint32_t i = 0; i < members; ++i) {
      const Member member = crowd.at(i);
      const auto copy = crowd.copy(member);
      ASSERT_TRUE(looks_alike(*copy, apart[i])) << "seed " << seed << " step " << step << " member " << i << "\n"
                                                << picture(*copy) << "\n"
                                                << picture(apart[i]);
      ASSERT_EQ(crowd.done(member), apart[i].done());
      for (std::uint16_t input = 0; input < machine.inputs().size(); ++input)
        ASSERT_EQ(crowd.input_value(member, input), apart[i].input_value(input));
    }
    std::vector<CrowdShown> shown(members);
    for (std::uint16_t region = 0; region < apart[0].region_count(); ++region) {
      if (keeps) {
        followed[region].resize(members);
        std::vector<int> times(members);
        for (const CrowdChange& each : crowd.shown_changed(region)) {
          ASSERT_EQ(times[each.place]++, 0) << "seed " << seed;
          followed[region][each.place] = each.shown;
        }
        if (random.pick(3) == 0) {
          ASSERT_TRUE(crowd.shown_changed(region).empty());
        }
      }
      ASSERT_EQ(crowd.shown_all(shown, region), members);
      for (std::uint32_t i = 0; i < members; ++i) {
        const Shown one = apart[i].shown(region);
        ASSERT_EQ(std::pair(shown[i].clip, shown[i].frame), std::pair(one.clip, one.frame)) << "seed " << seed;
        ASSERT_EQ(shown[i].weight, static_cast<float>(one.nothing() && one.weight == 1 ? 1 : one.weight));
        ASSERT_TRUE(!keeps || frame(followed[region][i]) == frame(shown[i])) << "seed " << seed << " step " << step;
      }
    }
  }
}

// 2,000 in all.
int machines() { return std::max(250, seeds(0) / 8); }

class CrowdAgreement : public testing::TestWithParam<int> {};

TEST_P(CrowdAgreement, WithSeparateInstances) {
  std::uint32_t from = static_cast<std::uint32_t>(GetParam()) * 100'000;
  for (int more = machines(); more > 0; --more) {
    const SoundMachine subject = next_sound(from);
    for (const Listening listening : {kGameRecords, kAllRecords})
      ASSERT_NO_FATAL_FAILURE(compare(subject.seed, subject.machine, listening, kFew));
  }
}

// Many members of plain machines to which the same is done: what one did is repeated for others.
TEST_P(CrowdAgreement, OfManyThatDoTheSame) {
  std::uint32_t from = static_cast<std::uint32_t>(GetParam()) * 100'000;
  for (int more = machines() / 4; more > 0; --more) {
    const SoundMachine subject = next_quick(from);
    ASSERT_NO_FATAL_FAILURE(compare(subject.seed, subject.machine, kGameRecords, kMany));
  }
}

INSTANTIATE_TEST_SUITE_P(Seeds, CrowdAgreement, testing::Range(0, 8));

}  // namespace
}  // namespace mobrin::test
