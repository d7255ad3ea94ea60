// How long to wait for two things to come at the same tick in two regions: what is shown there now is over then, or
// tells, and so does what a rule may begin elsewhere, if it begins then.
#include <algorithm>

#include "search.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostOfThem = 12;

// When something comes in a region; `named`: a cue of which is asked.
struct Time {
  std::uint16_t region = 0;
  Ticks at;
  bool named = false;
};

// How long after its entry what a leaf plays brings something.
std::vector<Time> times_of_play(const StateFacts& facts, const std::vector<bool>& cues) {
  std::vector<Time> out;
  for (const auto& [cue, at] : facts.sure_cues) out.push_back({facts.region, at, cues[cue]});
  for (const auto& whole : {facts.length, facts.round})
    if (whole) out.push_back({facts.region, *whole});
  return out;
}

// The same of what is entered with a state: of what plays, and of timers.
std::vector<Time> times_of_entry(const Model& model, std::uint16_t state, const std::vector<bool>& cues) {
  std::uint16_t leaf = state;
  while (model.states()[leaf].initial != kNoIndex) leaf = model.states()[leaf].initial;
  std::vector<Time> out = times_of_play(model.states()[leaf], cues);
  for (std::uint16_t up = leaf; up != model.states()[state].parent; up = model.states()[up].parent)
    for (const std::uint32_t index : model.states()[up].rules)
      if (const GoDef* go = model.rules()[index].def; go != nullptr && go->after)
        out.push_back({model.states()[leaf].region, *go->after});
  return out;
}

}  // namespace

std::vector<Ticks> Search::coincidences(const Node& node) const {
  if (std::find(asked_cues_.begin(), asked_cues_.end(), true) == asked_cues_.end()) return {};
  const Ticks now = instance_.now();
  std::vector<Time> due, begun;
  for (std::uint16_t r = 0; r < node.leaves.size(); ++r) {
    const std::uint16_t leaf = node.leaves[r];
    if (leaf == kNoIndex) continue;
    if (const auto position = instance_.playhead(r))
      for (const Time& time : times_of_play(model_.states()[leaf], asked_cues_))
        due.push_back({r, time.at - Ticks(*position / 65'536), time.named});
    for (std::size_t i = 0; i < timed_.size(); ++i)
      if (model_.within(leaf, timed_[i].first)) due.push_back({r, node.entered[i] + timed_[i].second - now});
    for (std::uint16_t up = leaf;; up = model_.states()[up].parent) {
      for (const std::uint32_t index : model_.states()[up].rules) {
        const Rule& rule = model_.rules()[index];
        const bool by_a_write = rule.event == Event::pulse || rule.event == Event::none;
        if (rule.def == nullptr || !by_a_write || rule.aim != Aim::state) continue;
        const std::vector<Time> times = times_of_entry(model_, rule.target, asked_cues_);
        begun.insert(begun.end(), times.begin(), times.end());
      }
      if (up == 0) break;
    }
  }
  std::vector<Ticks> out;
  for (const Time& one : due)
    for (const Time& other : begun) {
      const Ticks wait = one.at - other.at;
      const bool counts = one.region != other.region && (one.named || other.named);
      if (counts && wait.count > 0 && now + wait < node.due) out.push_back(wait);
    }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  if (out.size() > kMostOfThem) out.resize(kMostOfThem);
  return out;
}

}  // namespace mobrin::proof
