#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <queue>
#include <utility>

#include "guide.hpp"
#include "machine/machine_data.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

namespace {

constexpr std::uint32_t kNowhere = 100;   // from where no rules lead there
constexpr std::uint32_t kMostAlike = 48;  // moments with the same leaves, where new ones come first
constexpr std::uint32_t kFar = 3;         // is as if so many were alike: a rule more to where it shall come
// Of the letters: what is written of what is not read yet, or several things at a time, is as if so many were alike.
constexpr std::array<std::uint32_t, 4> kPartIsLike = {0, 3, 32, 0};
constexpr std::int64_t kPart = std::int64_t{14'112'000} * 65'536;  // 20 ms of a play
constexpr Ticks kNever{INT64_MAX};                                 // as Instance::next_wake() says it
constexpr Ticks kUntilItComes = kNever;                            // to wait: until something comes due
constexpr Ticks kMoment{705'600};          // 1 ms: between two presses, and before what time brings
constexpr std::uint32_t kMostStays = 16;   // so often it is waited in what is one moment by its key
constexpr std::size_t kMostWaits = 1'000;  // so many instants that bring nothing new are waited through

template <class T>
void put_raw(std::string& out, T value) {
  const std::size_t at = out.size();
  out.resize(at + sizeof value);
  std::memcpy(out.data() + at, &value, sizeof value);
}

// Whether a pulse that was written still waits.
bool is_alive(const Instance& instance, std::uint16_t pulse) {
  const FieldValue value = instance.input_value(pulse);
  const auto* truth = std::get_if<bool>(&value);
  return truth != nullptr && *truth;
}

}  // namespace

Search::Search(const Model& model, SearchLimits limits)
    : model_(model),
      limits_(std::move(limits)),
      instance_(model.machine()),
      cells_(model.cells_to_write()),
      assumed_(model.assumed()),
      silent_(model.machine().cues().size(), Truth::no) {
  always_.assign(model_.machine().inputs().size(), false);
  asked_cues_.assign(model_.machine().cues().size(), false);
  for (std::uint16_t v = 0; v < model_.variables().size(); ++v) counts_.push_back(model_.counts_up(v));
  for (const Term& term : assumed_) limits_.reads.push_back(&term);
  for (const Term* term : limits_.reads)
    each_term(*term, [&](const Term& each) {
      if (each.kind == Term::Kind::input || each.kind == Term::Kind::pulse) always_[each.index] = true;
      if (each.kind == Term::Kind::cue) asked_cues_[each.index] = true;
    });
  held_against_ = model_.related_inputs();
  in_a_part_ = std::ranges::count(model_.left_out().regions, true) > 0;
  if (in_a_part_) listened_ |= listen_to(Told::loop);
  for (std::uint16_t s = 0; s < model_.states().size(); ++s) {
    Ticks longest{};
    for (const std::uint32_t rule : model_.states()[s].rules)
      if (const GoDef* go = model_.rules()[rule].def; go != nullptr && go->after)
        longest = std::max(longest, *go->after);
    // A claim of a time hangs on when who lingers is done.
    if (const StateDef* def = model_.definition_of(s);
        limits_.patience && def != nullptr && def->final && !model_.leaves_out(s))
      longest = std::max(longest, def->linger);
    if (longest.count > 0) timed_.emplace_back(s, longest);
  }
}

std::string Search::key_of(const Instance& instance, const Config& config, const Node& node) const {
  const detail::MachineData& m = model_.machine().data();
  const std::byte* block = instance.block().data();
  std::string out;
  const Apart& left_out = model_.left_out();
  const auto found = letters_.find(node.leaves);
  const bool whole = found != letters_.end() && found->second.whole;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    if (left_out.regions[r]) continue;
    put_raw(out, instance.active(r));
    put_raw(out, instance.playhead(r).value_or(-kPart) / (node.meets ? 1 : kPart));
    // Which of its passes it is in.
    if (m.regions[r].slot.passes != detail::kNoOffset)
      put_raw(out, read_at<std::uint16_t>(block, m.regions[r].slot.passes));
  }
  for (std::uint16_t v = 0; v < config.variables.size(); ++v)
    if (!left_out.variables[v]) put_raw(out, counts_[v] ? model_.cell_of(v, config.variables[v]) : config.variables[v]);
  for (std::uint16_t i = 0; i < m.inputs.size(); ++i) {
    const detail::InputKind kind = m.inputs[i].kind;
    if (kind == detail::InputKind::pulse) {
      out += is_alive(instance, i) ? '1' : '0';
    } else if (!whole || (node.held && (closer_ || found->second.read_later[i])) || speeds_read(node.leaves, i)) {
      const std::size_t size = kind == detail::InputKind::whole || kind == detail::InputKind::number ? 4 : 1;
      out.append(reinterpret_cast<const char*>(block + m.inputs[i].offset), size);
    }
  }
  for (std::uint16_t s = 0; s < m.states.size(); ++s)
    for (const std::uint32_t offset : {m.states[s].back, m.states[s].last_child})
      if (offset != detail::kNoOffset && (s == 0 || !left_out.regions[m.states[s].region]))
        put_raw(out, read_at<std::uint16_t>(block, offset));
  for (std::uint16_t r = 0; r < m.regions.size(); ++r)
    if (m.regions[r].rest != detail::kNoOffset && !left_out.regions[r])
      put_raw(out, read_at<std::uint16_t>(block, m.regions[r].rest));
  // Times in coarse steps.
  const Ticks now = instance.now(), wake = instance.next_wake();
  out += wake == kNever ? 'n' : wake - now <= kMoment ? 'c' : 'f';
  for (std::size_t i = 0; i < timed_.size(); ++i) {
    const std::int64_t part = std::max<std::int64_t>(1, timed_[i].second.count / 24);
    put_raw(out, std::min<std::int64_t>(25, (now - node.entered[i]).count / part));
  }
  if (limits_.memory_is_time && node.memory != 0)
    put_raw(out,
            1 + (now.count - node.memory) / std::max<std::int64_t>(1, limits_.patience.value_or(kMoment).count / 48));
  else
    put_raw(out, node.memory);
  out += node.held ? '2' : node.written ? '1' : '0';
  return out;
}

