// Values: the parts of an input's or variable's range that nothing tells apart, and configurations.
#include <algorithm>
#include <cmath>

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
      Span span{HUGE_VAL, -HUGE_VAL};
      if (first <= last) span = {stored(first), stored(last)};
      for (const double end : {double(least), double(most)})
        if (end >= cell.low && end <= cell.high) span = {std::min(span.low, end), std::max(span.high, end)};
      if (span.low <= span.high) kept.push_back(span);
    }
    out = kept;
  }
  return out;
}

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

std::vector<Span> Model::any_inputs() const {
  std::vector<Span> out;
  for (const std::vector<Span>& cells : this->cells())
    out.push_back(cells.empty() ? Span{} : Span{cells.front().low, cells.back().high});
  return out;
}

const std::vector<std::vector<Span>>& Model::cells() const {
  if (cells_.empty())
    for (std::size_t i = 0; i < cuts_.size(); ++i) cells_.push_back(cells_of(machine_.inputs()[i], cuts_[i]));
  return cells_;
}

std::vector<std::uint8_t> Model::active(const Config& config) const {
  std::vector<std::uint8_t> out(states_.size(), 0);
  out[0] = 1;
  for (const std::uint16_t leaf : config.leaves)
    if (leaf != kNoIndex)
      for (std::uint16_t up = leaf; out[up] == 0; up = states_[up].parent) out[up] = 1;
  return out;
}

Span Model::started(std::uint16_t variable) const {
  return snapped(variable, {variables_[variable].start, variables_[variable].start});
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
  if (known_[variable] == Knowledge::values) return span;
  if (known_[variable] == Knowledge::nothing) return variables_[variable].range;
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
  for (std::uint16_t v = 0; v < variables_.size(); ++v) config.variables[v] = snapped(v, config.variables[v]);
  return config;
}

bool Model::knows_less() const {
  return std::any_of(known_.begin(), known_.end(), [](Knowledge each) { return each != Knowledge::values; });
}

bool Model::take_grown() {
  const bool grown = grown_;
  grown_ = false;
  return grown;
}

}  // namespace mobrin::proof
