// Secrets and values, as both ends of a wire have them.
#include "mobrin/probe/wire.hpp"

#include <sys/random.h>

#include <algorithm>

namespace mobrin::probe {

std::string random_secret() {
  unsigned char bytes[16];
  if (getrandom(bytes, sizeof bytes, 0) != static_cast<ssize_t>(sizeof bytes)) return "";
  std::string out;
  for (const unsigned char byte : bytes) out += {"0123456789abcdef"[byte >> 4], "0123456789abcdef"[byte & 15]};
  return out;
}

bool same_secret(std::string_view given, std::string_view wanted) {
  unsigned differs = given.size() == wanted.size() ? 0 : 1;
  for (std::size_t i = 0; i < wanted.size(); ++i)
    differs |= static_cast<unsigned char>(wanted[i] ^ (i < given.size() ? given[i] : '\0'));
  return differs == 0;
}

double number_of(const InputDef& input, const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? 1 : 0;
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return static_cast<double>(*whole);
  if (const auto* number = std::get_if<double>(&value)) return *number;
  const auto* words = std::get_if<std::string>(&value);
  const auto* choice = std::get_if<ChoiceInput>(&input.kind);
  if (words == nullptr || choice == nullptr) return 0;
  for (std::size_t i = 0; i < choice->choices.size(); ++i)
    if (choice->choices[i].text == *words) return static_cast<double>(i);
  return 0;
}

std::optional<FieldValue> value_of(const InputDef& input, double number) {
  if (std::holds_alternative<PulseInput>(input.kind)) return std::nullopt;
  if (std::holds_alternative<BoolInput>(input.kind)) return number != 0;
  if (std::holds_alternative<IntInput>(input.kind)) {
    if (!(number >= -2147483648.0 && number <= 2147483647.0)) return std::nullopt;
    return static_cast<std::int64_t>(number);
  }
  if (const auto* choice = std::get_if<ChoiceInput>(&input.kind)) {
    if (!(number >= 0 && number < static_cast<double>(choice->choices.size()))) return std::nullopt;
    return choice->choices[static_cast<std::size_t>(number)].text;
  }
  return number;
}

}  // namespace mobrin::probe
