// What can be entered, and what can be left.
#include <algorithm>

#include "logic_views.hpp"

namespace mobrin::check {

namespace {

Place place_of(const StateDef& state) { return state.place.line > 0 ? state.place : state.name.place; }

}  // namespace

void Logic::enter(std::uint16_t state) {
  for (std::uint16_t s = state;; s = info(s).parent) {
    reached_[s] = true;
    if (s == 0) break;
  }
  enter_inside(state);
  // Entering one region of a state enters the others with it.
  for (std::uint16_t s = state; s != 0;) {
    s = info(s).parent;
    for (const RegionInfo* region : regions_of(s))
      if (!region->path.empty() && !reached_[region->initial]) enter(region->initial);
  }
}

void Logic::enter_inside(std::uint16_t state) {
  if (info(state).initial != kNoIndex && !reached_[info(state).initial]) {
    reached_[info(state).initial] = true;
    enter_inside(info(state).initial);
  }
  for (const RegionInfo* region : regions_of(state))
    if (!reached_[region->initial]) {
      reached_[region->initial] = true;
      enter_inside(region->initial);
    }
}

void Logic::reach() {
  reached_.assign(machine_.states().size(), false);
  reached_[0] = true;
  enter_inside(0);
  for (bool more = true; more;) {
    more = false;
    for (const TransitionInfo& rule : machine_.transitions()) {
      if (!reached_[rule.owner] || rule.to == "back") continue;
      const std::uint16_t target = rule.target;
      if (target == 0 || (reached_[target] && (!info(target).has_children || inside_reached(target)))) continue;
      enter(target);
      more = true;
    }
  }
  // One finding an island: what leads to each other.
  std::vector<bool> told(machine_.states().size(), false);
  for (const StateView& view : views_) {
    if (view.index == 0 || reached_[view.index] || told[view.index] || !reached_[info(view.index).parent]) continue;
    std::vector<std::uint16_t> island{view.index};
    std::string names;
    std::vector<Text> accept = view.def->accept;
    for (std::size_t i = 0; i < island.size(); ++i) {
      if (told[island[i]]) continue;
      told[island[i]] = true;
      names += (names.empty() ? "\"" : ", \"") + info(island[i]).path + "\"";
      for (const StateView& other : views_) {
        if (other.index != island[i]) continue;
        accept.insert(accept.end(), other.def->accept.begin(), other.def->accept.end());
      }
      for (const TransitionInfo& rule : machine_.transitions())
        for (const auto& [from, to] : {std::pair(rule.owner, rule.target), std::pair(rule.target, rule.owner)})
          if (within(from, island[i]) && to != 0 && !reached_[to] && !told[to] && reached_[info(to).parent])
            island.push_back(to);
    }
    tell(FindingCode::unreachable, place_of(*view.def), accept,
         (island.size() > 1 ? "no rule leads into any of " : "no rule leads to ") + names,
         "Add a rule that does, or remove it; what only `force` or `place` enters says `accept: [unreachable]`.", false,
         view.path);
  }
}

bool Logic::inside_reached(std::uint16_t state) const {
  if (info(state).initial != kNoIndex && !reached_[info(state).initial]) return false;
  return std::ranges::all_of(regions_of(state), [&](const RegionInfo* region) { return reached_[region->initial]; });
}

void Logic::ways_out() {
  for (const StateView& view : views_) {
    const std::uint16_t leaf = view.index;
    if (leaf == 0 || info(leaf).has_children || !reached_[leaf] || ending(leaf)) continue;
    bool alone = true;
    for (std::uint16_t s = 1; s < machine_.states().size() && alone; ++s)
      if (s != leaf && !info(s).has_children && info(s).region == info(leaf).region) alone = false;
    if (alone) continue;
    bool out = false;  // rules that cannot be taken are told themselves
    for (const std::uint32_t rule : rules_of(leaf)) {
      const GoDef* go = go_of(rule);
      if (machine_.transitions()[rule].target != leaf || (go != nullptr && go->to.text == "back")) out = true;
    }
    bool by_itself = out;                         // not only by a press or a cue
    const TransitionInfo* of_a_moment = nullptr;  // one that waits for those
    std::string to_an_ending;                     // as `but to "lie", an ending`
    for (std::uint16_t outer = leaf; outer != 0 && !by_itself;) {
      if (info(outer).sealed) break;
      outer = info(outer).parent;
      for (const std::uint32_t rule : rules_of(outer)) {
        const TransitionInfo& each = machine_.transitions()[rule];
        if (ending(each.target)) {
          to_an_ending = " but to \"" + info(each.target).path + "\", an ending";
          continue;
        }
        const std::uint16_t at = leaf_of(each.target);
        if (at == leaf && each.to != "back") continue;
        out = true;
        const GoDef* go = go_of(rule);
        if (go == nullptr || (go->pulse.empty() && go->cue.empty())) by_itself = true;
        if (of_a_moment == nullptr) of_a_moment = &each;
      }
    }
    const bool ends = play_ends(*view.def);
    if (out && (by_itself || !ends || !rules_of(leaf).empty())) continue;
    if (out) {
      tell(FindingCode::waits_at_end, place_of(*view.def), view.def->accept,
           "what \"" + view.path + "\" plays ends, and then it waits for \"" + of_a_moment->text + "\"",
           "Add a rule such as `{at: end, to: ...}`, or say that it is meant.", true, view.path);
      continue;
    }
    tell(FindingCode::no_way_out, place_of(*view.def), view.def->accept,
         "nothing leads out of \"" + view.path + "\"" + to_an_ending + (ends ? ", though what it plays ends" : ""),
         ends ? "Add a rule such as `{at: end, to: ...}`, or say `final: true`."
              : "Add a rule, or say `final: true` if it is an ending.",
         !ends, view.path);
  }
}

std::uint16_t Logic::leaf_of(std::uint16_t state) const {
  while (info(state).has_children && info(state).initial != kNoIndex) state = info(state).initial;
  return state;
}

bool Logic::play_ends(const StateDef& state) const {
  if (state.pose) return false;
  if (state.length) return true;
  const auto ends = [&](const std::string& name) {
    for (const ClipDef& clip : def_.clips)
      if (clip.name.text == name) return clip.play.kind == PlayKind::once || !clip.play.endless();
    return false;
  };
  if (!state.sequence.empty()) return true;
  if (state.clip_by) return !state.clip_by->clips.empty() && ends(state.clip_by->clips.front().second.text);
  return !state.clip.empty() && ends(state.clip.text);
}

}  // namespace mobrin::check
