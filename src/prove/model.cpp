#include "model.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace mobrin::proof {

namespace {

bool contains(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}
void add_once(std::vector<std::uint16_t>& all, std::uint16_t one) {
  if (std::find(all.begin(), all.end(), one) == all.end()) all.push_back(one);
}

}  // namespace

namespace {

// `abs(move) > 0.1`: the input and the values at which the comparison changes.
bool cut_points(const Term& side, double at, const Term*& input, std::vector<double>& points) {
  if (side.kind == Term::Kind::input || side.kind == Term::Kind::variable) {
    input = &side;
    points.push_back(at);
    return true;
  }
  if (side.kind != Term::Kind::operation) return false;
  const auto constant = [](const Term& term) { return term.kind == Term::Kind::constant; };
  using detail::Op;
  switch (side.op) {
    case Op::abs: {
      std::vector<double> inner;
      if (!cut_points(side.operands[0], at, input, points)) return false;
      return at == 0 || cut_points(side.operands[0], -at, input, points);
    }
    case Op::negate:
      return cut_points(side.operands[0], -at, input, points);
    case Op::sign:
      return cut_points(side.operands[0], 0, input, points);
    case Op::add:
      if (constant(side.operands[1])) return cut_points(side.operands[0], at - side.operands[1].value, input, points);
      return constant(side.operands[0]) && cut_points(side.operands[1], at - side.operands[0].value, input, points);
    case Op::subtract:
      if (constant(side.operands[1])) return cut_points(side.operands[0], at + side.operands[1].value, input, points);
      return constant(side.operands[0]) && cut_points(side.operands[1], side.operands[0].value - at, input, points);
    case Op::multiply:
      if (constant(side.operands[1]) && side.operands[1].value != 0)
        return cut_points(side.operands[0], at / side.operands[1].value, input, points);
      return constant(side.operands[0]) && side.operands[0].value != 0 &&
             cut_points(side.operands[1], at / side.operands[0].value, input, points);
    case Op::divide:
      return constant(side.operands[1]) && cut_points(side.operands[0], at * side.operands[1].value, input, points);
    default:
      return false;
  }
}

std::vector<Span> cells_of(const InputDef& input, std::vector<double> cuts) {
  if (std::holds_alternative<BoolInput>(input.kind)) return {{0, 0}, {1, 1}};
  if (std::holds_alternative<PulseInput>(input.kind)) return {{0, 0}};
  std::vector<Span> out;
  if (const auto* choice = std::get_if<ChoiceInput>(&input.kind)) {
    for (std::size_t i = 0; i < choice->choices.size(); ++i) out.push_back({double(i), double(i)});
    return out;
  }
  std::sort(cuts.begin(), cuts.end());
  if (const auto* whole = std::get_if<IntInput>(&input.kind)) {
    double low = whole->min;
    for (const double cut : cuts) {
      const double below = std::ceil(cut) - 1, on = std::floor(cut);
      if (below >= low && below <= whole->max) out.push_back({low, below}), low = below + 1;
      if (on == cut && on >= low && on <= whole->max) out.push_back({on, on}), low = on + 1;
    }
    if (low <= whole->max) out.push_back({low, double(whole->max)});
    return out;
  }
  const auto& number = std::get<FloatInput>(input.kind);
  const auto least = static_cast<float>(number.min), most = static_cast<float>(number.max);
  float low = least;
  bool open = true;  // values from `low` on are left
  const auto close = [&](float high) {
    if (open && high >= low) out.push_back({double(low), double(high)});
  };
  for (const double cut : cuts) {
    if (!(cut >= double(low)) || cut > double(most)) continue;
    const auto near = static_cast<float>(cut);
    const float below = double(near) < cut ? near : std::nextafter(near, -INFINITY);
    close(below);
    if (double(near) == cut) out.push_back({cut, cut});
    low = double(near) > cut ? near : std::nextafter(near, INFINITY);
    open = low <= most;
  }
  if (open) close(most);
  if (number.grain > 0) {
    // Only its multiples and the ends are ever stored.
    const auto stored = [&](double k) { return double(std::clamp(static_cast<float>(k * number.grain), least, most)); };
    std::vector<Span> kept;
    for (const Span& cell : out) {
      double first = std::ceil(cell.low / number.grain - 0.5), last = std::floor(cell.high / number.grain + 0.5);
      if (!(std::abs(first) < 1e9 && std::abs(last) < 1e9)) {
        kept.push_back(cell);
        continue;
      }
      while (first <= last && stored(first) < cell.low) ++first;
      while (last >= first && stored(last) > cell.high) --last;
      Span span{INFINITY, -INFINITY};
      if (first <= last) span = {stored(first), stored(last)};
      for (const double end : {double(least), double(most)})
        if (end >= cell.low && end <= cell.high) span = {std::min(span.low, end), std::max(span.high, end)};
      if (span.low <= span.high) kept.push_back(span);
    }
    out = kept;
  }
  return out;
}

}  // namespace

