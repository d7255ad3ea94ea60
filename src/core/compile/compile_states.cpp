// Compiling the state tree: numbering, paths, plays, variables, actions.
#include <algorithm>
#include <cmath>

#include "compile/compile.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

class NodeSymbols final : public Symbols {
 public:
  NodeSymbols(const Compilation& work, std::int32_t node) : work_(work), node_(node) {}

  [[nodiscard]] const Symbol* find(std::string_view name) const override {
    const Symbol* found = nullptr;
    each([&](const Symbol& symbol) {
      if (found == nullptr && symbol.name == name) found = &symbol;
    });
    return found;
  }
  [[nodiscard]] std::vector<std::string> names() const override {
    std::vector<std::string> all;
    each([&](const Symbol& symbol) { all.push_back(symbol.name); });
    return all;
  }
  [[nodiscard]] std::optional<std::uint16_t> state(std::string_view path) const override {
    return work_.find_state(path, node_);
  }
  [[nodiscard]] std::vector<std::string> state_names() const override { return work_.all_state_names(); }

 private:
  // The innermost first.
  template <class Visit>
  void each(const Visit& visit) const {
    const MachineData& m = *work_.data;
    const auto inputs = std::span(m.symbols).first(m.inputs.size()),
               vars = std::span(m.symbols).subspan(m.inputs.size());
    for (std::int32_t node = node_; node >= 0; node = work_.nodes[static_cast<std::size_t>(node)].parent)
      for (const std::uint32_t var : work_.vars_of_node[static_cast<std::size_t>(node)]) visit(vars[var]);
    for (const Symbol& input : inputs) visit(input);
  }

  const Compilation& work_;
  std::int32_t node_;
};

}  // namespace

std::uint16_t Compilation::add_region(std::uint16_t owner) {
  const auto index = static_cast<std::uint16_t>(data->regions.size());
  data->regions.push_back({});
  data->regions.back().owner = owner;
  data->region_infos.push_back({"", owner, 0});
  return index;
}

void Compilation::flatten() {
  Node root;
  root.def = &def.root;
  nodes.push_back(root);
  if (def.root.states.empty() && def.root.regions.empty())
    return report(FindingCode::missing_key, def.name.place, "the machine \"" + def.name.text + "\" has no states",
                  "List them under `states:`.", def.name.text);
  flatten_state(def.root, 0, 0, 0, 0);
  if (!within("states", data->states.size(), kMaxStates, def.name.place) ||
      !within("regions", data->regions.size(), kMaxRegions, def.name.place))
    data->states.clear();
}

void Compilation::flatten_state(const StateDef& source, std::int32_t node, std::uint16_t depth, std::uint16_t parent,
                                std::uint16_t region) {
  MachineData& m = *data;
  const auto index = static_cast<std::uint16_t>(m.states.size());
  vars_of_node.resize(nodes.size());
  node_of_state.push_back(node);
  nodes[static_cast<std::size_t>(node)].index = index;
  StateData& state = m.states.emplace_back();
  StateInfo& info = m.state_infos.emplace_back();
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
    report(FindingCode::too_large, source.place, "states nest more than " + std::to_string(kMaxDepth) + " deep",
           "Flatten them.");
    return;
  }
  // From here on `state` and `info` may move.
  check_kind(source);
  m.states[index].linger = source.linger.count << kSubBits;
  if (!source.states.empty())
    flatten_inner(source, node, index, depth);
  else if (!source.regions.empty())
    flatten_regions(source, node, index, depth);
  m.states[index].last = static_cast<std::uint16_t>(m.states.size() - 1);
  m.state_infos[index].has_children = m.states[index].last != index;
}

