#include "import_names.hpp"

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <map>
#include <utility>

#include "mobrin/core/names.hpp"

namespace mobrin::io {

using detail::is_digit;

Numbered numbered(std::string name) {
  const auto trim = [](std::string& text) {
    while (!text.empty() && std::strchr(" _-.", text.back()) != nullptr) text.pop_back();
  };
  std::size_t end = name.size();
  const bool bracketed = name.ends_with(')');
  if (bracketed) --end;
  std::size_t begin = end;
  while (begin > 0 && is_digit(name[begin - 1])) --begin;
  const bool opened = !bracketed || (begin > 0 && name[begin - 1] == '(');
  if (begin == end || end - begin > 15 || !opened) return {name, std::nullopt};
  const std::int64_t number = std::stoll(name.substr(begin, end - begin));
  name.resize(bracketed ? begin - 1 : begin);
  trim(name);
  return {name, number};
}

namespace {

// The numbers in a name, first to last, each with the name that is left without it.
std::vector<Numbered> numbers_inside(const std::string& name) {
  std::vector<Numbered> out;
  if (name.size() > 255) return out;  // no file is called so; a rectangle of a packed sheet may be
  for (std::size_t begin = 0; begin < name.size(); ++begin) {
    if (!is_digit(name[begin])) continue;
    const std::size_t end = std::min(name.find_first_not_of("0123456789", begin), name.size());
    if (end - begin <= 15)
      out.push_back({name.substr(0, begin) + '\0' + name.substr(end), std::stoll(name.substr(begin, end - begin))});
    begin = end;
  }
  return out;
}

// `sting-\0@2x`, `\0_walk`: as a clip's name.
std::string without_number(const std::string& left) {
  const std::size_t at = left.find('\0');
  std::string before = left.substr(0, at), after = left.substr(at + 1);
  while (!before.empty() && std::strchr(" _-.([", before.back()) != nullptr) before.pop_back();
  while (!after.empty() && std::strchr(" _-.)]", after.front()) != nullptr) after.erase(0, 1);
  return before + (before.empty() || after.empty() ? "" : "_") + after;
}

}  // namespace

std::vector<PictureOfClip> clips_by_names(const std::vector<PictureName>& names) {
  std::vector<Numbered> found;
  // Those without a number at their end: how many there are of each folder and what is left without one of the others.
  std::map<std::pair<std::string, std::string>, std::size_t> alike;
  for (const PictureName& each : names) {
    found.push_back(numbered(each.name));
    if (found.back().number) continue;
    for (const Numbered& inside : numbers_inside(each.name)) ++alike[{each.folder, inside.stem}];
  }
  std::vector<PictureOfClip> out;
  for (std::size_t i = 0; i < names.size(); ++i) {
    const PictureName& name = names[i];
    PictureOfClip& picture = out.emplace_back();
    std::string stem = found[i].stem;
    if (found[i].number) {
      picture.number = *found[i].number;
    } else {
      std::size_t most = 1;
      for (const Numbered& inside : numbers_inside(name.name)) {
        const std::size_t count = alike[{name.folder, inside.stem}];
        if (count < most || count == 1) continue;
        most = count;
        picture.inside = true;
        picture.number = *inside.number;
        stem = without_number(inside.stem);
      }
    }
    if (stem.empty()) stem = name.plain;
    // A folder whose images have nothing but numbers gives them its name once.
    const std::filesystem::path folder(name.folder);
    const std::string prefix =
        !name.folder.empty() && folder.filename() == stem ? folder.parent_path().generic_string() : name.folder;
    picture.clip = clip_name(prefix.empty() ? stem : prefix + "_" + stem);
  }
  return out;
}

std::string inner_folder(const std::filesystem::path& file, const std::filesystem::path& of) {
  std::string inner = file.parent_path().lexically_relative(of).generic_string();
  return inner == "." ? "" : inner;
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