// --- what there is ---------------------------------------------------------------------------------------------------

Model::Model(const MachineDef& definition, const Machine& machine) : def_(definition), machine_(machine) {
  const auto infos = machine.states();
  const auto regions = machine.regions();
  states_.resize(infos.size());
  defs_.assign(infos.size(), nullptr);
  traits_.assign(infos.size(), std::vector<bool>(machine.traits().size(), false));
  entered_.assign(infos.size(), false);
  left_ = entered_;
  one_region_ = regions.size() <= 1;
  cuts_.resize(machine.inputs().size());
  for (std::uint16_t s = 0; s < infos.size(); ++s) {
    const StateInfo& info = infos[s];
    StateFacts& facts = states_[s];
    index_[info.path] = s;
    facts.parent = info.parent;
    facts.region = info.region;
    facts.initial = s == 0 ? kNoIndex : info.initial;
    facts.sealed = info.sealed;
    facts.final = info.final;
    facts.dead = contains(info.traits, "dead");
    for (std::size_t t = 0; t < machine.traits().size(); ++t)
      traits_[s][t] = contains(info.traits, machine.traits()[t]);
    if (s > 0) {
      facts.depth = static_cast<std::uint16_t>(states_[info.parent].depth + 1);
      states_[info.parent].children.push_back(s);
    }
  }
  for (std::uint16_t r = 0; r < regions.size(); ++r) states_[regions[r].owner].regions.push_back(r);
  for (std::uint16_t s = 0; s < infos.size(); ++s)
    if (states_[s].regions.size() > (s == 0 ? 1U : 0U))
      for (std::uint16_t up = s;; up = states_[up].parent) {
        states_[up].splits_below = true;
        if (up == 0) break;
      }
  rules_.resize(machine.transitions().size());
  notes_.resize(rules_.size());
  for (std::uint32_t t = 0; t < rules_.size(); ++t) {
    rules_[t].index = t;
    rules_[t].owner = machine.transitions()[t].owner;
    rules_[t].target = machine.transitions()[t].target;
    rules_[t].pulse = machine.transitions()[t].pulse;
    states_[rules_[t].owner].rules.push_back(static_cast<std::uint16_t>(t));
  }
  gather(definition.root, "");
  blurred_.assign(variables_.size(), false);
  variable_cuts_.resize(variables_.size());
  // Actions and guards may speak of what is defined further down, so they are bound when all is known.
  for (std::uint16_t s = 0; s < infos.size(); ++s) {
    if (defs_[s] == nullptr) continue;
    states_[s].enter = actions_of(defs_[s]->enter, s);
    states_[s].exit = actions_of(defs_[s]->exit, s);
    states_[s].each_loop = actions_of(defs_[s]->each_loop, s);
    if (!defs_[s]->speed.empty()) {
      states_[s].speed = bind_term(defs_[s]->speed.text, names_at(s), detail::ExprWords::guard).term;
      // Where it stands is told apart.
      if (states_[s].speed) {
        Term stands;
        stands.kind = Term::Kind::operation;
        stands.op = detail::Op::equal;
        stands.operands = {*states_[s].speed, Term{}};
        cut(stands);
      }
    }
    facts_of_plays(s);
    for (std::size_t i = 0; i < states_[s].rules.size() && i < defs_[s]->go.size(); ++i) {
      Rule& rule = rules_[states_[s].rules[i]];
      const GoDef& go = defs_[s]->go[i];
      rule.def = &go;
      rule.event = !go.pulse.empty()                 ? Event::pulse
                   : !go.cue.empty()                 ? Event::cue
                   : go.at == GoAt::end              ? Event::end
                   : go.at == GoAt::loop             ? Event::loop
                   : go.after && go.after->count > 0 ? Event::after
                                                     : Event::none;
      for (std::uint16_t c = 0; c < machine.cues().size(); ++c)
        if (machine.cues()[c].name.text == go.cue.text) rule.cue = c;
      if (go.to.text == "back") rule.aim = Aim::back;
      if (go.to.text.ends_with("/last")) rule.aim = Aim::last;
      if (go.fade_cues == FadeCues::both) fades_tell_ = true;
      if (go.at == GoAt::end || go.to.text == "back") states_[s].restful = false;
      if (!go.when.empty()) {
        rule.when = bind_term(go.when.text, names_at(s), detail::ExprWords::guard).term;
        if (rule.when) {
          cut(*rule.when);
          each_term(*rule.when, [&](const Term& term) {
            if (term.kind == Term::Kind::variable || term.kind == Term::Kind::state) rule.inputs_only = false;
          });
        }
      }
      rule.actions = actions_of(go.actions, s);
    }
  }
  find_leads();
}

