#include "import_names.hpp"

#include <cstring>

#include "mobrin/core/names.hpp"

namespace mobrin::io {

Numbered numbered(std::string name) {
  const auto trim = [](std::string& text) {
    while (!text.empty() && std::strchr(" _-.", text.back()) != nullptr) text.pop_back();
  };
  std::size_t end = name.size();
  const bool bracketed = name.ends_with(')');
  if (bracketed) --end;
  std::size_t begin = end;
  while (begin > 0 && name[begin - 1] >= '0' && name[begin - 1] <= '9') --begin;
  const bool opened = !bracketed || (begin > 0 && name[begin - 1] == '(');
  if (begin == end || end - begin > 15 || !opened) return {name, std::nullopt};
  const std::int64_t number = std::stoll(name.substr(begin, end - begin));
  name.resize(bracketed ? begin - 1 : begin);
  trim(name);
  return {name, number};
}

std::string clip_name(const std::string& words) {
  std::string out;
  for (const char c : words) {
    const bool fits = (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
    if (fits || (!out.empty() && out.back() != '_')) out += fits ? c : '_';
  }
  while (!out.empty() && out.back() == '_') out.pop_back();
  if (out.empty() || (out[0] >= '0' && out[0] <= '9')) out = "clip_" + out;
  if (out.size() > 60) out.resize(60);
  return is_name(out) ? out : out + "_clip";
}

}  // namespace mobrin::io
