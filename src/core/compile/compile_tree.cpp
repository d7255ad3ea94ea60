// The tree of states and regions: numbering, what can stand together, traits, variables.
#include <cmath>

#include "compile/compile.hpp"
#include "expression/look_alike.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

class TreeStage {
 public:
  TreeStage(Work& work, const NameTable& inputs) : work_(work), m_(work.data), tree_(work.def.root), inputs_(inputs) {}

  StateTree run() {
    if (work_.def.root.states.empty() && work_.def.root.regions.empty())
      work_.report(FindingCode::missing_key, work_.def.name.place,
                   "the machine \"" + work_.def.name.text + "\" has no states", "List them under `states:`.",
                   work_.def.name.text);
    else
      flatten_state(work_.def.root, 0, 0, 0, 0);
    if (!work_.within("states", m_.states.size(), kMaxStates, work_.def.name.place) ||
        !work_.within("regions", m_.regions.size(), kMaxRegions, work_.def.name.place))
      m_.states.clear();
    return std::move(tree_);
  }

 private:
  void flatten_state(const StateDef& source, std::int32_t node, std::uint16_t depth, std::uint16_t parent,
                     std::uint16_t region) {
    const auto index = static_cast<std::uint16_t>(m_.states.size());
    tree_.number(node, index);
    StateData& state = m_.states.emplace_back();
    StateInfo& info = m_.state_infos.emplace_back();
    state.depth = depth;
    state.parent = parent;
    state.region = region;
    info.parent = parent;
    state.final = source.final;
    state.sealed = source.sealed || source.final;
    info.final = source.final;
    info.sealed = state.sealed;
    info.place = source.place;
    declare_traits(source, index);
    declare_vars(source, node, index);
    if (depth >= kMaxDepth) {
      work_.report(FindingCode::too_large, source.place, "states nest more than " + std::to_string(kMaxDepth) + " deep",
                   "Flatten them.");
      return;
    }
    // From here on `state` and `info` may move.
    check_kind(source);
    m_.states[index].linger = source.linger.count << kSubBits;
    if (!source.states.empty())
      flatten_inner(source, node, index, depth);
    else if (!source.regions.empty())
      flatten_regions(source, node, index, depth);
    if (source.states.empty() && !source.initial.empty())
      work_.report(FindingCode::conflicting_keys, source.initial.place,
                   "`initial: " + source.initial.text + "` names a state inside, and there is none",
                   source.regions.empty() ? "Remove it, or list what is inside under `states:`."
                                          : "Each of the regions says its own.",
                   source.initial.text);
    m_.states[index].last = static_cast<std::uint16_t>(m_.states.size() - 1);
    m_.state_infos[index].has_children = m_.states[index].last != index;
  }

  // What cannot stand together in a state.
  void check_kind(const StateDef& source) {
    const bool children = !source.states.empty();
    if (children && !source.regions.empty()) {
      const bool root = &source == &work_.def.root;
      work_.report(
          FindingCode::conflicting_keys, root ? source.regions.front().name.place : source.place,
          (root ? "the machine" : "\"" + source.name.text + "\"") + std::string(" has both `states:` and `regions:`"),
          "Put the states into a region.", source.name.text);
    }
    if (&source == &work_.def.root) return;  // see check_values()
    if (source.final && (children || !source.regions.empty() || !source.go.empty()))
      work_.report(
          FindingCode::conflicting_keys, source.place,
          "the final state \"" + source.name.text + "\" has " + (source.go.empty() ? "states inside" : "transitions"),
          "A final state is an end: it has neither `go:` nor states inside.", source.name.text);
    if (!source.final && source.linger.count != 0)
      work_.report(FindingCode::conflicting_keys, source.place, "\"" + source.name.text + "\" lingers but is not final",
                   "Add `final: true`, or use `after:` in its `go:`.", source.name.text);
    if (source.linger.count < 0 || source.linger.count > kMaxDurationTicks)
      work_.report(FindingCode::bad_value, source.place, "\"" + source.name.text + "\" has an impossible linger",
                   "It lasts 0 to 10 hours.", source.name.text);
  }

  void declare_traits(const StateDef& source, std::uint16_t index) {
    for (const Text& trait : source.traits) {
      const auto number = traits_.try_emplace(trait.text, static_cast<std::uint16_t>(traits_.size())).first->second;
      if (!is_name(trait.text)) {
        work_.report(FindingCode::bad_name, trait.place, "\"" + trait.text + "\" cannot be the name of a trait",
                     detail::name_remedy(trait.text), trait.text);
      } else if (number > kMaxTraits) {  // told
      } else if (number == kMaxTraits) {
        work_.report(FindingCode::too_large, trait.place, "more than 64 traits", "At most 64 are supported.");
      } else {
        m_.states[index].traits |= std::uint64_t{1} << number;
        if (number == m_.trait_names.size()) m_.trait_names.push_back(trait.text);
        m_.state_infos[index].traits.push_back(trait.text);
      }
    }
  }

  void declare_vars(const StateDef& source, std::int32_t node, std::uint16_t index) {
    StateData& state = m_.states[index];
    state.vars.begin = static_cast<std::uint32_t>(m_.vars.size());
    std::set<std::string, std::less<>> taken;
    for (const VarDef& var : source.vars) {
      if (!work_.declare("variable", var.name, taken)) continue;
      if (inputs_.count(var.name.text) > 0) {
        work_.report(FindingCode::duplicate_name, var.name.place,
                     "\"" + var.name.text + "\" is the name of an input already", "Give the variable another name.",
                     var.name.text);
        continue;
      }
      VarData out;
      out.type = static_cast<ValueType>(var.start.index() + 1);
      std::visit([&](auto value) { out.start = static_cast<double>(value); }, var.start);
      if (!(std::abs(out.start) <= 3.4e38))
        work_.report(FindingCode::bad_value, var.name.place,
                     "the variable \"" + var.name.text + "\" starts at no finite number",
                     "Numbers are held in 32 bits.", var.name.text);
      tree_.node(node).vars.push_back(static_cast<std::uint32_t>(m_.vars.size()));
      m_.vars.push_back(out);
      m_.var_names.push_back(var.name.text);
      ++state.vars.count;
    }
  }