// `to: back` leads out of its owner, but where that is the initial state.
bool Model::leads_outside(const Rule& rule) const {
  if (rule.owner == 0) return false;
  std::uint16_t initial = machine_.regions()[states_[rule.owner].region].initial;
  while (states_[initial].initial != kNoIndex) initial = states_[initial].initial;
  return !within(initial, rule.owner);
}

// For each leaf the rules that surely lead on: looked at before any that may stand, of what no seal stops.
void Model::find_leads() {
  leads_on_.assign(rules_.size(), false);
  for (std::uint16_t leaf = 1; leaf < states_.size(); ++leaf) {
    StateFacts& facts = states_[leaf];
    facts.stay = stay_while(leaf, nullptr);
    each_lead(leaf, nullptr, [&](const Rule& rule) {
      if (rule.event == Event::end) facts.leaves_at_end = true;
      if (rule.event == Event::after) leads_on_[rule.index] = true;
    });
  }
}

std::optional<Ticks> Model::stay_while(std::uint16_t leaf, const std::vector<Span>* held) const {
  std::optional<Ticks> out;
  each_lead(leaf, held, [&](const Rule& rule) {
    const std::optional<Ticks> time = rule.event == Event::end ? states_[leaf].length : rule.def->after;
    if (time && (!out || *time < *out)) out = time;
  });
  return out;
}

// Calls `visit` with each rule by which a leaf is surely left when its play ends or its time is over. `held`: what the
// inputs are all the while; else they may be anything.
void Model::each_lead(std::uint16_t leaf, const std::vector<Span>* held,
                      const std::function<void(const Rule&)>& visit) const {
  const StateFacts& facts = states_[leaf];
  if (!facts.children.empty() || facts.final) return;
  const auto guard = [&](const Rule& rule) {
    if (!rule.when) return rule.def->when.empty() ? Truth::yes : Truth::maybe;
    if (held == nullptr || !rule.inputs_only) return Truth::maybe;
    const std::vector<std::uint8_t> none(states_.size(), 0);
    const std::vector<Span> unknown = nothing_known();
    return proof::holds(*rule.when, View{held, &unknown, &none, nullptr, nullptr, &traits_});
  };
  std::vector<std::uint16_t> around;
  for (std::uint16_t up = leaf;; up = states_[up].parent) {
    around.insert(around.begin(), up);
    if (up == 0) break;
  }
  for (const std::uint16_t owner : around) {
    bool sealed = false, split = states_[leaf].regions.size() > 0;  // below the owner
    for (std::uint16_t up = leaf; up != owner; up = states_[up].parent) {
      sealed = sealed || states_[up].sealed;
      split = split || states_[states_[up].parent].regions.size() > (states_[up].parent == 0 ? 1U : 0U);
    }
    for (const std::uint16_t index : states_[owner].rules) {
      const Rule& rule = rules_[index];
      if (rule.def == nullptr || guard(rule) == Truth::no) continue;
      const bool lasting = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
      const bool elsewhere = rule.aim == Aim::state ? rule.def->restart || !within(leaf, rule.target)
                                                    : rule.aim == Aim::back && leads_outside(rule);
      if (lasting && !elsewhere) return;  // it may stand, and then the rest of its list is passed over
      const bool free = guard(rule) == Truth::yes && rule.def->during.empty() && !rule.def->during_frames;
      if (!free || sealed || !elsewhere) continue;
      const bool at_end = rule.event == Event::end && facts.steady && facts.may_end && !split;
      if (at_end || (rule.event == Event::after && owner == leaf)) visit(rule);
    }
  }
}

void Model::gather(const StateDef& state, const std::string& path) {
  const auto found = index_.find(path);
  if (found == index_.end()) return;
  defs_[found->second] = &state;
  for (const VarDef& var : state.vars) {
    Variable& out = variables_.emplace_back();
    out.name = var.name.text;
    out.owner = found->second;
    states_[found->second].variables.push_back(static_cast<std::uint16_t>(variables_.size() - 1));
    if (const auto* truth = std::get_if<bool>(&var.start)) {
      out.start = *truth ? 1 : 0;
      out.range = {0, 1};
    } else if (const auto* whole = std::get_if<std::int32_t>(&var.start)) {
      out.kind = Variable::Kind::whole;
      out.start = *whole;
      out.range = {INT32_MIN, INT32_MAX};
    } else {
      out.kind = Variable::Kind::number;
      out.start = static_cast<double>(static_cast<float>(std::get<double>(var.start)));
      out.range = {-std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};
    }
  }
  const std::string below = path.empty() ? "" : path + "/";
  for (const StateDef& each : state.states) gather(each, below + each.name.text);
  for (const RegionDef& region : state.regions)
    for (const StateDef& each : region.states) gather(each, below + region.name.text + "/" + each.name.text);
}

