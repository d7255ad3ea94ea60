// Where every changing value lies in an instance's block.
#include <algorithm>
#include <charconv>
#include <map>

#include "compile/compile.hpp"

namespace mobrin::detail {
namespace {

// Hands out places in the block. Asked for values of four bytes first, then smaller ones, then those of eight, it
// leaves no byte unused but before the last ones, and what is read on every write lies beside the header's flags.
class Layout {
 public:
  std::uint32_t take(std::size_t size) {
    // The header's last bytes are free.
    for (auto& [at, bytes] : holes_) {
      if (bytes < size || at % size != 0) continue;
      const std::size_t given = at;
      at += size;
      bytes -= size;
      return static_cast<std::uint32_t>(given);
    }
    const std::size_t given = (end_ + size - 1) / size * size;
    end_ = given + size;
    return static_cast<std::uint32_t>(given);
  }
  [[nodiscard]] std::size_t size() const { return (end_ + 7) / 8 * 8; }

 private:
  std::pair<std::size_t, std::size_t> holes_[2] = {{offsetof(BlockHeader, given_away), 1},
                                                   {offsetof(BlockHeader, given_away) + 1, 4}};
  std::size_t end_ = sizeof(BlockHeader);
};

// A plain number: what follows nothing. `inf` is none; an input may have that name.
bool is_number(const std::string& text) {
  double value = 0;
  const char *const begin = text.data(), *const end = begin + text.size();
  const auto [stop, error] = std::from_chars(begin, end, value);
  return error == std::errc() && stop == end && text.find_first_not_of("0123456789.eE+-") == std::string::npos;
}

class BlockStage {
 public:
  BlockStage(MachineData& tables, const StateTree& tree) : m_(tables), tree_(tree) {}

  // Gives every changing value its place in the block.
  void run() {
    Layout layout;
    std::vector<Needs> needs;
    for (std::uint16_t r = 0; r < m_.regions.size(); ++r) needs.push_back(needs_of(r));
    // The values of a region and its layers, by their size.
    const auto slots = [&](std::size_t size, const auto& place) {
      for (std::size_t r = 0; r < m_.regions.size(); ++r) {
        place(m_.regions[r].slot, needs[r], size);
        if (needs[r].fades)
          for (LayerData& layer : m_.regions[r].layers) place(layer.slot, needs[r], size);
      }
    };
    const auto place_slot = [&](SlotData& slot, const Needs& need, std::size_t size) {
      if (size == 8 && need.moves) slot.playhead = layout.take(8);
      if (size == 4 && need.speed) slot.speed = layout.take(4);
      if (size == 2 && need.passes) slot.passes = layout.take(2);
      if (size == 1 && need.choice) slot.choice = layout.take(1);
    };

    const auto wide = [](ValueType type) { return type == ValueType::whole || type == ValueType::number; };
    for (InputData& input : m_.inputs)
      if (input.kind == InputKind::whole || input.kind == InputKind::number) input.offset = layout.take(4);
    for (VarData& var : m_.vars)
      if (wide(var.type)) var.offset = layout.take(4);
    slots(4, place_slot);
    for (std::size_t r = 0; r < m_.regions.size(); ++r)
      if (needs[r].fades)
        for (LayerData& layer : m_.regions[r].layers) layer.weight = layout.take(4);
    lay_out_memories(layout);
    slots(2, place_slot);
    for (std::size_t r = 0; r < m_.regions.size(); ++r) {
      m_.regions[r].leaf = layout.take(2);
      if (needs[r].fades)
        for (LayerData& layer : m_.regions[r].layers) layer.state = layout.take(2);
    }
    slots(1, place_slot);
    for (std::size_t r = 0; r < m_.regions.size(); ++r)
      if (needs[r].fades)
        for (LayerData& layer : m_.regions[r].layers) layer.loud = layout.take(1);
    for (std::size_t i = 0; i < m_.inputs.size(); ++i) {
      InputData& input = m_.inputs[i];
      const bool brief = input.kind == InputKind::pulse && input.buffer == 0;
      if (brief) m_.brief_pulses.push_back(static_cast<std::uint16_t>(i));
      if (input.kind == InputKind::boolean || input.kind == InputKind::choice || brief) input.offset = layout.take(1);
    }
    for (VarData& var : m_.vars)
      if (!wide(var.type)) var.offset = layout.take(1);
    for (InputData& input : m_.inputs)
      if (input.kind == InputKind::pulse && input.buffer > 0) input.offset = layout.take(8);
    slots(8, place_slot);
    for (std::size_t r = 0; r < m_.regions.size(); ++r) {
      if (!needs[r].fades) continue;
      m_.regions[r].fade_length = layout.take(8);
      m_.regions[r].fade_run = layout.take(8);
    }
    lay_out_timers(layout);
    m_.block_size = layout.size();
    name_values(m_);
  }