// A play that is held or hurried is another moment.
bool Search::speeds_read(const Indices& leaves, std::uint16_t input) const {
  bool out = false;
  for (const std::uint16_t leaf : leaves)
    if (leaf != kNoIndex && model_.states()[leaf].speed)
      each_term(*model_.states()[leaf].speed,
                [&](const Term& term) { out = out || (term.kind == Term::Kind::input && term.index == input); });
  return out;
}

void Search::write(Instance& instance, const Press& press) const {
  const auto inputs = model_.machine().inputs();
  for (const auto& [input, value] : press.values)
    (void)instance.set_by_name(inputs[input].name.text, field_of(inputs[input], value));
  for (const std::uint16_t pulse : press.pulses) (void)instance.pulse_by_name(inputs[pulse].name.text);
}

Verdict Search::look(Node& node, Ticks after, const Watch& watch) {
  told_.clear();
  read(model_, instance_, before_);
  const bool settles = node.written || instance_.next_wake() <= instance_.now() + after;
  rounds_.clear();
  const auto collect = [&](const Cue& cue) { (cue.what == Told::loop ? rounds_ : told_).push_back(cue); };
  (void)instance_.advance(after, collect, listened_);
  read(model_, instance_, now_);
  pulses_.assign(now_.inputs.size(), Truth::no);
  cues_ = silent_;
  for (const std::uint16_t pulse : node.press.pulses) pulses_[pulse] = Truth::yes;
  for (const Cue& cue : told_)
    if (cue.what == Told::cue && cue.edge != mobrin::Edge::end && cue.at == instance_.now())
      cues_[cue.cue] = Truth::yes;
  Seen seen{instance_,
            told_,
            node.press,
            before_.view(model_, pulses_, &silent_),
            now_.view(model_, pulses_, &cues_),
            now_.config,
            node.parent,
            node.memory,
            settles};
  const Verdict verdict = watch(seen);
  if (verdict == Verdict::ends) return verdict;
  node.leaves = now_.config.leaves;
  for (std::size_t r = 0; r < node.leaves.size(); ++r)
    if (model_.left_out().regions[r]) node.leaves[r] = kNoIndex;
  const Letters& letters = letters_at(node.leaves);
  node.at = instance_.now();
  const auto is_read_later = [&](const auto& each) { return bool{letters.read_later[each.first]}; };
  node.held = node.parent != UINT32_MAX && node.written && node.press.pulses.empty() && told_.empty() &&
              (closer_ || (letters.whole && std::ranges::any_of(node.press.values, is_read_later)));
  node.memory = seen.memory;
  for (const Cue& cue : told_)
    for (std::size_t i = 0; i < timed_.size(); ++i)
      if (cue.what == Told::enter && cue.state == timed_[i].first) node.entered[i] = cue.at;
  key_ = key_of(instance_, now_.config, node);
  node.key = std::hash<std::string>{}(key_);
  return verdict;
}

