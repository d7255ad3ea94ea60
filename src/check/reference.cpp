// The reference evaluator. Plain on purpose: a tree of nodes, sets of what is active, everything computed when needed.
#include "mobrin/check/reference.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <optional>
#include <set>

#include "reference_expression.hpp"
#include "reference_film.hpp"

namespace mobrin {
namespace check {
namespace {

// A state or a region.
struct Node {
  std::string name, path;
  Node* parent = nullptr;
  bool region = false;
  const StateDef* def = nullptr;
  std::string initial;
  std::vector<std::unique_ptr<Node>> children;
};

class Reference {
 public:
  explicit Reference(const MachineDef& definition) : def_(definition) {
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

  std::vector<std::string> run(const std::vector<ScriptEntry>& script, std::int64_t until) {
    std::size_t next = 0;
    for (;;) {
      // Everything written at this instant, then the instant itself.
      bool dirty = !started_;
      for (; next < script.size() && script[next].at.count == now_; ++next) dirty = write(script[next]) || dirty;
      if (dirty && !(done_ && !reset_)) now_written();
      std::int64_t stop = until;
      if (next < script.size()) stop = std::min(stop, script[next].at.count);
      for (std::int64_t due = next_due(); due <= stop; due = next_due()) boundary(due);
      move_silently(stop);
      if (stop == until && (next >= script.size() || script[next].at.count > until)) break;
    }
    for (const Node* leaf : leaves(root_)) {
      const auto play = plays_.find(leaf);
      if (play == plays_.end()) continue;
      const Play& p = play->second;
      log_.push_back(std::to_string(now_) + " shown " + leaf->path + " " + p.film.clip->name.text + " " +
                     std::to_string(frame_of(p)) + " " + std::to_string(static_cast<long long>(p.at)));
    }
    return log_;
  }

 private:
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
          if (const auto* kind = std::get_if<FloatInput>(&input.kind))
            value = static_cast<float>(std::clamp(value, kind->min, kind->max));
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

  // --- plays ------------------------------------------------------------------------------------------------------
  [[nodiscard]] Big effective(const Play& play) const {
    if (rate_ == 65536) return play.speed;
    const Big product = Big{play.speed} * rate_;
    Big down = product / 65536;
    if (product % 65536 < 0) --down;
    const Big rest = product - down * 65536;
    if (rest * 2 > 65536 || (rest * 2 == 65536 && down % 2 != 0)) ++down;
    return down;
  }
  // Every place of the cycle where something may lie for this play.
  std::set<Big> places(const Node& leaf, const Play& play) {
    std::set<Big> out{0, play.film.cycle};
    for (const MarkDef& mark : play.film.marks->marks) {
      if (mark.at == MarkAt::time) {
        for (const auto& [place, back] : play.film.places_of(Big{mark.time.count} << 16))
          if (goes(mark, play.backward != back)) out.insert(place);
        continue;
      }
      for (const Showing& each : play.film.showings) {
        // A frame's begin and end as playing reaches them; of a span only where play comes into or out of its frames.
        const Big begin = play.backward ? each.end : each.begin, end = play.backward ? each.begin : each.end;
        const bool way = goes(mark, play.backward != each.back);
        if (mark.at == MarkAt::frame_begin && mark.frame == each.frame && way) out.insert(begin);
        if (mark.at == MarkAt::frame_end && mark.frame == each.frame && way) out.insert(end);
        if (mark.at != MarkAt::frames || !covers(mark, each.frame)) continue;
        for (const Showing& other : play.film.showings) {
          if (covers(mark, other.frame)) continue;
          if (other.end == each.begin) out.insert(each.begin);
          if (other.begin == each.end) out.insert(each.end);
        }
      }
    }
    for (const Node* node = &leaf; node != nullptr; node = node->parent) {
      if (node->def == nullptr) continue;
      for (const GoDef& go : node->def->go) {
        for (const StretchDef& stretch : stretches_of(go, play)) {
          if (stretch.timed) {
            for (const Ticks time : {stretch.begin, stretch.end})
              for (const auto& [place, back] : play.film.places_of(Big{time.count} << 16)) out.insert(place);
          }
          const auto open = [&](const Showing& each) {
            return each.frame >= stretch.first && each.frame <= stretch.last;
          };
          for (const Showing& each : play.film.showings)
            for (const Showing& other : play.film.showings)
              if (!stretch.timed && open(each) != open(other) && other.begin == each.end) out.insert(other.begin);
        }
      }
    }
    return out;
  }
  static std::vector<StretchDef> stretches_of(const GoDef& go, const Play& play) {
    if (go.during_frames) return {*go.during_frames};
    for (const WindowDef& window : play.film.marks->windows)
      if (!go.during.empty() && window.name.text == go.during.text) return window.stretches;
    return {};
  }

  // Tells what lies where the playhead stands, on passing it. `ends`: the play ends here, so its last frame stays.
  void pass(const Play& play, bool ends) {
    const std::string& clip = play.film.clip->name.text;
    const auto& marks = play.film.marks->marks;
    const auto& showings = play.film.showings;
    // What stops and what starts being shown in playing direction; at an edge only one of them is on this side.
    const Showing* over = nullptr;
    const Showing* now_shown = nullptr;
    for (const Showing& each : showings) {
      if ((play.backward ? each.begin : each.end) == play.at && each.begin != each.end) over = &each;
      if ((play.backward ? each.end : each.begin) == play.at && each.begin != each.end) now_shown = &each;
    }
    const bool leading_edge = play.at == (play.backward ? 0 : play.film.cycle);
    const bool trailing_edge = play.at == (play.backward ? play.film.cycle : Big{0});
    const Showing* const first = play.backward ? &showings.back() : &showings.front();
    const Showing* const last = play.backward ? &showings.front() : &showings.back();
    const int next_frame = now_shown != nullptr ? now_shown->frame : leading_edge ? first->frame : -1;
    const int last_frame = over != nullptr ? over->frame : trailing_edge ? last->frame : -1;
    for (const MarkDef& mark : marks) {
      if (over == nullptr || trailing_edge) break;
      if (mark.at == MarkAt::frame_end && mark.frame == over->frame && goes(mark, play.backward != over->back))
        tell_cue(mark.cue.text, clip, over->frame, "none");
      if (mark.at == MarkAt::frames && covers(mark, over->frame) && !covers(mark, next_frame) && !ends)
        tell_cue(mark.cue.text, clip, over->frame, "end");
    }
    for (const MarkDef& mark : marks) {
      if (mark.at == MarkAt::frame_begin && now_shown != nullptr && !leading_edge && mark.frame == now_shown->frame &&
          goes(mark, play.backward != now_shown->back))
        tell_cue(mark.cue.text, clip, now_shown->frame, "none");
      if (mark.at == MarkAt::frames && now_shown != nullptr && !leading_edge && covers(mark, now_shown->frame) &&
          !covers(mark, last_frame))
        tell_cue(mark.cue.text, clip, now_shown->frame, "begin");
      if (mark.at == MarkAt::time)
        for (const auto& [place, back] : play.film.places_of(Big{mark.time.count} << 16))
          if (place == play.at && goes(mark, play.backward != back))
            tell_cue(mark.cue.text, clip, frame_of(play), "none");
    }
  }
  void diff_spans(const Play& play, int from, int to) {
    if (from == to) return;
    for (const char* edge : {"end", "begin"})
      for (const MarkDef& mark : play.film.marks->marks) {
        if (mark.at != MarkAt::frames) continue;
        const bool ends = covers(mark, from) && !covers(mark, to), begins = covers(mark, to) && !covers(mark, from);
        if (*edge == 'e' ? ends : begins)
          tell_cue(mark.cue.text, play.film.clip->name.text, *edge == 'e' ? from : to, edge);
      }
  }
  // A playhead on the edge it runs toward has reached it.
  static void reached(Play& play) {
    if (play.speed == 0 || play.ended() || play.at != (play.backward ? 0 : play.film.cycle)) return;
    if (play.film.passes == 1)
      ++play.edges;
    else
      play.at = play.backward ? play.film.cycle : Big{0};
  }
  [[nodiscard]] long speed_of(const Node& leaf) {
    if (leaf.def->speed.empty()) return 65536;
    const double speed = compute_at(leaf, leaf.def->speed.text);
    return std::isnan(speed) ? 0 : static_cast<long>(std::nearbyint(std::clamp(speed, -64.0, 64.0) * 65536));
  }
  void retake_speeds() {
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if (found == plays_.end()) continue;
      Play& play = found->second;
      const long speed = speed_of(*leaf);
      if (speed == play.speed) continue;
      play.speed = speed;
      if (speed == 0) continue;
      const int shown = frame_of(play);
      if (play.backward != (speed < 0)) {
        if (play.ended()) play.edges = 0;
        play.backward = speed < 0;
      }
      const bool was = play.ended();
      reached(play);
      if (play.ended() && !was) ended_for_[leaf] = 0;
      diff_spans(play, shown, frame_of(play));
    }
  }

