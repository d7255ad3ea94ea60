// Names: what a name may be, and the known name closest to a misspelt one.
#pragma once

#include <span>
#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"

namespace mobrin {

/// Whether `name` can stand in an expression: a letter or underscore, then letters, digits or underscores; ASCII only,
/// at most 64 bytes, and none of the expression language's own words.
[[nodiscard]] bool is_name(std::string_view name);

/// The entry of `known` that needs the fewest single-letter edits (a swap of neighbours is one) to become `name`, or an
/// empty string where none is close: more than a third of the letters would change. The first of equals wins.
[[nodiscard]] std::string nearest_name(std::string_view name, std::span<const std::string> known);

/// `text` as it can be shown in a terminal or a log: control characters, marks that turn the direction of writing, and
/// bytes that are no UTF-8 as `\x1b` or `\u{202e}`, so that no name can forge a line or a colour.
[[nodiscard]] std::string printable(std::string_view text);

/// That nothing of a kind (`clip`) has this name: with the nearest of those that are `known`, or where none is near
/// with the first of them.
[[nodiscard]] Error no_such(std::string_view what, std::string_view name, std::span<const std::string> known);

namespace detail {
/// Not for users: `There is a, b and 3 more.`; nothing where there are none.
[[nodiscard]] std::string those_there(std::span<const std::string> known);
/// Not for users: the expression language's own words, which are no names.
[[nodiscard]] std::span<const std::string_view> expression_words();
/// Not for users: a number with at most six digits behind the point and no zeros at its end, in every locale.
[[nodiscard]] std::string number_text(double value);
/// Not for users: a number with so many digits behind the point, in every locale.
[[nodiscard]] std::string fixed_text(double value, int digits);
/// Not for users: a number in so many digits and no zeros at its end, in every locale.
[[nodiscard]] std::string short_text(double value, int digits);
/// Not for users: the fewest digits from which a 32-bit number comes back as it was, in every locale.
[[nodiscard]] std::string shortest_text(float value);
/// Not for users: letters and digits of names and numbers, in every locale; an underscore is a letter.
[[nodiscard]] constexpr bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
[[nodiscard]] constexpr bool is_digit(char c) { return c >= '0' && c <= '9'; }
}  // namespace detail

}  // namespace mobrin