// Whether the run that only waits has come to a moment with this key before, and it is waited for what tells the two
// apart: times are coarse in keys, and a loop may come round within such a step.
bool Search::came_round(const Node& node) const {
  const Met& met = seen_.at(key_);
  const auto waited = waited_.find(node.run);
  return met.run == node.run && met.at < node.at && (waited == waited_.end() || waited->second < node.at) &&
         !awaited(node).empty();
}

std::vector<Ticks> Search::awaited(const Node& node) const {
  std::vector<Ticks> out;
  for (std::size_t i = 0; i < timed_.size(); ++i)
    if (now_.active[timed_[i].first] == 1 && node.at - node.entered[i] < timed_[i].second)
      out.push_back(node.entered[i] + timed_[i].second);
  if (limits_.memory_is_time && limits_.patience && node.memory != 0)
    out.push_back(Ticks(node.memory - 1) + *limits_.patience);
  return out;
}

// Whether all that came of the last look is in what is left out.
bool Search::was_elsewhere() const {
  const auto lies_there = [&](const Cue& cue) { return model_.leaves_out(cue.state); };
  return told_.size() + rounds_.size() > 0 && std::ranges::all_of(told_, lies_there) &&
         std::ranges::all_of(rounds_, lies_there);
}

// Whether a play that is not left out may bring something as it moves on.
bool Search::plays_bring_something(const Node& node) const {
  return std::ranges::any_of(node.leaves, [&](std::uint16_t leaf) {
    if (leaf == kNoIndex) return false;
    const StateFacts& facts = model_.states()[leaf];
    return facts.may_end || facts.final || model_.machine().states()[leaf].uses_loops || !facts.cues.empty() ||
           !facts.layer_cues.empty() || !facts.windows.empty();
  });
}

Verdict Search::wait(Node& node, const Watch& watch) {
  const auto plays = [&] {
    std::vector<std::optional<std::int64_t>> out;
    for (std::uint16_t r = 0; r < instance_.region_count() && in_a_part_; ++r)
      if (!model_.left_out().regions[r]) out.push_back(instance_.playhead(r));
    return out;
  };
  for (std::size_t i = 0; i < kMostWaits; ++i) {
    came_ = instance_.next_wake();
    if (came_ == kNever) return Verdict::ends;
    moves_ += i > 0 ? 1 : 0;
    const auto before = plays();
    const Verdict verdict = look(node, came_ - instance_.now(), watch);
    if (verdict != Verdict::goes_on || !was_elsewhere()) return verdict;
    if (!awaited(node).empty() || (plays_bring_something(node) && before != plays())) continue;
    came_ = kNever;
    return Verdict::ends;
  }
  cut_short_ = true;
  return Verdict::ends;
}

// From a moment that has come round on, until there is one that is new by its key.
Verdict Search::wait_on(Node& node, const Watch& watch) {
  const std::vector<Ticks> due = awaited(node);
  for (std::size_t i = 0; i < kMostWaits; ++i) {
    ++moves_;
    const Verdict verdict = wait(node, watch);
    waited_[node.run] = instance_.now();
    if (verdict != Verdict::goes_on || is_new(node)) return verdict;
    const std::vector<Ticks> left = awaited(node);
    if (std::ranges::none_of(due, [&](Ticks each) { return std::ranges::count(left, each) > 0; })) return Verdict::ends;
  }
  cut_short_ = true;
  return Verdict::ends;
}

