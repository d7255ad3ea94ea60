// Guards by themselves, rules against rules, and two states that part at one value.
#include <algorithm>

#include "logic_views.hpp"

namespace mobrin::check {
namespace {

constexpr std::size_t kMostPairs = 100'000;  // of guards held against each other in a machine

}  // namespace

bool Logic::told_of_cue(const std::string& cue) const {
  for (const ClipMarksDef& marks : def_.marks)
    for (const MarkDef& mark : marks.marks)
      if (mark.cue.text == cue) return true;
  for (const StateView& view : views_) {
    for (const auto* actions : {&view.def->enter, &view.def->exit, &view.def->each_loop})
      for (const ActionDef& action : *actions)
        if (action.tell.text == cue) return true;
    for (const GoDef& go : view.def->go)
      for (const ActionDef& action : go.actions)
        if (action.tell.text == cue) return true;
  }
  return false;
}

void Logic::guards() {
  never_.assign(machine_.transitions().size(), false);
  for (std::uint32_t t = 0; t < machine_.transitions().size(); ++t) {
    const GoDef* go = go_of(t);
    if (go == nullptr) continue;
    if (!go->cue.empty() && !told_of_cue(go->cue.text)) {
      never_[t] = true;
      tell(FindingCode::never_holds, go->cue.place, go->accept,
           "nothing tells the cue \"" + go->cue.text + "\" that this rule waits for",
           "Put it on a clip, tell it in an action, or remove the rule.");
      continue;
    }
    const Guard guard(go->when.text, def_);
    if (check::never(guard).value_or(false)) {
      never_[t] = true;
      tell(FindingCode::never_holds, go->when.place, go->accept, "no values satisfy \"" + go->when.text + "\"",
           "Check the comparison against the ranges of the inputs.");
    } else if (!guard.empty() && go->when.text != "true" && check::always(guard).value_or(false)) {
      tell(FindingCode::always_holds, go->when.place, go->accept, "\"" + go->when.text + "\" is true for all values",
           "Leave the guard out, or check the comparison.", true);
    }
  }
  for (std::size_t below = 1; below < def_.looks.size(); ++below)
    for (std::size_t above = 0; above < below; ++above) {
      const Text &one = def_.looks[above].when, &other = def_.looks[below].when;
      if (++pairs_ > kMostPairs || check::never(Guard(other.text, def_)).value_or(true) ||
          !check::covers(Guard(one.text, def_), Guard(other.text, def_)).value_or(false))
        continue;
      const bool wider = !check::covers(Guard(other.text, def_), Guard(one.text, def_)).value_or(true);
      tell(wider ? FindingCode::wrong_order : FindingCode::shadowed, other.place, {},
           "the look \"" + def_.looks[above].name.text + "\" above is shown whenever \"" + def_.looks[below].name.text +
               "\" would be",
           wider ? "Swap them, so that both are seen." : "Remove one of them, or tell their conditions apart.", false,
           def_.looks[below].name.text);
      break;
    }
  for (const LookDef& look : def_.looks) {
    const Guard guard(look.when.text, def_);
    if (check::never(guard).value_or(false))
      tell(FindingCode::never_holds, look.when.place, {}, "no values satisfy \"" + look.when.text + "\"",
           "Check the comparison against the ranges of the inputs.");
    else if (look.when.text != "true" && check::always(guard).value_or(false))
      tell(FindingCode::always_holds, look.when.place, {}, "\"" + look.when.text + "\" is true for all values",
           "Write `when: true` if its art is always meant, or check the comparison.");
  }
}

std::optional<bool> Logic::above_holds(const GoDef& above, const GoDef& below) {
  const bool windows_agree = (above.during.empty() && !above.during_stretch) ||
                             (above.during.text == below.during.text && !above.during.empty());
  if (!windows_agree) return false;
  if (!above.pulse.empty() && above.pulse.text != below.pulse.text) return false;
  if (!above.cue.empty() && above.cue.text != below.cue.text) return false;
  if (above.at != GoAt::none && above.at != below.at) return false;
  if (above.after && !(below.after && *above.after <= *below.after)) return false;
  if (++pairs_ > kMostPairs) return std::nullopt;
  return check::covers(Guard(above.when.text, def_), Guard(below.when.text, def_));
}

bool Logic::decides(std::uint32_t rule, const GoDef& go, std::uint16_t owner, bool same_list) const {
  const TransitionInfo& each = machine_.transitions()[rule];
  if (info(each.owner).has_children && seals_below(each.owner)) return false;
  if (leads_by_memory(go)) return same_list && stands(go);
  if (each.target != 0 && info(each.target).region != info(owner).region && machine_.regions().size() > 1) return false;
  if (go.restart || (same_list && stands(go))) return true;
  // A target that is active already is not entered, nor may it be one inside that may be active just then.
  return !within(owner, each.target) && !within(each.target, owner);
}

void Logic::lists() {
  shadowed_.assign(machine_.transitions().size(), false);
  for (const StateView& view : views_) {
    const auto rules = rules_of(view.index);
    for (std::size_t b = 0; b < rules.size(); ++b) {
      const GoDef* below = go_of(rules[b]);
      if (below == nullptr || never_[rules[b]]) continue;
      bool done = false;
      for (std::size_t a = 0; a < b && !done; ++a) {
        const GoDef* above = go_of(rules[a]);
        if (above == nullptr || never_[rules[a]]) continue;
        if (!above_holds(*above, *below).value_or(false) || !decides(rules[a], *above, view.index, true)) continue;
        done = shadowed_[rules[b]] = true;
        // The other way round each has its turn?
        const bool wider = !above_holds(*below, *above).value_or(true);
        if (wider)
          tell(FindingCode::wrong_order, machine_.transitions()[rules[b]].place, below->accept,
               line_words(rules[a]) + " decides whenever this one holds, and in more cases",
               "Swap them, so that both have their turn.");
        else
          tell(FindingCode::shadowed, machine_.transitions()[rules[b]].place, below->accept,
               line_words(rules[a]) + " decides whenever this one holds",
               "Remove one of them, or tell their guards apart.");
      }
      // Rules of the states around it come first.
      for (std::uint16_t outer = view.index; outer != 0 && !done;) {
        outer = info(outer).parent;
        for (const std::uint32_t rule : rules_of(outer)) {
          const GoDef* above = go_of(rule);
          if (above == nullptr || never_[rule]) continue;
          if (info(view.index).sealed || info(view.index).final || sealed_between(view.index, outer)) continue;
          if (stands_before(rule, view.index)) continue;  // then it is not even looked at
          if (split_between(view.index, outer) && !asks_inputs_alone(*above)) continue;
          if (!above_holds(*above, *below).value_or(false) || !decides(rule, *above, view.index, false)) continue;
          done = shadowed_[rules[b]] = true;
          tell(FindingCode::shadowed, machine_.transitions()[rules[b]].place, below->accept,
               line_words(rule) + ", of a state around it, is taken whenever this one holds",
               "Remove one of them, or tell their guards apart.");
          break;
        }
      }
    }
  }
}

void Logic::rules_to_themselves() {
  for (std::uint32_t t = 0; t < machine_.transitions().size(); ++t) {
    const TransitionInfo& rule = machine_.transitions()[t];
    const GoDef* go = go_of(t);
    if (go != nullptr && go->restart && !never_[t] && !shadowed_[t] && within(rule.owner, rule.target) &&
        counts_at_once(*go))
      tell(FindingCode::hardly_meant, rule.place, go->accept,
           "it waits for nothing, so it is taken again and again at one instant, until \"" + go->when.text +
               "\" is false",
           "Let it wait, such as by `at: end` or `after:`, or say that it is meant.", true);
    if (go == nullptr || go->restart || never_[t] || shadowed_[t] || leads_by_memory(*go) ||
        !within(rule.owner, rule.target))
      continue;
    if (stands(*go) && rules_of(rule.owner).back() != t) continue;  // those below it wait
    never_[t] = true;
    tell(FindingCode::never_holds, rule.place, go->accept,
         "it leads to \"" + info(rule.target).path + "\", which is active already: nothing comes of it",
         "Add `restart: true` where that is to begin anew, or remove the rule.", false, info(rule.target).path);
  }
}

void Logic::lost_in_regions() {
  for (std::uint32_t t = 0; t < machine_.transitions().size(); ++t) {
    const TransitionInfo& rule = machine_.transitions()[t];
    const GoDef* go = go_of(t);
    if (go == nullptr || never_[t] || leads_by_memory(*go)) continue;
    const std::uint16_t entered = leaf_of(rule.target);
    const bool into = entered != 0 && !regions_of(entered).empty();
    std::uint16_t left = rule.owner;  // out to a state with regions that it leaves
    while (left != 0 && regions_of(left).empty()) left = info(left).parent;
    const bool out_of = left != 0 && !within(rule.target, left);
    const std::string& path = info(into ? entered : left).path;
    if (go->fade.count > 0 && (into || out_of))
      tell(FindingCode::hardly_meant, rule.place, go->accept,
           "nothing fades, as \"" + path + "\" has regions of its own: what is left is cut",
           "Leave `fade:` out, or fade within its regions.", true, path);
    if (go->start.kind == StartKind::same && out_of && !into)
      tell(FindingCode::hardly_meant, go->start.place, go->accept,
           "nothing is left that could go on, as \"" + path + "\" has regions of its own: \"" + info(rule.target).path +
               "\" begins",
           "Leave `start: same` out, or write `start: clock`, which keeps all in step.", true, path);
  }
}

bool Logic::counts_at_once(const GoDef& go) {
  if (!stands(go) || go.at != GoAt::none || go.after || !go.during.empty() || go.during_stretch) return false;
  std::set<std::string> asked;
  words_of(go.when.text, asked);
  bool counts = false;
  each_assignment(go.actions, [&](const std::string& variable, const std::string& value) {
    std::set<std::string> read;
    words_of(value, read);
    counts = counts || (asked.count(variable) > 0 && read.count(variable) > 0);
  });
  return counts;
}

bool Logic::stands_before(std::uint32_t rule, std::uint16_t state) const {
  for (const std::uint32_t each : rules_of(machine_.transitions()[rule].owner)) {
    if (each == rule) return false;
    const GoDef* go = go_of(each);
    if (go == nullptr || never_[each] || go->restart || !stands(*go)) continue;
    const std::uint16_t target = machine_.transitions()[each].target;
    const bool elsewhere = machine_.regions().size() > 1 && target != 0 && info(target).region != info(state).region;
    if (leads_by_memory(*go) || elsewhere || within(state, target) || within(target, state)) return true;
  }
  return false;
}

// Whether regions part on the way in: between a look at what is around them and one at what is inside, those that come
// before may have changed variables and states.
bool Logic::split_between(std::uint16_t state, std::uint16_t outer) const {
  for (; state != outer; state = info(state).parent)
    if (regions_of(info(state).parent).size() > 1) return true;
  return false;
}

bool Logic::asks_inputs_alone(const GoDef& go) const {
  std::set<std::string> asked;
  words_of(go.when.text, asked);
  if (asked.count("in") > 0) return false;
  return std::ranges::none_of(views_, [&](const StateView& view) {
    return std::ranges::any_of(view.def->vars, [&](const VarDef& var) { return asked.count(var.name.text) > 0; });
  });
}

bool Logic::sealed_between(std::uint16_t state, std::uint16_t outer) const {
  for (; state != outer && state != 0; state = info(state).parent)
    if (info(state).sealed || info(state).final) return true;
  return false;
}

std::optional<Logic::Edge> Logic::edge_of(const std::string& text) const {
  const Guard guard(text, def_);
  const detail::ExprNode* node = guard.tree();
  if (node == nullptr || node->operands.size() != 2) return std::nullopt;
  const int side = node->name == "<" || node->name == "<=" ? -1 : node->name == ">" || node->name == ">=" ? 1 : 0;
  const auto &left = *node->operands[0], &right = *node->operands[1];
  if (side == 0 || left.kind != detail::ExprNode::Kind::name || right.kind != detail::ExprNode::Kind::number)
    return std::nullopt;
  return Edge{left.name, right.value, side};
}

void Logic::flickers() {
  for (std::uint32_t t = 0; t < machine_.transitions().size(); ++t)
    for (const std::uint32_t u : rules_of(machine_.transitions()[t].target)) {
      const TransitionInfo &one = machine_.transitions()[t], &other = machine_.transitions()[u];
      if (u <= t || one.owner != other.target || one.owner == one.target) continue;
      const GoDef *a = go_of(t), *b = go_of(u);
      const auto plain = [](const GoDef* go) {
        return go != nullptr && go->pulse.empty() && go->cue.empty() && go->at == GoAt::none && !go->after &&
               go->during.empty() && !go->during_stretch;
      };
      if (!plain(a) || !plain(b)) continue;
      const auto first = edge_of(a->when.text), second = edge_of(b->when.text);
      if (!first || !second || first->input != second->input || first->at != second->at ||
          first->side == second->side || first->at == 0)
        continue;
      for (const InputDef& input : def_.inputs) {
        const auto* number = std::get_if<FloatInput>(&input.kind);
        if (input.name.text != first->input || number == nullptr || number->min == first->at ||
            number->max == first->at)
          continue;
        std::vector<Text> accept = a->accept;
        accept.insert(accept.end(), b->accept.begin(), b->accept.end());
        tell(FindingCode::flicker, one.place, accept,
             "it goes to \"" + info(one.target).path + "\" and back at one value of \"" + first->input +
                 "\", so it flickers there",
             "Leave a gap between the two values, or an `after:` before the way back.", true);
      }
    }
}

}  // namespace mobrin::check
