#include "search.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <queue>

#include "machine/machine_data.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostLetters = 240;
constexpr std::uint32_t kNowhere = 100;   // from where no rules lead there
constexpr std::uint32_t kMostAlike = 48;  // moments with the same leaves, where new ones come first
constexpr std::uint32_t kFar = 3;         // is as if so many were alike: a rule more to where it shall come
// Of the letters: what is written of what is not read yet, or several things at a time, is as if so many were alike.
constexpr std::array<std::uint32_t, 4> kPartIsLike = {0, 3, 32, 0};
// Rounds of a loop on which nothing hangs are no moments of their own.
constexpr Listening kListened = kGameRecords | listen_to(Told::enter) | listen_to(Told::leave);
constexpr std::int64_t kPart = std::int64_t{14'112'000} * 65'536;  // 20 ms of a play
constexpr Ticks kMoment{705'600};  // 1 ms: between two presses, and before what time brings

// A value within a span that reads well.
double sample(const Span& span, double start) {
  for (const double each : {start, 0.0, 1.0, -1.0})
    if (each >= span.low && each <= span.high) return each;
  double low = span.low, high = span.high;
  if (low < -1e9) low = std::min(high - 1, std::max(low, high - 10));
  if (high > 1e9) high = std::max(low + 1, std::min(high, low + 10));
  const double middle = low + (high - low) / 2;
  for (double digits = 1; digits <= 1e6; digits *= 10) {
    const double near = std::round(middle * digits) / digits;
    if (near >= span.low && near <= span.high && static_cast<double>(static_cast<float>(near)) >= span.low &&
        static_cast<double>(static_cast<float>(near)) <= span.high)
      return near;
  }
  return static_cast<double>(static_cast<float>(span.low));
}

double start_of(const InputDef& input) {
  if (const auto* truth = std::get_if<BoolInput>(&input.kind)) return truth->start ? 1 : 0;
  if (const auto* whole = std::get_if<IntInput>(&input.kind)) return whole->start;
  if (const auto* number = std::get_if<FloatInput>(&input.kind)) return number->start;
  if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
    for (std::size_t i = 0; i < choice->choices.size(); ++i)
      if (choice->choices[i].text == choice->start.text) return static_cast<double>(i);
  return 0;
}

FieldValue field_of(const InputDef& input, double value) {
  if (std::holds_alternative<BoolInput>(input.kind)) return value != 0;
  if (std::holds_alternative<IntInput>(input.kind)) return static_cast<std::int64_t>(value);
  if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
    return choice->choices[static_cast<std::size_t>(value)].text;
  return value;
}

template <class T>
void put_raw(std::string& out, T value) {
  const std::size_t at = out.size();
  out.resize(at + sizeof value);
  std::memcpy(out.data() + at, &value, sizeof value);
}

}  // namespace

Search::Search(const Model& model, SearchLimits limits)
    : model_(model),
      limits_(std::move(limits)),
      instance_(model.machine()),
      assumed_(model.assumed()),
      silent_(model.machine().cues().size(), Truth::no) {
  always_.assign(model_.machine().inputs().size(), false);
  for (const Term& term : assumed_) limits_.reads.push_back(&term);
  for (const Term* term : limits_.reads)
    each_term(*term, [&](const Term& each) {
      if (each.kind == Term::Kind::input || each.kind == Term::Kind::pulse) always_[each.index] = true;
    });
  for (std::uint16_t s = 0; s < model_.states().size(); ++s) {
    Ticks longest{};
    for (const std::uint32_t rule : model_.states()[s].rules)
      if (const GoDef* go = model_.rules()[rule].def; go != nullptr && go->after)
        longest = std::max(longest, *go->after);
    if (longest.count > 0) timed_.emplace_back(s, longest);
  }
}

std::vector<bool> Search::read_from(const Indices& leaves, bool further) const {
  std::vector<bool> out = always_, seen(model_.states().size(), false);
  std::vector<std::uint16_t> open;
  const auto visit = [&](std::uint16_t state) {
    for (std::uint16_t up = state;; up = model_.states()[up].parent) {
      if (seen[up]) break;
      seen[up] = true;
      open.push_back(up);
      if (up == 0) break;
    }
  };
  const auto note = [&](const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::input) out[each.index] = true;
    });
  };
  for (const std::uint16_t leaf : leaves)
    if (leaf != kNoIndex) visit(leaf);
  visit(0);
  const std::size_t active = open.size();
  for (std::size_t i = 0; i < open.size(); ++i) {
    const StateFacts& facts = model_.states()[open[i]];
    if (facts.speed) note(*facts.speed);
    for (const std::uint32_t index : facts.rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.when) note(*rule.when);
      if (rule.pulse != kNoIndex) out[rule.pulse] = true;
      for (const Action& action : rule.actions)
        if (action.value) note(*action.value);
      // One rule further: what it leads to may lead on at once.
      if (further && i < active && rule.target != 0) {
        visit(rule.target);
        for (std::uint16_t down = rule.target; model_.states()[down].initial != kNoIndex;)
          visit(down = model_.states()[down].initial);
      }
    }
  }
  return out;
}

