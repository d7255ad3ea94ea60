// Characters that are taken for others.
#include "expression/look_alike.hpp"

#include <algorithm>
#include <array>
#include <cstdint>

#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

// In the order of their bytes, to be looked up.
constexpr auto kLookAlikes = [] {
  auto all = std::to_array<LookAlike>(
      {{"\u201c", "\""}, {"\u201d", "\""}, {"\u201e", "\""},  {"\u201f", "\""}, {"\u00ab", "\""},  {"\u00bb", "\""},
       {"\u2018", "'"},  {"\u2019", "'"},  {"\u201a", "'"},   {"\u201b", "'"},  {"\u00b4", "'"},   {"\u2212", "-"},
       {"\u2010", "-"},  {"\u2011", "-"},  {"\u2012", "-"},   {"\u2013", "-"},  {"\u2014", "-"},   {"\u2265", ">="},
       {"\u2264", "<="}, {"\u2260", "!="}, {"\u00d7", "*"},   {"\u00b7", "*"},  {"\u22c5", "*"},   {"\u00f7", "/"},
       {"\u2044", "/"},  {"\u2215", "/"},  {"\u2227", "and"}, {"\u2228", "or"}, {"\u00ac", "not"}, {"\u00a0", " "},
       {"\u2007", " "},  {"\u2009", " "},  {"\u200a", " "},   {"\u202f", " "},  {"\u205f", " "},   {"\u3000", " "},
       {"\u2002", " "},  {"\u2003", " "},  {"\u200b", ""},    {"\u2060", ""},   {"\ufeff", ""},    {"\u0430", "a"},
       {"\u0435", "e"},  {"\u043e", "o"},  {"\u0440", "p"},   {"\u0441", "c"},  {"\u0445", "x"},   {"\u0443", "y"},
       {"\u0456", "i"},  {"\u0410", "A"},  {"\u0412", "B"},   {"\u0415", "E"},  {"\u041a", "K"},   {"\u041c", "M"},
       {"\u041d", "H"},  {"\u041e", "O"},  {"\u0420", "P"},   {"\u0421", "C"},  {"\u0422", "T"},   {"\u0425", "X"}});
  std::ranges::sort(all, {}, &LookAlike::letter);
  return all;
}();

constexpr std::string_view kWide =
    "!\"#$%&'()*+,-./0123456789:;<=>?@ABCDEFGHIJKLMNOPQRSTUVWXYZ[\\]^_`"
    "abcdefghijklmnopqrstuvwxyz{|}~";
constexpr std::uint32_t kFirstWide = 0xff01;

std::uint32_t value_of(std::string_view letter) {
  const auto first = static_cast<unsigned char>(letter.front());
  std::uint32_t out = letter.size() == 1 ? first : first & (0x7fu >> letter.size());
  for (const char each : letter.substr(1)) out = out << 6 | (static_cast<unsigned char>(each) & 0x3fu);
  return out;
}

// Of letters with marks, from U+00C0 and from U+0100 on, those without; `*` for what is no letter, or more than one.
constexpr std::string_view kWithoutMarks =
    "AAAAAA*CEEEEIIIIDNOOOOO*OUUUUY**aaaaaa*ceeeeiiiidnooooo*ouuuuy*y"
    "AaAaAaCcCcCcCcDdDdEeEeEeEeEeGgGgGgGgHhHhIiIiIiIiIi**JjKkkLlLlLlLlLlNnNnNnnNnOoOoOo**"
    "RrRrRrSsSsSsSsTtTtTtUuUuUuUuUuUuWw"
    "YyYZzZzZzs";
constexpr std::uint32_t kFirstMarked = 0xc0;
static_assert(kWithoutMarks.size() == 0x180 - kFirstMarked);
constexpr LookAlike kTwoLetters[] = {{"\u00c6", "Ae"}, {"\u00de", "Th"}, {"\u00df", "ss"},
                                     {"\u00e6", "ae"}, {"\u00fe", "th"}, {"\u0132", "Ij"},
                                     {"\u0133", "ij"}, {"\u0152", "Oe"}, {"\u0153", "oe"}};

// The name that `text` could be: what is taken for letters as those, what is no letter of a name as `_`.
std::string as_name(std::string_view text) {
  std::string out;
  while (!text.empty()) {
    const std::string_view letter = first_letter(text);
    const LookAlike like = look_alike(text);
    text.remove_prefix(letter.size());
    const std::string_view plain = like.letter.empty() ? letter : like.plain;
    if (plain.size() == 1 && (is_letter(plain[0]) || is_digit(plain[0])))
      out += plain;
    else if (!without_marks(letter).empty())
      out += without_marks(letter);
    else if (like.letter.empty() && static_cast<unsigned char>(letter.front()) >= 0x80)
      return "";
    else if (!plain.empty() && !is_quote({letter, plain}) && !out.empty() && out.back() != '_')
      out += '_';
  }
  while (out.ends_with('_')) out.pop_back();
  return is_name(out) ? out : "";
}

}  // namespace

std::string_view without_marks(std::string_view letter) {
  for (const LookAlike& each : kTwoLetters)
    if (each.letter == letter) return each.plain;
  const std::uint32_t at = letter.size() == 2 ? value_of(letter) - kFirstMarked : 0xffff;
  return at < kWithoutMarks.size() && kWithoutMarks[at] != '*' ? kWithoutMarks.substr(at, 1) : std::string_view();
}

LookAlike look_alike(std::string_view text) {
  if (text.empty() || static_cast<unsigned char>(text.front()) < 0x80) return {};
  const std::string_view letter = first_letter(text);
  const auto found = std::ranges::lower_bound(kLookAlikes, letter, {}, &LookAlike::letter);
  if (found != kLookAlikes.end() && found->letter == letter) return *found;
  const std::uint32_t wide = letter.size() == 3 ? value_of(letter) - kFirstWide : 0xffff;
  return wide < kWide.size() ? LookAlike{letter, kWide.substr(wide, 1)} : LookAlike{};
}

std::string_view first_letter(std::string_view text) {
  std::size_t size = std::min<std::size_t>(1, text.size());
  while (size < text.size() && (static_cast<unsigned char>(text[size]) & 0xc0) == 0x80) ++size;
  return text.substr(0, size);
}

std::string code_point(std::string_view letter) {
  std::string out;
  for (std::uint32_t value = value_of(letter), digits = 0; digits < 4 || value > 0; ++digits, value >>= 4)
    out.insert(out.begin(), "0123456789ABCDEF"[value & 15]);
  return "U+" + out;
}

std::string name_remedy(std::string_view name) {
  const std::string meant = as_name(name);
  std::string foreign;  // a letter that is seen as one of the alphabet
  for (std::string_view rest = name; foreign.empty() && !rest.empty(); rest.remove_prefix(first_letter(rest).size()))
    if (!without_marks(first_letter(rest)).empty())
      foreign = ", in letters from a to z";
    else if (const LookAlike like = look_alike(rest);
             like.plain.size() == 1 && (is_letter(like.plain[0]) || is_digit(like.plain[0])))
      foreign = " with a plain `" + std::string(like.plain) + "`, which stands there as " + code_point(like.letter);
  return (meant.empty() ? "A name is" : "Write `" + meant + "`" + foreign + ": a name is") +
         " a letter, then letters, digits or underscores (at most 64), and no word of the expression language.";
}

}  // namespace mobrin::detail
