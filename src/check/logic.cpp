#include "mobrin/check/logic.hpp"

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <optional>
#include <set>

#include "guards.hpp"

namespace mobrin {
namespace {

using check::Guard;

constexpr std::size_t kMostPairs = 100'000;  // of guards held against each other in a machine

bool is_word(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_'; }

void words_of(const std::string& text, std::set<std::string>& out) {
  for (std::size_t i = 0; i < text.size();) {
    std::size_t end = i;
    while (end < text.size() && is_word(text[end])) ++end;
    if (end > i) out.insert(text.substr(i, end - i));
    i = std::max(end, i + 1);
  }
}

// A state with all that is asked of it here.
struct StateView {
  const StateDef* def = nullptr;
  std::uint16_t index = 0;
  std::string path;
};

class Logic {
 public:
  Logic(const MachineDef& definition, const Machine& machine) : def_(definition), machine_(machine) {
    for (std::uint16_t s = 0; s < machine.states().size(); ++s) index_[machine.states()[s].path] = s;
    rules_.resize(machine.states().size());
    for (std::uint32_t t = 0; t < machine.transitions().size(); ++t)
      rules_[machine.transitions()[t].owner].push_back(t);
    go_.assign(machine.transitions().size(), nullptr);
    gather(definition.root, "");
  }

  std::vector<Finding> run() {
    guards();
    lists();
    reach();
    ways_out();
    flickers();
    uses();
    variables();
    swings();
    idle_accepts();
    std::stable_sort(out_.begin(), out_.end(), [](const Finding& a, const Finding& b) {
      return std::tuple(a.file, a.line, a.column) < std::tuple(b.file, b.line, b.column);
    });
    return std::move(out_);
  }

 private:
  // --- what there is ---

  void gather(const StateDef& state, const std::string& path) {
    const auto found = index_.find(path);
    if (found == index_.end()) return;
    views_.push_back({&state, found->second, path});
    const auto& rules = rules_[found->second];
    for (std::size_t i = 0; i < rules.size() && i < state.go.size(); ++i) go_[rules[i]] = &state.go[i];
    const std::string below = path.empty() ? "" : path + "/";
    for (const StateDef& each : state.states) gather(each, below + each.name.text);
    for (const RegionDef& region : state.regions)
      for (const StateDef& each : region.states) gather(each, below + region.name.text + "/" + each.name.text);
  }
  [[nodiscard]] const StateInfo& info(std::uint16_t state) const { return machine_.states()[state]; }
  [[nodiscard]] bool within(std::uint16_t state, std::uint16_t of) const {
    for (;; state = info(state).parent) {
      if (state == of) return true;
      if (state == 0) return false;
    }
  }
  // An ending: final, dead, or within one.
  [[nodiscard]] bool ending(std::uint16_t state) const {
    for (;; state = info(state).parent) {
      const auto& traits = info(state).traits;
      if (info(state).final || std::find(traits.begin(), traits.end(), "dead") != traits.end()) return true;
      if (state == 0) return false;
    }
  }
  [[nodiscard]] bool seals_below(std::uint16_t owner) const {
    for (std::uint16_t s = 1; s < machine_.states().size(); ++s)
      if (s != owner && within(s, owner) && (info(s).sealed || info(s).final)) return true;
    return false;
  }
  [[nodiscard]] const std::vector<std::uint32_t>& rules_of(std::uint16_t state) const { return rules_[state]; }
  [[nodiscard]] const GoDef* go_of(std::uint32_t transition) const { return go_[transition]; }
  [[nodiscard]] std::string rule_words(std::uint32_t transition) const {
    const TransitionInfo& rule = machine_.transitions()[transition];
    return "\"" + rule.text + "\" to " + rule.to;
  }
  [[nodiscard]] std::string line_words(std::uint32_t transition) const {
    const TransitionInfo& rule = machine_.transitions()[transition];
    return rule.place.line > 0 ? "the rule in line " + std::to_string(rule.place.line)
                               : "the rule " + rule_words(transition);
  }

  // --- telling ---

  void tell(FindingCode code, Place place, const std::vector<Text>& accept, std::string message, std::string remedy,
            bool hint = false, const std::string& name = "") {
    const std::string word(text_of(code));
    for (const Text& each : accept)
      if (each.text == word) {
        used_.insert(key_of(each));
        return;
      }
    for (const Text& each : def_.accept)
      if (each.text == word || each.text == word + " " + name) {
        used_.insert(key_of(each));
        return;
      }
    Finding& finding = out_.emplace_back();
    finding.code = code;
    finding.hint = hint;
    if (place.file < def_.files.size()) finding.file = def_.files[place.file];
    finding.line = place.line;
    finding.column = place.column;
    finding.message = std::move(message);
    finding.remedy = std::move(remedy);
  }
  static std::string key_of(const Text& accept) {
    return std::to_string(accept.place.file) + ":" + std::to_string(accept.place.line) + ":" +
           std::to_string(accept.place.column) + " " + accept.text;
  }
  void idle_accepts() {
    const auto check = [&](const std::vector<Text>& accept) {
      for (const Text& each : accept) {
        if (used_.count(key_of(each)) > 0) continue;
        Finding& finding = out_.emplace_back();
        finding.code = FindingCode::idle_accept;
        if (each.place.file < def_.files.size()) finding.file = def_.files[each.place.file];
        finding.line = each.place.line;
        finding.column = each.place.column;
        finding.message = "`accept: " + each.text + "` accepts nothing";
        finding.remedy = "Remove it, or check the code's name: `mobrin check --explain CODE`.";
      }
    };
    check(def_.accept);
    for (const StateView& view : views_) {
      check(view.def->accept);
      for (const GoDef& go : view.def->go) check(go.accept);
    }
    for (const ClipDef& clip : def_.clips) check(clip.accept);
    for (const InputDef& input : def_.inputs) check(input.accept);
    for (const CueDef& cue : def_.cues) check(cue.accept);
    for (const ReachDef& reach : def_.reaches) check(reach.accept);
  }

  // --- guards by themselves ---

  [[nodiscard]] bool told_of_cue(const std::string& cue) const {
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

  void guards() {
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
             "the look \"" + def_.looks[above].name.text + "\" above is shown whenever \"" +
                 def_.looks[below].name.text + "\" would be",
             wider ? "Swap them, so that both are seen." : "Remove one of them, or tell their conditions apart.", false,
             def_.looks[below].name.text);
        break;
      }
    for (const LookDef& look : def_.looks)
      if (check::never(Guard(look.when.text, def_)).value_or(false))
        tell(FindingCode::never_holds, look.when.place, {}, "no values satisfy \"" + look.when.text + "\"",
             "Check the comparison against the ranges of the inputs.");
  }

  // --- rules against rules ---

  // Whether, wherever `below` holds, `above` holds too; both of one list or `above` further out.
  [[nodiscard]] std::optional<bool> above_holds(const GoDef& above, const GoDef& below) {
    const bool windows_agree = (above.during.empty() && !above.during_frames) ||
                               (above.during.text == below.during.text && !above.during.empty());
    if (!windows_agree) return false;
    if (!above.pulse.empty() && above.pulse.text != below.pulse.text) return false;
    if (!above.cue.empty() && above.cue.text != below.cue.text) return false;
    if (above.at != GoAt::none && above.at != below.at) return false;
    if (above.after && !(below.after && *above.after <= *below.after)) return false;
    if (++pairs_ > kMostPairs) return std::nullopt;
    return check::covers(Guard(above.when.text, def_), Guard(below.when.text, def_));
  }
  // Whether a rule that holds always decides while its owner's `leaf` is active: it is taken, or it stands in its list.
  [[nodiscard]] bool decides(std::uint32_t rule, const GoDef& go, std::uint16_t owner, bool same_list) const {
    const TransitionInfo& each = machine_.transitions()[rule];
    if (info(each.owner).has_children && seals_below(each.owner)) return false;
    if (go.to.text == "back" || go.to.text.ends_with("/last"))
      return same_list && go.pulse.empty() && go.cue.empty() && go.at != GoAt::loop;
    if (each.target != 0 && info(each.target).region != info(owner).region && machine_.regions().size() > 1)
      return false;
    const bool active = within(owner, each.target) || each.target == owner;
    const bool inside = info(each.owner).has_children && within(each.target, each.owner);  // may be active just then
    if (go.restart) return true;
    const bool stands = go.pulse.empty() && go.cue.empty() && go.at != GoAt::loop;
    if (same_list) return stands || (!active && !inside);
    return !active;
  }

  void lists() {
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
  // Whether a rule above it in its list may stand while `state` is active: it passes the rest of the list over.
  [[nodiscard]] bool stands_before(std::uint32_t rule, std::uint16_t state) const {
    for (const std::uint32_t each : rules_of(machine_.transitions()[rule].owner)) {
      if (each == rule) return false;
      const GoDef* go = go_of(each);
      if (go == nullptr || never_[each] || go->restart) continue;
      if (!go->pulse.empty() || !go->cue.empty() || go->at == GoAt::loop) continue;
      const std::uint16_t target = machine_.transitions()[each].target;
      const bool elsewhere = machine_.regions().size() > 1 && target != 0 && info(target).region != info(state).region;
      if (go->to.text == "back" || go->to.text.ends_with("/last") || elsewhere || within(state, target)) return true;
    }
    return false;
  }
  [[nodiscard]] bool sealed_between(std::uint16_t state, std::uint16_t outer) const {
    for (; state != outer && state != 0; state = info(state).parent)
      if (info(state).sealed || info(state).final) return true;
    return false;
  }

  // --- what can be entered ---

  void enter(std::uint16_t state) {
    for (std::uint16_t s = state;; s = info(s).parent) {
      reached_[s] = true;
      if (s == 0) break;
    }
    enter_inside(state);
    // Entering one region of a state enters the others with it.
    for (std::uint16_t s = state; s != 0;) {
      s = info(s).parent;
      for (const RegionInfo& region : machine_.regions())
        if (region.owner == s && !region.path.empty() && !reached_[region.initial]) enter(region.initial);
    }
  }
  void enter_inside(std::uint16_t state) {
    if (info(state).initial != kNoIndex && !reached_[info(state).initial]) {
      reached_[info(state).initial] = true;
      enter_inside(info(state).initial);
    }
    for (const RegionInfo& region : machine_.regions())
      if (region.owner == state && !reached_[region.initial]) {
        reached_[region.initial] = true;
        enter_inside(region.initial);
      }
  }

  void reach() {
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
      tell(FindingCode::unreachable, view.def->place.line > 0 ? view.def->place : view.def->name.place, accept,
           (island.size() > 1 ? "no rule leads into any of " : "no rule leads to ") + names,
           "Add a rule that does, or remove it; what only `force` or `place` enters says `accept: [unreachable]`.",
           false, view.path);
    }
  }
  [[nodiscard]] bool inside_reached(std::uint16_t state) const {
    if (info(state).initial != kNoIndex && !reached_[info(state).initial]) return false;
    for (const RegionInfo& region : machine_.regions())
      if (region.owner == state && !reached_[region.initial]) return false;
    return true;
  }

  // --- what can be left ---

  void ways_out() {
    for (const StateView& view : views_) {
      const std::uint16_t leaf = view.index;
      if (leaf == 0 || info(leaf).has_children || !reached_[leaf] || ending(leaf)) continue;
      bool alone = true;
      for (std::uint16_t s = 1; s < machine_.states().size(); ++s)
        if (s != leaf && !info(s).has_children && info(s).region == info(leaf).region) alone = false;
      if (alone) continue;
      bool out = false;  // rules that cannot be taken are told themselves
      for (const std::uint32_t rule : rules_of(leaf)) {
        const GoDef* go = go_of(rule);
        if (machine_.transitions()[rule].target != leaf || (go != nullptr && go->to.text == "back")) out = true;
      }
      for (std::uint16_t outer = leaf; outer != 0 && !out;) {
        if (info(outer).sealed) break;
        outer = info(outer).parent;
        for (const std::uint32_t rule : rules_of(outer)) {
          const TransitionInfo& each = machine_.transitions()[rule];
          if (ending(each.target)) continue;
          const std::uint16_t at = leaf_of(each.target);
          if (at != leaf || each.to == "back") out = true;
        }
      }
      if (out) continue;
      const bool ends = play_ends(*view.def);
      tell(FindingCode::no_way_out, view.def->place.line > 0 ? view.def->place : view.def->name.place, view.def->accept,
           "nothing leads out of \"" + view.path + "\"" + (ends ? ", though what it plays ends" : ""),
           ends ? "Add a rule such as `{at: end, to: ...}`, or say `final: true`."
                : "Add a rule, or say `final: true` if it is an ending.",
           !ends, view.path);
    }
  }
  [[nodiscard]] std::uint16_t leaf_of(std::uint16_t state) const {
    while (info(state).has_children && info(state).initial != kNoIndex) state = info(state).initial;
    return state;
  }
  [[nodiscard]] bool play_ends(const StateDef& state) const {
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

  // --- two states that part at one value ---

  // `x < 5` as (x, 5, -1); the sign says on which side it is true.
  struct Edge {
    std::string input;
    double at = 0;
    int side = 0;
  };
  [[nodiscard]] std::optional<Edge> edge_of(const std::string& text) const {
    const Guard guard(text, def_);
    const detail::ExprNode* node = guard.tree();
    if (node == nullptr || node->operands.size() != 2) return std::nullopt;
    const int side = node->name == "<" || node->name == "<=" ? -1 : node->name == ">" || node->name == ">=" ? 1 : 0;
    const auto &left = *node->operands[0], &right = *node->operands[1];
    if (side == 0 || left.kind != detail::ExprNode::Kind::name || right.kind != detail::ExprNode::Kind::number)
      return std::nullopt;
    return Edge{left.name, right.value, side};
  }
  void flickers() {
    for (std::uint32_t t = 0; t < machine_.transitions().size(); ++t)
      for (std::uint32_t u = t + 1; u < machine_.transitions().size(); ++u) {
        const TransitionInfo &one = machine_.transitions()[t], &other = machine_.transitions()[u];
        if (one.owner != other.target || other.owner != one.target || one.owner == one.target) continue;
        const GoDef *a = go_of(t), *b = go_of(u);
        const auto plain = [](const GoDef* go) {
          return go != nullptr && go->pulse.empty() && go->cue.empty() && go->at == GoAt::none && !go->after &&
                 go->during.empty() && !go->during_frames;
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

  // --- what is used ---

  void uses() {
    std::set<std::string> read, taken, heard, shown, windows;
    const auto words = [&](const Text& text) { words_of(text.text, read); };
    const auto actions = [&](const std::vector<ActionDef>& all) {
      for (const ActionDef& action : all) {
        const std::size_t equals = action.assign.text.find('=');
        if (equals != std::string::npos) words_of(action.assign.text.substr(equals + 1), read);
      }
    };
    for (const StateView& view : views_) {
      const StateDef& state = *view.def;
      words(state.speed);
      for (const auto* list : {&state.enter, &state.exit, &state.each_loop}) actions(*list);
      if (state.clip_by) {
        read.insert(state.clip_by->input.text);
        for (const auto& [choice, clip] : state.clip_by->clips) shown.insert(clip.text);
      }
      if (state.blend) {
        words(state.blend->x);
        words(state.blend->y);
        for (const BlendPointDef& point : state.blend->points) shown.insert(point.clip.text);
      }
      shown.insert(state.clip.text);
      for (const Text& clip : state.sequence) shown.insert(clip.text);
      for (const GoDef& go : state.go) {
        words(go.when);
        taken.insert(go.pulse.text);
        heard.insert(go.cue.text);
        windows.insert(go.during.text);
        actions(go.actions);
      }
    }
    for (const LookDef& look : def_.looks) words(look.when);
    // What zones fill is written; it is read by guards like all else.
    const auto own = [&](Place place) { return place.file == 0; };
    for (const InputDef& input : def_.inputs) {
      const std::string& name = input.name.text;
      const bool pulse = std::holds_alternative<PulseInput>(input.kind);
      if (pulse ? taken.count(name) > 0 : read.count(name) > 0) continue;
      tell(FindingCode::unused_input, input.name.place, input.accept,
           pulse ? "no rule takes the pulse \"" + name + "\"" : "nothing reads the input \"" + name + "\"",
           "Remove it, or use it.", !own(input.name.place), name);
    }
    for (const StateView& view : views_)
      for (const VarDef& var : view.def->vars)
        if (read.count(var.name.text) == 0)
          tell(FindingCode::unused_var, var.name.place, view.def->accept,
               "nothing reads the variable \"" + var.name.text + "\"", "Remove it, or use it.", !own(var.name.place),
               var.name.text);
    for (const CueDef& cue : def_.cues)
      if (!told_of_cue(cue.name.text))
        tell(FindingCode::unused_cue, cue.name.place, cue.accept, "nothing tells the cue \"" + cue.name.text + "\"",
             "Put it on a clip, or remove it.", !own(cue.name.place), cue.name.text);
    for (const ClipDef& clip : def_.clips)
      if (shown.count(clip.name.text) == 0)
        tell(FindingCode::unused_clip, clip.name.place, clip.accept,
             "no state plays the clip \"" + clip.name.text + "\"", "Remove it, or let a state play it.",
             !own(clip.name.place), clip.name.text);
    for (const ClipMarksDef& marks : def_.marks)
      for (const WindowDef& window : marks.windows)
        if (windows.count(window.name.text) == 0)
          tell(FindingCode::unused_window, window.name.place, {},
               "no rule has the window \"" + window.name.text + "\" of \"" + marks.clip.text + "\"",
               "Remove it, or use it: `during: " + window.name.text + "`.", !own(window.name.place), window.name.text);
    for (const ReachDef& reach : def_.reaches) {
      bool used = false;
      const auto names = [&](const std::vector<FieldDef>& fields) {
        for (const FieldDef& field : fields)
          if (const auto* text = std::get_if<std::string>(&field.value);
              text != nullptr && field.name.text == "reach" && *text == reach.name.text)
            used = true;
      };
      for (const CueDef& cue : def_.cues) names(cue.fields);
      for (const ClipMarksDef& marks : def_.marks)
        for (const MarkDef& mark : marks.marks) names(mark.fields);
      for (const StateView& view : views_)
        for (const auto* list : {&view.def->enter, &view.def->exit, &view.def->each_loop})
          for (const ActionDef& action : *list) names(action.fields);
      if (!used)
        tell(FindingCode::unused_reach, reach.name.place, reach.accept,
             "no cue names the reach \"" + reach.name.text + "\"",
             "Remove it, or name it: `reach: " + reach.name.text + "`.", !own(reach.name.place), reach.name.text);
    }
  }

  // A variable of the whole machine that is set to one constant only, not its start.
  void variables() {
    for (const VarDef& var : def_.root.vars) {
      std::set<std::string> set;
      const auto actions = [&](const std::vector<ActionDef>& all) {
        for (const ActionDef& action : all) {
          const std::size_t equals = action.assign.text.find('=');
          if (equals == std::string::npos) continue;
          std::set<std::string> name;
          words_of(action.assign.text.substr(0, equals), name);
          if (name.count(var.name.text) == 0) continue;
          std::string value = action.assign.text.substr(equals + 1);
          std::erase(value, ' ');
          set.insert(value);
        }
      };
      for (const StateView& view : views_) {
        for (const auto* list : {&view.def->enter, &view.def->exit, &view.def->each_loop}) actions(*list);
        for (const GoDef& go : view.def->go) actions(go.actions);
      }
      if (set.size() != 1) continue;
      const std::string& value = *set.begin();
      const bool constant =
          value == "true" || value == "false" || value.find_first_not_of("0123456789.-") == std::string::npos;
      std::string start = "0";
      if (const auto* boolean = std::get_if<bool>(&var.start)) start = *boolean ? "true" : "false";
      if (const auto* whole = std::get_if<std::int32_t>(&var.start)) start = std::to_string(*whole);
      if (std::holds_alternative<double>(var.start)) continue;
      if (constant && value != start)
        tell(FindingCode::stays_set, var.name.place, def_.root.accept,
             "\"" + var.name.text + "\" is set to " + value + " and never to anything else again",
             "Set it back somewhere, or say that it is meant.", true, var.name.text);
    }
  }

  // --- one pass with two blows ---

  void swings() {
    for (const ClipDef& clip : def_.clips) {
      const ClipMarksDef* marks = nullptr;
      for (const ClipMarksDef& each : def_.marks)
        if (each.clip.text == clip.name.text) marks = &each;
      if (marks == nullptr) continue;
      int damage = 0, reaching = 0;
      for (const MarkDef& mark : marks->marks)
        for (const CueDef& cue : def_.cues)
          if (cue.name.text == mark.cue.text && cue.kind == "damage") {
            ++damage;
            for (const FieldDef& field : cue.fields)
              if (field.name.text == "reach") ++reaching;
          }
      const bool box = std::any_of(marks->boxes.begin(), marks->boxes.end(),
                                   [](const BoxDef& each) { return each.role.text == "hit"; });
      if (damage >= 2)
        tell(FindingCode::hits_twice, clip.name.place, clip.accept,
             "one pass of \"" + clip.name.text + "\" has two damage cues: it may hit a target twice",
             "Keep one, or say `accept: [hits-twice]`.", true, clip.name.text);
      else if (box && reaching > 0)
        tell(
            FindingCode::hits_twice, clip.name.place, clip.accept,
            "\"" + clip.name.text + "\" hits with a box and with the reach of a cue: a game that takes both hits twice",
            "Keep one, or say `accept: [hits-twice]`.", true, clip.name.text);
    }
  }

  const MachineDef& def_;
  const Machine& machine_;
  std::vector<StateView> views_;
  std::map<std::string, std::uint16_t> index_;     // states by path
  std::vector<std::vector<std::uint32_t>> rules_;  // by state
  std::vector<const GoDef*> go_;                   // by transition
  std::vector<Finding> out_;
  std::set<std::string> used_;
  std::vector<bool> never_, shadowed_, reached_;
  std::size_t pairs_ = 0;
};

}  // namespace

std::vector<Finding> logic_findings(const MachineDef& definition, const Machine& machine) {
  return Logic(definition, machine).run();
}

}  // namespace mobrin
