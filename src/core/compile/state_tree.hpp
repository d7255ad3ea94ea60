// The tree in which paths are looked up: states and regions, parents before children.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::detail {

using NameTable = std::map<std::string, std::uint16_t, std::less<>>;

class StateTree {
 public:
  struct Node {
    std::string name;
    std::int32_t parent = -1;
    bool is_region = false;
    std::uint16_t index = 0;  // state or region
    std::vector<std::int32_t> children;
    const StateDef* def = nullptr;    // of a state
    std::vector<std::uint32_t> vars;  // declared here, by their place in the machine's table
  };

  // A tree of the root alone, node 0. REQUIRES: `root` outlives it.
  explicit StateTree(const StateDef& root);
  // A child of `parent`: a state, or a region where there is no `def`.
  std::int32_t add(std::int32_t parent, const std::string& name, const StateDef* def);
  // Says that the next state, `state`, stands at that node.
  void number(std::int32_t node, std::uint16_t state);

  [[nodiscard]] Node& node(std::int32_t at) { return nodes_[static_cast<std::size_t>(at)]; }
  [[nodiscard]] const Node& node(std::int32_t at) const { return nodes_[static_cast<std::size_t>(at)]; }
  [[nodiscard]] std::int32_t node_of(std::size_t state) const { return node_of_state_[state]; }
  [[nodiscard]] const StateDef& source_of(std::size_t state) const { return *node(node_of_state_[state]).def; }
  [[nodiscard]] std::string path_of(std::int32_t node) const;
  // The state that `path` names as seen from `node`; empty where there is none.
  [[nodiscard]] std::optional<std::uint16_t> find_state(std::string_view path, std::int32_t node) const;
  // Names of all states, then the paths of those that lie within others.
  [[nodiscard]] const std::vector<std::string>& names() const;

 private:
  // Orders (node, name) pairs, whatever the name is held in.
  struct ByNodeAndName {
    using is_transparent = void;
    template <class A, class B>
    bool operator()(const A& a, const B& b) const {
      return a.first != b.first ? a.first < b.first : std::string_view(a.second) < std::string_view(b.second);
    }
  };

  std::vector<Node> nodes_;
  std::map<std::pair<std::int32_t, std::string>, std::int32_t, ByNodeAndName> child_of_;
  std::vector<std::int32_t> node_of_state_;
  mutable std::vector<std::string> names_;  // once they were asked for
};

}  // namespace mobrin::detail
