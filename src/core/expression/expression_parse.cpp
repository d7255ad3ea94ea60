// Parsing expressions: words to a tree. Knows no names.
#include "expression/expression_parse.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "expression/idioms.hpp"
#include "expression/look_alike.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

constexpr int kMaxNesting = 64;

struct Function {
  std::string_view name;
  Op op;
};
constexpr std::array<Function, 6> kFunctions = {{{"abs", Op::abs},
                                                 {"min", Op::min},
                                                 {"max", Op::max},
                                                 {"clamp", Op::clamp},
                                                 {"sign", Op::sign},
                                                 {"select", Op::select}}};

struct BinarySign {
  std::string_view text;
  Op op;
};
constexpr std::array<BinarySign, 6> kComparisons = {{{"<=", Op::less_equal},
                                                     {">=", Op::greater_equal},
                                                     {"==", Op::equal},
                                                     {"!=", Op::not_equal},
                                                     {"<", Op::less},
                                                     {">", Op::greater}}};

using NodePtr = std::unique_ptr<ExprNode>;

class Parser {
 public:
  Parser(std::string_view source, ExprProblem& problem, ExprWords words)
      : source_(source), problem_(problem), words_(words) {}

  NodePtr parse() {
    NodePtr node = parse_or();
    if (!node) return nullptr;
    skip_space();
    if (at_ < source_.size()) return unexpected("an operator or the end");
    return node;
  }

 private:
  void skip_space() {
    while (at_ < source_.size() && (source_[at_] == ' ' || source_[at_] == '\t' || source_[at_] == '\n')) ++at_;
  }

  bool take(std::string_view sign) {
    skip_space();
    if (source_.substr(at_, sign.size()) != sign) return false;
    at_ += sign.size();
    return true;
  }
  std::string_view peek_word() {
    skip_space();
    std::size_t end = at_;
    if (end < source_.size() && is_letter(source_[end]))
      while (end < source_.size() && (is_letter(source_[end]) || is_digit(source_[end]))) ++end;
    return source_.substr(at_, end - at_);
  }
  bool take_word(std::string_view word) {
    if (peek_word() != word) return false;
    at_ += word.size();
    return true;
  }

  NodePtr fail(std::size_t offset, std::string message, std::string remedy) {
    problem_ = {FindingCode::bad_expression, offset, std::move(message), std::move(remedy)};
    return nullptr;
  }
  NodePtr not_here(std::size_t at, const Idiom& idiom) {
    const bool known = is_letter(idiom.text.front()) || idiom.text == "*";  // elsewhere it may stand
    const std::string meant = idiom.text == "between" ? between_meant(source_, at) : "";
    return fail(at,
                "\"" + std::string(idiom.text) +
                    (known ? "\" is not expected here in \"" + std::string(source_) + "\""
                           : "\" is not a sign of the expression language"),
                meant.empty() ? std::string(idiom.remedy) : meant);
  }
  NodePtr unexpected(std::string_view expected) {
    skip_space();
    if (at_ >= source_.size())
      return fail(at_, "the expression \"" + std::string(source_) + "\" ends too early",
                  "Expected " + std::string(expected) + ".");
    if (at_ > 0 && is_letter(source_[at_])) {  // `NOT near`: the word before it
      std::size_t end = at_;
      while (end > 0 && source_[end - 1] == ' ') --end;
      std::size_t begin = end;
      while (begin > 0 && is_letter(source_[begin - 1])) --begin;
      const Idiom before = idiom_before(source_.substr(begin, end - begin));
      if (!before.remedy.empty()) return not_here(begin, before);
    }
    if (const Idiom idiom = idiom_at(source_.substr(at_)); !idiom.remedy.empty()) return not_here(at_, idiom);
    if (const LookAlike like = look_alike(source_.substr(at_)); !like.letter.empty()) {
      if (is_space(like))
        return fail(at_,
                    "the character " + code_point(like.letter) + " in \"" + std::string(source_) +
                        "\" is no space to an expression",
                    like.plain.empty() ? "Take it out; it cannot be seen." : "Write a plain space.");
      return fail(at_,
                  "\"" + std::string(like.letter) + "\" (" + code_point(like.letter) +
                      ") is not a sign of the expression language",
                  is_quote(like) ? "Names stand without quotes." : "Write `" + std::string(like.plain) + "`.");
    }
    if (comma_in_number(at_))
      return fail(at_, "there is a comma within a number in \"" + std::string(source_) + "\"",
                  "A number has a point, and nothing between thousands.");
    const std::string_view word = peek_word();
    const std::string offending(word.empty() ? first_letter(source_.substr(at_)) : word);
    return fail(at_, "\"" + offending + "\" is not expected here in \"" + std::string(source_) + "\"",
                "Expected " + std::string(expected) + ".");
  }

  [[nodiscard]] bool comma_in_number(std::size_t at) const {
    return source_[at] == ',' && at > 0 && is_digit(source_[at - 1]) && at + 1 < source_.size() &&
           is_digit(source_[at + 1]);
  }

