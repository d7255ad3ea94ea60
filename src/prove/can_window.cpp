// What a game brings about through a window: it waits in what it has just entered until the window is open, and
// presses.
#include <algorithm>
#include <set>

#include "can.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

// From when a window is waited for until it is surely open still: twice what a clip goes on within a tick at most, 64
// times 64 ticks.
constexpr std::int64_t kAWhile = 2 * 64 * 64;

struct Stay {
  std::int64_t begin = 0, end = 0;  // ticks of the clip
};

bool holds_all(const std::vector<Stay>& stretches, Stay of) {
  return std::any_of(stretches.begin(), stretches.end(),
                     [&](const Stay& each) { return each.begin <= of.begin && of.end <= each.end; });
}
// Whether the game says when it is taken, by a press or by what it writes.
bool is_for_the_game(const Rule& rule) { return rule.event == Event::pulse || rule.event == Event::none; }
bool begin_after(const std::vector<Stay>& stretches, std::int64_t time) {
  return std::all_of(stretches.begin(), stretches.end(), [&](const Stay& each) { return each.begin > time; });
}

}  // namespace

// The stretches of a rule's window on what a leaf plays; nothing where that is no clip by itself, nor a length.
class Openings {
 public:
  Openings(const Model& model, std::uint16_t leaf) : model_(model), leaf_(leaf), def_(*model.definition_of(leaf)) {
    if (!def_.clip.empty() && !def_.pose)
      clip_ = &model.machine().clips()[model.machine().states()[leaf].clips.front()];
    cycle_ = clip_ != nullptr ? clip_->cycle.count : def_.length.value_or(Ticks()).count;
  }

  [[nodiscard]] std::int64_t cycle() const { return cycle_; }
  [[nodiscard]] std::vector<Stay> of(const Rule& rule) const {
    std::vector<Stay> out;
    const auto add = [&](const StretchDef& each) {
      if (each.timed)
        out.push_back({each.begin.count, each.end.count});
      else if (clip_ != nullptr && static_cast<std::size_t>(each.last) + 1 < clip_->borders.size())
        out.push_back({clip_->borders[static_cast<std::size_t>(each.first)].count,
                       clip_->borders[static_cast<std::size_t>(each.last) + 1].count});
    };
    if (rule.def->during_stretch) add(*rule.def->during_stretch);
    if (clip_ != nullptr)
      for (const WindowDef& window : clip_->marks.windows)
        if (window.name.text == rule.def->during.text)
          for (const StretchDef& each : window.stretches) add(each);
    return out;
  }
  // Whether a rule speaks of what the leaf plays, wherever it stands.
  [[nodiscard]] bool speaks_of_it(const Rule& rule) const {
    if (rule.def == nullptr || !model_.within(leaf_, rule.owner)) return false;
    for (std::uint16_t up = leaf_;; up = model_.states()[up].parent) {
      if (model_.states()[up].regions.size() > (up == 0 ? 1U : 0U)) return false;
      if (up == rule.owner) return true;
    }
  }
  // What is so of rules while it is waited until a window opens, and when it has just done so.
  struct Known {
    Truths waiting, open;
  };
  [[nodiscard]] Known known_at(Stay at, Ticks by) const {
    Known out;
    out.waiting.assign(model_.rules().size(), Truth::maybe);
    for (const Rule& rule : model_.rules()) {
      const bool over = rule.event == Event::end || rule.event == Event::loop;
      const bool late = rule.event == Event::after && rule.owner == leaf_ && *rule.def->after > by;
      if (speaks_of_it(rule) && (over || late)) out.waiting[rule.index] = Truth::no;
    }
    out.open = out.waiting;
    for (const Rule& rule : model_.rules()) {
      if (!rule.in_a_window() || !speaks_of_it(rule) || out.waiting[rule.index] == Truth::no) continue;
      const std::vector<Stay> stretches = of(rule);
      if (begin_after(stretches, at.end)) out.waiting[rule.index] = out.open[rule.index] = Truth::no;
      if (holds_all(stretches, at)) out.open[rule.index] = Truth::yes;
    }
    return out;
  }

 private:
  const Model& model_;
  const std::uint16_t leaf_;
  const StateDef& def_;
  const ClipInfo* clip_ = nullptr;
  std::int64_t cycle_ = 0;
};

