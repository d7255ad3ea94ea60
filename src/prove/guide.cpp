#include "guide.hpp"

#include <algorithm>
#include <deque>
#include <iterator>
#include <optional>
#include <set>

#include "hints.hpp"
#include "loose.hpp"

namespace mobrin::proof {

namespace {

constexpr std::uint32_t kFar = UINT32_MAX;
constexpr std::size_t kMostPresses = 12, kMostSeen = 64;  // of a place; of an instant
constexpr std::uint32_t kDeepest = 400;                   // moments of an instant, one after the other

class Guiding {
 public:
  Guiding(const Model& model, const Question& question, const Ways& ways)
      : model_(model), ways_(ways), timed_(question.timed), regions_(model.machine().regions().size(), false) {
    for (const auto* list : {&question.asked.before, &question.asked.after})
      for (const Term& term : *list) note_regions(model, term, regions_);
    taken_.resize(ways.places.size());
    for (const Taken& taken : ways.taken) taken_[taken.from].push_back(&taken);
    measure();
  }

  [[nodiscard]] Guide guide() {
    Guide out;
    for (std::uint32_t r = 0; r < ways_.rests.size(); ++r) {
      const std::uint32_t distance = from_rest_[r];
      if (distance == kFar) continue;
      const Ways::Rest& rest = ways_.rests[r];
      const auto [place, fresh] = out.places.try_emplace({rest.leaves, rest.waits}, Guide::At{distance, {}});
      place->second.distance = std::min(place->second.distance, distance);
      add_to(place->second.presses, presses_of(r, false));
      add_to(place->second.beside, presses_of(r, true));
    }
    return out;
  }

 private:
  static void add_to(std::vector<Press>& all, std::vector<Press> more) {
    for (Press& press : more)
      if (all.size() < kMostPresses && std::find(all.begin(), all.end(), press) == all.end())
        all.push_back(std::move(press));
  }
  // What is waited for in time: all is near to that where it waits.
  [[nodiscard]] bool waits_in_time(std::uint32_t rest) const {
    return timed_ && rest != Ways::kNone && ways_.rests[rest].waits;
  }

  // How many instants there are at least from each place, and from each rest, backward from where it may be broken.
  void measure() {
    const std::size_t count = ways_.places.size();
    from_place_.assign(count, kFar);
    from_rest_.assign(ways_.rests.size(), kFar);
    std::vector<std::vector<std::uint32_t>> before(count), resting(ways_.rests.size()), begun_at(count);
    std::deque<std::uint32_t> open;
    for (std::uint32_t p = 0; p < count; ++p) {
      for (const Next& next : ways_.next[p]) before[next.to].push_back(p);
      if (ways_.places[p].rest != Ways::kNone) resting[ways_.places[p].rest].push_back(p);
      if (!ways_.places[p].broken && !waits_in_time(ways_.places[p].rest)) continue;
      from_place_[p] = 0;
      open.push_back(p);
    }
    for (const Taken& taken : ways_.taken) before[taken.to].push_back(taken.from);
    for (std::uint32_t r = 0; r < ways_.rests.size(); ++r) {
      for (const std::uint32_t begin : ways_.rests[r].begins) begun_at[begin].push_back(r);
      if (waits_in_time(r)) from_rest_[r] = 0;
    }
    const auto reach = [&](std::uint32_t place, std::uint32_t distance, bool near) {
      if (from_place_[place] <= distance) return;
      from_place_[place] = distance;
      near ? open.push_front(place) : open.push_back(place);
    };
    while (!open.empty()) {
      const std::uint32_t p = open.front();
      open.pop_front();
      for (const std::uint32_t each : before[p]) reach(each, from_place_[p], true);
      for (const std::uint32_t r : begun_at[p]) {
        if (from_rest_[r] <= from_place_[p] + 1) continue;
        from_rest_[r] = from_place_[p] + 1;
        for (const std::uint32_t each : resting[r]) reach(each, from_rest_[r], false);
      }
    }
  }

