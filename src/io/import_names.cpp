#include "import_names.hpp"

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <iterator>
#include <map>
#include <set>
#include <string_view>
#include <utility>

#include "expression/look_alike.hpp"
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
  // `walk_1of4`: the last one only says how many there are.
  if (name.size() > 2 && name.ends_with("of")) {
    std::string rest = name.substr(0, name.size() - 2);
    trim(rest);
    if (!rest.empty() && is_digit(rest.back())) {
      const Numbered of_them = numbered(rest);
      if (of_them.number && *of_them.number <= number) return of_them;
    }
  }
  return {name, number};
}

std::string numbers_between(std::int64_t before, std::int64_t after) {
  const std::string first = std::to_string(before + 1), last = std::to_string(after - 1);
  return first == last ? "the number " + first + " is missing"
                       : "the numbers " + first + " to " + last + " are missing";
}

namespace {

// U+0300 to U+036F: how some systems write `ü` in the names of files, as a letter and its mark.
bool is_mark_of_the_letter_before(std::string_view letter) {
  return letter.size() == 2 &&
         (letter[0] == '\xcc' || (letter[0] == '\xcd' && static_cast<unsigned char>(letter[1]) < 0xb0));
}

bool fits_name(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || is_digit(c); }

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

// Words with all that may stand between them alike: what makes them the same clip's.
std::string same_words(const std::string& words) {
  std::string out;
  for (const char c : words) {
    const bool letter = static_cast<unsigned char>(c) >= 0x80 || fits_name(c);
    if (letter || (!out.empty() && out.back() != '_')) out += letter ? c : '_';
  }
  while (!out.empty() && out.back() == '_') out.pop_back();
  return out;
}

// What is doubtful about clips of these names: letters that were lost, clips that are one but for capital letters.
// `words`: of each picture, what its clip's name was made of.
void doubt(const std::vector<PictureName>& names, const std::vector<std::string>& words, NamedClips& out) {
  std::map<std::string, std::size_t> first;  // of each clip
  std::set<std::string> clashing;
  std::map<std::string, std::set<std::string>> spellings;
  for (std::size_t i = 0; i < names.size(); ++i) {
    const std::string& clip = out.pictures[i].clip;
    const auto [known, is_new] = first.try_emplace(clip, i);
    if (!is_new) {
      const std::string& other = words[known->second];
      if (words[i] != other && same_words(words[i]) != same_words(other) && clashing.insert(clip).second)
        out.clashes.push_back({known->second, i});
      continue;
    }
    if (loses_letters(words[i])) out.notes.push_back({clip, called(names[i].name)});
    std::string small = clip;
    for (char& c : small)
      if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    spellings[small].insert(clip);
  }
  std::erase_if(out.notes, [&](const auto& note) { return clashing.count(note.first) > 0; });
  for (const auto& [small, all] : spellings) {
    if (all.size() < 2) continue;
    std::string others;
    for (auto at = std::next(all.begin()); at != all.end(); ++at)
      others += (others.empty() ? "\"" : ", \"") + *at + '"';
    out.notes.push_back({*all.begin(), "differs from " + others +
                                           " in capital letters only; if they are one clip, rename their pictures"});
  }
}

}  // namespace

bool loses_letters(const std::string& words) {
  const std::string name = clip_name(words);
  return same_words(words) != same_words(name);
}

std::string called(const std::string& words) { return "called \"" + words + "\"; " + kClipLetters; }

NamedClips clips_by_names(const std::vector<PictureName>& names) {
  std::vector<Numbered> found;
  // Those without a number at their end: how many there are of each folder and what is left without one of the others.
  std::map<std::pair<std::string, std::string>, std::size_t> alike;
  for (const PictureName& each : names) {
    found.push_back(numbered(each.name));
    if (found.back().number) continue;
    for (const Numbered& inside : numbers_inside(each.name)) ++alike[{each.folder, inside.stem}];
  }
  NamedClips out;
  std::vector<std::string> words;
  std::set<std::string> inside_told;
  for (std::size_t i = 0; i < names.size(); ++i) {
    const PictureName& name = names[i];
    PictureOfClip& picture = out.pictures.emplace_back();
    bool inside = false;
    std::string stem = found[i].stem;
    if (found[i].number) {
      picture.number = *found[i].number;
    } else {
      std::size_t most = 1;
      for (const Numbered& each : numbers_inside(name.name)) {
        const std::size_t count = alike[{name.folder, each.stem}];
        if (count < most || count == 1) continue;
        most = count;
        inside = true;
        picture.number = *each.number;
        stem = without_number(each.stem);
      }
    }
    if (stem.empty()) stem = name.plain;
    // A folder whose images have nothing but numbers gives them its name once.
    const std::filesystem::path folder(name.folder);
    const std::string prefix =
        !name.folder.empty() && folder.filename() == stem ? folder.parent_path().generic_string() : name.folder;
    words.push_back(prefix.empty() ? stem : prefix + "_" + stem);
    picture.clip = clip_name(words.back());
    if (inside && inside_told.insert(picture.clip).second)
      out.notes.push_back({picture.clip, "numbered inside their names, as \"" + name.name + "\""});
  }
  doubt(names, words, out);
  return out;
}

std::string inner_folder(const std::filesystem::path& file, const std::filesystem::path& of) {
  std::string inner = file.parent_path().lexically_relative(of).generic_string();
  return inner == "." ? "" : inner;
}

std::string clip_name(const std::string& words) {
  std::string out;
  for (std::string_view rest = words; !rest.empty();) {
    const std::string_view letter = detail::first_letter(rest);
    rest.remove_prefix(letter.size());
    if (is_mark_of_the_letter_before(letter)) continue;
    if (fits_name(letter[0]))
      out += letter;
    else if (const std::string_view plain = detail::without_marks(letter); !plain.empty())
      out += plain;
    else if (letter == "_" || (!out.empty() && out.back() != '_'))
      out += '_';
  }
  while (!out.empty() && out.back() == '_') out.pop_back();
  if (out.empty())
    out = "clip";
  else if (is_digit(out[0]))
    out = "clip_" + out;
  if (out.size() > 60) out.resize(60);
  return is_name(out) ? out : out + "_clip";
}

}  // namespace mobrin::io
