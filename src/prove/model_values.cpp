// Values: the parts of an input's or variable's range that nothing tells apart, and configurations.
#include <algorithm>
#include <cmath>
#include <set>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

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
    case Op::abs:
      return cut_points(side.operands[0], at, input, points) &&
             (at == 0 || cut_points(side.operands[0], -at, input, points));
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

// `visit(operation, named, points)`: of each that holds a constant against what hangs on one thing alone, where that
// thing is cut.
template <class Visit>
void each_cut(const Term& term, const Visit& visit) {
  each_term(term, [&](const Term& each) {
    if (each.kind != Term::Kind::operation || each.operands.size() != 2) return;
    for (const std::size_t side : {0U, 1U}) {
      if (each.operands[1 - side].kind != Term::Kind::constant) continue;
      const Term* named = nullptr;
      std::vector<double> points;
      if (!cut_points(each.operands[side], each.operands[1 - side].value, named, points)) continue;
      std::erase_if(points, [](double point) { return !std::isfinite(point); });
      visit(each, *named, points);
    }
  });
}

}  // namespace

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
    // Only its multiples and the ends are ever stored, and what it starts with, which is as it is written.
    const auto start = double(std::clamp(static_cast<float>(number.start), least, most));
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
      Span span{HUGE_VAL, -HUGE_VAL};
      if (first <= last) span = {stored(first), stored(last)};
      for (const double end : {double(least), double(most), start})
        if (end >= cell.low && end <= cell.high) span = {std::min(span.low, end), std::max(span.high, end)};
      if (span.low <= span.high) kept.push_back(span);
    }
    out = kept;
  }
  return out;
}

void Model::cut_by_rules() {
  cuts_.assign(cuts_.size(), {});
  variable_cuts_.assign(variable_cuts_.size(), {});
  for (const StateFacts& state : states_) {
    if (!state.speed) continue;
    // Where it stands is told apart.
    Term stands;
    stands.kind = Term::Kind::operation;
    stands.op = detail::Op::equal;
    stands.operands = {*state.speed, Term{}};
    cut(stands);
  }
  for (Rule& rule : rules_) {
    if (rule.def == nullptr || !rule.when) continue;
    cut(*rule.when);
    std::set<const Term*> cuts;
    each_cut(*rule.when, [&](const Term& each, const Term&, const std::vector<double>&) { cuts.insert(&each); });
    each_term(*rule.when, [&](const Term& each) {
      if (each.kind == Term::Kind::operation && compares(each.op) && cuts.count(&each) == 0) rule.relates = true;
    });
    rule.relates = rule.relates && rule.inputs_only && rule.index < kNoIndex;
  }
  // Where they are many what is known of them at a moment is too much to tell apart.
  constexpr std::ptrdiff_t kMostRelating = 40;
  const auto relates = [](const Rule& rule) { return rule.relates; };
  if (std::count_if(rules_.begin(), rules_.end(), relates) > kMostRelating)
    for (Rule& rule : rules_) rule.relates = false;
}

void Model::cut(const Term& term) {
  cells_.clear();
  fine_cells_.clear();
  variable_cells_.clear();
  note_computed(term);
  each_cut(term, [&](const Term& each, const Term& named, const std::vector<double>& points) {
    Cuts& cuts = (named.kind == Term::Kind::input ? cuts_ : variable_cuts_)[named.index];
    for (const double point : points) {
      add_once(cuts.points, point);
      if (!compares(each.op)) cuts.others.push_back(point);
    }
    if (compares(each.op)) cuts.comparisons.emplace(key_of_term(each), each);
  });
}

template <class Visit>
void Model::each_cut_by_actions(const Visit& visit) const {
  const auto look = [&](const std::vector<Action>& actions) {
    for (const Action& action : actions) {
      if (!action.value) continue;
      each_cut(*action.value, [&](const Term& each, const Term& named, const std::vector<double>& points) {
        if (compares(each.op) && named.kind == Term::Kind::input) visit(named.index, points);
      });
    }
  };
  for (const Rule& rule : rules_) look(rule.actions);
  for (const StateFacts& state : states_)
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) look(*actions);
}