const Search::Letters& Search::letters_at(const Indices& leaves) {
  const auto [found, fresh] = letters_.try_emplace(leaves);
  if (fresh) {
    const bool begun = std::any_of(leaves.begin(), leaves.end(), [](auto leaf) { return leaf != kNoIndex; });
    const std::vector<bool> all(model_.machine().inputs().size(), true);
    std::vector<bool> read = begun ? read_from(leaves, true) : all;
    for (std::size_t i = 0; i < limits_.writes.size(); ++i) read[i] = read[i] && limits_.writes[i];
    found->second = make_letters(read, begun ? read_from(leaves, false) : all);
  }
  return found->second;
}

Search::Letters Search::make_letters(const std::vector<bool>& read, const std::vector<bool>& own) const {
  const auto inputs = model_.machine().inputs();
  const auto& cells = model_.fine_cells();
  std::vector<std::uint16_t> pulses;
  std::vector<std::vector<double>> samples(inputs.size());
  std::size_t combinations = 1;
  for (std::uint16_t i = 0; i < inputs.size(); ++i) {
    if (!read[i]) continue;
    if (std::holds_alternative<PulseInput>(inputs[i].kind)) {
      pulses.push_back(i);
      continue;
    }
    for (const Span& cell : cells[i]) samples[i].push_back(sample(cell, start_of(inputs[i])));
    // What is never compared with a constant may be compared with something else.
    if (cells[i].size() == 1 && !cells[i][0].point())
      for (const double end : {cells[i][0].low, cells[i][0].high}) {
        const double value = sample({end, end}, end);
        if (std::abs(value) < 1e6 && value != samples[i][0]) samples[i].push_back(value);
      }
    combinations = std::min<std::size_t>(combinations * std::max<std::size_t>(1, samples[i].size()), 1'000'000);
  }
  Letters out;
  out.whole = combinations * (pulses.size() + 1) <= kMostLetters;
  std::vector<Press> values = {{}};
  for (std::uint16_t i = 0; i < inputs.size(); ++i) {
    if (samples[i].size() < 2) continue;
    if (!out.whole) {
      for (const double value : samples[i]) values.push_back({{{i, value}}, {}});
      continue;
    }
    std::vector<Press> more;
    for (const Press& each : values)
      for (const double value : samples[i]) {
        more.push_back(each);
        more.back().values.emplace_back(i, value);
      }
    values = std::move(more);
  }
  for (const Press& each : values)
    if (!each.empty()) out.presses.push_back(each);
  for (const std::uint16_t pulse : pulses) {
    out.presses.push_back({{}, {pulse}});
    for (const Press& each : values)
      if (!each.empty() && out.presses.size() < 2 * kMostLetters) {
        out.presses.push_back(each);
        out.presses.back().pulses.push_back(pulse);
      }
  }
  // What is least unlike the start is tried first.
  const auto size = [&](const Press& press) {
    return press.pulses.size() +
           static_cast<std::size_t>(std::count_if(press.values.begin(), press.values.end(), [&](const auto& each) {
             return each.second != start_of(inputs[each.first]);
           }));
  };
  std::stable_sort(out.presses.begin(), out.presses.end(),
                   [&](const Press& a, const Press& b) { return size(a) < size(b); });
  for (std::uint32_t i = 0; i < out.presses.size(); ++i) {
    const Press& press = out.presses[i];
    const bool near =
        std::all_of(press.values.begin(), press.values.end(), [&](const auto& each) { return own[each.first]; }) &&
        std::all_of(press.pulses.begin(), press.pulses.end(), [&](std::uint16_t each) { return own[each]; });
    out.parts[size(press) > 1 ? 2 : near ? 0 : 1].push_back(i);
  }
  return out;
}

