// Names: validity and the nearest known name.
#include "mobrin/core/names.hpp"

#include <charconv>
#include <cstdio>

#include <algorithm>
#include <array>
#include <vector>

namespace mobrin {
namespace {

constexpr std::array<std::string_view, 12> kExpressionWords = {"and", "or",  "not",   "true", "false",  "abs",
                                                               "min", "max", "clamp", "sign", "select", "in"};

using detail::is_digit;
using detail::is_letter;

char lower(char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; }

constexpr std::size_t kLongestCompared = 256;

// Optimal string alignment distance: insert, delete, replace, swap neighbours; letters of other case count as equal.
// Anything from `most` on where it is not below that. REQUIRES: no name is longer than kLongestCompared.
std::size_t edits(std::string_view a, std::string_view b, std::size_t most) {
  // What both begin and end with takes no edits.
  while (!a.empty() && !b.empty() && lower(a.front()) == lower(b.front())) a.remove_prefix(1), b.remove_prefix(1);
  while (!a.empty() && !b.empty() && lower(a.back()) == lower(b.back())) a.remove_suffix(1), b.remove_suffix(1);
  std::array<std::size_t, kLongestCompared + 1> rows[3];
  std::size_t *before = rows[0].data(), *last = rows[1].data(), *row = rows[2].data();
  for (std::size_t j = 0; j <= b.size(); ++j) last[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t fewest = row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const bool same = lower(a[i - 1]) == lower(b[j - 1]);
      row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (same ? 0 : 1)});
      const bool swapped = i > 1 && j > 1 && lower(a[i - 1]) == lower(b[j - 2]) && lower(a[i - 2]) == lower(b[j - 1]);
      if (swapped) row[j] = std::min(row[j], before[j - 2] + 1);
      fewest = std::min(fewest, row[j]);
    }
    // A swap looks two rows back, at one more than what lies there.
    if (fewest >= most && i < a.size() && *std::min_element(last, last + b.size() + 1) + 1 >= most) return most;
    std::size_t* const free = before;
    before = last;
    last = row;
    row = free;
  }
  return last[b.size()];
}

}  // namespace

std::span<const std::string_view> detail::expression_words() { return kExpressionWords; }

bool is_name(std::string_view name) {
  if (name.empty() || name.size() > 64 || !is_letter(name[0])) return false;
  if (!std::all_of(name.begin(), name.end(), [](char c) { return is_letter(c) || is_digit(c); })) return false;
  return std::find(kExpressionWords.begin(), kExpressionWords.end(), name) == kExpressionWords.end();
}

std::string nearest_name(std::string_view name, std::span<const std::string> known) {
  if (name.size() > 128) return {};
  std::string best;
  std::size_t fewest = std::max<std::size_t>(1, name.size() / 3) + 1;
  for (const std::string& candidate : known) {
    const std::size_t longer = std::max(candidate.size(), name.size());
    if (longer > kLongestCompared || longer - std::min(candidate.size(), name.size()) >= fewest) continue;
    const std::size_t needed = edits(name, candidate, fewest);
    if (needed < fewest && needed < longer) {
      fewest = needed;
      best = candidate;
      if (needed == 0) break;
    }
  }
  return best;
}

std::string detail::those_there(std::span<const std::string> known) {
  constexpr std::size_t kMostListed = 8;
  std::string out;
  if (known.empty()) return out;
  const std::size_t listed = std::min(known.size(), kMostListed);
  for (std::size_t i = 0; i < listed; ++i) out += (i > 0 ? ", " : "There is ") + known[i];
  if (listed < known.size()) out += " and " + std::to_string(known.size() - listed) + " more";
  return out + ".";
}

Error no_such(std::string_view what, std::string_view name, std::span<const std::string> known) {
  Error out{"there is no " + std::string(what) + " \"" + std::string(name) + "\"", nearest_name(name, known), {}, true};
  if (out.nearest.empty()) out.remedy = known.empty() ? "There is none." : detail::those_there(known);
  return out;
}

std::string detail::fixed_text(double value, int digits) {
  char text[400];  // the largest double has 309 digits
  return {text, std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, digits).ptr};
}

std::string detail::short_text(double value, int digits) {
  char text[400];
  return {text, std::to_chars(text, text + sizeof text, value, std::chars_format::general, digits).ptr};
}

std::string detail::shortest_text(float value) {
  char text[64];
  const float size = value < 0 ? -value : value;
  const bool plain = size == 0 || (size >= 1e-4f && size < 1e16f);
  return {text, std::to_chars(text, text + sizeof text, value,
                              plain ? std::chars_format::fixed : std::chars_format::scientific)
                    .ptr};
}

std::string detail::number_text(double value) {
  std::string out = fixed_text(value, 6);
  if (out.find('.') == std::string::npos) return out;  // no number
  out.erase(out.find_last_not_of('0') + 1);
  if (out.back() == '.') out.pop_back();
  return out;
}

std::string printable(std::string_view text) {
  std::string out;
  const auto escape = [&](const char* format, std::uint32_t code) {
    char words[16];
    std::snprintf(words, sizeof words, format, static_cast<unsigned>(code));
    out += words;
  };
  for (std::size_t i = 0; i < text.size();) {
    const auto first = static_cast<unsigned char>(text[i]);
    if (first < 0x80) {
      if (first < 0x20 || first == 0x7f)
        escape("\\x%02x", first);
      else
        out += text[i];
      ++i;
      continue;
    }
    const std::size_t size = first >= 0xf0 ? 4 : first >= 0xe0 ? 3 : 2;
    std::uint32_t code = first & (0x7fu >> size);
    bool sound = first >= 0xc2 && first <= 0xf4 && i + size <= text.size();
    for (std::size_t k = 1; sound && k < size; ++k) {
      const auto next = static_cast<unsigned char>(text[i + k]);
      sound = (next & 0xc0) == 0x80;
      code = code << 6 | (next & 0x3fu);
    }
    // The longest form of a short code, halves of pairs, and what lies beyond are no letters.
    sound = sound && !(size == 3 && code < 0x800) && !(size == 4 && (code < 0x10000 || code > 0x10ffff)) &&
            !(code >= 0xd800 && code < 0xe000);
    if (!sound) {
      escape("\\x%02x", first);
      ++i;
      continue;
    }
    const bool hides = code < 0xa0 || code == 0x061c || (code >= 0x200e && code <= 0x200f) ||
                       (code >= 0x2028 && code <= 0x202e) || (code >= 0x2066 && code <= 0x2069) || code == 0xfeff;
    if (hides)
      escape("\\u{%x}", code);
    else
      out += text.substr(i, size);
    i += size;
  }
  return out;
}

}  // namespace mobrin
