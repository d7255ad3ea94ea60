// The reference evaluator. Plain on purpose: a tree of nodes, sets of what is active, everything computed when needed.
#include "mobrin/check/reference.hpp"

#include "reference_plays.hpp"

namespace mobrin::check {
namespace {

class Reference : private ReferencePlays {
 public:
  using ReferencePlays::ReferencePlays;

  std::vector<std::string> run(const std::vector<ScriptEntry>& script, std::int64_t until) {
    std::size_t next = 0;
    for (;;) {
      // Everything written at this instant, then the instant itself.
      bool dirty = !started_;
      for (; next < script.size() && script[next].at.count == now_; ++next) {
        const bool held = rate_ == 0;
        dirty = write(script[next]) || dirty;
        if (held && script[next].kind == ScriptEntry::Kind::rate) dirty = goes_on() || dirty;
      }
      if (dirty && !(done_ && !reset_)) now_written();
      std::int64_t stop = until;
      if (next < script.size()) stop = std::min(stop, script[next].at.count);
      for (std::int64_t due = next_due(); due <= stop; due = next_due()) boundary(due);
      move_silently(stop);
      if (stop == until && (next >= script.size() || script[next].at.count > until)) break;
    }
    for (Node* leaf : leaves(root_)) {
      if (const auto play = plays_.find(leaf); play != plays_.end()) {
        const Play& p = play->second;
        log_.push_back(std::to_string(now_) + " shown " + leaf->path + " " + clip_of(p) + " " +
                       std::to_string(frame_of(p)) + " " + std::to_string(static_cast<long long>(p.at)));
      }
      const auto found = fades_.find(region_around(leaf));
      if (found == fades_.end() || split(*leaf)) continue;
      const Fade& fade = found->second;
      const double progress = static_cast<double>(static_cast<std::int64_t>(fade.run)) /
                              static_cast<double>(static_cast<std::int64_t>(fade.length));
      for (auto layer = fade.layers.rbegin(); layer != fade.layers.rend(); ++layer) {
        const double weight = (1 - progress) * static_cast<double>(layer->weight) / static_cast<double>(kWhole);
        log_.push_back(std::to_string(now_) + " fades " + leaf->path + " " + layer->words() + " " +
                       std::to_string(std::llround(weight * 1e6)));
      }
    }
    return log_;
  }

 private:
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
    const auto consider_play = [&](const Node& leaf, const Play& play) {
      const Big pace = effective(play);
      if (play.ended()) return;
      for (const Big place : places(leaf, play))
        consider(pace > 0 ? place - play.at : play.at - place, pace > 0 ? pace : -pace);
    };
    for (Node* leaf : leaves(root_))
      if (const auto found = plays_.find(leaf); found != plays_.end()) consider_play(*leaf, found->second);
    for (const auto& [region, fade] : fades_) {
      consider(fade.length - fade.run, rate_);
      for (const Layer& layer : fade.layers)
        if (layer.tells && layer.play) consider_play(*layer.leaf, *layer.play);
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
      for (auto& [region, fade] : fades_) run_fade(fade, played);
    }
    now_ = at;
  }
  void run_fade(Fade& fade, Big played) {
    fade.run += played * rate_;
    for (Layer& layer : fade.layers)
      if (layer.play) move(*layer.leaf, *layer.play, effective(*layer.play) * played, layer.tells ? kCues : kNothing);
  }
  void boundary(std::int64_t at) {
    const Big played = runs_until(at);
    run_timers(played);
    now_ = at;
    for (Node* leaf : leaves(root_)) {
      if (const auto fade = fades_.find(region_around(leaf)); fade != fades_.end()) {
        run_fade(fade->second, played);
        if (fade->second.run >= fade->second.length) fades_.erase(fade);
      }
      const auto found = plays_.find(leaf);
      if (found != plays_.end()) move(*leaf, found->second, effective(found->second) * played, kAll);
    }
    retake();
    settle();
  }
  enum Tells { kNothing, kCues, kAll };  // a play that fades out tells its cues or nothing
  void move(Node& leaf, Play& play, Big way, Tells tells) {
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
      if (tells != kNothing) {
        pass(play, ends, tells == kCues);
        pass_company(leaf, play, false);
      }
      if (!edge) continue;
      ++play.edges;
      if (ends) {
        if (tells == kAll) ended_for_[&leaf] = 0;
        return;
      }
      if (play.film.passes == 0) play.edges = 0;
      if (tells == kAll) {
        tell("loop " + leaf.path);
        looped_.insert(&leaf);
      }
      play.at = play.backward ? play.film.cycle : Big{0};
      if (tells != kNothing) {
        pass(play, false, tells == kCues);
        pass_company(leaf, play, false);
      }
      if (tells == kAll) act(leaf, leaf.def->each_loop);
    }
  }