std::vector<std::vector<Span>> Model::cells_to_write() const {
  std::vector<std::vector<double>> all;
  for (const Cuts& cuts : cuts_) all.push_back(cuts.points);
  each_cut_by_actions([&](std::uint16_t input, const std::vector<double>& points) {
    for (const double point : points) add_once(all[input], point);
  });
  for (const StateFacts& state : states_)
    for (const double choice : state.choices_differ) {
      add_once(all[state.chosen_by], choice - 1);
      add_once(all[state.chosen_by], choice);
    }
  std::vector<std::vector<Span>> out;
  for (std::size_t i = 0; i < all.size(); ++i) out.push_back(cells_of(machine_.inputs()[i], all[i]));
  return out;
}

std::vector<bool> Model::compared_by_actions() const {
  std::vector<bool> out(cuts_.size(), false);
  each_cut_by_actions([&](std::uint16_t input, const std::vector<double>&) { out[input] = true; });
  return out;
}

// Those side by side that no comparison tells apart are one.
std::vector<Span> Model::alike(std::vector<Span> cells, const Cuts& cuts, const Term& named) const {
  constexpr std::size_t kMostWork = 20'000;
  if (cells.size() * cuts.comparisons.size() > kMostWork) return cells;
  std::vector<Span> inputs(cuts_.size());
  Values variables(variables_.size(), {});
  Span& value = named.kind == Term::Kind::input ? inputs[named.index] : variables[named.index];
  const View view{&inputs, &variables, nullptr, nullptr, nullptr, nullptr};
  const auto all_sure = [&](const Span& span) {
    value = span;
    return std::all_of(cuts.comparisons.begin(), cuts.comparisons.end(),
                       [&](const auto& each) { return proof::holds(each.second, view) != Truth::maybe; }) &&
           std::none_of(cuts.others.begin(), cuts.others.end(),
                        [&](double point) { return point >= span.low && point <= span.high; });
  };
  std::vector<Span> out;
  for (const Span& cell : cells) {
    if (!out.empty() && all_sure({out.back().low, cell.high}))
      out.back().high = cell.high;
    else
      out.push_back(cell);
  }
  return out;
}

std::vector<bool> Model::related_inputs() const {
  std::vector<bool> out(machine_.inputs().size(), false);
  for (const Rule& rule : rules_)
    if (rule.def != nullptr && rule.when)
      each_term(*rule.when, [&](const Term& each) {
        if (each.kind == Term::Kind::operation && compares(each.op) && names_several(each)) note_inputs(each, out);
      });
  return out;
}

std::vector<Span> Model::any_inputs() const {
  std::vector<Span> out;
  for (const std::vector<Span>& cells : this->cells())
    out.push_back(cells.empty() ? Span{} : Span{cells.front().low, cells.back().high});
  return out;
}

const std::vector<std::vector<Span>>& Model::fine_cells() const {
  if (fine_cells_.empty())
    for (std::size_t i = 0; i < cuts_.size(); ++i)
      fine_cells_.push_back(cells_of(machine_.inputs()[i], cuts_[i].points));
  return fine_cells_;
}

const std::vector<std::vector<Span>>& Model::cells() const {
  if (!cells_.empty()) return cells_;
  Term named;
  named.kind = Term::Kind::input;
  for (const std::vector<Span>& cells : fine_cells()) {
    named.index = static_cast<std::uint16_t>(cells_.size());
    const InputDef& input = machine_.inputs()[named.index];
    const bool number = std::holds_alternative<IntInput>(input.kind) || std::holds_alternative<FloatInput>(input.kind);
    cells_.push_back(number ? alike(cells, cuts_[named.index], named) : cells);
  }
  return cells_;
}

