// Characters that are taken for others, as in text that was copied from a page: curly quotes, dashes for a minus,
// spaces that do not break, letters of other alphabets.
#pragma once

#include <string>
#include <string_view>

namespace mobrin::detail {

struct LookAlike {
  std::string_view letter;  // as it stands there; empty: what stands there is none
  std::string_view plain;   // what it is taken for; empty for what cannot be seen
};
// What stands at the begin of `text`.
[[nodiscard]] LookAlike look_alike(std::string_view text);
// Whether it is a space, or cannot be seen.
[[nodiscard]] inline bool is_space(const LookAlike& one) { return one.plain == " " || one.plain.empty(); }
// Whether it is a quote.
[[nodiscard]] inline bool is_quote(const LookAlike& one) { return one.plain == "\"" || one.plain == "'"; }

// A letter with marks as those of the alphabet (`ü`: u, `ß`: ss); empty for others.
[[nodiscard]] std::string_view without_marks(std::string_view letter);

// The first letter of `text`: all bytes of it.
[[nodiscard]] std::string_view first_letter(std::string_view text);
// A letter as `U+00A0`.
[[nodiscard]] std::string code_point(std::string_view letter);

// What a name may be, and the nearest that `name`, which is none, could be instead.
[[nodiscard]] std::string name_remedy(std::string_view name);

}  // namespace mobrin::detail