void Model::facts_of_plays(std::uint16_t state) {
  const StateDef& def = *defs_[state];
  StateFacts& facts = states_[state];
  std::vector<std::string> clips;
  if (!def.clip.empty()) clips.push_back(def.clip.text);
  for (const Text& clip : def.sequence) clips.push_back(clip.text);
  if (def.clip_by)
    for (const auto& [choice, clip] : def.clip_by->clips) clips.push_back(clip.text);
  if (def.blend)
    for (const BlendPointDef& point : def.blend->points) clips.push_back(point.clip.text);
  facts.steady = def.speed.empty() && !def.blend;
  facts.plays = !clips.empty() || def.length.has_value();
  // Whether its play surely begins at its begin.
  bool forward = facts.steady;
  if (facts.speed && !def.blend) {
    std::vector<Span> inputs, variables;
    for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i) {
      const std::vector<Span> cells = cells_of(machine_.inputs()[i], {});
      inputs.push_back({cells.front().low, cells.back().high});
    }
    for (const Variable& variable : variables_) variables.push_back(variable.range);
    const std::vector<std::uint8_t> active(states_.size(), 0);
    bool states = false;
    each_term(*facts.speed, [&](const Term& term) { states = states || term.kind == Term::Kind::state; });
    forward = !states && compute(*facts.speed, View{&inputs, &variables, &active, nullptr, nullptr, &traits_}).low >= 0;
  }
  if (def.length) {
    facts.may_end = true;
    facts.length = def.length;
  }
  std::int64_t total = 0;
  for (const std::string& name : clips)
    for (const ClipInfo& clip : machine_.clips()) {
      if (clip.def.name.text != name) continue;
      const PlayMode play = clip.def.play;
      if (!def.pose && def.sequence.empty()) {
        facts.may_end = facts.may_end || play.passes != 0;
        facts.may_loop = facts.may_loop || (play.kind != PlayKind::once && play.passes != 1);
      }
      total += clip.cycle.count * std::max(1, play.passes);
      for (const WindowDef& window : clip.marks.windows) facts.windows.push_back(window.name.text);
      if (def.pose) continue;
      for (const MarkDef& mark : clip.marks.marks)
        for (std::uint16_t c = 0; c < machine_.cues().size(); ++c) {
          if (machine_.cues()[c].name.text != mark.cue.text) continue;
          add_once(facts.cues, c);
          const bool first = (mark.at == MarkAt::frame_begin && mark.frame == 0) ||
                             (mark.at == MarkAt::time && mark.time.count == 0) || mark.at == MarkAt::frames;
          if (first || !forward) add_once(facts.entry_cues, c);
        }
    }
  if (!def.sequence.empty()) facts.may_end = true;
  if (def.pose) facts.may_end = facts.may_loop = false;
  // Of several clips by an input the longest counts only where one is shown: left open.
  if (!clips.empty() && facts.may_end && facts.steady && !def.clip_by && !def.blend) facts.length = Ticks(total);
  if (!facts.steady || (!clips.empty() && (def.clip_by || def.blend))) facts.length.reset();
}

std::vector<Action> Model::actions_of(const std::vector<ActionDef>& all, std::uint16_t owner) const {
  std::vector<Action> out;
  const Vocabulary names = names_at(owner);
  for (const ActionDef& def : all) {
    Action action;
    if (!def.tell.empty()) {
      for (std::uint16_t c = 0; c < machine_.cues().size(); ++c)
        if (machine_.cues()[c].name.text == def.tell.text) action.cue = c;
    } else {
      const std::size_t equals = def.assign.text.find('=');
      std::string name = def.assign.text.substr(0, equals);
      name.erase(std::remove(name.begin(), name.end(), ' '), name.end());
      if (const auto variable = names.variable(name)) action.variable = *variable;
      action.value = bind_term(def.assign.text.substr(equals + 1), names, detail::ExprWords::guard).term;
    }
    out.push_back(std::move(action));
  }
  return out;
}

std::optional<std::uint16_t> Model::find_state(const std::string& path, std::uint16_t owner, bool claim) const {
  for (std::string scope = machine_.states()[owner].path;;) {
    const auto found = index_.find(scope.empty() ? path : scope + "/" + path);
    if (found != index_.end() && !path.empty()) return found->second;
    if (scope.empty()) break;
    const std::size_t slash = scope.rfind('/');
    scope.erase(slash == std::string::npos ? 0 : slash);
  }
  std::optional<std::uint16_t> out;
  for (const auto& [whole, state] : index_)
    if (claim && whole.ends_with("/" + path)) {
      if (out) return std::nullopt;  // which one?
      out = state;
    }
  return out;
}

