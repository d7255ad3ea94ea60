// What a search may write, wherever it is: the letters of its words.
#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <set>

#include "guide.hpp"
#include "model_parts.hpp"
#include "search.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostLetters = 240;

void note_inputs(const Rule& rule, std::vector<bool>& out) {
  if (rule.when) proof::note_inputs(*rule.when, out);
  if (rule.pulse != kNoIndex) out[rule.pulse] = true;
  proof::note_inputs(rule.actions, out);
}

void note_inputs_of_play(const StateFacts& facts, std::vector<bool>& out) {
  if (facts.speed) proof::note_inputs(*facts.speed, out);
  if (!facts.choices_differ.empty()) out[facts.chosen_by] = true;
}

}  // namespace

std::size_t size_of(const Model& model, const Press& press) {
  const auto differs = [&](const auto& each) { return each.second != start_of(model.machine().inputs()[each.first]); };
  return press.pulses.size() +
         static_cast<std::size_t>(std::count_if(press.values.begin(), press.values.end(), differs));
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

double in_its_bits(const InputDef& input, double value) {
  return std::holds_alternative<FloatInput>(input.kind) ? double(static_cast<float>(value)) : value;
}

double stored(const InputDef& input, double value) {
  const auto* number = std::get_if<FloatInput>(&input.kind);
  if (number == nullptr) return value;
  const auto least = static_cast<float>(number->min), most = static_cast<float>(number->max);
  const float kept = std::clamp(static_cast<float>(value), least, most);
  if (!(number->grain > 0)) return double(kept);
  const double grained = std::nearbyint(double(kept) / number->grain) * number->grain;
  return double(std::clamp(static_cast<float>(grained), least, most));
}

std::optional<double> to_write(const InputDef& input, const Span& span) {
  const auto lands = [&](double value) {
    const auto within = [&](double number) { return number >= span.low && number <= span.high; };
    return within(in_its_bits(input, value)) && within(stored(input, value));
  };
  for (const double each : {start_of(input), 0.0, 1.0, -1.0})
    if (lands(each)) return each;
  double low = span.low, high = span.high;
  if (low < -1e9) low = std::min(high - 1, std::max(low, high - 10));
  if (high > 1e9) high = std::max(low + 1, std::min(high, low + 10));
  const double middle = low + (high - low) / 2;
  for (double digits = 1; digits <= 1e6; digits *= 10) {
    const double near = std::round(middle * digits) / digits;
    if (lands(near)) return near;
  }
  for (const double each : {span.low, span.high})
    if (lands(each)) return each;
  return std::nullopt;
}

FieldValue field_of(const InputDef& input, double value) {
  if (std::holds_alternative<BoolInput>(input.kind)) return value != 0;
  if (std::holds_alternative<IntInput>(input.kind)) return static_cast<std::int64_t>(value);
  if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
    return choice->choices[static_cast<std::size_t>(value)].text;
  return value;
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
  for (const std::uint16_t leaf : leaves)
    if (leaf != kNoIndex) visit(leaf);
  visit(0);
  const std::size_t active = open.size();
  for (std::size_t i = 0; i < open.size(); ++i) {
    const StateFacts& facts = model_.states()[open[i]];
    note_inputs_of_play(facts, out);
    note_inputs(i < active ? facts.each_loop : facts.enter, out);
    for (const std::uint32_t index : facts.rules) {
      const Rule& rule = model_.rules()[index];
      note_inputs(rule, out);
      // One rule further: what it leads to may lead on at once; where it is looked closer, as far as that goes.
      const bool at_once = closer_ && rule.event != Event::pulse && rule.event != Event::after;
      if (further && (i < active || at_once) && rule.target != 0) {
        visit(rule.target);
        for (std::uint16_t down = rule.target; model_.states()[down].initial != kNoIndex;)
          visit(down = model_.states()[down].initial);
      }
    }
  }
  return out;
}

// What rules and states read that are not left out.
std::vector<bool> Search::read_anywhere() const {
  std::vector<bool> out = always_;
  for (const Rule& rule : model_.rules())
    if (rule.def != nullptr) note_inputs(rule, out);
  for (std::uint16_t s = 0; s < model_.states().size(); ++s) {
    if (model_.leaves_out(s)) continue;
    const StateFacts& facts = model_.states()[s];
    note_inputs_of_play(facts, out);
    for (const auto* actions : {&facts.enter, &facts.exit, &facts.each_loop}) note_inputs(*actions, out);
  }
  return out;
}

// By rules that wait for time, a cue or another region, by those that may follow at once, and by what they all do.
std::vector<bool> Search::read_later(const Indices& leaves) const {
  std::vector<bool> out(model_.machine().inputs().size(), false), entered(model_.states().size(), false);
  std::vector<std::uint16_t> open;
  const auto enter = [&](std::uint16_t state) {
    if (entered[state]) return;
    entered[state] = true;
    note_inputs(model_.states()[state].enter, out);
    open.push_back(state);
  };
  const auto follow = [&](const Rule& rule) {
    if (rule.when) note_inputs(*rule.when, out);
    note_inputs(rule.actions, out);
    enter(rule.target);
  };
  for (const std::uint16_t leaf : leaves)
    for (std::uint16_t up = leaf; up != kNoIndex; up = up == 0 ? kNoIndex : model_.states()[up].parent) {
      note_inputs(model_.states()[up].each_loop, out);
      for (const std::uint32_t index : model_.states()[up].rules) {
        const Rule& rule = model_.rules()[index];
        const bool by_a_write = rule.event == Event::pulse || (rule.event == Event::none && rule.inputs_only);
        if (!by_a_write || rule.in_a_window()) follow(rule);
      }
    }
  for (std::size_t i = 0; i < open.size(); ++i) {
    const StateFacts& facts = model_.states()[open[i]];
    if (facts.initial != kNoIndex) enter(facts.initial);
    for (const std::uint16_t region : facts.regions) enter(model_.machine().regions()[region].initial);
    for (const std::uint32_t index : facts.rules)
      if (const Rule& rule = model_.rules()[index]; rule.event != Event::pulse && rule.event != Event::after)
        follow(rule);
  }
  return out;
}

const Search::Letters& Search::letters_at(const Indices& leaves) {
  const auto [found, fresh] = letters_.try_emplace(leaves);
  if (fresh && limits_.guide != nullptr) {
    for (const bool waits : {false, true})
      if (const Guide::At* place = limits_.guide->find(leaves, waits)) {
        for (const Press& press : place->presses) add_press(press, found->second);
        for (const Press& press : place->beside) add_press(press, found->second, 1);
      }
    found->second.whole = false;
    found->second.read_later = read_later(leaves);
  } else if (fresh) {
    const bool begun = std::any_of(leaves.begin(), leaves.end(), [](auto leaf) { return leaf != kNoIndex; });
    std::vector<bool> read = begun ? read_from(leaves, true) : read_anywhere();
    const std::vector<bool> own = begun ? read_from(leaves, false) : read;
    for (std::size_t i = 0; i < limits_.writes.size(); ++i) read[i] = read[i] && limits_.writes[i];
    found->second = make_letters(read, own);
    found->second.read_later = read_later(leaves);
    add_hints(leaves, found->second);
    if (begun && !found->second.whole) add_for_rules(leaves, found->second);
  }
  return found->second;
}

void Search::add_hints(const Indices& leaves, Letters& out) const {
  const bool begins = std::all_of(leaves.begin(), leaves.end(), [](std::uint16_t leaf) { return leaf == kNoIndex; });
  const auto lies_there = [&](const Hint& hint) {
    return std::equal(hint.leaves.begin(), hint.leaves.end(), leaves.begin(),
                      [](std::uint16_t one, std::uint16_t other) { return one == kNoIndex || one == other; });
  };
  for (const Hint& hint : limits_.hints)
    if (hint.leaves.empty() == begins && lies_there(hint)) add_press(hint.press, out);
}

void Search::add_press(const Press& press, Letters& out, std::size_t part) const {
  const auto is_written = [&](std::uint16_t input) { return limits_.writes.empty() || limits_.writes[input]; };
  if (!std::ranges::all_of(press.pulses, is_written)) return;
  if (!std::ranges::all_of(press.values, [&](const auto& each) { return is_written(each.first); })) return;
  if (std::find(out.presses.begin(), out.presses.end(), press) != out.presses.end()) return;
  out.parts[part].push_back(static_cast<std::uint32_t>(out.presses.size()));
  out.presses.push_back(press);
}

// What the guard of each rule takes that may be looked at, all at once: one by one that may be many writes.
void Search::add_for_rules(const Indices& leaves, Letters& out) const {
  std::set<std::uint16_t> states = {0};
  for (std::uint16_t leaf : leaves)
    for (; leaf != kNoIndex && leaf != 0; leaf = model_.states()[leaf].parent) states.insert(leaf);
  for (const std::uint16_t state : states)
    for (const std::uint32_t index : model_.states()[state].rules)
      if (const auto press = press_for(model_.rules()[index])) add_press(*press, out);
}

// Values that make its guard true, or may do so with what else is, and its pulse; nothing where that is one thing.
std::optional<Press> Search::press_for(const Rule& rule) const {
  constexpr int kMostLooks = 500;
  if (rule.def == nullptr || !rule.when) return std::nullopt;
  std::vector<bool> read(model_.machine().inputs().size(), false);
  note_inputs(*rule.when, read);
  std::vector<Span> inputs = model_.any_inputs();
  const Values variables = model_.nothing_known();
  const View view{&inputs, &variables, nullptr, nullptr, nullptr, &model_.traits()};
  int looks = 0;
  const std::function<bool(std::size_t)> find = [&](std::size_t from) {
    const Truth truth = proof::holds(*rule.when, view);
    if (truth != Truth::maybe || ++looks > kMostLooks) return truth == Truth::yes;
    while (from < read.size() && !read[from]) ++from;
    if (from == read.size()) return true;
    const Span all = inputs[from];
    for (const Span& cell : cells_[from]) {
      inputs[from] = cell;
      if (to_write(model_.machine().inputs()[from], cell) && find(from + 1)) return true;
    }
    inputs[from] = all;
    return false;
  };
  if (!find(0)) return std::nullopt;
  Press out;
  const std::vector<Span> any = model_.any_inputs();
  for (std::uint16_t i = 0; i < inputs.size(); ++i)
    if (read[i] && inputs[i] != any[i]) out.values.emplace_back(i, *to_write(model_.machine().inputs()[i], inputs[i]));
  if (rule.pulse != kNoIndex) out.pulses.push_back(rule.pulse);
  if (out.values.size() + out.pulses.size() < 2) return std::nullopt;
  return out;
}

Search::Letters Search::make_letters(const std::vector<bool>& read, const std::vector<bool>& own) const {
  const auto inputs = model_.machine().inputs();
  std::vector<std::uint16_t> pulses;
  std::vector<std::vector<double>> samples(inputs.size());
  std::size_t combinations = 1;
  for (std::uint16_t i = 0; i < inputs.size(); ++i) {
    if (!read[i]) continue;
    if (std::holds_alternative<PulseInput>(inputs[i].kind)) {
      pulses.push_back(i);
      continue;
    }
    for (const Span& cell : cells_[i])
      if (const auto value = to_write(inputs[i], cell)) samples[i].push_back(*value);
    // What is never compared with a constant may be compared with something else.
    const Span all{cells_[i].front().low, cells_[i].back().high};
    if ((cells_[i].size() == 1 || held_against_[i]) && !all.point())
      for (const double end : {all.low, all.high}) {
        const auto value = to_write(inputs[i], {end, end});
        if (!value || std::abs(*value) >= 1e6) continue;
        if (std::find(samples[i].begin(), samples[i].end(), *value) == samples[i].end()) samples[i].push_back(*value);
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
  for (std::size_t i = 0; closer_ && i < pulses.size() && out.presses.size() < 2 * kMostLetters; ++i)
    for (std::size_t j = i + 1; j < pulses.size(); ++j) out.presses.push_back({{}, {pulses[i], pulses[j]}});
  // What is least unlike the start is tried first.
  const auto size = [&](const Press& press) { return size_of(model_, press); };
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

}  // namespace mobrin::proof