  // --- time -------------------------------------------------------------------------------------------------------
  [[nodiscard]] Big runs_until(std::int64_t at) const {
    const std::int64_t from = std::max(now_, frozen_until_);
    return at > from ? at - from : 0;
  }
  // A final state's timer waits for the end of a play that has one.
  [[nodiscard]] bool linger_runs(const Node* leaf) const {
    const auto play = plays_.find(leaf);
    return play == plays_.end() || play->second.film.passes == 0 || play->second.ended();
  }
  std::int64_t next_due() {
    std::optional<Big> soonest;
    const auto consider = [&](Big distance, Big pace) {
      if (distance <= 0 || pace <= 0) return;
      const Big ticks = (distance + pace - 1) / pace;
      if (!soonest || ticks < *soonest) soonest = ticks;
    };
    if (done_ || rate_ == 0) return INT64_MAX;
    for (const Node* node : active_) {
      if (node->def == nullptr) continue;
      for (const GoDef& go : node->def->go)
        if (go.after) consider((Big{go.after->count} << 16) - in_state_[node], rate_);
      if (node->def->final && linger_runs(node))
        consider((Big{node->def->linger.count} << 16) - ended_for_[node], rate_);
    }
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if (found == plays_.end() || found->second.ended()) continue;
      const Play& play = found->second;
      const Big pace = effective(play);
      for (const Big place : places(*leaf, play))
        consider(pace > 0 ? place - play.at : play.at - place, pace > 0 ? pace : -pace);
    }
    if (!soonest) return INT64_MAX;
    return std::max(now_, frozen_until_) + static_cast<std::int64_t>(*soonest);
  }
  void run_timers(Big played) {
    for (const Node* node : active_) {
      in_state_[node] += played * rate_;
      if (node->def != nullptr && node->def->final && linger_runs(node)) ended_for_[node] += played * rate_;
    }
  }
  void move_silently(std::int64_t at) {
    const Big played = runs_until(at);
    if (!done_) {
      run_timers(played);
      for (Node* leaf : leaves(root_)) {
        const auto found = plays_.find(leaf);
        if (found != plays_.end() && !found->second.ended()) found->second.at += effective(found->second) * played;
      }
    }
    now_ = at;
  }
  void boundary(std::int64_t at) {
    const Big played = runs_until(at);
    run_timers(played);
    now_ = at;
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if (found != plays_.end()) move(*leaf, found->second, effective(found->second) * played);
    }
    retake_speeds();
    settle();
  }
  void move(Node& leaf, Play& play, Big way) {
    while (way != 0 && !play.ended()) {
      const Big target = play.at + way;
      std::optional<Big> next;
      for (const Big place : places(leaf, play)) {
        if (way > 0 && place > play.at && place <= target && (!next || place < *next)) next = place;
        if (way < 0 && place < play.at && place >= target && (!next || place > *next)) next = place;
      }
      if (!next) {
        play.at = target;
        return;
      }
      way -= *next - play.at;
      play.at = *next;
      const bool edge = play.at == (play.backward ? 0 : play.film.cycle);
      const bool ends = edge && play.film.passes > 0 && play.edges + 1 >= play.film.passes;
      pass(play, ends);
      if (!edge) continue;
      ++play.edges;
      if (ends) {
        ended_for_[&leaf] = 0;
        return;
      }
      if (play.film.passes == 0) play.edges = 0;
      tell("loop " + leaf.path);
      looped_.insert(&leaf);
      play.at = play.backward ? play.film.cycle : Big{0};
      pass(play, false);
      act(leaf, leaf.def->each_loop);
    }
  }

