// What the game may choose to write while it brings something about.
#include <algorithm>

#include "can.hpp"
#include "model_parts.hpp"
#include "search.hpp"

namespace mobrin::proof {

namespace {

// What nothing compares with a constant may be computed with: its ends. A speed is one of those that are alike.
void add_ends(std::vector<Span>& cells, bool is_a_speed, bool related) {
  if (cells.empty()) return;
  const Span first = cells.front(), last = cells.back();
  if (cells.size() == 1 && !first.point()) {
    cells = {{first.low, first.low}, {first.high, first.high}};
  } else if (is_a_speed) {
    for (const Span& part : std::vector<Span>(cells)) {
      const double middle = part.low + (part.high - part.low) / 2;
      if (!part.point()) cells.push_back({middle, middle});
    }
    if (!last.point()) cells.push_back({last.high, last.high});
  } else if (related) {
    if (!first.point()) cells.push_back({first.low, first.low});
    if (!last.point()) cells.push_back({last.high, last.high});
  }
}

}  // namespace

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

// By input the parts that make a difference; none where all of it is alike.
void Can::find_parts() {
  const auto inputs = model_.machine().inputs();
  std::vector<bool> sets_a_speed(inputs.size(), false), picks_clips = sets_a_speed;
  for (const StateFacts& state : model_.states()) {
    if (state.chosen_by != kNoIndex) picks_clips[state.chosen_by] = true;
    if (state.speed) note_inputs(*state.speed, sets_a_speed);
  }
  const std::vector<bool> acted_on = model_.compared_by_actions(), related = model_.related_inputs();
  const std::vector<std::vector<Span>> to_be_written = model_.cells_to_write();
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    std::vector<Span>& cells = parts_.emplace_back((acted_on[i] || picks_clips[i] ? to_be_written : model_.cells())[i]);
    if (picks_clips[i])
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
    add_ends(cells, sets_a_speed[i], related[i]);
    std::erase_if(cells, [&](const Span& cell) { return !to_write(inputs[i], cell); });
    if (cells.size() < 2 && !picks_clips[i]) cells.clear();
  }
}

// With the inputs as they start, but for one of them.
std::vector<std::vector<Span>> Can::few_choices() const {
  const auto inputs = model_.machine().inputs();
  std::vector<Span> begin = model_.any_inputs();
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    if (!read_anywhere_[i] || parts_[i].empty()) continue;
    const double start = start_of(inputs[i]);
    const auto found = std::find_if(parts_[i].begin(), parts_[i].end(),
                                    [&](const Span& part) { return part.low <= start && start <= part.high; });
    begin[i] = found != parts_[i].end() ? *found : parts_[i].front();
  }
  std::vector<std::vector<Span>> out = {begin};
  for (std::size_t i = 0; i < inputs.size(); ++i)
    for (const Span& part : parts_[i]) {
      if (!read_anywhere_[i] || part == begin[i]) continue;
      out.push_back(begin);
      out.back()[i] = part;
    }
  return out;
}

void Can::find_guide() {
  constexpr std::size_t kSteps = 100'000;
  guide_ = guide_against(model_, {{asked_.assumed, {}, {aim_}}, ClaimKind::never}, kSteps);
}

// With the inputs as they start, but for what is written on a way to where the aim may be so.
std::vector<std::vector<Span>> Can::guided_choices(std::uint32_t node) const {
  std::vector<std::vector<Span>> out;
  const Guide::At* place = guide_ ? guide_->find(config(node).leaves, false) : nullptr;
  if (place == nullptr) return out;
  for (const auto* presses : {&place->presses, &place->beside})
    for (const proof::Press& press : *presses) {
      std::vector<Span> held = few_.front();
      for (const auto& [input, value] : press.values) {
        const double kept = stored(model_.machine().inputs()[input], value);
        held[input] = {kept, kept};
      }
      add_once(out, std::move(held));
    }
  return out;
}

// Each combination of parts, as far as they are few. First of what is read where it is; of `all` then also of what is
// read anywhere.
std::vector<std::vector<Span>> Can::choices(std::uint32_t node, Breadth breadth) const {
  constexpr std::size_t kMost = 512;
  if (breadth == Breadth::few) return few_;
  if (breadth == Breadth::guided) return guided_choices(node);
  const std::vector<bool> near = inputs_read(model_.active(config(node)));
  std::vector<std::vector<Span>> out = {model_.any_inputs()};
  const auto tell_apart = [&](std::size_t i) {
    const std::vector<Span>& parts = parts_[i];
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
