// Claims on several threads; ./dev threads runs it under the thread sanitizer.
#include <gtest/gtest.h>

#include <algorithm>
#include <stdexcept>
#include <string>
#include <thread>

#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"

namespace mobrin::test {
namespace {

// Claims are shared among threads: told in their order on the thread that asks, and the same every time.
TEST(ClaimThreads, ClaimsAreAnsweredInTheirOrder) {
  std::string text =
      "mobrin: 1\nmachine: m\ninputs: {far: {int: 0, min: 0, max: 9}, hop: pulse, hit: {pulse: 100ms}}\ninitial: a\n"
      "states:\n  a: {go: [{pulse: hop, when: far > 3, to: b}, {pulse: hit, to: c}]}\n"
      "  b: {go: [{after: 300ms, to: c}, {pulse: hit, to: a}]}\n  c: {go: [{when: far < 2, to: a}]}\nclaims:\n";
  const char* const kClaims[] = {"{never: in(b) and far < 2}", "{from: in(b), within: 300ms, reaches: not in(b)}",
                                 "{from: true, can: in(b)}", "{never: in(c) and far < 2}",
                                 "{once: in(b), then: in(b)}"};
  for (int i = 0; i < 15; ++i) text += "  c" + std::to_string(i) + ": " + kClaims[i % 5] + "\n";
  const Loaded loaded = load_character_text(text, "m.yaml");
  ASSERT_TRUE(loaded.machine);
  std::string first;
  for (int time = 0; time < 3; ++time) {
    std::string told;
    int count = 0;
    prove(*loaded.definition, *loaded.machine, {}, {},
          [&, self = std::this_thread::get_id()](const ClaimAnswer& answer) {
            EXPECT_EQ(std::this_thread::get_id(), self);
            EXPECT_EQ(answer.claim.text, "c" + std::to_string(count++));
            told += std::string(text_of(answer.answer)) + " " + answer.says + "\n";
          });
    EXPECT_EQ(count, 15);
    EXPECT_EQ(std::count(told.begin(), told.end(), '\n'), 15);
    if (time == 0) first = told;
    EXPECT_EQ(told, first);
  }
  EXPECT_NE(first.find("refuted"), std::string::npos);
  // Who has heard enough throws, and all threads have ended.
  int heard = 0;
  EXPECT_THROW(prove(*loaded.definition, *loaded.machine, {}, {},
                     [&](const ClaimAnswer&) {
                       if (++heard == 2) throw std::runtime_error("enough");
                     }),
               std::runtime_error);
  EXPECT_EQ(heard, 2);
}

}  // namespace
}  // namespace mobrin::test
