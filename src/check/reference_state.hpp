// What the reference evaluator holds: the tree of states, what is active, values, and what was told.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "mobrin/check/reference.hpp"
#include "reference_clip.hpp"
#include "reference_expression.hpp"

namespace mobrin::check {

// A state or a region.
struct Node {
  std::string name, path;
  Node* parent = nullptr;
  bool region = false;
  const StateDef* def = nullptr;
  std::string initial;
  std::vector<std::unique_ptr<Node>> children;
};

class ReferenceState {
 public:
  explicit ReferenceState(const MachineDef& definition) : def_(definition) {
    root_.def = &definition.root;
    grow(root_, definition.root);
    for (const InputDef& input : definition.inputs) {
      if (const auto* kind = std::get_if<BoolInput>(&input.kind)) values_[input.name.text] = kind->start;
      if (const auto* kind = std::get_if<IntInput>(&input.kind)) values_[input.name.text] = kind->start;
      if (const auto* kind = std::get_if<FloatInput>(&input.kind))
        values_[input.name.text] = static_cast<float>(kind->start);
      if (const auto* kind = std::get_if<ChoiceInput>(&input.kind)) {
        for (const Text& choice : kind->choices) choices_[input.name.text].push_back(choice.text);
        values_[input.name.text] = 0;
      }
    }
  }

 protected:
  // --- the tree ---------------------------------------------------------------------------------------------------
  void grow(Node& node, const StateDef& def) {
    node.initial = def.initial.text;
    for (const StateDef& child : def.states) grow(add(node, child.name.text, &child), child);
    for (const RegionDef& region : def.regions) {
      Node& child = add(node, region.name.text, nullptr);
      child.region = true;
      child.initial = region.initial.text;
      for (const StateDef& state : region.states) grow(add(child, state.name.text, &state), state);
    }
  }
  static Node& add(Node& parent, const std::string& name, const StateDef* def) {
    Node& child = *parent.children.emplace_back(std::make_unique<Node>());
    child.name = name;
    child.path = parent.path.empty() ? name : parent.path + "/" + name;
    child.parent = &parent;
    child.def = def;
    return child;
  }
  static bool split(const Node& node) { return !node.children.empty() && node.children.front()->region; }
  static bool inside(const Node* node, const Node* around) {
    for (; node != nullptr; node = node->parent)
      if (node == around) return true;
    return false;
  }
  [[nodiscard]] bool active(const Node* node) const { return active_.count(node) > 0; }
  // What a variable holds of a value: what is no number is 0, and what is too large the largest that there is.
  static double held(const VarDef& var, double value) {
    const auto within = [&](double low, double high) { return std::isnan(value) ? 0 : std::clamp(value, low, high); };
    if (std::holds_alternative<bool>(var.start)) return value;
    if (std::holds_alternative<std::int32_t>(var.start)) return within(-2147483648.0, 2147483647.0);
    const double most = std::numeric_limits<float>::max();
    return static_cast<double>(static_cast<float>(within(-most, most))) + 0.0;  // 0 has no sign
  }
  // The active child of a state without regions, or of a region.
  [[nodiscard]] Node* active_child(const Node& node) const {
    for (const auto& child : node.children)
      if (active(child.get())) return child.get();
    return nullptr;
  }
  static Node* initial_of(const Node& node) {
    for (const auto& child : node.children)
      if (child->name == node.initial) return child.get();
    return node.children.front().get();
  }
  // The innermost active states, in region order.
  [[nodiscard]] std::vector<Node*> leaves(const Node& node) const {
    std::vector<Node*> out;
    for (const auto& child : node.children) {
      if (!child->region && !active(child.get())) continue;
      const auto below = leaves(*child);
      if (below.empty() && !child->region) out.push_back(child.get());
      out.insert(out.end(), below.begin(), below.end());
    }
    return out;
  }
  static Node* find(const Node& from, const std::string& path) {
    for (const Node* scope = &from; scope != nullptr; scope = scope->parent) {
      const Node* at = scope;
      std::size_t begin = 0;
      while (at != nullptr && begin <= path.size()) {
        const std::size_t end = std::min(path.find('/', begin), path.size());
        const Node* found = nullptr;
        for (const auto& child : at->children)
          if (child->name == path.substr(begin, end - begin)) found = child.get();
        at = found;
        begin = end + 1;
      }
      if (at != nullptr && !at->region) return const_cast<Node*>(at);
    }
    return nullptr;
  }