std::string Search::key_of(const Instance& instance, const Config& config, const Node& node) const {
  const detail::MachineData& m = model_.machine().data();
  const std::byte* block = instance.block().data();
  std::string out;
  const auto found = letters_.find(config.leaves);
  const bool whole = found != letters_.end() && found->second.whole;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    put_raw(out, instance.active(r));
    put_raw(out, instance.playhead(r).value_or(-kPart) / kPart);
    // Which of its passes it is in.
    if (m.regions[r].slot.passes != detail::kNoOffset)
      put_raw(out, read_at<std::uint16_t>(block, m.regions[r].slot.passes));
  }
  for (const Span& value : config.variables) put_raw(out, value);
  for (std::uint16_t i = 0; i < m.inputs.size(); ++i) {
    const detail::InputKind kind = m.inputs[i].kind;
    if (kind == detail::InputKind::pulse) {
      const FieldValue alive = instance.input_value(i);
      const auto* truth = std::get_if<bool>(&alive);
      out += truth != nullptr && *truth ? '1' : '0';
    } else if (!whole || speeds_read(config.leaves, i)) {
      const std::size_t size = kind == detail::InputKind::whole || kind == detail::InputKind::number ? 4 : 1;
      out.append(reinterpret_cast<const char*>(block + m.inputs[i].offset), size);
    }
  }
  for (const detail::StateData& state : m.states)
    for (const std::uint32_t offset : {state.back, state.last_child})
      if (offset != detail::kNoOffset) put_raw(out, read_at<std::uint16_t>(block, offset));
  for (const detail::RegionData& region : m.regions)
    if (region.rest != detail::kNoOffset) put_raw(out, read_at<std::uint16_t>(block, region.rest));
  // Times in coarse steps.
  const Ticks now = instance.now(), wake = instance.next_wake();
  out += wake.count == INT64_MAX ? 'n' : wake - now <= kMoment ? 'c' : 'f';
  for (std::size_t i = 0; i < timed_.size(); ++i) {
    const std::int64_t part = std::max<std::int64_t>(1, timed_[i].second.count / 24);
    put_raw(out, std::min<std::int64_t>(25, (now - node.entered[i]).count / part));
  }
  if (limits_.memory_is_time && node.memory != 0)
    put_raw(out,
            1 + (now.count - node.memory) / std::max<std::int64_t>(1, limits_.patience.value_or(kMoment).count / 48));
  else
    put_raw(out, node.memory);
  out += node.written ? '1' : '0';
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

bool Search::move(std::optional<std::uint32_t> from, const Press& press, Ticks delay, Ticks after, const Watch& watch) {
  ++moves_;
  if (from)
    (void)instance_.restore(moments_[*from].block);
  else
    instance_ = Instance(model_.machine());
  const auto collect = [&](const Cue& cue) { told_.push_back(cue); };
  if (delay.count > 0) (void)instance_.advance(delay, collect, kListened);
  told_.clear();
  unwritten_.assign(instance_.block().begin(), instance_.block().end());
  write(instance_, press);
  // What changes nothing is no instant.
  if (from && !press.empty() && std::equal(unwritten_.begin(), unwritten_.end(), instance_.block().begin()))
    return false;
  read(model_, instance_, before_);
  (void)instance_.advance(after, collect, kListened);
  read(model_, instance_, now_);
  pulses_.assign(now_.inputs.size(), Truth::no);
  cues_ = silent_;
  for (const std::uint16_t pulse : press.pulses) pulses_[pulse] = Truth::yes;
  for (const Cue& cue : told_)
    if (cue.what == Told::cue && cue.edge != mobrin::Edge::end && cue.at == instance_.now())
      cues_[cue.cue] = Truth::yes;
  Seen seen{instance_,
            told_,
            press,
            before_.view(model_, pulses_, &silent_),
            now_.view(model_, pulses_, &cues_),
            now_.config,
            from.value_or(UINT32_MAX),
            from ? moments_[*from].memory : 0};
  const Verdict verdict = watch(seen);
  if (verdict == Verdict::ends) return false;
  const bool written = !press.empty() || !from;
  (void)letters_at(now_.config.leaves);
  Node node;
  node.parent = from.value_or(UINT32_MAX);
  node.at = instance_.now();
  node.press = press;
  node.written = written;
  node.memory = seen.memory;
  node.entered = from ? moments_[*from].entered : std::vector<Ticks>(timed_.size());
  for (const Cue& cue : told_)
    for (std::size_t i = 0; i < timed_.size(); ++i)
      if (cue.what == Told::enter && cue.state == timed_[i].first) node.entered[i] = cue.at;
  if (verdict != Verdict::found && !seen_.insert(key_of(instance_, now_.config, node)).second) return false;
  node.alike = met_[now_.config.leaves]++;
  // Who only waits is as new as before.
  if (press.empty() && from) node.alike = std::min(node.alike, moments_[*from].alike);
  if (!distances_.empty()) {
    node.distance = kNowhere;
    for (const std::uint16_t leaf : now_.config.leaves)
      if (leaf != kNoIndex) node.distance = std::min(node.distance, distances_[leaf]);
  }
  if (new_states_first_ && verdict != Verdict::found && node.alike >= kMostAlike) return false;
  node.leaves = now_.config.leaves;
  node.block.assign(instance_.block().begin(), instance_.block().end());
  moments_.push_back(std::move(node));
  return verdict == Verdict::found;
}