Vocabulary Model::names_at(std::uint16_t owner, bool claim) const {
  Vocabulary out;
  out.machine = &machine_;
  out.state = [this, owner, claim](const std::string& path) { return find_state(path, owner, claim); };
  out.variable = [this, owner, claim](const std::string& name) -> std::optional<std::uint16_t> {
    for (std::uint16_t up = owner;; up = states_[up].parent) {
      for (const std::uint16_t each : states_[up].variables)
        if (variables_[each].name == name) return each;
      if (up == 0) break;
    }
    std::optional<std::uint16_t> found;
    for (std::uint16_t v = 0; claim && v < variables_.size(); ++v)
      if (variables_[v].name == name) {
        if (found) return std::nullopt;
        found = v;
      }
    return found;
  };
  return out;
}

bool Model::within(std::uint16_t state, std::uint16_t of) const {
  while (states_[state].depth > states_[of].depth) state = states_[state].parent;
  return state == of;
}
bool Model::ending(std::uint16_t state) const {
  for (;; state = states_[state].parent) {
    if (states_[state].final || states_[state].dead) return true;
    if (state == 0) return false;
  }
}

// --- where inputs are cut
// ----------------------------------------------------------------------------------------------

void Model::cut(const Term& term) {
  cells_.clear();
  variable_cells_.clear();
  each_term(term, [&](const Term& each) {
    if (each.kind != Term::Kind::operation || each.operands.size() != 2) return;
    for (const std::size_t side : {0U, 1U}) {
      if (each.operands[1 - side].kind != Term::Kind::constant) continue;
      const Term* named = nullptr;
      std::vector<double> points;
      if (!cut_points(each.operands[side], each.operands[1 - side].value, named, points)) continue;
      std::vector<double>& cuts = (named->kind == Term::Kind::input ? cuts_ : variable_cuts_)[named->index];
      for (const double point : points)
        if (std::isfinite(point) && std::find(cuts.begin(), cuts.end(), point) == cuts.end()) cuts.push_back(point);
    }
  });
}

const std::vector<std::vector<Span>>& Model::cells() const {
  if (cells_.empty())
    for (std::size_t i = 0; i < cuts_.size(); ++i) cells_.push_back(cells_of(machine_.inputs()[i], cuts_[i]));
  return cells_;
}

// --- configurations
// ----------------------------------------------------------------------------------------------------

std::vector<std::uint8_t> Model::active(const Config& config) const {
  std::vector<std::uint8_t> out(states_.size(), 0);
  out[0] = 1;
  for (const std::uint16_t leaf : config.leaves)
    if (leaf != kNoIndex)
      for (std::uint16_t up = leaf; out[up] == 0; up = states_[up].parent) out[up] = 1;
  return out;
}

Span Model::started(std::uint16_t variable) const {
  const Span start{variables_[variable].start, variables_[variable].start};
  return blurred_[variable] ? snapped(variable, start) : start;
}

std::vector<Span> Model::at_start() const {
  std::vector<Span> out;
  for (std::uint16_t v = 0; v < variables_.size(); ++v) out.push_back(started(v));
  return out;
}

std::vector<Span> Model::nothing_known() const {
  std::vector<Span> out;
  for (const Variable& variable : variables_) out.push_back(variable.range);
  return out;
}

Span Model::snapped(std::uint16_t variable, const Span& span) const {
  if (variable_cells_.empty())
    for (std::uint16_t v = 0; v < variables_.size(); ++v) {
      InputDef like;
      if (variables_[v].kind == Variable::Kind::truth) like.kind = BoolInput{};
      if (variables_[v].kind == Variable::Kind::whole) like.kind = IntInput{};
      if (variables_[v].kind == Variable::Kind::number) like.kind = FloatInput{};
      variable_cells_.push_back(cells_of(like, variable_cuts_[v]));
    }
  const std::vector<Span>& cells = variable_cells_[variable];
  Span out = variables_[variable].range;
  if (span.low < cells.front().low || span.high > cells.back().high) return out;
  for (const Span& cell : cells) {
    if (cell.low <= span.low) out.low = cell.low;
    if (cell.high >= span.high) {
      out.high = cell.high;
      break;
    }
  }
  return out;
}

Config Model::abstracted(Config config) const {
  for (std::uint16_t v = 0; v < variables_.size(); ++v)
    if (blurred_[v] && config.variables[v] != variables_[v].range)
      config.variables[v] = snapped(v, config.variables[v]);
  return config;
}

bool Model::take_grown() {
  const bool grown = grown_;
  grown_ = false;
  return grown;
}

std::uint16_t Model::active_child(std::uint16_t state) const {
  for (const std::uint16_t child : states_[state].children)
    if (active_[child] != 0) return child;
  return kNoIndex;
}