bool Search::move(std::optional<std::uint32_t> from, const Press& press, Ticks delay, Ticks after, const Watch& watch,
                  bool meets) {
  ++moves_;
  if (from)
    (void)instance_.restore(moments_[*from].block);
  else
    instance_ = Instance(model_.machine());
  if (delay.count > 0)
    (void)instance_.advance(
        delay, [](const Cue&) {}, listened_);
  unwritten_.assign(instance_.block().begin(), instance_.block().end());
  write(instance_, press);
  // What changes nothing is no instant.
  if (from && !press.empty() && std::equal(unwritten_.begin(), unwritten_.end(), instance_.block().begin()))
    return false;
  Node node;
  node.parent = from.value_or(UINT32_MAX);
  node.run = from && press.empty() ? moments_[*from].run : ++runs_;
  node.press = press;
  node.written = !press.empty() || !from;
  node.memory = from ? moments_[*from].memory : 0;
  node.meets = meets || (from && moments_[*from].meets);
  node.entered = from ? moments_[*from].entered : std::vector<Ticks>(timed_.size());
  const bool waits = from && press.empty(), for_what_comes = after == kUntilItComes;
  Verdict verdict = for_what_comes ? wait(node, watch) : look(node, after, watch);
  if (for_what_comes) moments_[*from].due = came_;
  if (verdict == Verdict::ends) return false;
  // Who waits may come to what is too near to be told from where it was.
  const bool stays = waits && moments_[*from].key == node.key;
  if (stays) node.stays = moments_[*from].stays + 1;
  const bool fresh = is_new(node) || (stays && node.stays < kMostStays);
  if (verdict != Verdict::found && !follows_ && !fresh) {
    if (!for_what_comes || !came_round(node)) return false;
    verdict = wait_on(node, watch);
    if (verdict == Verdict::ends) return false;
  }
  const std::uint32_t off = far_from_numbers(now_.config);
  std::vector<bool> apart = new_states_first_ ? pulses_alive() : std::vector<bool>();
  if (node.meets) apart.push_back(true);
  node.alike = met_[{node.leaves, off, std::move(apart)}]++;
  // Who only waits is as new as before.
  if (waits) node.alike = std::min(node.alike, moments_[*from].alike);
  if (!distances_.empty()) {
    node.distance = kNowhere;
    for (const std::uint16_t leaf : node.leaves)
      if (leaf != kNoIndex) node.distance = std::min(node.distance, distances_[leaf]);
  }
  if (limits_.guide != nullptr) {
    const Guide::At* place = limits_.guide->find(node.leaves, node.memory != 0);
    node.distance = place != nullptr ? place->distance : kNowhere;
  }
  node.distance += off;
  if (new_states_first_ && !follows_ && verdict != Verdict::found && node.alike >= kMostAlike) return false;
  node.block.assign(instance_.block().begin(), instance_.block().end());
  moments_.push_back(std::move(node));
  return verdict == Verdict::found;
}

std::vector<bool> Search::pulses_alive() const {
  std::vector<bool> out;
  for (std::uint16_t i = 0; i < model_.machine().inputs().size(); ++i)
    out.push_back(std::holds_alternative<PulseInput>(model_.machine().inputs()[i].kind) && is_alive(instance_, i));
  return out;
}

void Search::look_closer() {
  closer_ = true;
  letters_.clear();
  new_states_first_ = false;
  distances_.clear();
  numbers_.clear();
}

void Search::follow_guide() {
  closer_ = new_states_first_ = true;
  letters_.clear();
  distances_.clear();
  numbers_.clear();
}

void Search::leave_guide(std::vector<bool> writes) {
  limits_.guide = nullptr;
  limits_.writes = std::move(writes);
  closer_ = new_states_first_ = false;
  letters_.clear();
}

void Search::prefer_new_states(const std::vector<bool>& goals, Numbers numbers) {
  new_states_first_ = true;
  numbers_ = std::move(numbers);
  distances_.clear();
  if (std::find(goals.begin(), goals.end(), true) != goals.end()) distances_ = model_.distances_to(goals, kNowhere);
}

std::optional<std::uint32_t> Search::run(const Watch& watch) {
  forget();
  const auto found = search(std::nullopt, watch);
  kept_ = moments_.size();
  return found;
}

std::optional<std::uint32_t> Search::go_on(std::optional<std::uint32_t> from, const Watch& watch) {
  const std::size_t before = moments_.size();
  const auto found = search(from, watch);
  kept_ = moments_.size() - before;
  std::vector<Node> way;
  for (std::uint32_t n = found.value_or(UINT32_MAX); n != UINT32_MAX && n >= before; n = moments_[n].parent)
    way.push_back(moments_[n]);
  moments_.resize(before);
  for (std::size_t i = way.size(); i-- > 0;) {
    if (i + 1 < way.size()) way[i].parent = static_cast<std::uint32_t>(moments_.size() - 1);
    moments_.push_back(std::move(way[i]));
  }
  return found ? std::optional(static_cast<std::uint32_t>(moments_.size() - 1)) : std::nullopt;
}