const std::vector<Span>& Model::variable_cells(std::uint16_t variable) const {
  constexpr double kFewWholes = 8;
  Term named;
  named.kind = Term::Kind::variable;
  for (std::size_t v = variable_cells_.size(); v < variables_.size(); ++v) {
    InputDef like;
    if (variables_[v].kind == Variable::Kind::truth) like.kind = BoolInput{};
    if (variables_[v].kind == Variable::Kind::whole) like.kind = IntInput{};
    if (variables_[v].kind == Variable::Kind::number) like.kind = FloatInput{};
    named.index = static_cast<std::uint16_t>(v);
    std::vector<Span>& out = variable_cells_.emplace_back();
    const Span all = variables_[v].range;
    std::vector<Span> cells = cells_of(like, variable_cuts_[v].points);
    if (variables_[v].kind != Variable::Kind::truth) cells = alike(std::move(cells), variable_cuts_[v], named);
    for (const Span& cell : cells) {
      if (cell.high < all.low || cell.low > all.high) continue;
      const Span within{std::max(cell.low, all.low), std::min(cell.high, all.high)};
      // What is counted towards a number is known one by one, beyond it no more.
      if (variables_[v].kind == Variable::Kind::whole && within.high - within.low < kFewWholes)
        for (double each = within.low; each <= within.high; ++each) out.push_back({each, each});
      else
        out.push_back(within);
    }
  }
  return variable_cells_[variable];
}

Flags Model::active(const Config& config) const {
  Flags out(states_.size(), 0);
  out[0] = 1;
  for (const std::uint16_t leaf : config.leaves)
    if (leaf != kNoIndex)
      for (std::uint16_t up = leaf; out[up] == 0; up = states_[up].parent) out[up] = 1;
  for (const std::uint16_t state : loose_) out[state] = kPerhaps;
  return out;
}

Span Model::started(std::uint16_t variable) const {
  return snapped(variable, {variables_[variable].start, variables_[variable].start});
}

Values Model::at_start() const {
  Values out;
  for (std::uint16_t v = 0; v < variables_.size(); ++v) out.push_back(started(v));
  return out;
}

Values Model::nothing_known() const {
  Values out;
  for (const Variable& variable : variables_) out.push_back(variable.range);
  return out;
}

Span Model::snapped(std::uint16_t variable, const Span& span) const {
  if (known_[variable] == Knowledge::values) return span;
  if (known_[variable] == Knowledge::nothing) return variables_[variable].range;
  return cell_of(variable, span);
}

Span Model::cell_of(std::uint16_t variable, const Span& span) const {
  const std::vector<Span>& cells = variable_cells(variable);
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
  for (std::uint16_t v = 0; v < variables_.size(); ++v) config.variables[v] = snapped(v, config.variables[v]);
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (left_out_.regions[r]) config.leaves[r] = kNoIndex;
  for (std::size_t i = 0; i < config.memories.size(); ++i)
    if (left_out_.regions[memories_[i].region]) config.memories[i] = kNoIndex;
  if (!remembers_) config.memories.clear();
  if (!compares_times_) config.ages.clear();
  return config;
}

bool Model::counts_up(std::uint16_t variable) const {
  if (!counter_[variable]) return false;
  const std::vector<Span>& cells = variable_cells(variable);
  return std::all_of(cells.begin(), cells.end() - 1, [](const Span& cell) { return cell.point(); });
}

bool Model::knows_less() const {
  for (std::size_t v = 0; v < known_.size(); ++v)
    if (known_[v] != Knowledge::values && !left_out_.variables[v] &&
        !(known_[v] == Knowledge::comparisons && counts_up(static_cast<std::uint16_t>(v))))
      return true;
  return false;
}

bool Model::take_grown() {
  const bool grown = grown_;
  grown_ = false;
  return grown;
}

}  // namespace mobrin::proof