// What cannot stand together in a state.
void Compilation::check_kind(const StateDef& source) {
  const bool children = !source.states.empty();
  if (children && !source.regions.empty()) {
    report(FindingCode::conflicting_keys, source.place,
           "\"" + source.name.text + "\" has both `states:` and `regions:`", "Put the states into a region.",
           source.name.text);
  }
  if (source.final && (children || !source.regions.empty() || !source.go.empty()))
    report(FindingCode::conflicting_keys, source.place,
           "the final state \"" + source.name.text + "\" has " + (source.go.empty() ? "states inside" : "transitions"),
           "A final state is an end: it has neither `go:` nor states inside.", source.name.text);
  if (!source.final && source.linger.count != 0)
    report(FindingCode::conflicting_keys, source.place, "\"" + source.name.text + "\" lingers but is not final",
           "Add `final: true`, or use `after:` in its `go:`.", source.name.text);
  if (source.linger.count < 0 || source.linger.count > kMaxDurationTicks)
    report(FindingCode::bad_value, source.place, "\"" + source.name.text + "\" has an impossible linger",
           "It lasts 0 to 10 hours.", source.name.text);
}

void Compilation::declare_traits(const StateDef& source, std::uint16_t index) {
  MachineData& m = *data;
  for (const Text& trait : source.traits) {
    const auto number = traits.try_emplace(trait.text, static_cast<std::uint16_t>(traits.size())).first->second;
    if (!is_name(trait.text)) {
      report(FindingCode::bad_name, trait.place, "\"" + trait.text + "\" cannot be the name of a trait",
             "A name is a letter, then letters, digits or underscores.", trait.text);
    } else if (number >= kMaxTraits) {
      report(FindingCode::too_large, trait.place, "more than 64 traits", "At most 64 are supported.");
    } else {
      m.states[index].traits |= std::uint64_t{1} << number;
      if (number == m.trait_names.size()) m.trait_names.push_back(trait.text);
      m.state_infos[index].traits.push_back(trait.text);
    }
  }
}

void Compilation::declare_vars(const StateDef& source, std::int32_t node, std::uint16_t index) {
  MachineData& m = *data;
  StateData& state = m.states[index];
  state.vars.begin = static_cast<std::uint32_t>(m.vars.size());
  std::set<std::string, std::less<>> taken;
  for (const VarDef& var : source.vars) {
    if (!declare("variable", var.name, taken)) continue;
    if (inputs.count(var.name.text) > 0) {
      report(FindingCode::duplicate_name, var.name.place, "\"" + var.name.text + "\" is the name of an input already",
             "Give the variable another name.", var.name.text);
      continue;
    }
    VarData out;
    out.type = static_cast<ValueType>(var.start.index() + 1);
    std::visit([&](auto value) { out.start = static_cast<double>(value); }, var.start);
    if (!(std::abs(out.start) <= 3.4e38))
      report(FindingCode::bad_value, var.name.place,
             "the variable \"" + var.name.text + "\" starts at no finite number", "Numbers are held in 32 bits.",
             var.name.text);
    vars_of_node[static_cast<std::size_t>(node)].push_back(static_cast<std::uint32_t>(m.vars.size()));
    m.vars.push_back(out);
    m.var_names.push_back(var.name.text);
    ++state.vars.count;
  }
}

// The states within one, which lie in the same region.
void Compilation::flatten_inner(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth) {
  MachineData& m = *data;
  if (index == 0) {
    m.states[0].region_begin = add_region(0);
    m.states[0].region_count = 1;
  }
  flatten_children(source.states, node, static_cast<std::uint16_t>(depth + 1));
  const auto initial = [&]() -> std::optional<std::uint16_t> {
    if (source.initial.empty()) {
      if (source.states.size() == 1) return static_cast<std::uint16_t>(index + 1);
      const std::string where = index == 0 ? "the machine" : "\"" + source.name.text + "\"";
      report(FindingCode::missing_key, index == 0 ? def.name.place : source.place,
             where + " has several states but does not say which is first", "Add `initial:` with the name of one.",
             source.name.text);
      return std::nullopt;
    }
    std::vector<std::string> known;
    for (const std::int32_t child : nodes[static_cast<std::size_t>(node)].children) {
      const Node& each = nodes[static_cast<std::size_t>(child)];
      if (each.name == source.initial.text) return each.index;
      known.push_back(each.name);
    }
    unknown("state", source.initial, known, "`initial:` names one of the states beside it.");
    return std::nullopt;
  }();
  if (initial) (index == 0 ? m.regions[m.states[0].region_begin].initial : m.states[index].initial) = *initial;
}

