#include "space.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostChoices = 4'096;  // of inputs at one instant
constexpr std::size_t kMostCuesAsked = 4;    // that are told apart

}  // namespace

Space::Space(Model& model, Asked asked, Limits limits)
    : model_(model), asked_(std::move(asked)), limits_(limits), nodes_(model, asked_.after), at_rest_(model) {
  for (const auto* list : {&asked_.assumed, &asked_.before, &asked_.after})
    for (const Term& term : *list) model_.cut(term);
  asked_pulses_ = pulses_asked(asked_);
  for (const Term& term : asked_.after)
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::cue && asked_cues_.size() < kMostCuesAsked) add_once(asked_cues_, each.index);
    });
  for (std::uint16_t v = 0; v < model_.variables().size(); ++v)
    if (model_.known()[v] == Knowledge::values && model_.counts_up(v)) model_.know(v, Knowledge::comparisons);
  // Again where a state was entered to which `back` may lead, or where a variable holds too much to be counted out.
  bool patient = false;
  for (int round = 0; round < 200; ++round) {
    nodes_.clear();
    edges_.clear();
    out_of_.clear();
    edge_index_.clear();
    of_leaf_.clear();
    (void)model_.take_grown();
    crowded_ = false;
    const std::size_t before = steps_;
    const std::size_t left = limits_.steps > before ? limits_.steps - before : 0;
    whole_ = explore(patient ? limits_.steps : before + left / 3);
    if (crowded_) {
      // The one with the most values is not counted out any more.
      std::set<std::vector<std::uint16_t>> ways_back;
      for (const Config& config : nodes_.all()) ways_back.insert({config.memories.begin(), config.memories.end()});
      std::size_t most = 1, worst = 0;
      for (std::uint16_t v = 0; v < model_.variables().size(); ++v) {
        std::set<std::pair<double, double>> values;
        for (const Config& config : nodes_.all()) values.insert({config.variables[v].low, config.variables[v].high});
        if (values.size() > most && model_.known()[v] == Knowledge::values) most = values.size(), worst = v;
      }
      if (model_.remembers() && ways_back.size() >= most) {
        model_.remember(false);
        continue;
      }
      if (most < 3) {
        if (patient) break;
        patient = true;  // it is not the variables that make it long
        continue;
      }
      model_.know(static_cast<std::uint16_t>(worst), Knowledge::comparisons);
      continue;
    }
    if (runaway_ && !unruly_) {  // then not even a configuration between two instants is sure to be at rest
      unruly_ = true;
      model_.set_unruly(true);
      continue;
    }
    if (!model_.take_grown()) break;
  }
}

std::uint32_t Space::node_of(const Config& config) {
  const auto [number, fresh] = nodes_.add(config);
  if (fresh) {
    out_of_.emplace_back();
    std::string leaves;
    add_bytes(leaves, config.leaves);
    if (++of_leaf_[leaves] > limits_.values_of_a_leaf) crowded_ = true;
  }
  return number;
}

bool Space::explore(std::size_t enough) {
  if (!expand(std::nullopt)) return false;
  for (std::uint32_t n = 0; n < nodes_.all().size(); ++n) {
    if (nodes_.all().size() > limits_.nodes || !expand(n)) return false;
    // What takes long counts variables out: rather not, as long as there is work left.
    if (steps_ > enough && (!model_.variables().empty() || model_.remembers())) crowded_ = true;
    if (crowded_) return false;
  }
  return true;
}

Space::Chosen Space::everything() const {
  Chosen out{model_.any_inputs(), {}};
  for (const std::vector<Span>& cells : model_.cells()) out.split.push_back(cells.size() > 1);
  return out;
}

std::optional<std::uint16_t> Space::needed(const Term& term, const std::vector<bool>& split) const {
  std::optional<std::uint16_t> out;
  each_term(term, [&](const Term& each) {
    if (each.kind == Term::Kind::input && split[each.index] && !out) out = each.index;
  });
  return out;
}