  struct Found {
    std::size_t rank;
    std::uint32_t rest;  // to which it leads
    Press press;
  };
  // Through the moments of one instant that begins where it rests.
  struct Way {
    std::uint32_t from = 0, distance = 0;
    bool beside = false;
    std::uint32_t depth = 0;
    std::set<std::uint32_t> seen{};
    std::vector<Found> found{};
  };
  // What may be written where it rests, for the next instant to be one nearer; or, what is waited for, to wait on.
  // `beside`: to be as near in another place, as what comes there first may count.
  [[nodiscard]] std::vector<Press> presses_of(std::uint32_t rest, bool beside) const {
    std::vector<Found> found;
    const bool waits = waits_in_time(rest);
    for (const std::uint32_t begin : ways_.rests[rest].begins) {
      if (waits ? beside : from_place_[begin] >= from_rest_[rest] + (beside ? 1 : 0)) continue;
      Way way{rest, beside ? from_rest_[rest] : from_place_[begin], beside};
      follow(way, begin, model_.any_inputs(), {});
      std::move(way.found.begin(), way.found.end(), std::back_inserter(found));
    }
    std::stable_sort(found.begin(), found.end(), [](const Found& a, const Found& b) { return a.rank < b.rank; });
    // Of those with the same pulses that lead to the same the first is enough.
    std::set<std::pair<std::vector<std::uint16_t>, Indices>> met;
    std::vector<Press> out;
    for (Found& each : found) {
      const Indices leaves = each.rest == Ways::kNone ? Indices() : ways_.rests[each.rest].leaves;
      if (met.emplace(each.press.pulses, leaves).second) out.push_back(std::move(each.press));
    }
    return out;
  }

  void follow(Way& way, std::uint32_t place, std::vector<Span> inputs, const std::vector<std::uint16_t>& pulses) const {
    const std::uint32_t distance = from_place_[place];
    const bool leads = way.beside ? distance <= way.distance : distance == way.distance;
    const bool enough = way.found.size() >= kMostSeen || way.depth >= kDeepest;
    if (!leads || enough || !way.seen.insert(place).second) return;
    ++way.depth;
    const Ways::Place& here = ways_.places[place];
    for (const Part& part : here.known) {
      const std::vector<Span>& cells = model_.cells()[part.input];
      inputs[part.input] = {cells[part.first].low, cells[part.last].high};
    }
    if (is_over(way, here))
      if (auto press = press_of(model_, inputs, pulses))
        way.found.push_back({rank_of(way, here.rest, *press), here.rest, std::move(*press)});
    for (const Next& next : ways_.next[place]) follow(way, next.to, inputs, pulses);
    for (const Taken* taken : taken_[place]) {
      std::vector<std::uint16_t> more = pulses;
      more.push_back(taken->pulse);
      follow(way, taken->to, inputs, more);
    }
    --way.depth;
  }
  [[nodiscard]] bool is_over(const Way& way, const Ways::Place& here) const {
    if (way.beside)
      return here.rest != Ways::kNone && from_rest_[here.rest] <= way.distance &&
             ways_.rests[here.rest].leaves != ways_.rests[way.from].leaves;
    return here.broken || waits_in_time(here.rest) ||
           (here.rest != Ways::kNone && from_rest_[here.rest] == way.distance);
  }

  // First what changes something of which the claim speaks, then what is least unlike the start.
  [[nodiscard]] std::size_t rank_of(const Way& way, std::uint32_t to, const Press& press) const {
    constexpr std::size_t kElsewhere = 1'000;
    bool changes = to == Ways::kNone;
    for (std::size_t r = 0; !changes && r < regions_.size(); ++r)
      changes = regions_[r] && ways_.rests[way.from].leaves[r] != ways_.rests[to].leaves[r];
    return size_of(model_, press) + (changes ? 0 : kElsewhere);
  }

  const Model& model_;
  const Ways& ways_;
  const bool timed_;
  std::vector<bool> regions_;  // of which the claim speaks
  std::vector<std::vector<const Taken*>> taken_;
  std::vector<std::uint32_t> from_place_, from_rest_;
};

}  // namespace

Guide guide_against(const Model& model, const Question& question, std::size_t steps) {
  Model copy = model;
  std::vector<Term> terms;
  for (const auto* list : {&question.asked.assumed, &question.asked.before, &question.asked.after})
    terms.insert(terms.end(), list->begin(), list->end());
  const std::vector<bool> behind = model.variables_behind(terms, false);
  for (std::uint16_t v = 0; v < behind.size(); ++v)
    if (copy.known()[v] != Knowledge::nothing) copy.know(v, behind[v] ? Knowledge::comparisons : Knowledge::nothing);
  Ways ways;
  const Reach reach(copy, steps, &question, &ways);
  return Guiding(copy, question, ways).guide();
}

}  // namespace mobrin::proof
