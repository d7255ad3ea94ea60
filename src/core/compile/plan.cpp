// Making the plan of a machine.
#include "compile/plan.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>

#include "compile/timeline.hpp"

namespace mobrin::detail {

namespace {

bool steady(const MachineData& m, std::uint16_t state) {
  const PlayData& play = m.states[state].play;
  for (std::uint16_t around = state;; around = m.states[around].parent) {
    if (m.states[around].timer != kNoOffset) return false;
    if (around == 0) break;
  }
  if (play.follows() || play.chooses()) return false;
  return !play.moves() || play.speed > 0;
}

// Whether actions do no more than tell what nobody waits for, and assign.
bool quiet(const MachineData& m, Range<ActionData> actions) {
  const auto all = MachineData::view(m.actions, actions);
  return std::all_of(all.begin(), all.end(),
                     [&](const ActionData& each) { return each.cue == kNoIndex || m.heard[each.cue] == 0; });
}

}  // namespace

std::vector<ExprRef> programs_of(const MachineData& m, const Plan& plan) {
  std::vector<ExprRef> out = m.look_guards;
  for (const PlanGo& go : plan.gos)
    if (go.guard == PlanGo::Guard::program) out.push_back(go.expression);
  for (const ActionData& action : m.actions) out.push_back(action.value);
  for (const StateData& state : m.states) out.push_back(state.play.speed_expression);
  for (const BlendData& blend : m.blends) out.push_back(blend.x), out.push_back(blend.y);
  return out;
}

Plan::Plan(const MachineData& m) : states(m.states.size()) {
  for (const std::uint16_t pulse : m.brief_pulses) {
    const std::uint32_t at = m.inputs[pulse].offset, word = at - at % kWord;
    auto found =
        std::find_if(brief_pulses.begin(), brief_pulses.end(), [&](const WordMask& each) { return each.at == word; });
    if (found == brief_pulses.end()) found = brief_pulses.insert(found, {word, 0});
    reinterpret_cast<std::uint8_t*>(&found->mask)[at - word] = 0xff;
  }
  possible = m.regions.size() <= kMostQuickRegions &&
             std::all_of(m.regions.begin(), m.regions.end(), [](const RegionData& each) { return each.owner == 0; });
  gos.reserve(m.transitions.size());
  guards.reserve(m.transitions.size());
  for (const TransitionData& go : m.transitions) add_go(m, go);
  if (!possible) return;
  paths.reserve(2 * m.states.size());
  records.reserve(2 * m.states.size());
  deeds.reserve(8 * m.states.size() + 4 * m.transitions.size());
  for (std::size_t i = 0; i < gos.size(); ++i) finish_go(m, m.transitions[i], gos[i]);
  for (std::uint16_t s = 0; s < m.states.size(); ++s) {
    states[s].go = {m.states[s].go.begin, m.states[s].go.count};
    add_reads(m, s);
  }
  std::vector<bool> bools(m.block_size);
  for (const InputData& input : m.inputs)
    if (input.kind == InputKind::boolean) bools[input.offset] = true;
  for (const VarData& var : m.vars)
    if (var.type == ValueType::boolean) bools[var.offset] = true;
  const bool root_looks = m.regions.size() == 1 && states[0].go.count > 0;
  for (std::uint16_t s = 1; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    seals = seals || state.sealed;
    StatePlan& plan = states[s];
    const std::size_t path = paths.size();
    for (std::uint16_t each = s; each != 0; each = m.states[each].parent) paths.push_back(each);
    if (root_looks) paths.push_back(0);
    std::reverse(paths.begin() + static_cast<std::ptrdiff_t>(path), paths.end());
    plan.path = since(paths, path);
    plan.parent = state.parent;
    plan.last = state.last;
    std::size_t begin = deeds.size();
    add_leave(m, s);
    plan.leave = since(deeds, begin);
    begin = deeds.size();
    add_enter(m, s);
    plan.enter = since(deeds, begin);
    const StatePlan* const outer = state.parent == 0 ? nullptr : &states[state.parent];
    plan.leaves_all = plan.leaves && (outer == nullptr || outer->leaves_all);
    plan.enters_all = plan.enters && (outer == nullptr || outer->enters_all);
    plan.steady = steady(m, s);
    if (state.last != s) continue;
    add_dispatch(plan);
    if (plan.hears == kNoIndex) add_leaf_gos(m, s, bools);
    begin = deeds.size();
    add_begin(m, s);
    plan.begin = since(deeds, begin);
  }
  for (PlanGo& go : gos) go.sure = go.plain && go.guard == PlanGo::Guard::nothing && !seals;
  add_wholes(m);
}

void Plan::add_go(const MachineData& m, const TransitionData& go) {
  PlanGo& out = gos.emplace_back();
  out.event = go.event;
  out.stands = rule_of(go.event).stands;
  out.restart = go.restart;
  out.target = out.leaf = go.target;
  out.expression = go.guard;
  add_guard(m, out);
  if (go.event != GoEvent::pulse) return;
  out.pulse = m.inputs[go.arg].offset;
  out.buffered = m.inputs[go.arg].buffer > 0;
}

void Plan::finish_go(const MachineData& m, const TransitionData& go, PlanGo& out) {
  out.target_last = m.states[go.target].last;
  while (m.states[out.leaf].initial != kNoIndex) out.leaf = m.states[out.leaf].initial;
  out.region = static_cast<std::uint8_t>(m.states[out.leaf].region);
  // One of the root's may lead into any region, whatever the others are at.
  const bool here = go.owner == 0 ? m.regions.size() == 1 : m.states[go.target].region == m.states[go.owner].region;
  out.plain = go.target_kind == TargetKind::state && go.target != 0 && here && go.during == kNoIndex &&
              go.start == StartKind::begin && go.fade == 0 && go.event != GoEvent::after;
  const std::size_t begin = deeds.size();
  add_actions(m, go.actions, out.plain);
  out.actions = since(deeds, begin);
}

namespace {

// Where a term ends at `end`, its first instruction.
std::size_t begin_of(std::span<const Instruction> code, std::size_t end) {
  std::size_t wanted = 1;
  while (wanted > 0) wanted += static_cast<std::size_t>(operands_of(code[--end].op)) - 1;
  return end;
}

// One term: `x < 3`, `3 < x`, `abs(x) < 3`, `flag`, `not flag`, `in(state)`. What lies in a block is never no number.
std::optional<PlanGuard> guard_of(const MachineData& m, std::span<const Instruction> code) {
  PlanGuard out;
  bool outside = false;
  while (code.size() > 1 && code.back().op == Op::not_) {
    outside = !outside;
    code = code.first(code.size() - 1);
  }
  if (code.size() == 1 && code[0].op == Op::in_state && code[0].arg != 0) {
    const StateData& state = m.states[code[0].arg];
    return PlanGuard{PlanGuard::From::half, outside, m.regions[state.region].leaf, static_cast<double>(code[0].arg),
                     static_cast<double>(state.last)};
  }
  if (code.size() == 1 && code[0].op == Op::load_bool)
    return PlanGuard{PlanGuard::From::byte, !outside, code[0].arg, 0, 0};  // anything but 0
  const bool turned = code.front().op == Op::constant;
  const bool distance = code.size() == 4;
  const std::size_t value = turned ? 1 : 0;
  if (code.size() != (distance ? 4u : 3u)) return std::nullopt;
  if (distance && code[value + 1].op != Op::abs) return std::nullopt;
  const Instruction& constant = turned ? code.front() : code[value + (distance ? 2 : 1)];
  if (constant.op != Op::constant) return std::nullopt;
  out.at = code[value].arg;
  switch (code[value].op) {
    case Op::load_bool:
      out.from = PlanGuard::From::byte;
      break;
    case Op::load_int:
      out.from = PlanGuard::From::whole;
      break;
    case Op::load_float:
      out.from = PlanGuard::From::number;
      break;
    default:
      return std::nullopt;
  }
  constexpr double kMost = std::numeric_limits<double>::infinity();
  const double c = m.expressions.constants[constant.arg];
  if (c != c || c == kMost || c == -kMost) return std::nullopt;
  // Next to 0 lies the least number that a block can hold: a lesser one may count as 0 where denormals do.
  constexpr double kLeast = static_cast<double>(std::numeric_limits<float>::denorm_min());
  const double below = c == 0 ? -kLeast : std::nextafter(c, -kMost), above = c == 0 ? kLeast : std::nextafter(c, kMost);
  const Op op = turned ? mirrored(code.back().op) : code.back().op;
  switch (op) {
    case Op::less:
    case Op::less_equal:
      out.high = op == Op::less ? below : c;
      out.low = distance ? -out.high : -kMost;
      break;
    case Op::greater:
    case Op::greater_equal:
      // Of a distance: outside of what is nearer.
      out.low = distance ? -(op == Op::greater ? c : below) : op == Op::greater ? above : c;
      out.high = distance ? -out.low : kMost;
      out.outside = distance;
      break;
    case Op::equal:
    case Op::not_equal:
      if (distance) return std::nullopt;
      out.low = out.high = c;
      out.outside = op == Op::not_equal;
      break;
    default:
      return std::nullopt;
  }
  out.outside = out.outside != outside;
  return out;
}

}  // namespace

// Terms that are all joined by `and`, or all by `or`; a program for the rest.
void Plan::add_guard(const MachineData& m, PlanGo& go) {
  if (go.expression.empty()) return;
  go.guard = PlanGo::Guard::program;
  auto code = std::span(m.expressions.code).subspan(go.expression.begin, go.expression.count);
  const Op join = code.back().op;
  std::vector<PlanGuard> terms;
  while (code.back().op == join && (join == Op::and_ || join == Op::or_)) {
    // a b and c and: the last term, and what is before it.
    code = code.first(code.size() - 1);
    const std::size_t begin = begin_of(code, code.size());
    const auto term = guard_of(m, code.subspan(begin));
    if (!term) return;
    terms.push_back(*term);
    code = code.first(begin);
  }
  const auto first = guard_of(m, code);
  if (!first) return;
  terms.push_back(*first);
  go.guard = join == Op::or_ && terms.size() > 1 ? PlanGo::Guard::any : PlanGo::Guard::all;
  go.guards = {static_cast<std::uint32_t>(guards.size()), static_cast<std::uint32_t>(terms.size())};
  guards.insert(guards.end(), terms.rbegin(), terms.rend());
}

namespace {

std::uint64_t read_by(const MachineData& m, ExprRef expression) {
  std::uint64_t out = 0;
  for (const Instruction& step : std::span(m.expressions.code).subspan(expression.begin, expression.count))
    if (step.op == Op::load_bool || step.op == Op::load_int || step.op == Op::load_float) out |= read_bit(step.arg);
  return out;
}

}  // namespace

// Parents stand before their children.
void Plan::add_reads(const MachineData& m, std::uint16_t state) {
  StatePlan& out = states[state];
  if (state > 0) out.guards_read = states[m.states[state].parent].guards_read;
  for (const PlanGo& go : MachineData::view(gos, out.go))
    if (rule_of(go.event).lasts) out.guards_read |= read_by(m, go.expression);  // else a change comes too late
  const PlayData& play = m.states[state].play;
  out.play_reads = read_by(m, play.speed_expression);
  if (play.by != kNoIndex) out.play_reads |= read_bit(m.inputs[play.by].offset);
  if (play.blend != kNoIndex) out.play_reads |= read_by(m, m.blends[play.blend].x) | read_by(m, m.blends[play.blend].y);
}

void Plan::add_record(const Cue& record) {
  add(Deed::Does::tell, static_cast<std::uint32_t>(records.size()));
  records.push_back(record);
}

void Plan::add_actions(const MachineData& m, Range<ActionData> actions, bool& plain) {
  plain = plain && quiet(m, actions);
  for (std::uint32_t i = actions.begin; i < actions.begin + actions.count; ++i) {
    if (m.actions[i].cue == kNoIndex) {
      add(Deed::Does::assign, i);
      continue;
    }
    add_record(record_of(m.actions[i]));
  }
}

void Plan::add_slot(const SlotData& slot, std::int32_t speed) {
  add(Deed::Does::store64, slot.playhead, 0);
  if (slot.speed != kNoOffset) add(Deed::Does::store32, slot.speed, speed);
  if (slot.passes != kNoOffset) add(Deed::Does::store16, slot.passes, 0);
}

// See Engine::leave_region and stop_play.
void Plan::add_leave(const MachineData& m, std::uint16_t state) {
  const StateData& data = m.states[state];
  StatePlan& plan = states[state];
  plan.leaves = !data.play.chooses();
  if (data.last == state && data.play.moves() && plan.leaves) {
    const ClipData& clip = m.clips[m.played[data.play.clips.begin].clip];
    const bool spans =
        std::any_of(clip.marks.begin(), clip.marks.end(), [](const MarkData& mark) { return is_span(mark.at); });
    if (spans) add(Deed::Does::end_spans, state);
    add_slot(m.regions[data.region].slot, 0);
  }
  add_actions(m, data.exit, plan.leaves);
  add_record(record_of(Told::leave, state));
  add(Deed::Does::store16, m.regions[data.region].leaf, data.parent == 0 ? kNoIndex : data.parent);
  if (const std::uint32_t child = m.states[data.parent].last_child; child != kNoOffset)
    add(Deed::Does::store16, child, state);
}

// See Engine::enter_own.
void Plan::add_enter(const MachineData& m, std::uint16_t state) {
  const StateData& data = m.states[state];
  StatePlan& plan = states[state];
  plan.enters = true;
  add(Deed::Does::store16, m.regions[data.region].leaf, state);
  if (data.back != kNoOffset) add(Deed::Does::remember, state);
  add_record(record_of(Told::enter, state));
  if (data.timer != kNoOffset) add(Deed::Does::store64, data.timer, 0);
  for (const VarData& var : MachineData::view(m.vars, data.vars)) {
    if (var.type == ValueType::whole)
      add(Deed::Does::store32, var.offset, static_cast<std::int32_t>(var.start));
    else if (var.type == ValueType::number)
      add(Deed::Does::store32, var.offset, std::bit_cast<std::int32_t>(static_cast<float>(var.start) + 0.0f));
    else
      add(Deed::Does::store8, var.offset, var.start != 0 ? 1 : 0);
  }
  add_actions(m, data.enter, plan.enters);
}

// See Engine::enter_inside and start_play: from the beginning, forwards, at a pace of its own.
void Plan::add_begin(const MachineData& m, std::uint16_t state) {
  const StateData& data = m.states[state];
  const PlayData& play = data.play;
  StatePlan& plan = states[state];
  plan.begins = !play.chooses() && !play.follows() && !data.final;
  if (data.restful && m.regions[data.region].rest != kNoOffset)
    add(Deed::Does::store16, m.regions[data.region].rest, state);
  if (!play.moves() || !plan.begins) return;
  plan.begins = play.speed > 0;
  add_slot(m.regions[data.region].slot, play.speed);
  const PlayedClip& played = m.played[play.clips.begin];
  const ClipData& clip = m.clips[played.clip];
  const auto stops = MachineData::view(m.stops, played.stops);
  Range<Firing> firings;
  if (!stops.empty() && stops.front().at == 0) firings = stops.front().forward;
  const Segment& shown = clip.segments.front();
  const auto tell = [&](const MarkData& mark, Edge edge, std::int32_t frame) {
    plan.begins = plan.begins && m.heard[mark.cue] == 0;
    add_record(record_of(mark, state, edge, frame));
  };
  for (std::size_t i = 0; i < clip.marks.size(); ++i) {
    const MarkData& mark = clip.marks[i];
    if (is_span(mark.at)) {
      if (covers(mark, shown)) tell(mark, Edge::begin, shown.frame);
      continue;
    }
    if (mark.at == MarkAt::frame_end) continue;
    for (const Firing& firing : MachineData::view(m.firings, firings))
      if (firing.mark == i) tell(mark, Edge::none, firing.frame);
  }
}

void Plan::add_wholes(const MachineData& m) {
  std::vector<Deed> scratch;
  for (std::uint16_t s = 1; s < m.states.size(); ++s) {
    if (m.states[s].last != s) continue;
    const Range<TransitionData> own = m.states[s].go;
    for (std::uint32_t i = own.begin; i < own.begin + own.count; ++i)
      if (gos[i].plain) add_whole(m, s, gos[i], scratch);
  }
}

// See Engine::go_to.
void Plan::add_whole(const MachineData& m, std::uint16_t leaf, PlanGo& go, std::vector<Deed>& all) {
  const StatePlan& last = states[go.leaf];
  if (!last.steady || !last.begins || !last.enters_all || !states[leaf].leaves_all) return;
  std::uint16_t first = go.target;
  while (m.states[first].parent != 0 &&
         !(leaf >= m.states[first].parent && leaf <= states[m.states[first].parent].last))
    first = m.states[first].parent;
  const std::uint16_t kept = m.states[first].parent;
  all.clear();
  const auto take = [&](Range<Deed> range) {
    for (std::uint32_t i = range.begin; i < range.begin + range.count; ++i) all.push_back(deeds[i]);
  };
  for (std::uint16_t s = leaf; s != kept && s != 0; s = m.states[s].parent) take(states[s].leave);
  take(go.actions);
  bool below = false;
  for (const std::uint16_t s : MachineData::view(paths, last.path)) {
    below = below || s == first;
    if (below) take(states[s].enter);
  }
  take(last.begin);
  const std::size_t begin = deeds.size();
  // What nobody hears is counted; what is stored anew before anybody looks at it needs no store.
  const auto reads = [](const Deed& deed) {
    return deed.does == Deed::Does::assign || deed.does == Deed::Does::end_spans || deed.does == Deed::Does::remember;
  };
  const auto stores = [](const Deed& deed) { return deed.does <= Deed::Does::store64; };
  for (std::size_t i = 0; i < all.size(); ++i) {
    Deed deed = all[i];
    if (deed.does == Deed::Does::tell && records[deed.at].what != Told::cue) {
      deed = {Deed::Does::count, 0, 1};
    } else if (stores(deed)) {
      bool again = false;
      for (std::size_t later = i + 1; later < all.size() && !reads(all[later]) && !again; ++later)
        again = stores(all[later]) && all[later].at == deed.at;
      if (again) continue;
    }
    // Counting may wait for what only stores.
    if (deed.does == Deed::Does::count) {
      std::size_t before = deeds.size();
      while (before > begin && stores(deeds[before - 1])) --before;
      if (before > begin && deeds[before - 1].does == Deed::Does::count) {
        ++deeds[before - 1].value;
        continue;
      }
    }
    deeds.push_back(deed);
  }
  go.whole = since(deeds, begin);
  add_script(m, go);
}

// Stores are gathered by words of the block; nothing reads what is stored before the end.
void Plan::add_script(const MachineData& m, PlanGo& go) {
  const std::size_t begin = patches.size();
  const auto store = [&](std::uint32_t at, std::uint32_t size, const auto& value) {
    const std::uint32_t word = at / kWord * kWord;  // no value lies across two
    auto patch = std::find_if(patches.begin() + static_cast<std::ptrdiff_t>(begin), patches.end(),
                              [&](const Patch& each) { return each.at == word; });
    if (patch == patches.end()) patch = patches.insert(patch, {word, ~std::uint64_t{0}, 0});
    std::memset(reinterpret_cast<std::byte*>(&patch->keep) + (at - word), 0, size);
    std::memcpy(reinterpret_cast<std::byte*>(&patch->value) + (at - word), &value, size);
  };
  Script script;
  const std::size_t told = cues.size();
  for (const Deed& deed : MachineData::view(deeds, go.whole)) {
    switch (deed.does) {
      case Deed::Does::store8:
        store(deed.at, 1, static_cast<std::uint8_t>(deed.value));
        break;
      case Deed::Does::store16:
        store(deed.at, 2, static_cast<std::uint16_t>(deed.value));
        break;
      case Deed::Does::store32:
        store(deed.at, 4, static_cast<std::int32_t>(deed.value));
        break;
      case Deed::Does::store64:
        store(deed.at, 8, deed.value);
        break;
      case Deed::Does::tell: {
        Cue& cue = cues.emplace_back().cue;
        cue = records[deed.at];
        cue.machine = &m;
        cue.ordinal = script.records++;
        break;
      }
      case Deed::Does::count:
        script.records += static_cast<std::uint32_t>(deed.value);
        break;
      case Deed::Does::assign:
      case Deed::Does::end_spans:
      case Deed::Does::remember:
        cues.resize(told);
        patches.resize(begin);
        return;
    }
  }
  script.cues = since(cues, told);
  script.patches = since(patches, begin);
  go.script = static_cast<std::uint32_t>(scripts.size());
  scripts.push_back(script);
}

}  // namespace mobrin::detail