// Whether one of the regions has just begun what leads to something good through a window. REQUIRES: no press is
// pending.
bool Can::opens_later(const Configurations::Outcome& end, const std::vector<bool>& good) {
  const Indices& leaves = config(end.node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if ((end.begun >> r & 1) == 0 || leaves[r] == kNoIndex || !has_windows_[leaves[r]]) continue;
    const std::pair place(end.node, r);
    const auto good_count = static_cast<std::size_t>(std::count(good.begin(), good.end(), true));
    const auto known = opens_.find(place);
    if (known != opens_.end() && (known->second.opens || known->second.good_count == good_count)) {
      if (known->second.opens) return true;
      continue;
    }
    opens_[place] = {false, good_count};  // also where it is come to again from here
    ++depth_;
    const bool opens = opens_well(end.node, r, good);
    --depth_;
    if (opens)
      opens_[place].opens = true;
    else if (depth_ > 0)
      opens_.erase(place);  // it may have hung on one that is looked at just now
    if (opens) return true;
  }
  return false;
}

void Can::find_windows() {
  has_windows_.assign(model_.states().size(), false);
  for (const Rule& rule : model_.rules())
    for (std::uint16_t s = 1; s < has_windows_.size() && rule.in_a_window() && is_for_the_game(rule); ++s)
      has_windows_[s] = has_windows_[s] || model_.within(s, rule.owner);
}

bool Can::opens_well(std::uint32_t node, std::uint16_t region, const std::vector<bool>& good) {
  const std::uint16_t leaf = config(node).leaves[region];
  const Openings openings(model_, leaf);
  if (openings.cycle() == 0) return false;
  for (const Rule& rule : model_.rules()) {
    if (!rule.in_a_window() || !is_for_the_game(rule) || !openings.speaks_of_it(rule)) continue;
    const std::vector<std::vector<Span>> values = choices(node, false);
    for (const Stay& each : openings.of(rule)) {
      const Stay at{each.begin, each.begin + kAWhile};
      if (at.end > each.end || at.end > openings.cycle()) continue;
      for (const std::vector<Span>& held : values) {
        const auto by = model_.comes_to(leaf, Ticks(at.end), held);
        if (!by || !allowed(node, held, none_)) continue;
        const Openings::Known known = openings.known_at(at, *by);
        const auto there = waits_in(node, region, held, known.waiting, good);
        if (!there) continue;
        if (rule.event == Event::pulse && presses_well(*there, held, rule.pulse, known.open, good)) return true;
        for (const std::vector<Span>& written : values)
          if (rule.event == Event::none && presses_well(*there, written, kNoIndex, known.open, good)) return true;
      }
    }
  }
  return false;
}

// All that it may come to while what a region has just begun goes on and these things are known of rules; nothing where
// that may be left for what is not good.
std::optional<std::vector<std::uint32_t>> Can::waits_in(std::uint32_t node, std::uint16_t region,
                                                        const std::vector<Span>& held, const Truths& known,
                                                        const std::vector<bool>& good) {
  const std::uint16_t leaf = config(node).leaves[region];
  std::vector<std::uint32_t> out;
  std::set<std::uint32_t> seen;
  const auto follow = [&](std::uint32_t from, bool timed) {
    configurations_.suppose(known);
    const auto ends = outcomes(from, held, none_, timed);
    configurations_.suppose({});
    return ends && !ends->empty() && std::all_of(ends->begin(), ends->end(), [&](const Configurations::Outcome& end) {
             const bool left = config(end.node).leaves[region] != leaf || (end.entered >> region & 1) != 0;
             if (left) return all_well({end}, held, none_, good);
             if (seen.insert(end.node).second) out.push_back(end.node);
             return true;
           });
  };
  if (!follow(node, false)) return std::nullopt;
  for (std::size_t i = 0; i < out.size(); ++i)
    if (!allowed(out[i], held, none_) || !follow(out[i], true)) return std::nullopt;
  return out;
}

// From wherever it is then, this press, if it is one, and what is written lead to something good.
bool Can::presses_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held, std::uint16_t pulse,
                       const Truths& known, const std::vector<bool>& good) {
  Truths press = none_, left = none_;
  if (pulse != kNoIndex) {
    press[pulse] = Truth::yes;
    if (std::get<PulseInput>(model_.machine().inputs()[pulse].kind).buffer.count > 0) left[pulse] = Truth::maybe;
  }
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    if (!allowed(node, held, press)) return false;
    configurations_.suppose(known);
    const auto ends = outcomes(node, held, press, false);
    configurations_.suppose({});
    return ends && !ends->empty() && all_well(*ends, held, left, good);
  });
}

}  // namespace mobrin::proof
