// What people write in expressions out of other habits, and how it is written here.
#pragma once

#include <string>
#include <string_view>

namespace mobrin::detail {

// Of what stands where it is not expected: the sign or word it begins with, empty where it is nothing that is known.
struct Idiom {
  std::string_view text;
  std::string_view remedy;
};
[[nodiscard]] Idiom idiom_at(std::string_view rest);
// What to write for `x between 1 and 3`; `at`: where the word stands. Empty where that is not clear.
[[nodiscard]] std::string between_meant(std::string_view source, std::size_t at);
// Of a word that stands in front of another, with no operator between them.
[[nodiscard]] Idiom idiom_before(std::string_view word);
// Of a name that is no input or variable; empty: nothing is known of it.
[[nodiscard]] std::string_view idiom_of_name(std::string_view name);
// Of a function that is none.
[[nodiscard]] std::string_view idiom_of_function(std::string_view name);

}  // namespace mobrin::detail