// --- what may be taken
// -------------------------------------------------------------------------------------------------

std::uint16_t Model::played_leaf(std::uint16_t owner) const {
  for (std::uint16_t at = owner;;) {
    const bool split = states_[at].regions.size() > (at == 0 ? 1U : 0U);
    if (split) return kNoIndex;
    const std::uint16_t child = active_child(at);
    if (child == kNoIndex) return at;
    at = child;
  }
}

bool Model::fresh(std::uint16_t state) const {
  const std::uint16_t top = now_->fresh[states_[state].region];
  return state != 0 && top != kNoIndex && within(state, top);
}

std::uint16_t Model::first_entered(std::uint16_t target) const {
  std::uint16_t first = target;
  for (std::uint16_t up = states_[target].parent; active_[up] == 0; up = states_[up].parent) first = up;
  return first;
}

bool Model::sealed_off(std::uint16_t owner, std::uint16_t target) const {
  const std::uint16_t first = first_entered(target);
  const std::uint16_t around = states_[first].parent;
  const bool by_region = states_[around].regions.size() > (around == 0 ? 1U : 0U);
  for (std::uint16_t node = 1; node < states_.size(); ++node) {
    if (active_[node] == 0 || !(states_[node].sealed || states_[node].final) || within(owner, node)) continue;
    bool below = node != around && within(node, around);
    if (below && by_region) {
      below = false;
      for (std::uint16_t up = node; up != around; up = states_[up].parent)
        if (states_[up].region == states_[first].region) below = true;
    }
    if (below || (within(around, node) && within(node, owner))) return true;
  }
  return false;
}

std::vector<std::uint16_t> Model::targets_of(const Rule& rule) const {
  if (rule.aim == Aim::state) return {rule.target};
  if (rule.aim == Aim::last) {
    if (active_[rule.target] != 0)
      if (const std::uint16_t child = active_child(rule.target); child != kNoIndex) return {child};
    return states_[rule.target].children;
  }
  // Back: any leaf of its region that ever was active, or the initial one.
  const std::uint16_t region = rule.owner == 0 ? 0 : states_[rule.owner].region;
  std::vector<std::uint16_t> out;
  for (std::uint16_t s = 1; s < states_.size(); ++s)
    if (states_[s].region == region && (states_[s].children.empty() || !states_[s].regions.empty()) &&
        states_[s].restful && left_[s] && !within(s, rule.owner))
      out.push_back(s);
  std::uint16_t initial = machine_.regions()[region].initial;
  while (active_[initial] != 0 && states_[initial].initial != kNoIndex) initial = states_[initial].initial;
  add_once(out, initial);
  return out;
}

Truth Model::rule_holds(const Rule& rule, std::uint16_t target) {
  const std::uint16_t leaf = played_leaf(rule.owner);
  Truth out = Truth::yes;
  switch (rule.event) {
    case Event::none:
      break;
    case Event::pulse:
      out = now_->pulses[rule.pulse];
      break;
    case Event::cue:
      out = rule.cue == kNoIndex ? Truth::no : now_->cues[rule.cue];
      break;
    case Event::end:
      if (leaf == kNoIndex || !states_[leaf].may_end) return Truth::no;
      out = fresh(leaf) && now_->odd[states_[leaf].region] == 0 ? Truth::no : Truth::maybe;
      // At its end it would not have come to rest.
      if (!fresh(leaf) && !now_->timed && !unruly_ && states_[leaf].leaves_at_end) return Truth::no;
      break;
    case Event::loop:
      if (leaf == kNoIndex || !states_[leaf].may_loop || fresh(leaf)) return Truth::no;
      out = now_->looped[states_[leaf].region];
      break;
    case Event::after:
      out = fresh(rule.owner) || (leads_on_[rule.index] && !now_->timed && !unruly_) ? Truth::no : Truth::maybe;
      break;
  }
  if (out == Truth::no) return out;
  if (!rule.def->during.empty() || rule.def->during_frames) {
    if (leaf == kNoIndex || !states_[leaf].plays) return Truth::no;
    if (!rule.def->during.empty() && !contains(states_[leaf].windows, rule.def->during.text)) return Truth::no;
    out = Truth::maybe;
  }
  if (rule.when) {
    const View view{inputs_, &now_->config.variables, &active_, nullptr, nullptr, &traits_};
    const Truth guard = proof::holds(*rule.when, view);
    if (guard == Truth::maybe && !out_->need)
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind == Term::Kind::input && (*split_)[term.index] && !out_->need) out_->need = term.index;
      });
    out = std::min(out, guard);
  }
  if (out != Truth::no && sealed_off(rule.owner, target)) return Truth::no;
  return out;
}

