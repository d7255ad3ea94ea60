// What the game may choose to write while it brings something about.
#include <algorithm>

#include "can.hpp"
#include "model_parts.hpp"
#include "search.hpp"

namespace mobrin::proof {

// Of the inputs those that make a difference while these states are active, and to what is asked.
std::vector<bool> Can::inputs_read(const Flags& active) const {
  std::vector<bool> out(model_.machine().inputs().size(), false);
  for (std::uint16_t s = 0; s < model_.states().size(); ++s) {
    if (active[s] == 0) continue;
    const StateFacts& state = model_.states()[s];
    if (state.speed) note_inputs(*state.speed, out);
    if (state.chosen_by != kNoIndex) out[state.chosen_by] = true;
    for (const Term& axis : state.axes)
      if (tells_[s]) note_inputs(axis, out);
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) note_inputs(*actions, out);
    for (const std::uint32_t index : state.rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.def == nullptr) continue;
      if (rule.when) note_inputs(*rule.when, out);
      note_inputs(rule.actions, out);
    }
  }
  for (const auto* list : {&asked_.assumed, &asked_.before, &asked_.after})
    for (const Term& term : *list) note_inputs(term, out);
  return out;
}

// The parts of an input that make a difference.
std::vector<Span> Can::parts_to_write(std::size_t i) const {
  std::vector<Span> cells = (acted_on_[i] || picks_clips_[i] ? cells_to_write_ : model_.cells())[i];
  if (picks_clips_[i])
    for (Span& cell : cells) cell.high = cell.low;
  // Nothing tells the points of a part from the rest of it.
  for (const Span part : blend_points_[i].empty() ? std::vector<Span>() : std::vector<Span>(cells)) {
    std::vector<Span> points;
    for (const double point : blend_points_[i])
      if (point >= part.low && point <= part.high) points.push_back({point, point});
    if (points.empty()) continue;
    std::erase(cells, part);
    cells.insert(cells.begin(), points.begin(), points.end());
  }
  // What nothing compares with a constant may be computed with: its ends. A speed is one of those that are alike.
  if (cells.size() == 1 && !cells[0].point())
    cells = {{cells[0].low, cells[0].low}, {cells[0].high, cells[0].high}};
  else if (!cells.empty() && sets_a_speed_[i]) {
    const std::vector<Span> parts = cells;
    for (const Span& part : parts) {
      const double middle = part.low + (part.high - part.low) / 2;
      if (!part.point()) cells.push_back({middle, middle});
    }
    if (!parts.back().point()) cells.push_back({parts.back().high, parts.back().high});
  } else if (!cells.empty() && related_[i]) {
    const Span first = cells.front(), last = cells.back();
    if (!first.point()) cells.push_back({first.low, first.low});
    if (!last.point()) cells.push_back({last.high, last.high});
  }
  std::erase_if(cells, [&](const Span& cell) { return !to_write(model_.machine().inputs()[i], cell); });
  if (cells.size() < 2 && !picks_clips_[i]) cells.clear();
  return cells;
}

// With the inputs as they start, but for one of them.
std::vector<std::vector<Span>> Can::few_choices() const {
  const auto inputs = model_.machine().inputs();
  std::vector<std::vector<Span>> parts(inputs.size());
  std::vector<Span> begin = model_.any_inputs();
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    if (!read_anywhere_[i]) continue;
    parts[i] = parts_to_write(i);
    const double start = start_of(inputs[i]);
    const auto found = std::find_if(parts[i].begin(), parts[i].end(),
                                    [&](const Span& part) { return part.low <= start && start <= part.high; });
    if (found != parts[i].end())
      begin[i] = *found;
    else if (!parts[i].empty())
      begin[i] = parts[i].front();
  }
  std::vector<std::vector<Span>> out = {begin};
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (const Span& part : parts[i]) {
      if (part == begin[i]) continue;
      out.push_back(begin);
      out.back()[i] = part;
    }
  return out;
}

// Each combination of parts, as far as they are few. First of what is read where it is; of `all` then also of what is
// read anywhere.
std::vector<std::vector<Span>> Can::choices(std::uint32_t node, Breadth breadth) const {
  constexpr std::size_t kMost = 512;
  if (breadth == Breadth::few) return few_;
  const std::vector<bool> near = inputs_read(model_.active(config(node)));
  std::vector<std::vector<Span>> out = {model_.any_inputs()};
  const auto tell_apart = [&](std::size_t i) {
    const std::vector<Span> parts = parts_to_write(i);
    if (parts.empty() || out.size() * parts.size() > kMost) return;
    std::vector<std::vector<Span>> more;
    for (const auto& each : out)
      for (const Span& part : parts) {
        more.push_back(each);
        more.back()[i] = part;
      }
    out = std::move(more);
  };
  for (std::size_t i = 0; i < near.size(); ++i)
    if (near[i]) tell_apart(i);
  for (std::size_t i = 0; i < near.size() && breadth == Breadth::all; ++i)
    if (!near[i] && read_anywhere_[i]) tell_apart(i);
  return out;
}

}  // namespace mobrin::proof