  void now_written() {
    if (reset_) {
      for (const auto& child : root_.children) leave(*child);
      act(root_, root_.def->exit);
      reset_ = started_ = done_ = false;
      active_.clear();
      entered_leaves_.clear();
      last_child_.clear();
    }
    if (!started_) {
      started_ = true;
      active_.insert(&root_);
      in_state_[&root_] = 0;
      begin_variables(root_);
      act(root_, root_.def->enter);
      go_down(root_);
    }
    retake_speeds();
    settle();
  }

  // --- settling ---------------------------------------------------------------------------------------------------
  void settle() {
    for (int round = 0;; ++round) {
      if (round == 64) {
        tell("fault");
        fired_.clear();
        looped_.clear();
        break;
      }
      seen_ = std::move(fired_);
      seen_loops_ = std::move(looped_);
      fired_.clear();
      looped_.clear();
      taken_.clear();
      took_ = false;
      look(root_);
      for (const std::string& pulse : taken_) alive_until_.erase(pulse);
      if (!took_) break;
    }
    if (done_) return;
    for (const Node* leaf : leaves(root_)) {
      if (!leaf->def->final || !linger_runs(leaf) || ended_for_[leaf] < Big{leaf->def->linger.count} << 16) continue;
      tell("done " + leaf->path);
      done_ = true;
      return;
    }
  }
  void look(Node& state) {
    const int entered = entries_[&state];
    for (const GoDef& go : state.def->go) {
      if (!holds(state, go)) continue;
      Node* target = target_of(state, go);
      if (!active(target) || go.restart) return take(state, go, *target);
      if (go.pulse.empty() && go.cue.empty() && go.at != GoAt::loop) break;
    }
    if (!split(state)) {
      if (Node* child = active_child(state)) look(*child);
      return;
    }
    for (const auto& region : state.children) {
      if (entries_[&state] != entered || !active(&state)) return;  // it was left, or left and entered again
      if (Node* child = active_child(*region)) look(*child);
    }
  }
  // The leaf whose play a state's `at:` and `during:` speak of.
  [[nodiscard]] Node* played_leaf(const Node& state) const {
    const Node* at = &state;
    for (;;) {
      if (split(*at)) {
        if (at != &root_ || at->children.size() != 1) return nullptr;
        at = at->children.front().get();
      }
      Node* child = active_child(*at);
      if (child == nullptr) return const_cast<Node*>(at);
      at = child;
    }
  }
  bool holds(Node& owner, const GoDef& go) {
    const Node* leaf = played_leaf(owner);
    const auto play = plays_.find(leaf);
    if (!go.pulse.empty()) {
      const auto alive = alive_until_.find(go.pulse.text);
      if (alive == alive_until_.end() || alive->second < now_) return false;
    }
    if (!go.cue.empty() && seen_.count(go.cue.text) == 0) return false;
    if (go.at == GoAt::end && (play == plays_.end() || !play->second.ended())) return false;
    if (go.at == GoAt::loop && seen_loops_.count(leaf) == 0) return false;
    if (go.after && in_state_[&owner] < Big{go.after->count} << 16) return false;
    if (!go.when.empty() && compute_at(owner, go.when.text) == 0) return false;
    if ((!go.during.empty() || go.during_frames) && (play == plays_.end() || !open(go, play->second))) return false;
    return !sealed_off(owner, *target_of(owner, go));
  }
  static bool open(const GoDef& go, const Play& play) {
    const Showing& shown = showing_of(play);
    if (shown.frame < 0) return false;
    const bool down = play.backward != shown.back;
    const Big time = shown.back ? play.film.turn - (play.at - play.film.length) : play.at;
    for (const StretchDef& stretch : stretches_of(go, play)) {
      if (!stretch.timed && shown.frame >= stretch.first && shown.frame <= stretch.last) return true;
      const Big begin = Big{stretch.begin.count} << 16, end = Big{stretch.end.count} << 16;
      if (stretch.timed && (down ? (begin < time && time <= end) || (begin == 0 && time == 0)
                                 : (begin <= time && time < end) || (time == end && end == play.film.length)))
        return true;
    }
    return false;
  }
  // The region around a node, or the whole machine.
  static Node* region_around(Node* node) {
    for (Node* up = node->parent; up != nullptr; up = up->parent)
      if (up->region || up->parent == nullptr) return up;
    return node;
  }
  Node* target_of(Node& owner, const GoDef& go) {
    const std::string& to = go.to.text;
    if (to == "back") {
      // The last leaf outside the owner before it was entered that neither ends nor goes back by itself.
      Node* region = region_around(&owner);
      for (std::size_t i = entered_at_[&owner]; i-- > 0;) {
        Node* leaf = entered_leaves_[i];
        if (region_around(leaf) == region && !inside(leaf, &owner)) return leaf;
      }
      return initial_of(*region);
    }
    if (!to.ends_with("/last")) return find(owner, to);
    Node* around = find(owner, to.substr(0, to.size() - 5));
    if (Node* child = active_child(*around)) return child;
    const auto last = last_child_.find(around);
    return last != last_child_.end() ? last->second : initial_of(*around);
  }
  static bool restful(const Node& leaf) {
    return std::none_of(leaf.def->go.begin(), leaf.def->go.end(),
                        [](const GoDef& go) { return go.at == GoAt::end || go.to.text == "back"; });
  }

