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

// How long after its entry what a leaf plays, or a timer of it or of what is entered with it, brings something.
std::vector<Time> times_of(const Model& model, std::uint16_t leaf, std::uint16_t outermost,
                           const std::vector<bool>& cues) {
  const StateFacts& facts = model.states()[leaf];
  std::vector<Time> out;
  for (const auto& [cue, at] : facts.sure_cues) out.push_back({facts.region, at, cues[cue]});
  for (const auto& whole : {facts.length, facts.round})
    if (whole) out.push_back({facts.region, *whole});
  for (std::uint16_t up = leaf; up != 0; up = model.states()[up].parent) {
    for (const std::uint32_t index : model.states()[up].rules)
      if (const GoDef* go = model.rules()[index].def; go != nullptr && go->after)
        out.push_back({facts.region, *go->after});
    if (up == outermost) break;
  }
  return out;
}

}  // namespace

std::vector<Ticks> Search::coincidences(const Node& node) {
  const Ticks now = instance_.now();
  std::vector<bool> cues(model_.machine().cues().size(), false);
  for (const Term* term : limits_.reads)
    each_term(*term, [&](const Term& each) {
      if (each.kind == Term::Kind::cue) cues[each.index] = true;
    });
  if (std::find(cues.begin(), cues.end(), true) == cues.end()) return {};
  std::vector<Time> due, begun;
  for (std::uint16_t r = 0; r < node.leaves.size(); ++r) {
    const std::uint16_t leaf = node.leaves[r];
    if (leaf == kNoIndex) continue;
    if (const auto position = instance_.playhead(r))
      for (Time time : times_of(model_, leaf, leaf, cues)) {
        time.at = time.at - Ticks(*position / 65'536);
        due.push_back(time);
      }
    for (std::size_t i = 0; i < timed_.size(); ++i)
      if (model_.within(leaf, timed_[i].first)) due.push_back({r, node.entered[i] + timed_[i].second - now});
    for (std::uint16_t up = leaf;; up = model_.states()[up].parent) {
      for (const std::uint32_t index : model_.states()[up].rules) {
        const Rule& rule = model_.rules()[index];
        const bool by_a_write = rule.event == Event::pulse || rule.event == Event::none;
        if (rule.def == nullptr || !by_a_write || rule.aim != Aim::state) continue;
        std::uint16_t target = rule.target;
        while (model_.states()[target].initial != kNoIndex) target = model_.states()[target].initial;
        const std::vector<Time> times = times_of(model_, target, rule.target, cues);
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