void Search::prefer_new_states(const std::vector<bool>& goals) {
  new_states_first_ = true;
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
  met_.clear();
  moves_ = 0;
  exhausted_ = false;
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
    exhausted_ = open.empty() && !new_states_first_;
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
  const bool wakes = wake.count != INT64_MAX && wake > now, waits = part == 0 || part == kAllParts;
  if (waits && wakes && move(n, {}, {}, wake - now, watch)) return true;
  if (waits && wakes && wake - now > kMoment + kMoment && move(n, {}, {}, wake - now - kMoment, watch)) return true;
  if (waits && limits_.patience && (!wakes || wake - now > *limits_.patience) &&
      move(n, {}, {}, *limits_.patience, watch))
    return true;
  // Two presses need two ticks, and what comes between them comes first.
  const Ticks delay = moments_[n].written ? kMoment : Ticks{};
  if (wakes && wake <= now + delay) return false;
  const Letters& letters = letters_at(moments_[n].leaves);
  const std::size_t count = part == kAllParts ? letters.presses.size() : letters.parts[part].size();
  for (std::size_t i = 0; i < count; ++i)
    if (moves_ <= limits_.moves &&
        move(n, letters.presses[part == kAllParts ? i : letters.parts[part][i]], delay, {}, watch))
      return true;
  return false;
}

bool Search::has_met(std::uint16_t leaf) const {
  return std::any_of(met_.begin(), met_.end(),
                     [&](const auto& each) { return std::ranges::count(each.first, leaf) > 0; });
}

bool Search::breaks_assumed(const Seen& seen) const {
  return std::any_of(assumed_.begin(), assumed_.end(),
                     [&](const Term& term) { return proof::holds(term, seen.before) == Truth::no; });
}

Tape Search::tape_to(std::uint32_t moment) const {
  std::vector<std::pair<Ticks, Press>> presses;
  for (std::uint32_t n = moment; n != UINT32_MAX; n = moments_[n].parent)
    presses.insert(presses.begin(), {moments_[n].at, moments_[n].press});
  return tape_of(presses, moments_[moment].at);
}
Tape Search::tape_to(const Seen& seen) const {
  std::vector<std::pair<Ticks, Press>> presses = {{seen.instance.now(), seen.press}};
  for (std::uint32_t n = seen.parent; n != UINT32_MAX; n = moments_[n].parent)
    presses.insert(presses.begin(), {moments_[n].at, moments_[n].press});
  return tape_of(presses, seen.instance.now());
}

Tape Search::tape_of(const std::vector<std::pair<Ticks, Press>>& presses, Ticks until) const {
  Tape out;
  out.until = until;
  const auto inputs = model_.machine().inputs();
  for (const auto& [at, press] : presses) {
    if (press.empty()) continue;
    TapeStep& step = out.steps.emplace_back();
    step.at = at;
    for (const auto& [input, value] : press.values)
      step.set.emplace_back(inputs[input].name, field_of(inputs[input], value));
    for (const std::uint16_t pulse : press.pulses) step.pulses.push_back(inputs[pulse].name);
  }
  // Of values only what changes.
  std::vector<std::optional<FieldValue>> held(inputs.size());
  for (std::size_t i = 0; i < inputs.size(); ++i)
    if (!std::holds_alternative<PulseInput>(inputs[i].kind)) held[i] = field_of(inputs[i], start_of(inputs[i]));
  for (TapeStep& step : out.steps)
    std::erase_if(step.set, [&](const auto& each) {
      for (std::size_t i = 0; i < inputs.size(); ++i)
        if (inputs[i].name.text == each.first.text) {
          const bool same = held[i] == each.second;
          held[i] = each.second;
          return same;
        }
      return false;
    });
  std::erase_if(out.steps, [](const TapeStep& step) { return step.set.empty() && step.pulses.empty(); });
  return out;
}

}  // namespace mobrin::proof