  // The outermost node on the way to `target` that would be entered.
  [[nodiscard]] Node* first_entered(Node& target) const {
    Node* first = &target;
    for (Node* up = target.parent; up != nullptr; up = up->parent) {
      if (up->region) continue;
      if (active(up)) break;
      first = up;
    }
    return first;
  }
  bool sealed_off(const Node& owner, Node& target) const {
    const Node* const swapped = first_entered(target)->parent;  // the state or region whose content would change
    for (const Node* node : active_) {
      if (node->def == nullptr || node == &root_ || !(node->def->sealed || node->def->final)) continue;
      if (inside(&owner, node)) continue;
      // Below what would change, or between it and the owner.
      const bool below = inside(node, swapped) && node != swapped;
      const bool between = inside(swapped, node) && inside(node, &owner);
      if (below || between) return true;
    }
    return false;
  }

  void take(Node& owner, const GoDef& go, Node& target) {
    took_ = true;
    if (!go.pulse.empty()) taken_.insert(go.pulse.text);
    Node* first = first_entered(target);
    Node* old = active_child(*first->parent);
    std::optional<Play> before;
    for (Node* at = old; at != nullptr; at = active_child(*at))
      if (const auto play = plays_.find(at); play != plays_.end()) before = play->second;
    if (old != nullptr) leave(*old);
    act(owner, go.actions);
    // Down to the target, then to what is initial.
    std::vector<Node*> way;
    for (Node* node = &target; node != first->parent; node = node->parent) way.insert(way.begin(), node);
    bool single = true;
    for (Node* node = &target; node != nullptr; node = node->children.empty() ? nullptr : initial_of(*node))
      if (split(*node) && node->children.size() > 1) single = false;
    for (Node* node : way)
      if (node != &target && split(*node)) single = false;
    start_ = single ? &go.start : nullptr;
    before_ = before;
    enter_way(way, 0);
    start_ = nullptr;
    before_.reset();
    retake_speeds();
  }
  void enter_way(const std::vector<Node*>& way, std::size_t index) {
    Node& node = *way[index];
    enter(node);
    if (index + 1 == way.size()) return go_down(node);
    Node* next = way[index + 1];
    if (!next->region) return enter_way(way, index + 1);
    for (const auto& region : node.children) {
      active_.insert(region.get());
      if (region.get() == next) {
        enter_way(way, index + 2);
      } else {
        Node* initial = initial_of(*region);
        enter(*initial);
        go_down(*initial);
      }
    }
  }
  void go_down(Node& node) {
    if (node.children.empty() || split(node)) {
      if (&node != &root_ && restful(node)) entered_leaves_.push_back(&node);
    }
    if (node.children.empty()) return start_play(node);
    if (!split(node)) {
      Node* child = initial_of(node);
      enter(*child);
      return go_down(*child);
    }
    for (const auto& region : node.children) {
      active_.insert(region.get());
      Node* child = initial_of(*region);
      enter(*child);
      go_down(*child);
    }
  }
  void enter(Node& node) {
    active_.insert(&node);
    ++entries_[&node];
    in_state_[&node] = 0;
    ended_for_[&node] = 0;
    entered_at_[&node] = entered_leaves_.size();
    tell("enter " + node.path);
    begin_variables(node);
    act(node, node.def->enter);
  }
  void begin_variables(Node& node) {
    for (const VarDef& var : node.def->vars)
      variables_[{&node, var.name.text}] = std::visit([](auto value) { return static_cast<double>(value); }, var.start);
  }
  void start_play(Node& leaf) {
    const auto film = film_of(def_, *leaf.def);
    if (!film) return;
    Play play;
    play.film = *film;
    play.speed = speed_of(leaf);
    play.backward = play.speed < 0;
    play.at = play.backward ? film->cycle : Big{0};
    bool tells = true;
    if (start_ != nullptr && start_->kind == StartKind::same && before_) {
      play.at = before_->at * film->cycle / before_->film.cycle;
      tells = false;
    }
    if (start_ != nullptr && start_->kind == StartKind::clock) {
      play.at = Big{play.speed} * now_ % film->cycle;
      if (play.at < 0) play.at += film->cycle;
      tells = false;
    }
    if (start_ != nullptr && start_->kind == StartKind::frame) {
      // The first moment in playing direction at which the frame shows.
      std::optional<Big> first;
      for (const Showing& each : film->showings) {
        const Big moment = play.backward ? each.end : each.begin;
        if (each.frame == start_->frame && (!first || (play.backward ? moment > *first : moment < *first)))
          first = moment;
      }
      play.at = *first;
    }
    reached(play);
    const int frame = frame_of(play);
    for (const MarkDef& mark : film->marks->marks) {
      const bool down = play.backward != showing_of(play).back;
      if (mark.at == MarkAt::frames && covers(mark, frame))
        tell_cue(mark.cue.text, film->clip->name.text, frame, "begin");
      if (!tells || !goes(mark, down)) continue;
      bool here = mark.at == MarkAt::frame_begin && mark.frame == frame;
      if (mark.at == MarkAt::time)
        for (const auto& [place, back] : film->places_of(Big{mark.time.count} << 16)) here = here || place == play.at;
      if (here) tell_cue(mark.cue.text, film->clip->name.text, frame, "none");
    }
    plays_[&leaf] = play;
  }
  // Leaves a state or region with all inside it, innermost first.
  void leave(Node& node) {
    if (!active(&node)) return;
    for (const auto& child : node.children) leave(*child);
    if (!node.region) {
      if (const auto play = plays_.find(&node); play != plays_.end()) {
        diff_spans(play->second, frame_of(play->second), -1);
        plays_.erase(play);
      }
      act(node, node.def->exit);
      tell("leave " + node.path);
      last_child_[node.parent] = &node;
    }
    active_.erase(&node);
  }
  void act(Node& node, const std::vector<ActionDef>& actions) {
    for (const ActionDef& action : actions) {
      if (!action.tell.empty()) {
        tell_cue(action.tell.text, "", -1, "none");
        continue;
      }
      const std::size_t equals = action.assign.text.find('=');
      std::string name = action.assign.text.substr(0, equals);
      while (name.back() == ' ') name.pop_back();
      const double value = compute_at(node, action.assign.text.substr(equals + 1));
      for (const Node* at = &node; at != nullptr; at = at->parent) {
        const auto found = variables_.find({at, name});
        if (found == variables_.end()) continue;
        for (const VarDef& var : at->def->vars) {
          if (var.name.text != name) continue;
          if (std::holds_alternative<double>(var.start))
            found->second = static_cast<float>(value);
          else
            found->second = value;
        }
        break;
      }
    }
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
  bool started_ = false, done_ = false, reset_ = false, took_ = false;
};

}  // namespace
}  // namespace check

std::vector<std::string> run_reference(const MachineDef& definition, const std::vector<ScriptEntry>& script,
                                       Ticks until) {
  return check::Reference(definition).run(script, until.count);
}

}  // namespace mobrin