  static NodePtr make(Op op, std::size_t offset, std::string_view text) {
    auto node = std::make_unique<ExprNode>();
    node->kind = ExprNode::Kind::operation;
    node->op = op;
    node->offset = offset;
    node->name = text;
    return node;
  }
  static NodePtr binary(Op op, std::size_t offset, NodePtr left, NodePtr right) {
    NodePtr node = make(op, offset, text_of(op));
    node->operands.push_back(std::move(left));
    node->operands.push_back(std::move(right));
    return node;
  }

  NodePtr parse_or() {
    NodePtr left = parse_and();
    while (left) {
      skip_space();
      const std::size_t offset = at_;
      if (!take_word("or")) break;
      NodePtr right = parse_and();
      if (!right) return nullptr;
      left = binary(Op::or_, offset, std::move(left), std::move(right));
    }
    return left;
  }
  NodePtr parse_and() {
    NodePtr left = parse_not();
    while (left) {
      skip_space();
      const std::size_t offset = at_;
      if (!take_word("and")) break;
      NodePtr right = parse_not();
      if (!right) return nullptr;
      left = binary(Op::and_, offset, std::move(left), std::move(right));
    }
    return left;
  }
  NodePtr parse_not() {
    skip_space();
    const std::size_t offset = at_;
    if (!take_word("not")) return parse_comparison();
    if (++depth_ > kMaxNesting) return too_deep();
    NodePtr inner = parse_not();
    --depth_;
    if (!inner) return nullptr;
    NodePtr node = make(Op::not_, offset, "not");
    node->operands.push_back(std::move(inner));
    return node;
  }
  const BinarySign* peek_comparison() {
    skip_space();
    if (source_.substr(at_, 2) == "<>") return nullptr;
    for (const BinarySign& sign : kComparisons)
      if (source_.substr(at_, sign.text.size()) == sign.text) return &sign;
    return nullptr;
  }
  // What of the source was read from there on, without spaces around it.
  [[nodiscard]] std::string read_from(std::size_t begin) const {
    std::string_view out = source_.substr(begin, at_ - begin);
    while (out.starts_with(' ')) out.remove_prefix(1);
    while (out.ends_with(' ')) out.remove_suffix(1);
    return std::string(out);
  }
  NodePtr parse_comparison() {
    const std::size_t begin = at_;
    NodePtr left = parse_sum();
    if (!left) return nullptr;
    const BinarySign* sign = peek_comparison();
    if (sign == nullptr) return left;
    const std::size_t offset = at_;
    at_ += sign->text.size();
    const std::size_t middle = at_;
    NodePtr right = parse_sum();
    if (!right) return nullptr;
    if (const BinarySign* again = peek_comparison()) {
      const std::size_t second = at_;
      const std::string first = read_from(begin), shared = read_from(middle);
      at_ += again->text.size();
      const std::size_t last = at_;
      const std::string remedy = parse_sum() ? "Join them: `" + first + " and " + shared + " " +
                                                   std::string(again->text) + " " + read_from(last) + "`."
                                             : "Join them: `a < b and b < c`.";
      return fail(second, "two comparisons in a row in \"" + std::string(source_) + "\"", remedy);
    }
    return binary(sign->op, offset, std::move(left), std::move(right));
  }
  NodePtr parse_sum() {
    NodePtr left = parse_product();
    while (left) {
      skip_space();
      const std::size_t offset = at_;
      const bool plus = take("+");
      if (!plus && !take("-")) break;
      NodePtr right = parse_product();
      if (!right) return nullptr;
      left = binary(plus ? Op::add : Op::subtract, offset, std::move(left), std::move(right));
    }
    return left;
  }
  NodePtr parse_product() {
    NodePtr left = parse_unary();
    while (left) {
      skip_space();
      const std::size_t offset = at_;
      const bool times = take("*");
      if (!times && !take("/")) break;
      NodePtr right = parse_unary();
      if (!right) return nullptr;
      left = binary(times ? Op::multiply : Op::divide, offset, std::move(left), std::move(right));
    }
    return left;
  }
  NodePtr parse_unary() {
    skip_space();
    const std::size_t offset = at_;
    if (!take("-")) return parse_primary();
    if (++depth_ > kMaxNesting) return too_deep();
    NodePtr inner = parse_unary();
    --depth_;
    if (!inner) return nullptr;
    NodePtr node = make(Op::negate, offset, "-");
    node->operands.push_back(std::move(inner));
    return node;
  }
  NodePtr too_deep() {
    return fail(at_, "the expression nests more than " + std::to_string(kMaxNesting) + " deep", "Split it up.");
  }

