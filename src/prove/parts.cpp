#include "parts.hpp"

#include <algorithm>

#include "reach.hpp"
#include "space.hpp"

namespace mobrin::proof {

namespace {

void explore_part(Model& part, const std::vector<Term>& assumed, std::size_t steps, Explored& out) {
  Limits limits;
  limits.steps = steps;
  const Question question{{assumed}};
  const Space space(part, question.asked, limits);
  if (space.whole()) {
    out.runaway = out.runaway || space.runaway();
    out.undoes_a_press = out.undoes_a_press || space.undoes_a_press();
    return;
  }
  out.one_by_one = false;
  const Reach reach(part, steps, assumed.empty() ? nullptr : &question);
  out.whole = out.whole && reach.whole();
  out.roughly = out.roughly || reach.roughly();
  out.runaway = out.runaway || reach.runaway();
  out.undoes_a_press = out.undoes_a_press || !reach.whole() || !assumed.empty() || reach.undoes_a_press();
}

// What is left out of each part: each region is in one of them, with what it hangs on. None where the machine is one.
std::vector<Apart> parts_of(const Model& model, const std::vector<Term>& assumed) {
  std::vector<Apart> out;
  for (std::uint16_t r = 0; r < model.machine().regions().size(); ++r) {
    const bool has_one = std::any_of(out.begin(), out.end(), [&](const Apart& each) { return !each.regions[r]; });
    if (!has_one) out.push_back(model.apart_from(assumed, r));
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

}  // namespace

Explored explore(Model& model, const std::vector<Term>& assumed, std::size_t steps) {
  Explored out;
  for (const Term& term : assumed) model.cut(term);
  const std::vector<Apart> parts = parts_of(model, assumed);
  if (parts.empty()) {
    explore_part(model, assumed, steps, out);
    return out;
  }
  out.in_parts = true;
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
