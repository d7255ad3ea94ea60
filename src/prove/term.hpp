// Terms: the expressions of a machine and its claims, bound to what they speak of and computed over ranges of values.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "expression/expression_parse.hpp"
#include "few.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin::proof {

// All values from low to high, both included. Truth is 0 or 1, a choice its index.
struct Span {
  double low = 0, high = 0;
  [[nodiscard]] bool point() const { return low == high; }
  bool operator==(const Span&) const = default;
};

// All from the least of both to the most.
[[nodiscard]] inline Span hull(const Span& a, const Span& b) {
  return {a.low < b.low ? a.low : b.low, a.high > b.high ? a.high : b.high};
}

enum class Truth : std::uint8_t { no, maybe, yes };
// By pulse, cue or question; by state, whether it is active; by variable; of leaves, by region, and of what there are
// few.
using Truths = Few<Truth, 24>;
using Flags = Few<std::uint8_t, 48>;
using Values = Few<Span, 4>;
constexpr std::uint8_t kPerhaps = 2;  // among flags: it may be active
using Indices = Few<std::uint16_t, 8>;
[[nodiscard]] Truth truth_of(const Span& span);
[[nodiscard]] Span span_of(Truth truth);

struct Term {
  enum class Kind : std::uint8_t { constant, input, variable, state, trait, pulse, cue, operation };
  Kind kind = Kind::constant;
  detail::Op op = detail::Op::constant;
  double value = 0;         // of a constant,
  bool truth = false;       // and whether it is `true` or `false`
  std::uint16_t index = 0;  // of what it names: into inputs, variables, states, traits, inputs (a pulse), cues
  std::size_t offset = 0;   // of its text, or its sign, in the expression
  std::vector<Term> operands{};
};

// What the names of a term stand for.
struct Vocabulary {
  std::function<std::optional<std::uint16_t>(const std::string&)> variable;
  std::function<std::optional<std::uint16_t>(const std::string&)> state;
  const Machine* machine = nullptr;
};

// A term, or what is wrong with it, where in its text, and what would be right.
struct Bound {
  std::optional<Term> term;
  std::string problem{}, remedy{};
  std::size_t offset = 0;
};
[[nodiscard]] Bound bind_term(const std::string& text, const Vocabulary& names, detail::ExprWords words);

// Which way each `select` goes of which that is not known: one choice after the other, until all of them were made.
class Choices {
 public:
  // The next one; empty where there are too many.
  [[nodiscard]] std::optional<bool> make();
  // Goes on to what was not chosen yet; false: nothing is left.
  [[nodiscard]] bool next();

 private:
  static constexpr std::size_t kMost = 4;
  std::vector<bool> made_;
  std::size_t at_ = 0;
};

// What is known of the values at an instant. Of states, pulses and cues nothing, where they are null.
struct View {
  const std::vector<Span>* inputs = nullptr;
  const Values* variables = nullptr;
  const Flags* active = nullptr;                           // by state; kPerhaps: not known
  const Truths* pulses = nullptr;                          // by input
  const Truths* cues = nullptr;                            // by cue
  const std::vector<std::vector<bool>>* traits = nullptr;  // by state: which it carries
  Choices* choices = nullptr;                              // else both ways at once
};

// All values that the term may have: never too few.
[[nodiscard]] Span compute(const Term& term, const View& view);
[[nodiscard]] Truth holds(const Term& term, const View& view);

// Whether a guard computes, or compares what is not constant: then cases of values do not decide it.
[[nodiscard]] bool computes(const Term& term);
// Whether two guards speak of one thing: else neither says anything of the other.
[[nodiscard]] bool share(const Term& one, const Term& other);

// Tells terms apart: the same for those that are written the same.
[[nodiscard]] std::string key_of_term(const Term& term);

// Calls `visit` with each term of the tree.
void each_term(const Term& term, const std::function<void(const Term&)>& visit);

}  // namespace mobrin::proof