 private:
  struct Needs {
    bool moves = false, speed = false, passes = false, choice = false, fades = false;
  };

  // What the plays of a region need to store.
  Needs needs_of(std::uint16_t region) const {
    Needs needs;
    for (std::size_t s = 1; s < m_.states.size(); ++s) {
      const StateData& state = m_.states[s];
      if (state.region != region) continue;
      const StateDef& source = tree_.source_of(s);
      needs.choice = needs.choice || state.play.chooses();
      if (!state.play.moves()) continue;
      needs.moves = true;
      const bool computed = state.play.blend != kNoIndex || (!source.speed.empty() && !is_number(source.speed.text));
      needs.speed = needs.speed || computed;
      for (std::uint32_t i = 0; i < state.play.clips.count; ++i)
        needs.passes = needs.passes || computed || m_.clips[m_.played[state.play.clips.begin + i].clip].passes > 0;
    }
    for (std::size_t s = 0; s < m_.states.size(); ++s)
      for (const GoDef& go : tree_.source_of(s).go)
        if (go.fade.count > 0 && changes(static_cast<std::uint16_t>(s), region)) needs.fades = true;
    return needs;
  }

  // Whether a transition of `owner` may change what is active in `region`.
  bool changes(std::uint16_t owner, std::uint16_t region) const {
    for (std::uint16_t s = owner; s != 0; s = m_.states[s].parent)
      if (m_.states[s].region == region) return true;
    for (std::uint16_t s = m_.regions[region].owner;; s = m_.states[s].parent) {
      if (s == owner) return true;
      if (s == 0) return false;
    }
  }

  // What `to: back` and `to: x/last` need to remember.
  void lay_out_memories(Layout& layout) {
    for (std::size_t s = 1; s < m_.states.size(); ++s) {
      StateData& state = m_.states[s];
      for (const GoDef& go : tree_.source_of(s).go) {
        if (go.to.text == "back") {
          RegionData& region = m_.regions[state.region];
          if (region.rest == kNoOffset) region.rest = layout.take(2);
          if (state.last != s && state.back == kNoOffset) state.back = layout.take(2);
        }
        if (go.to.text == "back" || go.at == GoAt::end) state.restful = false;
      }
    }
    for (std::size_t s = 0; s < m_.states.size(); ++s) {
      for (const GoDef& go : tree_.source_of(s).go) {
        if (!go.to.text.ends_with("/last")) continue;
        const auto target = tree_.find_state(go.to.text.substr(0, go.to.text.size() - 5), tree_.node_of(s));
        if (target && m_.states[*target].last_child == kNoOffset) m_.states[*target].last_child = layout.take(2);
      }
    }
  }

  void lay_out_timers(Layout& layout) {
    // States of one region and depth are never active together, so they share a timer.
    std::map<std::pair<std::uint16_t, std::uint16_t>, std::uint32_t> timers;
    for (std::size_t s = 0; s < m_.states.size(); ++s) {
      StateData& state = m_.states[s];
      const StateDef& source = tree_.source_of(s);
      const bool timed =
          (state.final && state.linger > 0) ||
          std::any_of(source.go.begin(), source.go.end(), [](const GoDef& go) { return go.after.has_value(); });
      if (!timed) continue;
      const std::pair key(s == 0 ? kNoIndex : state.region, state.depth);
      const auto [entry, fresh] = timers.try_emplace(key, 0);
      if (fresh) entry->second = layout.take(8);
      state.timer = entry->second;
    }
  }

  MachineData& m_;
  const StateTree& tree_;
};

}  // namespace

void lay_out_block(MachineData& machine, const StateTree& tree) { BlockStage(machine, tree).run(); }

}  // namespace mobrin::detail
