// Rows of mistakes in logic, for tests: what is told of each, and a near miss of which nothing is told.
#pragma once

#include <gtest/gtest.h>

#include <string>

namespace mobrin::test {

struct MistakeRow {
  const char* name;
  std::string text;
  const char* found;  // of the mistake, a line a finding
  std::string near;   // a near miss
};
inline std::string name_of_row(const testing::TestParamInfo<MistakeRow>& row) { return row.param.name; }

// `tell` gives the findings of a machine as text.
template <class Tell>
void tells_the_mistake_and_not_the_near_miss(const MistakeRow& row, const Tell& tell) {
  EXPECT_EQ(tell(row.text), row.found);
  if (row.near[0] != '\0') {
    EXPECT_EQ(tell(row.near), "");
  }
}

}  // namespace mobrin::test