void Model::note_hidden(std::uint16_t state, const std::vector<std::uint32_t>& decided, std::size_t from) {
  if (!noted_) return;
  const auto& rules = states_[state].rules;
  for (std::size_t i = from; i < rules.size(); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    for (const std::uint16_t target : targets_of(rule))
      if (rule_holds(rule, target) != Truth::no)
        for (const std::uint32_t each : decided) seen_notes_.push_back({rule.index, Noted::hidden, each});
  }
}

void Model::look_at(std::uint16_t state, std::vector<std::uint32_t> decided) {
  const auto& rules = states_[state].rules;
  for (std::size_t i = 0; i < rules.size(); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    if (!decided.empty()) {
      note_hidden(state, decided, i);
      break;
    }
    const bool may_stand = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
    bool all_taken = true, all_decide = true, all_sure = true;
    for (const std::uint16_t target : targets_of(rule)) {
      const Truth holds = rule_holds(rule, target);
      if (holds != Truth::yes) all_sure = false;
      if (holds == Truth::no) continue;
      const bool taken = active_[target] == 0 || rule.def->restart;
      seen_notes_.push_back({rule.index, taken ? Noted::taken : Noted::its_turn, 0});
      if (taken) {
        out_->steps.push_back({rule.index, take(rule, target)});
      } else {
        all_taken = false;
        if (!may_stand) all_decide = false;
      }
    }
    if (!all_sure || !all_decide) continue;
    note_hidden(state, {rule.index}, i + 1);
    if (!all_taken) break;  // it stands, so the rest of the list is passed over
    out_->rests = false;
    // Another region may change what this guard read before those below are looked at.
    if (!states_[state].splits_below || rule.inputs_only) decided.push_back(rule.index);
    break;
  }
  const bool split = states_[state].regions.size() > (state == 0 ? 1U : 0U);
  if (!split) {
    if (const std::uint16_t child = active_child(state); child != kNoIndex) look_at(child, decided);
    return;
  }
  for (const std::uint16_t child : states_[state].children)
    if (active_[child] != 0) look_at(child, decided);
}

Model::Looked Model::look(const Moment& moment, const std::vector<Span>& inputs, const std::vector<bool>& split,
                          bool noted) {
  Looked out;
  noted_ = noted;
  now_ = &moment;
  inputs_ = &inputs;
  split_ = &split;
  active_ = active(moment.config);
  out_ = &out;
  seen_notes_.clear();
  look_at(0, {});
  // Where more can be known it is looked at again.
  for (std::size_t i = 0; noted && !out.need && i < seen_notes_.size(); ++i) {
    Notes& notes = notes_[seen_notes_[i].rule];
    notes.possible = true;
    if (seen_notes_[i].what == Noted::hidden)
      notes.deciders[seen_notes_[i].decider] = true;
    else
      notes.its_turn = true;
    if (seen_notes_[i].what == Noted::taken) notes.taken = true;
  }
  return out;
}

// --- taking
// ------------------------------------------------------------------------------------------------------------

void Model::act(const std::vector<Action>& actions) {
  for (const Action& action : actions) {
    if (action.cue != kNoIndex) fired_[action.cue] = made_.told[action.cue] = Truth::yes;
    if (action.variable == kNoIndex) continue;
    const Variable& variable = variables_[action.variable];
    Span value = variable.range;
    bool states = false;  // what is active in the middle of a change is not told apart
    if (action.value) {
      each_term(*action.value, [&](const Term& term) { states = states || term.kind == Term::Kind::state; });
      if (!states)
        value =
            compute(*action.value, View{inputs_, &made_.config.variables, &made_active_, nullptr, nullptr, &traits_});
    }
    const auto stored = [&](double each) {
      if (variable.kind == Variable::Kind::number) each = static_cast<double>(static_cast<float>(each));
      if (variable.kind == Variable::Kind::whole) each = std::clamp(each, variable.range.low, variable.range.high);
      return each == 0 ? 0 : each;  // no negative zero
    };
    value = {stored(value.low), stored(value.high)};
    if (std::isnan(value.low) || std::isnan(value.high)) value = variable.range;
    made_.config.variables[action.variable] = blurred_[action.variable] ? snapped(action.variable, value) : value;
  }
}

void Model::leave(std::uint16_t state) {
  for (const std::uint16_t child : states_[state].children)
    if (made_active_[child] != 0) leave(child);
  act(states_[state].exit);
  if (!left_[state]) left_[state] = grown_ = true;
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  made_active_[state] = 0;
  for (const std::uint16_t region : states_[state].regions) {
    made_.config.leaves[region] = kNoIndex;
    made_.fresh[region] = kNoIndex;
  }
}

