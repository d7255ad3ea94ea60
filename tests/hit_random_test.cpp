// Hits alone, for loops of one's own: the same however a step is cut, also of those who graze each other.
#include <algorithm>
#include <cstdlib>
#include <random>
#include <string>
#include <vector>

#include "mobrin/contact/contacts.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Mover {
  std::uint32_t id = 0;
  Vec2 from{}, to{};
  std::vector<PlainBox> boxes;
};
struct Struck {
  Ticks at{};
  std::uint32_t by = 0, on = 0;
};

// Bodies that move straight for a second, with boxes that hit, once or again and again, and such that are hit. Round:
// they begin and end at halves, so that many touch in one point or along an edge.
class Brawl {
 public:
  Brawl(std::uint32_t seed, bool round) : random_(seed), round_(round), fate_(pick(9)) {
    for (int i = 2 + pick(4); i > 0; --i) {
      Mover mover{static_cast<std::uint32_t>(all_.size()) + 1, place(), place(), {}};
      for (int b = 1 + pick(2); b > 0; --b) mover.boxes.push_back(box(static_cast<std::uint32_t>(b)));
      all_.push_back(std::move(mover));
    }
  }

  std::vector<Struck> run(int steps) const {
    TagNames tags;
    Contacts contacts(tags);
    std::vector<Struck> out;
    std::vector<bool> dead(all_.size() + 1, false);
    for (int step = 0; step < steps; ++step) {
      const Ticks from = step_end(step, steps), to = step_end(step + 1, steps);
      contacts.begin(from, to);
      for (const Mover& mover : all_) {
        Participant who;
        who.id = mover.id;
        who.alive = !dead[mover.id];
        who.from.at = there(mover, from), who.to.at = there(mover, to);
        EXPECT_TRUE(contacts.add(who, mover.boxes));
      }
      contacts.resolve([&](const Hit& hit) {
        out.push_back({hit.at, hit.by, hit.on});
        if ((hit.by * 7 + hit.on * 13 + fate_) % 9 != 0) return HitAnswer::lives;
        dead[hit.on] = true;
        return HitAnswer::dies;
      });
    }
    return out;
  }

 private:
  static Vec2 there(const Mover& mover, Ticks at) {
    const double part = at.to_seconds();
    return {mover.from.x + (mover.to.x - mover.from.x) * part, mover.from.y + (mover.to.y - mover.from.y) * part};
  }
  int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
  double coordinate() { return (round_ ? pick(9) / 2.0 : pick(4000) / 1000.0) - 2; }
  Vec2 place() {
    const double x = coordinate();
    return {x, coordinate()};
  }
  PlainBox box(std::uint32_t swing) {
    PlainBox out;
    out.hits = pick(2) == 0;
    out.swing = swing;
    const double half = 8 + pick(4) * 8;
    if (pick(3) == 0)
      out.shape = CircleShape{0, 0, half};
    else
      out.shape = RectShape{-half, -half, 2 * half, 2 * half};
    if (pick(3) != 0) out.every = milliseconds(20 + pick(10) * 20);
    return out;
  }

  std::mt19937 random_;
  bool round_;
  std::vector<Mover> all_;
  std::uint32_t fate_;
};

// Instants within three ticks, some four billionths of a second, are one: places are rounded.
std::string difference(const std::vector<Struck>& one, const std::vector<Struck>& other) {
  const auto same = [](const Struck& a, const Struck& b) {
    return a.by == b.by && a.on == b.on && std::abs((a.at - b.at).count) <= 3;
  };
  if (std::equal(one.begin(), one.end(), other.begin(), other.end(), same)) return "";
  std::string out;
  for (std::size_t i = 0; i < std::max(one.size(), other.size()); ++i)
    for (const auto* each : {&one, &other}) {
      if (i < each->size())
        out += ms((*each)[i].at) + " " + std::to_string((*each)[i].by) + ">" + std::to_string((*each)[i].on);
      out += each == &one ? "   |   " : "\n";
    }
  return out;
}

class Brawls : public testing::TestWithParam<bool> {};

TEST_P(Brawls, AreTheSameHoweverTheStepIsCut) {
  std::size_t hits = 0;
  for (std::uint32_t seed = 0; seed < 1'000; ++seed) {
    const Brawl brawl(seed, GetParam());
    const std::vector<Struck> whole = brawl.run(1);
    hits += whole.size();
    for (const int steps : {2, 10, 60}) {
      const std::string differs = difference(whole, brawl.run(steps));
      ASSERT_EQ(differs, "") << "seed " << seed << " in " << steps << " steps";
    }
  }
  EXPECT_GT(hits, 5'000u);
}

INSTANTIATE_TEST_SUITE_P(All, Brawls, testing::Bool(),
                         [](const auto& round) { return std::string(round.param ? "Round" : "AnyNumbers"); });

}  // namespace
}  // namespace mobrin::test