  // The states within one, which lie in the same region.
  void flatten_inner(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth) {
    if (index == 0) {
      m_.states[0].region_begin = add_region(0);
      m_.states[0].region_count = 1;
    }
    flatten_children(source.states, node, static_cast<std::uint16_t>(depth + 1));
    const auto initial = [&]() -> std::optional<std::uint16_t> {
      if (source.initial.empty()) {
        if (source.states.size() == 1) return static_cast<std::uint16_t>(index + 1);
        const std::string where = index == 0 ? "the machine" : "\"" + source.name.text + "\"";
        work_.report(FindingCode::missing_key, index == 0 ? work_.def.name.place : source.place,
                     where + " has several states but does not say which is first",
                     "Add `initial:` with the name of one.", index == 0 ? work_.def.name.text : source.name.text);
        return std::nullopt;
      }
      std::vector<std::string> known;
      for (const std::int32_t child : tree_.node(node).children) {
        const StateTree::Node& each = tree_.node(child);
        if (each.name == source.initial.text) return each.index;
        known.push_back(each.name);
      }
      work_.unknown("state", source.initial, known, "`initial:` names one of the states beside it.");
      return std::nullopt;
    }();
    if (initial) (index == 0 ? m_.regions[m_.states[0].region_begin].initial : m_.states[index].initial) = *initial;
  }

  void flatten_regions(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth) {
    std::set<std::string, std::less<>> names;
    const std::size_t first = m_.regions.size();
    for (std::size_t r = 0; r < source.regions.size(); ++r) add_region(index);
    m_.states[index].region_begin = static_cast<std::uint16_t>(first);
    m_.states[index].region_count = static_cast<std::uint16_t>(source.regions.size());
    for (std::size_t r = 0; r < source.regions.size(); ++r) {
      work_.declare("region", source.regions[r].name, names);
      flatten_region(source.regions[r], node, static_cast<std::uint16_t>(first + r), depth);
    }
  }

  void flatten_region(const RegionDef& inner, std::int32_t node, std::uint16_t region, std::uint16_t depth) {
    const std::int32_t at = tree_.add(node, inner.name.text, nullptr);
    tree_.node(at).index = region;
    m_.region_infos[region].path = tree_.path_of(at);
    const std::size_t before = m_.states.size();
    flatten_children(inner.states, at, static_cast<std::uint16_t>(depth + 1));
    if (m_.states.size() == before) {
      work_.report(FindingCode::missing_key, inner.name.place, "the region \"" + inner.name.text + "\" has no states",
                   "List them under `states:`.", inner.name.text);
      return;
    }
    std::optional<std::uint16_t> initial;
    std::vector<std::string> known;
    for (const std::int32_t each : tree_.node(at).children) {
      known.push_back(tree_.node(each).name);
      if (known.back() == inner.initial.text || (inner.initial.empty() && inner.states.size() == 1))
        initial = tree_.node(each).index;
    }
    if (initial)
      m_.regions[region].initial = *initial;
    else if (inner.initial.empty())
      work_.report(FindingCode::missing_key, inner.name.place,
                   "the region \"" + inner.name.text + "\" has several states but does not say which is first",
                   "Add `initial:` with the name of one.", inner.name.text);
    else
      work_.unknown("state", inner.initial, known, "`initial:` names one of the region's states.");
  }

  void flatten_children(const std::vector<StateDef>& states, std::int32_t node, std::uint16_t depth) {
    std::set<std::string, std::less<>> taken;
    const StateTree::Node& parent = tree_.node(node);
    const auto parent_state = parent.is_region ? m_.regions[parent.index].owner : parent.index;
    const auto region = parent.is_region    ? parent.index
                        : parent_state == 0 ? m_.states[0].region_begin
                                            : m_.states[parent_state].region;
    for (const StateDef& source : states) {
      if (m_.states.size() > kMaxStates) return;
      work_.declare("state", source.name, taken);
      if (source.name.text == "back" || source.name.text == "last")
        work_.report(
            FindingCode::bad_name, source.name.place, "\"" + source.name.text + "\" cannot be the name of a state",
            "`to: " + std::string(source.name.text == "back" ? "back" : "x/last") + "` has a meaning of its own.",
            source.name.text);
      const std::size_t index = m_.states.size();
      const std::int32_t at = tree_.add(node, source.name.text, &source);
      std::string path = tree_.path_of(at);
      flatten_state(source, at, depth, parent_state, region);
      m_.state_infos[index].path = std::move(path);
    }
  }

  std::uint16_t add_region(std::uint16_t owner) {
    const auto index = static_cast<std::uint16_t>(m_.regions.size());
    m_.regions.push_back({});
    m_.regions.back().owner = owner;
    m_.region_infos.push_back({"", owner, 0});
    return index;
  }

  Work& work_;
  MachineData& m_;
  StateTree tree_;
  const NameTable& inputs_;
  NameTable traits_;
};

}  // namespace

StateTree make_tree(Work& work, const NameTable& inputs) { return TreeStage(work, inputs).run(); }

}  // namespace mobrin::detail