  // --- values -----------------------------------------------------------------------------------------------------
  [[nodiscard]] double compute_at(const Node& node, const std::string& source) {
    Names names;
    const auto variable = [&](const std::string& name) -> double* {
      for (const Node* at = &node; at != nullptr; at = at->parent)
        if (const auto found = variables_.find({at, name}); found != variables_.end()) return &found->second;
      return nullptr;
    };
    names.value = [&](const std::string& name) {
      if (const double* value = variable(name)) return NameValue{*value, nullptr};
      const auto choices = choices_.find(name);
      return NameValue{values_.at(name), choices == choices_.end() ? nullptr : &choices->second};
    };
    names.known = [&](const std::string& name) { return variable(name) != nullptr || values_.count(name) > 0; };
    names.in_state = [&](const std::string& path) { return active(find(node, path)); };
    return compute(source, names);
  }
  bool write(const ScriptEntry& entry) {
    switch (entry.kind) {
      case ScriptEntry::Kind::set: {
        double value = entry.value;
        for (const InputDef& input : def_.inputs) {
          if (input.name.text != entry.name) continue;
          if (const auto* kind = std::get_if<IntInput>(&input.kind))
            value = std::clamp<double>(value, kind->min, kind->max);
          if (const auto* kind = std::get_if<FloatInput>(&input.kind)) {
            value = static_cast<float>(std::clamp(value, kind->min, kind->max));
            if (kind->grain > 0)
              value = static_cast<float>(
                  std::clamp(std::nearbyint(value / kind->grain) * kind->grain, kind->min, kind->max));
          }
        }
        const bool changes = values_[entry.name] != value;
        values_[entry.name] = value;
        return changes;
      }
      case ScriptEntry::Kind::pulse:
        if (done_ && !reset_) return false;
        for (const InputDef& input : def_.inputs)
          if (input.name.text == entry.name)
            alive_until_[entry.name] = now_ + std::get<PulseInput>(input.kind).buffer.count;
        return true;
      case ScriptEntry::Kind::rate:
        rate_ = static_cast<long>(std::nearbyint(entry.value * 65536));
        return false;
      case ScriptEntry::Kind::freeze:
        frozen_until_ = std::max(frozen_until_, now_ + entry.duration.count);
        return false;
      case ScriptEntry::Kind::reset:
        alive_until_.clear();
        reset_ = started_;
        return started_;
    }
    return false;
  }

  // --- telling ----------------------------------------------------------------------------------------------------
  void tell(const std::string& what) { log_.push_back(std::to_string(now_) + " " + what); }
  void tell_cue(const std::string& name, const std::string& clip, int frame, const std::string& edge) {
    tell("cue " + name + " " + clip + " " + std::to_string(frame) + " " + edge);
    if (edge != "end") fired_.insert(name);
  }

  const MachineDef& def_;
  Node root_;
  std::set<const Node*> active_;
  std::map<const Node*, int> entries_;
  std::vector<Node*> entered_leaves_;
  std::map<const Node*, std::size_t> entered_at_;
  std::map<const Node*, Node*> last_child_;
  std::map<const Node*, Play> plays_;
  std::map<const Node*, Big> in_state_, ended_for_;
  std::map<std::string, double> values_;
  std::map<std::string, std::vector<std::string>> choices_;
  std::map<std::pair<const Node*, std::string>, double> variables_;
  std::map<std::string, std::int64_t> alive_until_;
  std::set<std::string> fired_, seen_, taken_;
  std::set<const Node*> looped_, seen_loops_;
  const StartDef* start_ = nullptr;
  std::optional<Play> before_;
  std::vector<std::string> log_;
  std::int64_t now_ = 0, frozen_until_ = INT64_MIN;
  long rate_ = 65536;
  bool started_ = false, done_ = false, reset_ = false, took_ = false, unsettled_ = false;
};

}  // namespace mobrin::check