  NodePtr parse_primary() {
    skip_space();
    const std::size_t offset = at_;
    if (take("(")) {
      if (++depth_ > kMaxNesting) return too_deep();
      NodePtr inner = parse_or();
      --depth_;
      if (!inner) return nullptr;
      if (!take(")")) return unexpected("`)`");
      return inner;
    }
    if (at_ < source_.size() && (is_digit(source_[at_]) || source_[at_] == '.')) return parse_number();
    const std::string_view word = peek_word();
    if (word.empty() || word == "and" || word == "or") return unexpected("a number, a name or `(`");
    at_ += word.size();
    auto node = std::make_unique<ExprNode>();
    node->offset = offset;
    node->name = word;
    if (word == "true" || word == "false") {
      node->kind = ExprNode::Kind::boolean;
      node->value = word == "true" ? 1 : 0;
      return node;
    }
    if (word == "in") return parse_named(std::move(node), ExprNode::Kind::state, "a state");
    if (words_ == ExprWords::claim) {
      if (word == "is") return parse_named(std::move(node), ExprNode::Kind::trait, "a trait");
      if (word == "pulse") return parse_named(std::move(node), ExprNode::Kind::pulse, "a pulse");
      if (word == "cue") return parse_named(std::move(node), ExprNode::Kind::cue, "a cue");
    }
    for (const Function& function : kFunctions)
      if (word == function.name) return parse_call(function, offset);
    skip_space();
    if (at_ < source_.size() && source_[at_] == '(')
      return fail(offset, "\"" + std::string(word) + "\" is not a function",
                  words_ == ExprWords::claim
                      ? "The functions are abs, min, max, clamp, sign, select, in, is, pulse and cue."
                  : idiom_of_function(word).empty() ? "The functions are abs, min, max, clamp, sign, select and in."
                                                    : std::string(idiom_of_function(word)));
    node->kind = ExprNode::Kind::name;
    return node;
  }
  // `in(ground/net)`: a word and a name in parentheses.
  NodePtr parse_named(NodePtr node, ExprNode::Kind kind, const std::string& what) {
    const std::string word = node->name;
    if (!take("(")) return unexpected("`(` and " + what + " after `" + word + "`");
    skip_space();
    node->offset = at_;
    const std::size_t close = source_.find(')', at_);
    if (close == std::string_view::npos) return unexpected(what + " and `)`");
    std::string_view path = source_.substr(at_, close - at_);
    while (!path.empty() && path.back() == ' ') path.remove_suffix(1);
    at_ = close + 1;
    node->kind = kind;
    node->name = path;
    return node;
  }
  NodePtr parse_call(const Function& function, std::size_t offset) {
    NodePtr node = make(function.op, offset, function.name);
    if (!take("(")) return unexpected("`(` after `" + std::string(function.name) + "`");
    if (++depth_ > kMaxNesting) return too_deep();
    do {
      NodePtr operand = parse_or();
      if (!operand) return nullptr;
      node->operands.push_back(std::move(operand));
    } while (take(","));
    --depth_;
    if (!take(")")) return unexpected("`,` or `)`");
    const auto wanted = static_cast<std::size_t>(operands_of(function.op));
    const std::size_t given = node->operands.size();
    if (given == wanted) return node;
    bool comma = false;
    for (std::size_t at = offset; given > wanted && at < at_; ++at) comma = comma || comma_in_number(at);
    return fail(
        offset,
        "`" + std::string(function.name) + "` has " + std::to_string(given) + " operand" + (given == 1 ? "" : "s"),
        "It takes " + std::to_string(wanted) + (comma ? "; a number has a point, not a comma." : "."));
  }
  NodePtr parse_number() {
    const std::size_t offset = at_;
    double value = 0;
    const char* first = source_.data() + at_;
    const char* last = source_.data() + source_.size();
    const auto [end, error] = std::from_chars(first, last, value);
    const std::string text(first, end);
    if (error != std::errc() || !std::isfinite(value))
      return fail(offset, "\"" + std::string(source_.substr(offset, 24)) + "\" is not a number I can hold",
                  "Write it like 12, 0.5 or 1e3.");
    at_ += text.size();
    if (at_ < source_.size() && is_letter(source_[at_])) {
      const std::string unit(peek_word());
      return fail(
          offset, "\"" + text + unit + "\" has a unit",
          "Numbers in expressions have none; write \"" + text + "\"." +
              (unit == "s" || unit == "ms" ? " To wait, write `after: " + text + unit + "` beside `when:`." : ""));
    }
    auto node = std::make_unique<ExprNode>();
    node->offset = offset;
    // Inputs and variables are held in 32 bits; so is what they are compared with, or 0.1 would not be 0.1.
    node->value = value == std::trunc(value) ? value : static_cast<double>(static_cast<float>(value));
    node->name = text;
    node->whole = text.find_first_of(".eE") == std::string::npos && std::abs(value) <= 2147483647.0;
    return node;
  }

  std::string_view source_;
  ExprProblem& problem_;
  ExprWords words_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

int operands_of_function(std::string_view name) {
  const auto found = std::ranges::find(kFunctions, name, &Function::name);
  return found == kFunctions.end() ? 0 : operands_of(found->op);
}

std::unique_ptr<ExprNode> parse_expression(std::string_view source, ExprProblem& problem, ExprWords words) {
  if (source.size() > kMaxExpressionLength) {
    problem = {FindingCode::bad_expression, 0,
               "the expression is longer than " + std::to_string(kMaxExpressionLength) + " bytes", "Split it up."};
    return nullptr;
  }
  return Parser(source, problem, words).parse();
}

}  // namespace mobrin::detail
