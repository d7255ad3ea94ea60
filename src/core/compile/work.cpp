#include <algorithm>
#include <set>

#include "compile/compile.hpp"
#include "expression/look_alike.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

constexpr std::size_t kMostNearest = 1'000;

// Without those that are the end of another's path: `air/up` is `up`, too.
std::vector<std::string> longest_of(std::vector<std::string> names) {
  std::set<std::string, std::less<>> ends;
  for (const std::string& name : names)
    for (std::size_t at = name.find('/'); at != std::string::npos; at = name.find('/', at + 1))
      ends.insert(name.substr(at + 1));
  std::erase_if(names, [&](const std::string& name) { return ends.count(name) > 0; });
  return names;
}

std::string article(std::string_view noun) { return (noun == "input" ? "an " : "a ") + std::string(noun); }

}  // namespace

void Work::report(FindingCode code, Place place, std::string message, std::string remedy, std::string subject) {
  Finding& finding = findings.emplace_back();
  finding.code = code;
  if (place.line > 0 && place.file < def.files.size()) finding.file = def.files[place.file];
  finding.line = place.line;
  finding.column = place.column;
  finding.message = std::move(message);
  finding.remedy = std::move(remedy);
  finding.subject = std::move(subject);
}

void Work::unknown(std::string_view what, const Text& name, const std::vector<std::string>& known,
                   std::string_view advice) {
  if (what == "window" && none_there_.count("clip") > 0) return;  // they are the clips'
  // Who has misspelt so many has done something else wrong; looking for each takes long.
  const std::string nearest = ++unknown_names_ > kMostNearest ? "" : nearest_name(name.text, known);
  std::string remedy = nearest.empty() ? of_another_kind(what, name.text) : "Did you mean \"" + nearest + "\"?";
  const bool of_files = what == "clip" || what == "cue";
  if (known.empty() && remedy.empty() && of_files && !none_of(std::string(what), name)) return;
  if (remedy.empty()) remedy = std::string(advice) + (known.empty() ? "" : " " + those_there(longest_of(known)));
  report(FindingCode::unknown_name, name.place, "there is no " + std::string(what) + " \"" + name.text + "\"",
         std::move(remedy), name.text);
}

// Where nothing of a kind is declared that is one mistake, whatever is named: false for all names but the first, which
// names the others.
bool Work::none_of(const std::string& what, const Text& name) {
  const auto [found, fresh] = none_there_.try_emplace(what);
  NoneThere& none = found->second;
  if (fresh) none.finding = findings.size();
  if (std::find(none.names.begin(), none.names.end(), name.text) == none.names.end()) none.names.push_back(name.text);
  if (fresh) return true;
  if (none.names.size() == 1) return false;
  Finding& finding = findings[none.finding];
  finding.message = "there are no " + what + "s, and " + std::to_string(none.names.size()) + " are named: ";
  constexpr std::size_t most = 5;
  for (std::size_t i = 0; i < std::min(most, none.names.size()); ++i)
    finding.message += (i == 0 ? "\"" : ", \"") + none.names[i] + "\"";
  if (none.names.size() > most) finding.message += ", ...";
  finding.remedy = "Add them under `" + what + "s:`, or name the file that has them under `use:`.";
  return false;
}

std::string Work::of_another_kind(std::string_view what, std::string_view name) {
  if (!others_) others_.emplace(def);
  return others_->remedy(what, name);
}

std::optional<std::uint16_t> Work::find(std::string_view what, const NameTable& table, const Text& name,
                                        std::string_view advice) {
  if (const auto found = table.find(name.text); found != table.end()) return found->second;
  std::vector<std::string> known;
  for (const auto& [each, index] : table) known.push_back(each);
  unknown(what, name, known, advice);
  return std::nullopt;
}

bool Work::declare(std::string_view what, const Text& name, std::set<std::string, std::less<>>& taken) {
  if (!is_name(name.text)) {
    report(FindingCode::bad_name, name.place, "\"" + name.text + "\" cannot be the name of " + article(what),
           detail::name_remedy(name.text), name.text);
    return false;
  }
  if (taken.insert(name.text).second) return true;
  report(FindingCode::duplicate_name, name.place, "there is " + article(what) + " \"" + name.text + "\" already",
         "Give it another name.", name.text);
  return false;
}

bool Work::within(std::string_view what, std::size_t count, std::size_t most, Place place) {
  if (count <= most) return true;
  report(FindingCode::too_large, place, std::to_string(count) + " " + std::string(what) + " are too many",
         "At most " + std::to_string(most) + " are supported.");
  return false;
}

}  // namespace mobrin::detail