  void now_written() {
    if (reset_) {
      for (const auto& child : root_.children) leave(*child);
      act(root_, root_.def->exit);
      reset_ = started_ = done_ = unsettled_ = false;
      active_.clear();
      entered_leaves_.clear();
      last_child_.clear();
      fades_.clear();
    }
    if (!started_) {
      started_ = true;
      active_.insert(&root_);
      in_state_[&root_] = 0;
      begin_variables(root_);
      act(root_, root_.def->enter);
      go_down(root_);
    }
    retake();
    settle();
  }

  // --- settling ---------------------------------------------------------------------------------------------------
  void settle() {
    for (int round = 0;; ++round) {
      if (round == 64) {
        if (!unsettled_) tell("fault");
        unsettled_ = true;
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
      if (!took_) {
        unsettled_ = false;
        break;
      }
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
    const bool windowed = !go.during.empty() || go.during_stretch;
    if (windowed && !(play == plays_.end() ? open_pose(go, *leaf) : open(go, play->second))) return false;
    return !sealed_off(owner, *target_of(owner, go));
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
      // An active one, around the owner, would stand for ever: then its own initial leaf.
      Node* initial = initial_of(*region);
      while (active(initial) && !initial->children.empty() && !split(*initial)) initial = initial_of(*initial);
      return initial;
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
    Node* region = region_around(first);
    Node* old_leaf = active_child(*region);
    while (old_leaf != nullptr && !split(*old_leaf) && active_child(*old_leaf) != nullptr)
      old_leaf = active_child(*old_leaf);
    if (old_leaf != nullptr)
      if (const auto play = plays_.find(old_leaf); play != plays_.end()) before = play->second;
    std::vector<Layer> layers;
    if (old_leaf != nullptr && !split(*old_leaf)) layers = showing_in(region, old_leaf, go.fade_cues == FadeCues::both);
    fades_.erase(region);
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
    Node* leaf = first;
    while (!split(*leaf) && active_child(*leaf) != nullptr) leaf = active_child(*leaf);
    if (go.fade.count > 0 && !split(*leaf)) begin_fade(region, layers, go);
    retake();
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
    chosen_[&leaf] = choice_of(leaf);
    const auto film = film_of(def_, *leaf.def, chosen_[&leaf]);
    if (!film) return;
    Play play;
    play.film = *film;
    play.speed = speed_of(leaf);
    play.backward = play.speed < 0;
    play.at = play.backward ? film->cycle : Big{0};
    bool tells = true;
    if (start_ != nullptr && start_->kind == StartKind::same && before_) {
      play.at = before_->at * (film->cycle >> 16) / (before_->film.cycle >> 16);
      tells = false;
    }
    if (start_ != nullptr && start_->kind == StartKind::clock) {
      play.at = Big{play.speed} * now_ % film->cycle;
      if (play.at < 0) play.at += film->cycle;
      tells = false;
    }
    if (start_ != nullptr && (start_->kind == StartKind::frame || start_->kind == StartKind::time))
      play.at = first_place(*start_, play);
    reached(play);
    const Showing& shown = showing_of(play);
    const Pass& pass = play.pass_of(shown);
    for (const MarkDef& mark : pass.marks->marks) {
      if (covers(pass.clip, mark, play.film, seen_of(play)))
        tell_cue(mark.cue.text, pass.clip->name.text, shown.frame, "begin");
      if (!tells || !goes(mark, play.backward != shown.back)) continue;
      bool here = mark.at == MarkAt::frame_begin && mark.frame == shown.frame &&
                  play.at == (play.backward ? shown.end : shown.begin);
      if (mark.at == MarkAt::time)
        for (const auto& [place, back] : pass.places_of(Big{mark.time.count} << 16)) here = here || place == play.at;
      if (here) tell_cue(mark.cue.text, pass.clip->name.text, shown.frame, "none");
    }
    if (tells) pass_company(leaf, play, true);
    plays_[&leaf] = play;
  }
  // Leaves a state or region with all inside it, innermost first.
  void leave(Node& node) {
    if (!active(&node)) return;
    for (const auto& child : node.children) leave(*child);
    if (!node.region) {
      if (const auto play = plays_.find(&node); play != plays_.end()) {
        diff_spans(&play->second, nullptr);
        plays_.erase(play);
      }
      act(node, node.def->exit);
      tell("leave " + node.path);
      last_child_[node.parent] = &node;
    }
    active_.erase(&node);
    if (node.region) fades_.erase(&node);
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
          found->second = held(var, value);
        }
        break;
      }
    }
  }
};

}  // namespace
}  // namespace mobrin::check

std::vector<std::string> mobrin::run_reference(const MachineDef& definition, const std::vector<ScriptEntry>& script,
                                               Ticks until) {
  return check::Reference(definition).run(script, until.count);
}