void Compilation::flatten_regions(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth) {
  MachineData& m = *data;
  std::set<std::string, std::less<>> names;
  const std::size_t first = m.regions.size();
  for (std::size_t r = 0; r < source.regions.size(); ++r) add_region(index);
  m.states[index].region_begin = static_cast<std::uint16_t>(first);
  m.states[index].region_count = static_cast<std::uint16_t>(source.regions.size());
  for (std::size_t r = 0; r < source.regions.size(); ++r) {
    declare("region", source.regions[r].name, names);
    flatten_region(source.regions[r], node, static_cast<std::uint16_t>(first + r), depth);
  }
}

void Compilation::flatten_region(const RegionDef& inner, std::int32_t node, std::uint16_t region, std::uint16_t depth) {
  MachineData& m = *data;
  Node child;
  child.name = inner.name.text;
  child.parent = node;
  child.is_region = true;
  child.index = region;
  const auto at = static_cast<std::int32_t>(nodes.size());
  nodes.push_back(child);
  nodes[static_cast<std::size_t>(node)].children.push_back(at);
  child_of.insert_or_assign(std::pair(node, inner.name.text), at);
  m.region_infos[region].path = path_of(at);
  const std::size_t before = m.states.size();
  flatten_children(inner.states, at, static_cast<std::uint16_t>(depth + 1));
  if (m.states.size() == before) {
    report(FindingCode::missing_key, inner.name.place, "the region \"" + inner.name.text + "\" has no states",
           "List them under `states:`.", inner.name.text);
    return;
  }
  std::optional<std::uint16_t> initial;
  std::vector<std::string> known;
  for (const std::int32_t each : nodes[static_cast<std::size_t>(at)].children) {
    known.push_back(nodes[static_cast<std::size_t>(each)].name);
    if (known.back() == inner.initial.text || (inner.initial.empty() && inner.states.size() == 1))
      initial = nodes[static_cast<std::size_t>(each)].index;
  }
  if (initial)
    m.regions[region].initial = *initial;
  else if (inner.initial.empty())
    report(FindingCode::missing_key, inner.name.place,
           "the region \"" + inner.name.text + "\" has several states but does not say which is first",
           "Add `initial:` with the name of one.", inner.name.text);
  else
    unknown("state", inner.initial, known, "`initial:` names one of the region's states.");
}

void Compilation::flatten_children(const std::vector<StateDef>& states, std::int32_t node, std::uint16_t depth) {
  std::set<std::string, std::less<>> taken;
  const Node parent = nodes[static_cast<std::size_t>(node)];
  const auto parent_state = parent.is_region ? data->regions[parent.index].owner : parent.index;
  const auto region = parent.is_region    ? parent.index
                      : parent_state == 0 ? data->states[0].region_begin
                                          : data->states[parent_state].region;
  for (const StateDef& source : states) {
    if (data->states.size() > kMaxStates) return;
    declare("state", source.name, taken);
    if (source.name.text == "back" || source.name.text == "last")
      report(FindingCode::bad_name, source.name.place, "\"" + source.name.text + "\" cannot be the name of a state",
             "`to: " + std::string(source.name.text == "back" ? "back" : "x/last") + "` has a meaning of its own.",
             source.name.text);
    Node child;
    child.name = source.name.text;
    child.parent = node;
    child.def = &source;
    const auto at = static_cast<std::int32_t>(nodes.size());
    const std::size_t index = data->states.size();
    nodes.push_back(child);
    nodes[static_cast<std::size_t>(node)].children.push_back(at);
    child_of.insert_or_assign(std::pair(node, source.name.text), at);
    std::string path = path_of(at);
    flatten_state(source, at, depth, parent_state, region);
    data->state_infos[index].path = std::move(path);
  }
}