std::optional<std::uint32_t> Search::search(std::optional<std::uint32_t> from, const Watch& watch) {
  const std::size_t before = moments_.size();
  seen_.clear();
  waited_.clear();
  met_.clear();
  moves_ = 0;
  exhausted_ = cut_short_ = false;
  const auto last = [&] { return static_cast<std::uint32_t>(moments_.size() - 1); };
  if (!from && move(std::nullopt, {}, {}, {}, watch)) return last();
  const Letters& first = letters_at(Indices(model_.machine().regions().size(), kNoIndex));
  for (std::uint32_t i = 0; !from && i < first.presses.size(); ++i)
    if ((!new_states_first_ || std::binary_search(first.parts[0].begin(), first.parts[0].end(), i)) &&
        move(std::nullopt, first.presses[i], {}, {}, watch))
      return last();
  // In the order in which they were found; of who waits for something, those first that have waited longest.
  struct Open {
    std::uint32_t moment;
    std::size_t part;
  };
  const auto later = [&](const Open& a, const Open& b) {
    const auto rank = [&](const Open& open) {
      const Node& node = moments_[open.moment];
      const std::int64_t waited = limits_.memory_is_time && node.memory != 0 ? node.at.count - node.memory : -2;
      const std::uint32_t alike = node.alike + kPartIsLike[open.part];
      return std::tuple(new_states_first_ ? alike + kFar * node.distance : 0, -waited, open.moment);
    };
    return rank(a) > rank(b);
  };
  std::priority_queue<Open, std::vector<Open>, decltype(later)> open(later);
  const std::size_t part = new_states_first_ ? 0 : kAllParts;
  if (from) open.push({*from, part});
  for (auto known = static_cast<std::uint32_t>(before);;) {
    while (known < moments_.size()) open.push({known++, part});
    exhausted_ = open.empty() && !new_states_first_ && !cut_short_;
    if (open.empty() || moments_.size() - before > limits_.nodes || moves_ > limits_.moves) return std::nullopt;
    const Open next = open.top();
    open.pop();
    if (expand(next.moment, next.part, watch)) return last();
    if (next.part + 1 < kAllParts) open.push({next.moment, next.part + 1});
  }
}

// Tries all that may come after a moment; true: found.
bool Search::expand(std::uint32_t n, std::size_t part, const Watch& watch) {
  (void)instance_.restore(moments_[n].block);
  const Ticks now = instance_.now(), wake = instance_.next_wake();
  const bool waits = part == 0 || part == kAllParts;
  if (waits && wake > now && wake != kNever && move(n, {}, {}, kUntilItComes, watch)) return true;
  const Ticks due = moments_[n].due;
  const bool comes = due != kNever;
  if (waits && comes && due - now > kMoment + kMoment && move(n, {}, {}, due - now - kMoment, watch)) return true;
  if (waits && limits_.patience && (!comes || due - now > *limits_.patience) &&
      move(n, {}, {}, *limits_.patience, watch))
    return true;
  if (moments_[n].held) return false;
  if (closer_ && waits) {
    (void)instance_.restore(moments_[n].block);
    for (const Ticks wait : coincidences(moments_[n]))
      if (move(n, {}, {}, wait, watch, true)) return true;
  }
  // Two presses need two ticks, and what comes between them comes first.
  const Ticks delay = moments_[n].written ? kMoment : Ticks{};
  if (comes && due <= now + delay) return false;
  const Letters& letters = letters_at(moments_[n].leaves);
  const std::size_t count = part == kAllParts ? letters.presses.size() : letters.parts[part].size();
  for (std::size_t i = 0; i < count; ++i)
    if (moves_ <= limits_.moves &&
        move(n, letters.presses[part == kAllParts ? i : letters.parts[part][i]], delay, {}, watch))
      return true;
  return false;
}

void add_numbers(const Term& term, Search::Numbers& out) {
  each_term(term, [&](const Term& each) {
    if (each.kind == Term::Kind::operation && compares(each.op) && each.operands[0].kind == Term::Kind::variable &&
        each.operands[1].kind == Term::Kind::constant)
      out.emplace_back(each.operands[0].index, each.operands[1].value);
  });
}

std::uint32_t Search::far_from_numbers(const Config& config) const {
  double out = 0;
  for (const auto& [variable, number] : numbers_)
    out += std::min(std::abs(config.variables[variable].low - number), double{kNowhere});
  return static_cast<std::uint32_t>(out);
}

bool Search::has_met(std::uint16_t leaf) const {
  return std::any_of(met_.begin(), met_.end(),
                     [&](const auto& each) { return std::ranges::count(std::get<0>(each.first), leaf) > 0; });
}

bool Search::breaks_assumed(const Seen& seen) const {
  return std::any_of(assumed_.begin(), assumed_.end(),
                     [&](const Term& term) { return proof::holds(term, seen.before) == Truth::no; });
}

}  // namespace mobrin::proof