void Model::mark_fresh(std::uint16_t state, bool odd) {
  const std::uint16_t region = states_[state].region;
  const std::uint16_t before = made_.fresh[region];
  if (before == kNoIndex || !within(state, before) || made_active_[before] == 0) made_.fresh[region] = state;
  made_.odd[region] = odd ? 1 : 0;
}

void Model::enter(std::uint16_t state, const std::vector<std::uint16_t>& way, std::size_t at) {
  if (state != 0) {
    mark_fresh(state, odd_start_ || !states_[state].steady);
    made_.config.leaves[states_[state].region] = state;
  }
  made_active_[state] = 1;
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  act(states_[state].enter);
  for (const std::uint16_t cue : all_entry_cues_ ? states_[state].cues : states_[state].entry_cues)
    if (made_.told[cue] == Truth::no || fired_[cue] == Truth::no) {
      fired_[cue] = std::max(fired_[cue], Truth::maybe);
      made_.told[cue] = std::max(made_.told[cue], Truth::maybe);
    }
  const std::uint16_t next = at < way.size() ? way[at] : kNoIndex;
  if (!states_[state].regions.empty()) {
    for (const std::uint16_t region : states_[state].regions) {
      made_.odd[region] = 0;
      made_.fresh[region] = kNoIndex;
      if (next != kNoIndex && states_[next].region == region)
        enter(next, way, at + 1);
      else
        enter(machine_.regions()[region].initial, {}, 0);
    }
  } else if (next != kNoIndex) {
    enter(next, way, at + 1);
  } else if (states_[state].initial != kNoIndex) {
    enter(states_[state].initial, {}, 0);
  }
}

Moment Model::take(const Rule& rule, std::uint16_t target) {
  made_ = *now_;
  made_active_ = active_;
  fired_.assign(machine_.cues().size(), Truth::no);
  odd_start_ = rule.def->start.kind != StartKind::begin;
  all_entry_cues_ = rule.def->start.kind == StartKind::frame;
  const std::uint16_t first = first_entered(target);
  const std::uint16_t around = states_[first].parent;
  const bool split = states_[around].regions.size() > (around == 0 ? 1U : 0U);
  for (const std::uint16_t child : states_[around].children)
    if (made_active_[child] != 0 && (!split || states_[child].region == states_[first].region)) {
      leave(child);
      break;
    }
  act(rule.actions);
  std::vector<std::uint16_t> way;
  for (std::uint16_t at = target; at != first; at = states_[at].parent) way.insert(way.begin(), at);
  enter(first, way, 0);
  if (rule.event == Event::pulse) {
    // Every other region may take it in the same round.
    if (one_region_)
      made_.pulses[rule.pulse] = Truth::no;
    else if (made_.pulses[rule.pulse] == Truth::yes)
      made_.pulses[rule.pulse] = Truth::maybe;
  }
  for (std::size_t c = 0; c < fired_.size(); ++c)
    made_.cues[c] =
        one_region_ ? fired_[c] : std::max(std::min(made_.cues[c], Truth::maybe), std::min(fired_[c], Truth::maybe));
  for (Truth& looped : made_.looped) looped = one_region_ ? Truth::no : std::min(looped, Truth::maybe);
  return std::move(made_);
}

Moment Model::begin(const std::vector<Span>& inputs) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config.leaves.assign(machine_.regions().size(), kNoIndex);
  made_.config.variables = at_start();
  made_.pulses.assign(machine_.inputs().size(), Truth::maybe);
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.looped.assign(machine_.regions().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.odd.assign(machine_.regions().size(), 0);
  made_active_.assign(states_.size(), 0);
  fired_.assign(machine_.cues().size(), Truth::no);
  odd_start_ = all_entry_cues_ = false;
  enter(0, {}, 0);
  made_.cues = fired_;
  return std::move(made_);
}

Moment Model::instant(const Config& config, const std::vector<Truth>& pulses, const std::vector<Truth>& looped,
                      const std::vector<Span>& inputs, bool timed) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config = config;
  made_.timed = timed;
  made_.pulses = pulses;
  made_.looped = looped;
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.odd.assign(machine_.regions().size(), 0);
  made_active_ = active(config);
  fired_.assign(machine_.cues().size(), Truth::no);
  for (std::uint16_t s = 0; s < states_.size(); ++s)
    if (timed && (made_active_[s] != 0 || fades_tell_))
      for (const std::uint16_t cue : states_[s].cues) fired_[cue] = made_.told[cue] = Truth::maybe;
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (looped[r] == Truth::yes)
      for (std::uint16_t up = config.leaves[r]; up != kNoIndex; up = states_[up].parent) {
        act(states_[up].each_loop);
        if (up == 0 || states_[up].region != r) break;
      }
  made_.cues = fired_;
  return std::move(made_);
}

}  // namespace mobrin::proof
