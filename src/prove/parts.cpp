#include "parts.hpp"

#include <algorithm>
#include <optional>

#include "loose.hpp"
#include "reach.hpp"
#include "space.hpp"

namespace mobrin::proof {

namespace {

// For each rule the regions that are loose as it is looked at: all but its own and those that its guard reads. Each
// look once, and none that knows less than another.
struct Looks {
  std::vector<std::vector<bool>> loose;  // by region
  std::vector<std::size_t> of_rule;
};

bool knows_as_much(const std::vector<bool>& loose, const std::vector<bool>& other) {
  return std::equal(loose.begin(), loose.end(), other.begin(), [](bool one, bool also) { return !one || also; });
}

Looks looks_of(const Model& model, const std::vector<Term>& assumed) {
  Looks out;
  std::vector<std::vector<bool>> wanted;
  const std::vector<bool> may_be_loose = loose_regions(model, assumed);
  for (const Rule& rule : model.rules()) {
    std::vector<bool> kept(model.machine().regions().size(), false);
    if (rule.def != nullptr) {
      kept[model.states()[rule.owner == 0 ? rule.target : rule.owner].region] = true;
      if (rule.when) note_regions(model, *rule.when, kept);
    }
    wanted.push_back(may_be_loose);
    for (std::size_t r = 0; r < kept.size(); ++r)
      if (kept[r]) wanted.back()[r] = false;
  }
  for (const std::vector<bool>& each : wanted) {
    const auto knows = [&](const std::vector<bool>& other) { return knows_as_much(other, each); };
    if (std::any_of(out.loose.begin(), out.loose.end(), knows)) continue;
    std::erase_if(out.loose, [&](const std::vector<bool>& other) { return knows_as_much(each, other); });
    out.loose.push_back(each);
  }
  for (const std::vector<bool>& each : wanted)
    out.of_rule.push_back(static_cast<std::size_t>(
        std::find_if(out.loose.begin(), out.loose.end(),
                     [&](const std::vector<bool>& other) { return knows_as_much(other, each); }) -
        out.loose.begin()));
  return out;
}

// Where all regions together are too much: each rule by itself, from what the model was `before`. False where that is
// too much, too.
bool explore_loosely(Model& part, const Model& before, const Question& question, std::size_t steps, PartFacts& out) {
  constexpr std::size_t kMostLooks = 100;
  const Looks looks = looks_of(before, question.asked.assumed);
  const auto knows_all = [](const std::vector<bool>& loose) {
    return std::find(loose.begin(), loose.end(), true) == loose.end();
  };
  if (looks.loose.size() > kMostLooks || std::any_of(looks.loose.begin(), looks.loose.end(), knows_all)) return false;
  const bool asks = !question.asked.assumed.empty();
  bool runaway = true, undoes_a_press = false;
  std::vector<Model> looked;
  for (const std::vector<bool>& loose : looks.loose) {
    Model& model = looked.emplace_back(before);
    model.loosen(loose);
    const Reach reach(model, std::min(steps, 4 * steps / looks.loose.size()), asks ? &question : nullptr);
    if (!reach.whole()) return false;
    runaway = runaway && reach.runaway();
    undoes_a_press = undoes_a_press || asks || reach.undoes_a_press();
  }
  part.take_notes_of(looked, looks.of_rule);
  out.runaway = runaway;
  out.undoes_a_press = undoes_a_press;
  return true;
}

void explore_part(Model& part, const std::vector<Term>& assumed, std::size_t steps, Explored& all) {
  PartFacts& out = all.parts.emplace_back(part.left_out(), PartFacts{}).second;
  Limits limits;
  limits.steps = steps;
  const Question question{{assumed}};
  std::optional<Model> before;
  if (part.region_count() > 1) before.emplace(part);
  const Space space(part, question.asked, limits);
  if (space.whole()) {
    out.runaway = space.runaway();
    out.undoes_a_press = space.undoes_a_press();
    return;
  }
  all.one_by_one = false;
  const Reach reach(part, steps, assumed.empty() ? nullptr : &question);
  if (!reach.whole() && before && explore_loosely(part, *before, question, steps, out)) return void(all.roughly = true);
  out.whole = reach.whole();
  all.roughly = all.roughly || reach.roughly();
  out.runaway = reach.runaway();
  out.undoes_a_press = !reach.whole() || !assumed.empty() || reach.undoes_a_press();
}

}  // namespace

std::vector<Apart> parts_of(const Model& model, const std::vector<Term>& assumed) {
  std::vector<Apart> out;
  for (std::uint16_t r = 0; r < model.machine().regions().size(); ++r) {
    const bool has_one = std::any_of(out.begin(), out.end(), [&](const Apart& each) { return !each.regions[r]; });
    if (!has_one) out.push_back(model.apart_from(assumed, r, false));
  }
  const auto has_all = [](const Apart& each) {
    return std::find(each.regions.begin(), each.regions.end(), true) == each.regions.end();
  };
  if (std::any_of(out.begin(), out.end(), has_all)) out.clear();
  // One that lies in another needs no look of its own. No two are the same.
  const std::vector<Apart> all = out;
  std::erase_if(out, [&](const Apart& part) {
    return std::any_of(all.begin(), all.end(), [&](const Apart& other) {
      return other.regions != part.regions &&
             std::equal(other.regions.begin(), other.regions.end(), part.regions.begin(),
                        [](bool without, bool also) { return !without || also; });
    });
  });
  return out;
}

PartFacts Explored::of(std::uint16_t region) const {
  PartFacts out;
  for (const auto& [apart, looked] : parts)
    if (!apart.regions[region]) out.add(looked);
  return out;
}

PartFacts Explored::of(const Apart& apart) const {
  PartFacts out;
  for (std::uint16_t r = 0; r < apart.regions.size(); ++r)
    if (!apart.regions[r]) out.add(of(r));
  return out;
}

Explored explore(Model& model, const std::vector<Term>& assumed, std::size_t steps) {
  Explored out;
  for (const Term& term : assumed) model.cut(term);
  const std::vector<Apart> parts = parts_of(model, assumed);
  if (parts.empty()) {
    explore_part(model, assumed, steps, out);
    return out;
  }
  steps = std::min(steps, 2 * steps / parts.size());
  for (const Apart& apart : parts) {
    Model part = model;
    part.leave_out(apart);
    explore_part(part, assumed, steps, out);
    model.take_notes_of(part);
  }
  return out;
}

}  // namespace mobrin::proof