std::vector<Space::Occasion> Space::occasions(std::optional<std::uint32_t> node) const {
  const std::size_t regions = model_.machine().regions().size();
  const auto inputs = model_.machine().inputs();
  std::vector<Occasion> out;
  // Of those that are asked for, which may be alive from before: if only from this very tick.
  Truths before(inputs.size(), Truth::no);
  for (const std::uint16_t pulse : asked_pulses_) before[pulse] = Truth::maybe;
  if (node && !unruly_ && !asked_pulses_.empty()) {
    Model::Looked looked;
    const std::vector<bool> no_split(inputs.size(), false);
    before = model_.pending(nodes_.all()[*node], std::move(before), model_.any_inputs(), no_split, looked);
  }
  // The game writes: any pulses. Those that are asked for are told apart.
  for (std::size_t mask = 0; mask < std::size_t{1} << asked_pulses_.size(); ++mask) {
    Occasion& each = out.emplace_back();
    each.alive.assign(inputs.size(), Truth::maybe);
    each.written = each.alive;
    each.looped.assign(regions, Truth::no);
    for (std::size_t i = 0; i < asked_pulses_.size(); ++i) {
      const std::uint16_t pulse = asked_pulses_[i];
      const bool now = (mask >> i & 1) != 0;
      each.written[pulse] = now ? Truth::yes : Truth::no;
      each.alive[pulse] = now ? Truth::yes : before[pulse];
    }
  }
  if (!node) return out;
  // Time brings something: cues, ends, timers, and plays that come round.
  for (Truths& looped : model_.loops_of(nodes_.all()[*node])) {
    Occasion& each = out.emplace_back();
    each.timed = true;
    each.written.assign(inputs.size(), Truth::no);
    each.alive = model_.pulses_in_time();
    each.looped = std::move(looped);
  }
  return out;
}

// Whether nothing would be taken if nothing came: what holds between two instants.
std::optional<bool> Space::may_rest(const Config& config, const Chosen& chosen, std::uint16_t& need) {
  const Truths silent(model_.machine().inputs().size(), Truth::no);
  const Truths no_loops(model_.machine().regions().size(), Truth::no);
  const Moment quiet = model_.instant(config, silent, no_loops, chosen.inputs, false);
  const Model::Looked looked = model_.look(quiet, chosen.inputs, chosen.split, false);
  if (looked.need) return need = *looked.need, std::nullopt;
  return looked.rests || looked.too_many;
}

std::vector<Moment> Space::starts(std::optional<std::uint32_t> node, const Truths& alive, const Occasion& occasion,
                                  const Chosen& chosen) {
  if (node) {
    std::vector<Moment> out =
        model_.instants(nodes_.all()[*node], alive, occasion.looped, chosen.inputs, occasion.timed);
    // What is asked for is told, or not: what comes of both is told apart.
    for (const std::uint16_t cue : asked_cues_)
      for (std::size_t i = 0, count = out.size(); i < count; ++i) {
        if (out[i].told[cue] != Truth::maybe) continue;
        out.push_back(out[i]);
        out[i].told[cue] = out[i].cues[cue] = Truth::yes;
        out.back().told[cue] = out.back().cues[cue] = Truth::no;
      }
    return out;
  }
  std::vector<Moment> out = {model_.begin(chosen.inputs)};
  out.front().pulses = alive;
  return out;
}

bool Space::expand(std::optional<std::uint32_t> node) {
  const std::size_t regions = model_.machine().regions().size();
  if (asked_pulses_.size() > kMostTogether || model_.region_count() > kMostTogether) return false;
  std::size_t choices = 0;
  for (const Occasion& occasion : occasions(node)) {
    const Truths& written = occasion.written;
    std::vector<Chosen> open = {everything()};
    while (!open.empty()) {
      const Chosen chosen = std::move(open.back());
      open.pop_back();
      if (++choices > kMostChoices) return false;
      std::optional<std::uint16_t> need;
      // What is so before the machine settles.
      Truths before;
      bool kept = true;
      const Config nothing{Indices(regions, kNoIndex), model_.at_start()};
      const Config& config = node ? nodes_.all()[*node] : nothing;
      if (!asked_.assumed.empty() || !asked_.before.empty()) {
        Flags active = model_.active(config);
        const Values& variables = config.variables;
        const View view{&chosen.inputs, &variables, &active, &written, nullptr, &model_.traits()};
        for (const Term& term : asked_.assumed) {
          const Truth truth = holds(term, view);
          if (truth == Truth::maybe && !need) need = needed(term, chosen.split);
          if (truth == Truth::no) kept = false;
        }
        for (const Term& term : asked_.before) {
          before.push_back(holds(term, view));
          if (kept && before.back() == Truth::maybe && !need) need = needed(term, chosen.split);
        }
      }
      if (!kept) continue;  // a run ends before such a write
      std::uint16_t split = 0;
      Settled settled = Settled::split;
      std::optional<bool> rested = true;
      if (need)
        split = *need;
      else if (occasion.timed && !unruly_)
        rested = may_rest(config, chosen, split);
      if (rested && !*rested) continue;
      Truths alive = occasion.alive;
      Model::Looked looked;
      if (!need && rested && occasion.timed && !unruly_)
        alive = model_.pending(config, std::move(alive), chosen.inputs, chosen.split, looked);
      if (looked.need) split = *looked.need;
      if (!need && rested && !looked.need) {
        kept_ = true;
        for (Moment& start : starts(node, alive, occasion, chosen)) {
          settled = settle(std::move(start), node, chosen, written, before, split);
          if (settled != Settled::done) break;
        }
      }
      if (settled == Settled::limit) return false;
      if (settled == Settled::done) continue;
      for (const Span& cell : model_.cells()[split]) {
        Chosen part = chosen;
        part.inputs[split] = cell;
        part.split[split] = false;
        open.push_back(std::move(part));
      }
    }
  }
  return true;
}

