#include "compile/state_tree.hpp"

namespace mobrin::detail {

StateTree::StateTree(const StateDef& root) { nodes_.emplace_back().def = &root; }

std::int32_t StateTree::add(std::int32_t parent, const std::string& name, const StateDef* def) {
  const auto at = static_cast<std::int32_t>(nodes_.size());
  Node& child = nodes_.emplace_back();
  child.name = name;
  child.parent = parent;
  child.def = def;
  child.is_region = def == nullptr;
  node(parent).children.push_back(at);
  child_of_.insert_or_assign(std::pair(parent, name), at);
  return at;
}

void StateTree::number(std::int32_t at, std::uint16_t state) {
  node(at).index = state;
  node_of_state_.push_back(at);
}

std::string StateTree::path_of(std::int32_t at) const {
  std::string path = node(at).name;
  for (std::int32_t up = node(at).parent; up > 0; up = node(up).parent) path = node(up).name + "/" + path;
  return path;
}

std::optional<std::uint16_t> StateTree::find_state(std::string_view path, std::int32_t from) const {
  for (std::int32_t scope = from; scope >= 0; scope = node(scope).parent) {
    std::int32_t at = scope;
    std::string_view rest = path;
    while (at >= 0 && !rest.empty()) {
      const std::size_t slash = rest.find('/');
      const std::string_view part = rest.substr(0, slash);
      rest = slash == std::string_view::npos ? std::string_view() : rest.substr(slash + 1);
      if (slash != std::string_view::npos && rest.empty()) return std::nullopt;  // "walk/"
      const auto found = child_of_.find(std::pair(at, part));
      at = found == child_of_.end() ? -1 : found->second;
    }
    if (at >= 0 && at != scope && !node(at).is_region) return node(at).index;
  }
  return std::nullopt;
}

const std::vector<std::string>& StateTree::names() const {
  if (!names_.empty()) return names_;
  for (const Node& each : nodes_)
    if (!each.is_region && !each.name.empty()) names_.push_back(each.name);
  for (const std::int32_t at : node_of_state_)
    if (node(at).parent > 0) names_.push_back(path_of(at));
  return names_;
}

}  // namespace mobrin::detail