std::string Compilation::path_of(std::int32_t node) const {
  std::string path = nodes[static_cast<std::size_t>(node)].name;
  for (std::int32_t up = nodes[static_cast<std::size_t>(node)].parent; up > 0;
       up = nodes[static_cast<std::size_t>(up)].parent)
    path = nodes[static_cast<std::size_t>(up)].name + "/" + path;
  return path;
}

std::optional<std::uint16_t> Compilation::find_state(std::string_view path, std::int32_t node) const {
  for (std::int32_t scope = node; scope >= 0; scope = nodes[static_cast<std::size_t>(scope)].parent) {
    std::int32_t at = scope;
    std::string_view rest = path;
    while (at >= 0 && !rest.empty()) {
      const std::size_t slash = rest.find('/');
      const std::string_view part = rest.substr(0, slash);
      rest = slash == std::string_view::npos ? std::string_view() : rest.substr(slash + 1);
      if (slash != std::string_view::npos && rest.empty()) return std::nullopt;  // "walk/"
      const auto found = child_of.find(std::pair(at, part));
      at = found == child_of.end() ? -1 : found->second;
    }
    if (at >= 0 && at != scope && !nodes[static_cast<std::size_t>(at)].is_region)
      return nodes[static_cast<std::size_t>(at)].index;
  }
  return std::nullopt;
}

const std::vector<std::string>& Compilation::all_state_names() const {
  if (!state_names.empty()) return state_names;
  for (const Node& node : nodes)
    if (!node.is_region && !node.name.empty()) state_names.push_back(node.name);
  for (const StateInfo& state : data->state_infos)
    if (state.path.find('/') != std::string::npos) state_names.push_back(state.path);
  return state_names;
}

std::optional<std::uint16_t> Compilation::single_leaf(std::uint16_t state) const {
  while (data->states[state].initial != kNoIndex) state = data->states[state].initial;
  if (data->states[state].region_count > 0) return std::nullopt;
  return state;
}

void Compilation::compile_states() {
  MachineData& m = *data;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const std::int32_t node = node_of_state[s];
    const StateDef& source = source_of(s);
    m.states[s].enter = compile_actions(source.enter, node);
    m.states[s].exit = compile_actions(source.exit, node);
    m.states[s].each_loop = compile_actions(source.each_loop, node);
    check_each_loop(source, m.states[s].play);
    compile_blend_axes(source, static_cast<std::uint16_t>(s), node);
    if (m.states[s].play.blend != kNoIndex) m.speed_regions.push_back(m.states[s].region);
    if (source.speed.empty() || plays_wrongly(source, m.states[s].play)) continue;
    if (!m.states[s].play.moves()) {
      report(FindingCode::conflicting_keys, source.speed.place,
             "\"" + source.name.text + "\" has a speed but nothing that plays", "Give it a `clip:` or a `length:`.",
             source.name.text);
      continue;
    }
    const CompiledExpr speed = compile_text(source.speed, node);
    if (speed.ref.empty()) continue;
    if (speed.type != ValueType::whole && speed.type != ValueType::number) {
      report(FindingCode::wrong_operand, source.speed.place,
             "the speed \"" + source.speed.text + "\" is " + std::string(text_of(speed.type)),
             "A speed is a number: 1 is the clip's own pace, -1 backwards.", source.speed.text);
    } else if (speed.constant) {
      if (std::abs(*speed.constant) > 64)
        report(FindingCode::bad_value, source.speed.place, "the speed " + source.speed.text + " is out of range",
               "Speeds lie between -64 and 64.", source.name.text);
      m.states[s].play.speed = fixed_speed(*speed.constant);
    } else {
      m.states[s].play.speed_expression = speed.ref;
      if (std::find(m.speed_regions.begin(), m.speed_regions.end(), m.states[s].region) == m.speed_regions.end())
        m.speed_regions.push_back(m.states[s].region);
    }
  }
  std::sort(m.speed_regions.begin(), m.speed_regions.end());
  m.speed_regions.erase(std::unique(m.speed_regions.begin(), m.speed_regions.end()), m.speed_regions.end());
}