namespace {

// A moment on the way to rest, by one that was before it.
struct Way {
  Moment moment;
  bool rests = false;
  std::uint32_t before = 0;
  std::uint16_t pulse = kNoIndex;  // that was taken
};

std::vector<std::uint16_t> pulses_on(const std::vector<Way>& ways, std::uint32_t to) {
  std::vector<std::uint16_t> out;
  for (; to != 0; to = ways[to].before)
    if (ways[to].pulse != kNoIndex) add_once(out, ways[to].pulse);
  return out;
}

}  // namespace

Space::Settled Space::settle(Moment start, std::optional<std::uint32_t> node, const Chosen& chosen,
                             const Truths& written, const Truths& before, std::uint16_t& need) {
  std::vector<Way> ways;
  std::vector<std::vector<Next>> next(1);
  Known known;
  const std::uint64_t looped = looped_in(start.looped);
  nodes_.heard().forget_others(start);
  (void)known.find_or_add(key_of(start), start.pulses, 0);
  ways.push_back({std::move(start)});
  std::vector<Taken> taken;
  for (std::size_t i = 0; i < ways.size(); ++i) {
    if (++steps_ > limits_.steps || ways.size() > kMostMoments) return Settled::limit;
    Model::Looked looked = model_.look(ways[i].moment, chosen.inputs, chosen.split);
    if (looked.need) return need = *looked.need, Settled::split;
    if (looked.too_many) return Settled::limit;
    ways[i].rests = looked.rests;
    steps_ += looked.steps.size() / kStepsOfOne;
    for (Step& step : looked.steps) {
      nodes_.heard().forget_others(step.after);
      const auto number = static_cast<std::uint32_t>(ways.size());
      const auto found = known.find_or_add(key_of(step.after), step.after.pulses, number);
      if (step.pulse != kNoIndex)
        taken.push_back({step.pulse, static_cast<std::uint32_t>(i), found.value_or(number)});
      else
        next[i].push_back({found.value_or(number)});
      if (found) continue;
      next.emplace_back();
      ways.push_back({std::move(step.after), false, static_cast<std::uint32_t>(i), step.pulse});
    }
  }
  const bool ring = may_run_away(next, taken);
  // All answers must be known before anything is written down.
  std::vector<Truths> answers(ways.size(), before);
  const Config nothing{Indices(model_.machine().regions().size(), kNoIndex), model_.at_start()};
  const Config& config = node ? nodes_.all()[*node] : nothing;
  const Flags was_active = model_.active(config);
  const View seen{&chosen.inputs, &config.variables, &was_active, &written, nullptr, &model_.traits()};
  for (std::size_t i = 0; i < ways.size(); ++i) {
    if (!ways[i].rests && !ring) continue;
    const Moment& moment = ways[i].moment;
    const Flags active = model_.active(moment.config);
    const Values& variables = moment.config.variables;
    const View view{&chosen.inputs, &variables, &active, &written, &moment.told, &model_.traits()};
    const bool sure = ways[i].rests && !ring && !unruly_;
    for (std::size_t k = 0; k < before.size() && sure; ++k)
      if (before[k] == Truth::maybe) answers[i][k] = at_rest_.holds(asked_.before[k], seen, moment, view);
    for (const Term& term : asked_.after) {
      answers[i].push_back(holds(term, view));
      if (answers[i].back() != Truth::maybe) continue;
      if (const auto input = needed(term, chosen.split)) return need = *input, Settled::split;
      if (sure) answers[i].back() = at_rest_.holds(term, view, moment, view);
    }
  }
  runaway_ = runaway_ || ring;
  if (!undoes_ && !taken.empty()) {
    std::vector<Stop> stops;
    for (const Way& way : ways) stops.push_back({way.moment.config.leaves, way.moment.fresh});
    undoes_ = may_undo_a_press(next, taken, stops);
  }
  const std::uint32_t from = node.value_or(UINT32_MAX);
  for (std::size_t i = 0; i < ways.size(); ++i) {
    for (const std::uint16_t leaf : ways[i].moment.config.leaves)
      for (std::uint16_t up = leaf; up != kNoIndex && up != 0; up = model_.states()[up].parent) model_.enter_once(up);
    if (!ways[i].rests && !ring) continue;
    const std::uint32_t edge = add_edge(from, ways[i].moment, looped, std::move(answers[i]));
    if (wanted_ == nullptr) continue;
    const auto wanted = wanted_->find(edge);
    if (wanted == wanted_->end() || wanted->second.size() >= most_wanted_) continue;
    std::vector<std::uint16_t> pulses = pulses_on(ways, static_cast<std::uint32_t>(i));
    for (std::uint16_t p = 0; p < written.size(); ++p)
      if (written[p] == Truth::yes) add_once(pulses, p);
    std::sort(pulses.begin(), pulses.end());
    wanted->second.push_back({chosen.inputs, std::move(pulses)});
  }
  if (node) rest_where_done(*node, chosen, written, before);
  return Settled::done;
}

