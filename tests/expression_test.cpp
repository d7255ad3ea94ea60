// Expressions of any shape give what the same computed here gives.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>
#include <stdexcept>
#include <string>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::test {
namespace {

struct Values {
  float x = 0, y = 0;
  std::int32_t n = 0;
  bool b = false, c = false;
};
// An expression as it is written, and what it is.
template <class T>
struct Term {
  std::string text;
  std::function<T(const Values&)> of;
};
using Number = Term<double>;
using Truth = Term<bool>;

class Terms {
 public:
  explicit Terms(unsigned seed) : random_(seed) {}

  Number number(int depth) {
    switch (depth == 0 ? any(4) : any(14)) {
      case 0:
        return {"x", [](const Values& v) { return double{v.x}; }};
      case 1:
        return {"y", [](const Values& v) { return double{v.y}; }};
      case 2:
        return {"n", [](const Values& v) { return double(v.n); }};
      case 3: {
        const double value = (any(17) - 8) / 4.0;
        std::string text = std::to_string(std::abs(value));
        return {value < 0 ? "(-" + text + ")" : text, [value](const Values&) { return value; }};
      }
      case 4:
        return both("+", depth, [](double a, double b) { return a + b; });
      case 5:
        return both("-", depth, [](double a, double b) { return a - b; });
      case 6:
        return both("*", depth, [](double a, double b) { return a * b; });
      case 7:
        return both("/", depth, [](double a, double b) { return b == 0 ? 0 : a / b; });
      case 8:
        return call("min", depth, [](double a, double b) { return b < a ? b : a; });
      case 9:
        return call("max", depth, [](double a, double b) { return a < b ? b : a; });
      case 10: {
        const Number a = number(depth - 1);
        return {"abs(" + a.text + ")", [a](const Values& v) { return std::abs(a.of(v)); }};
      }
      case 11: {
        const Number a = number(depth - 1);
        return {"(-" + a.text + ")", [a](const Values& v) { return -a.of(v); }};
      }
      case 12: {
        const Number a = number(depth - 1), low = number(depth - 1), high = number(depth - 1);
        return {"clamp(" + a.text + ", " + low.text + ", " + high.text + ")", [a, low, high](const Values& v) {
                  return a.of(v) < low.of(v) ? low.of(v) : high.of(v) < a.of(v) ? high.of(v) : a.of(v);
                }};
      }
      default:
        return choose(truth(depth - 1), number(depth - 1), number(depth - 1));
    }
  }

  Truth truth(int depth) {
    switch (depth == 0 ? any(2) : any(13)) {
      case 0:
        return {"b", [](const Values& v) { return v.b; }};
      case 1:
        return {"c", [](const Values& v) { return v.c; }};
      case 2:
      case 3:
        return pair("and", truth(depth - 1), truth(depth - 1), [](bool a, bool b) { return a && b; });
      case 4:
      case 5:
        return pair("or", truth(depth - 1), truth(depth - 1), [](bool a, bool b) { return a || b; });
      case 6: {
        const Truth a = truth(depth - 1);
        return {"(not " + a.text + ")", [a](const Values& v) { return !a.of(v); }};
      }
      case 7:
        return pair("<", number(depth - 1), number(depth - 1), std::less<>());
      case 8:
        return pair("<=", number(depth - 1), number(depth - 1), std::less_equal<>());
      case 9:
        return pair(">", number(depth - 1), number(depth - 1), std::greater<>());
      case 10:
        return pair(any(2) == 0 ? ">=" : "==", number(depth - 1), number(depth - 1));
      case 11:
        return any(2) == 0 ? pair("==", truth(depth - 1), truth(depth - 1), std::equal_to<>())
                           : pair("!=", truth(depth - 1), truth(depth - 1), std::not_equal_to<>());
      default:
        return choose(truth(depth - 1), truth(depth - 1), truth(depth - 1));
    }
  }

