// Mistakes in how a file is written that YAML does not see, or sees as something else: told once each, and then read as
// they are meant, so that nothing that hangs on them is told as well.
#pragma once

#include "reader.hpp"

namespace mobrin::io {

// The text with plain spaces where others stand before or behind words, and without what cannot be seen there; none
// where it has no such.
[[nodiscard]] std::optional<std::string> plain_spaces(Reader& reader, std::string_view text);

// Joins what was cut with what follows it: `joins` says of one how many more belong to it, and has made it whole.
template <class One, class Joins>
void join(std::vector<One>& all, const Joins& joins) {
  std::size_t kept = 0;
  for (std::size_t i = 0; i < all.size(); ++kept) {
    const std::size_t more = joins(all, i);
    if (kept != i) all[kept] = std::move(all[i]);
    i += 1 + more;
  }
  all.resize(kept);
}

// Takes words out of curly quotes. REQUIRES: a file's top level.
void plain_quotes(Reader& reader, YamlNode& root);

// Cuts off what other languages begin a comment with: `initial: stand // first`. REQUIRES: a file's top level, and
// its text.
void plain_comments(Reader& reader, YamlNode& root, std::string_view text);

// What `text`, which is no number or no duration, may be meant for: with a point for its comma, without commas between
// thousands, with a plain minus, with a unit; those that `reads` takes.
[[nodiscard]] std::vector<std::string> meant_numbers(std::string_view text, bool (*reads)(std::string_view));
// Such as "`1000` or `1.000`".
[[nodiscard]] std::string in_code(const std::vector<std::string>& words);

// Joins what YAML cut at a comma: numbers at a decimal one, expressions between the operands of a call.
void join_at_commas(Reader& reader, YamlNode& node);

// Adds colons, and spaces behind them, that are missing: `{at 2s}`, `{at:2s}`, `swing {pulse: 110ms}`.
void add_colons(Reader& reader, YamlNode& node);

// Puts what is plainly meant for another section there, as where a line lost its indentation or a heading is gone.
// REQUIRES: a file's top level.
void put_in_place(Reader& reader, YamlNode& root);

// Joins what stands under one key twice.
void join_repeated(Reader& reader, YamlNode& root);

}  // namespace mobrin::io