// A name that is unknown here may be a variable of a state that is not around.
std::string Compilation::elsewhere(const ExprProblem& problem) const {
  for (std::size_t s = 1; s < data->states.size(); ++s) {
    const Range<VarData> vars = data->states[s].vars;
    for (std::uint32_t i = vars.begin; i < vars.begin + vars.count; ++i)
      if (data->var_names[i] == problem.subject)
        return "It is a variable of \"" + data->state_infos[s].path +
               "\" and exists only inside it; declare it under `vars:` of a state around both.";
  }
  return problem.remedy;
}

CompiledExpr Compilation::compile_text(const Text& source, std::int32_t node) {
  CompiledExpr out = compile_expression(source.text, NodeSymbols(*this, node), data->expressions);
  for (const ExprProblem& problem : out.problems) {
    Place place = source.place;
    if (place.line > 0) place.column += static_cast<std::uint32_t>(problem.offset);
    report(problem.code, place, problem.message,
           problem.code == FindingCode::unknown_name ? elsewhere(problem) : problem.remedy, problem.subject);
  }
  return out;
}

Range<ActionData> Compilation::compile_actions(const std::vector<ActionDef>& actions, std::int32_t node) {
  MachineData& m = *data;
  std::vector<ActionData> compiled;
  for (const ActionDef& action : actions) {
    ActionData out;
    if (!action.tell.empty()) {
      const auto cue = find_cue(action.tell);
      if (!cue) continue;
      out.cue = *cue;
      out.fields = resolve_fields(*cue, action.fields, action.tell.place);
      compiled.push_back(out);
      continue;
    }
    const std::string& source = action.assign.text;
    const std::size_t equals = source.find('=');
    std::string name = source.substr(0, equals);
    while (!name.empty() && name.back() == ' ') name.pop_back();
    if (equals == std::string::npos || !is_name(name)) {
      report(FindingCode::bad_expression, action.assign.place, "\"" + source + "\" is no action",
             "Write `variable = expression`, or `tell: cue`.", source);
      continue;
    }
    const NodeSymbols symbols(*this, node);
    const Symbol* symbol = symbols.find(name);
    const bool is_input = symbol != nullptr && inputs.count(name) > 0;
    if (symbol == nullptr || is_input) {
      if (is_input)
        report(FindingCode::wrong_operand, action.assign.place,
               "\"" + name + "\" is an input, which only the game writes",
               "Declare a variable under `vars:` and assign to that.", name);
      else
        unknown("variable", {name, action.assign.place}, symbols.names(),
                "Declare it under `vars:` of this state or one around it.");
      continue;
    }
    out.type = symbol->type;
    out.offset = symbol->offset;
    Text value(source.substr(equals + 1), action.assign.place);
    if (value.place.line > 0) value.place.column += static_cast<std::uint32_t>(equals + 1);
    const CompiledExpr expression = compile_text(value, node);
    if (expression.ref.empty()) continue;
    const bool fits =
        expression.type == out.type || (out.type == ValueType::number && expression.type == ValueType::whole);
    if (!fits) {
      report(FindingCode::wrong_type, action.assign.place,
             "\"" + source + "\" assigns " + std::string(text_of(expression.type)) + " to a variable that holds " +
                 std::string(text_of(out.type)),
             out.type == ValueType::whole ? "Start the variable as `" + name + ": 0.0` to let it hold any number."
                                          : "Give it a value of its own type.",
             source);
      continue;
    }
    out.value = expression.ref;
    compiled.push_back(out);
  }
  const Range<ActionData> range{static_cast<std::uint32_t>(m.actions.size()),
                                static_cast<std::uint32_t>(compiled.size())};
  m.actions.insert(m.actions.end(), compiled.begin(), compiled.end());
  return range;
}

std::int32_t fixed_speed(double speed) {
  if (std::isnan(speed)) return 0;
  return static_cast<std::int32_t>(std::nearbyint(std::clamp(speed, -64.0, 64.0) * kOne));
}

}  // namespace mobrin::detail