// One that is done rests for ever, whatever is written.
void Space::rest_where_done(std::uint32_t node, const Chosen& chosen, const Truths& written, Truths before) {
  if (!model_.may_be_done(nodes_.all()[node].leaves)) return;
  Moment rest;
  rest.config = nodes_.all()[node];
  rest.fresh.assign(rest.config.leaves.size(), kNoIndex);
  const Flags active = model_.active(rest.config);
  const Values& variables = rest.config.variables;
  const Truths silent(model_.machine().cues().size(), Truth::no);
  const View view{&chosen.inputs, &variables, &active, &written, &silent, &model_.traits()};
  for (const Term& term : asked_.after) before.push_back(holds(term, view));
  add_edge(node, rest, 0, std::move(before));
}

// Gives its number.
std::uint32_t Space::add_edge(std::uint32_t from, const Moment& end, std::uint64_t looped, Truths answers) {
  const std::uint32_t to = node_of(end.config);
  std::string key;
  add_bytes(key, answers);
  const auto [answer, fresh] = answer_index_.try_emplace(key, static_cast<std::uint32_t>(answers_.size()));
  if (fresh) answers_.push_back(std::move(answers));
  Edge edge{from, to, answer->second};
  if (limits_.times) edge.looped = looped, edge.fresh = end.fresh;
  key.clear();
  add_bytes(key, std::vector<std::uint64_t>{from, to, answer->second, edge.looped});
  add_bytes(key, edge.fresh);
  const auto [number, is_new] = edge_index_.try_emplace(std::move(key), static_cast<std::uint32_t>(edges_.size()));
  if (!is_new) return number->second;
  if (from != UINT32_MAX) out_of_[from].push_back(number->second);
  edges_.push_back(std::move(edge));
  return number->second;
}

Space::Ways Space::ways_of(const std::vector<std::uint32_t>& edges, std::size_t most) {
  Ways out;
  std::set<std::uint32_t> from;
  for (const std::uint32_t edge : edges) {
    out.try_emplace(edge);
    from.insert(edges_[edge].from);
  }
  wanted_ = &out;
  most_wanted_ = most;
  for (const std::uint32_t node : from) (void)expand(node == UINT32_MAX ? std::nullopt : std::optional(node));
  wanted_ = nullptr;
  return out;
}

}  // namespace mobrin::proof