 private:
  int any(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
  template <class T, class Does>
  static auto pair(const std::string& sign, const Term<T>& a, const Term<T>& b, const Does& does)
      -> Term<decltype(does(T(), T()))> {
    return {"(" + a.text + " " + sign + " " + b.text + ")",
            [a, b, does](const Values& v) { return does(a.of(v), b.of(v)); }};
  }
  static Truth pair(const std::string& sign, const Number& a, const Number& b) {
    return sign == ">=" ? pair(sign, a, b, std::greater_equal<>()) : pair(sign, a, b, std::equal_to<>());
  }
  template <class Does>
  Number both(const std::string& sign, int depth, const Does& does) {
    const Number a = number(depth - 1), b = number(depth - 1);
    return pair(sign, a, b, does);
  }
  template <class Does>
  Number call(const std::string& name, int depth, const Does& does) {
    const Number a = number(depth - 1), b = number(depth - 1);
    return {name + "(" + a.text + ", " + b.text + ")",
            [a, b, does](const Values& v) { return does(a.of(v), b.of(v)); }};
  }
  template <class T>
  static Term<T> choose(const Truth& when, const Term<T>& a, const Term<T>& b) {
    return {"select(" + when.text + ", " + a.text + ", " + b.text + ")",
            [when, a, b](const Values& v) { return when.of(v) ? a.of(v) : b.of(v); }};
  }

  std::mt19937 random_;
};

// A machine whose one look is shown where an expression holds.
Machine with_look(const std::string& when) {
  MachineBuilder builder("m");
  builder.input("x", FloatInput{}).input("y", FloatInput{}).input("n", IntInput{});
  builder.input("b", BoolInput{}).input("c", BoolInput{});
  LookDef look;
  look.name = "so";
  look.when = when;
  builder.definition().looks.push_back(look);
  StateDef only;
  only.name = "only";
  const Compiled compiled = builder.state(only).build();
  if (!compiled.machine) throw std::runtime_error(when + "\n" + compiled.findings[0].text());
  return *compiled.machine;
}

TEST(Expressions, OfAnyShapeGiveWhatCppGives) {
  std::mt19937 random(11);
  int held = 0, looked = 0;
  for (unsigned seed = 0; seed < 3'000; ++seed) {
    const Truth wanted = Terms(seed).truth(static_cast<int>(seed % 5));
    if (wanted.text.size() > 4'000) continue;
    Instance it(with_look(wanted.text));
    for (int i = 0; i < 12; ++i) {
      Values now;
      now.x = static_cast<float>(static_cast<int>(random() % 9) - 4) / 4;
      now.y = static_cast<float>(static_cast<int>(random() % 9) - 4) / 2;
      now.n = static_cast<std::int32_t>(random() % 7) - 3;
      now.b = random() % 2 == 0, now.c = random() % 2 == 0;
      it.set(*it.machine().input<float>("x"), now.x);
      it.set(*it.machine().input<float>("y"), now.y);
      it.set(*it.machine().input<std::int32_t>("n"), now.n);
      it.set(*it.machine().input<bool>("b"), now.b);
      it.set(*it.machine().input<bool>("c"), now.c);
      (void)it.advance(milliseconds(1), [](const Cue&) {});
      ASSERT_EQ(it.look() == 0, wanted.of(now)) << wanted.text << " where x " << now.x << ", y " << now.y << ", n "
                                                << now.n << ", b " << now.b << ", c " << now.c;
      held += wanted.of(now) ? 1 : 0;
      ++looked;
    }
  }
  EXPECT_GT(held, looked / 4);
  EXPECT_LT(held, looked * 3 / 4);
}

// Each of these is done in one step: not a bit may be lost, however large or small the numbers are.
TEST(Expressions, OfOneValueOnEachSideAreExact) {
  using Of = bool (*)(double x, double y, double n, double a, double b);
  const std::pair<const char*, Of> forms[] = {
      {"x * A + B < y", [](double x, double y, double, double a, double b) { return x * a + b < y; }},
      {"(x + A) * B <= y", [](double x, double y, double, double a, double b) { return (x + a) * b <= y; }},
      {"A - x > y * B", [](double x, double y, double, double a, double b) { return a - x > y * b; }},
      {"A - abs(x - B) >= n", [](double x, double, double n, double a, double b) { return a - std::abs(x - b) >= n; }},
      {"abs(x * A - B) * 3 + 7 > abs(y)",
       [](double x, double y, double, double a, double b) { return std::abs(x * a - b) * 3 + 7 > std::abs(y); }},
      {"-x + A == n - B", [](double x, double, double n, double a, double b) { return -x + a == n - b; }},
      {"not (x * A * B < n + 1)", [](double x, double, double n, double a, double b) { return !(x * a * b < n + 1); }},
      {"A != y + B or x < y", [](double x, double y, double, double a, double b) { return a != y + b || x < y; }},
      {"B * (x - A) < 1 and not (n * 2 - 1 >= y)",
       [](double x, double y, double n, double a, double b) { return b * (x - a) < 1 && !(n * 2 - 1 >= y); }}};
  std::mt19937 random(5);
  const auto any = [&] {
    const float kinds[] = {0.1f, 0.3f, 3, 1e-38f, 1e-45f, 3e37f, 16'777'213.0f, -2.5f, -0.7f, 7};
    return kinds[random() % std::size(kinds)] * (random() % 4 == 0 ? 1 : static_cast<float>(random() % 1'000) / 300);
  };
  const auto written = [](float number) {
    char text[400];
    std::snprintf(text, sizeof text, "%.160f", static_cast<double>(number));
    std::string out = text;
    if (const auto point = out.find_first_not_of("-0123456789"); point != std::string::npos) out[point] = '.';
    return number < 0 ? "(" + out + ")" : out;
  };
  int held = 0, looked = 0;
  for (int round = 0; round < 40; ++round) {
    for (const auto& [form, of] : forms) {
      const float a = any(), b = any();
      std::string text = form;
      for (const auto& [name, value] : {std::pair('A', a), std::pair('B', b)})
        if (const auto at = text.find(name); at != std::string::npos) text.replace(at, 1, written(value));
      Instance it(with_look(text));
      for (int i = 0; i < 30; ++i) {
        const auto whole = static_cast<std::int32_t>(random());
        const float x = any(), y = any();
        const std::int32_t n = i % 2 == 0 ? whole : whole % 8;
        it.set(*it.machine().input<float>("x"), x);
        it.set(*it.machine().input<float>("y"), y);
        it.set(*it.machine().input<std::int32_t>("n"), n);
        const bool wanted = of(double{x}, double{y}, double(n), double{a}, double{b});
        ASSERT_EQ(it.look() == 0, wanted) << text << " where x " << x << ", y " << y << ", n " << n;
        held += wanted ? 1 : 0;
        ++looked;
      }
    }
  }
  EXPECT_GT(held, looked / 5);
  EXPECT_LT(held, looked * 4 / 5);
}

// Whatever stands on either side of whichever comparison.
TEST(Expressions, OfEveryKindOfSidesAreWhatTheySay) {
  using Of = double (*)(double x, double n);
  const std::pair<const char*, Of> sides[] = {{"1.5", [](double, double) { return 1.5; }},
                                              {"x", [](double x, double) { return x; }},
                                              {"n", [](double, double n) { return n; }},
                                              {"x * 2 - 1", [](double x, double) { return x * 2 - 1; }},
                                              {"abs(n - 1)", [](double, double n) { return std::abs(n - 1); }},
                                              {"(n + 1) * -2", [](double, double n) { return (n + 1) * -2; }}};
  const std::pair<const char*, bool (*)(double, double)> comparisons[] = {
      {"<", [](double a, double b) { return a < b; }},   {"<=", [](double a, double b) { return a <= b; }},
      {">", [](double a, double b) { return a > b; }},   {">=", [](double a, double b) { return a >= b; }},
      {"==", [](double a, double b) { return a == b; }}, {"!=", [](double a, double b) { return a != b; }}};
  for (const auto& [left, left_of] : sides) {
    for (const auto& [right, right_of] : sides) {
      if (left == right) continue;
      for (const auto& [sign, of] : comparisons) {
        const std::string text = std::string(left) + " " + sign + " " + right;
        Instance it(with_look(text));
        for (const float x : {-1.5f, 0.0f, 1.0f, 1.5f, 2.0f}) {
          for (const int n : {-2, 0, 1, 2}) {
            it.set(*it.machine().input<float>("x"), x);
            it.set(*it.machine().input<std::int32_t>("n"), n);
            ASSERT_EQ(it.look() == 0, of(left_of(double{x}, n), right_of(double{x}, n)))
                << text << ": " << x << " " << n;
          }
        }
      }
    }
  }
}

// Lists of comparisons, also longer ones than are gone through one by the other.
TEST(Expressions, OfManyComparisonsAreDecidedByTheRightOne) {
  for (const int count : {1, 2, 100, 255, 256, 257, 300}) {
    std::string any, all;
    for (int i = 0; i < count; ++i) {
      any += (i > 0 ? " or " : "") + std::string("x==") + std::to_string(i) + (i % 3 == 0 ? " and b" : "");
      all += (i > 0 ? " and " : "") + std::string("x!=") + std::to_string(i);
    }
    Instance one(with_look(any)), none(with_look(all));
    const auto x_of_one = *one.machine().input<float>("x"), x_of_none = *none.machine().input<float>("x");
    const auto b = *one.machine().input<bool>("b");
    for (int x = -1; x <= count; ++x) {
      one.set(x_of_one, static_cast<float>(x));
      none.set(x_of_none, static_cast<float>(x));
      const bool within = x >= 0 && x < count;
      ASSERT_EQ(none.look() == 0, !within) << count << ": " << x;
      for (const bool is : {false, true}) {
        one.set(b, is);
        ASSERT_EQ(one.look() == 0, within && (is || x % 3 != 0)) << count << ": " << x;
      }
    }
  }
}

}  // namespace
}  // namespace mobrin::test
