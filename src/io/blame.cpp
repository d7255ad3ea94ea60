#include "blame.hpp"

#include <algorithm>
#include <iterator>
#include <map>
#include <optional>
#include <set>
#include <span>
#include <string>

#include "mobrin/core/machine.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

constexpr std::size_t kMostTried = 8;  // each is compiled anew; more are no slips, but names that were changed
constexpr std::size_t kMostPlaces = 6;

// Of a definition, or of a state, that may be changed or not.
template <class State, class Visit>
void each_declared_in(State& state, const Visit& visit) {
  for (auto& var : state.vars) visit(var.name);
  const auto inside = [&](auto& states) {
    for (auto& each : states) {
      visit(each.name);
      each_declared_in(each, visit);
    }
  };
  inside(state.states);
  for (auto& region : state.regions) {
    visit(region.name);
    inside(region.states);
  }
}
template <class Definition, class Visit>
void each_declared(Definition& definition, const Visit& visit) {
  for (auto& each : definition.inputs) visit(each.name);
  for (auto& each : definition.cues) visit(each.name);
  for (auto& each : definition.clips) visit(each.name);
  for (auto& marks : definition.marks)
    for (auto& each : marks.windows) visit(each.name);
  each_declared_in(definition.root, visit);
}

std::size_t errors_in(const std::vector<Finding>& findings) {
  return static_cast<std::size_t>(
      std::count_if(findings.begin(), findings.end(), [](const Finding& each) { return is_error(each); }));
}

// Whether claims, which compiling does not read, have that word.
bool claimed(const MachineDef& definition, const std::string& word) {
  const auto has = [&](const Text& text) { return text.text.find(word) != std::string::npos; };
  return std::any_of(definition.assumed.begin(), definition.assumed.end(), has) ||
         std::any_of(definition.claims.begin(), definition.claims.end(),
                     [&](const ClaimDef& each) { return has(each.first) || has(each.second); });
}

// Where `declared` stands, if all is well with it but its name: written as `named`, so many errors fewer are left.
std::optional<Place> wrong_place(MachineDef definition, const std::string& declared, const std::string& named,
                                 std::size_t errors) {
  std::vector<Text*> places;
  each_declared(definition, [&](Text& name) {
    if (name.text == declared) places.push_back(&name);
  });
  if (places.size() != 1 || claimed(definition, declared)) return std::nullopt;
  const Place place = places.front()->place;
  for (ClipMarksDef& marks : definition.marks)
    if (marks.clip.text == declared) return std::nullopt;
  places.front()->text = named;
  if (errors_in(compile(definition).findings) > errors) return std::nullopt;
  return place;
}

// What is declared and may be meant by a name, of whatever kind it is; empty where that is too much.
std::vector<std::string> declared_like(const MachineDef& definition, const std::string& named) {
  std::set<std::string> out;
  each_declared(definition, [&](const Text& name) {
    if (name.text != named && !nearest_name(named, std::span(&name.text, 1)).empty()) out.insert(name.text);
  });
  return out.size() > kMostTried ? std::vector<std::string>() : std::vector<std::string>(out.begin(), out.end());
}

// Of a state's path the first part that nothing is called by; else the whole.
std::string unknown_part(const std::set<std::string>& declared, const std::string& subject) {
  if (subject.find('/') == std::string::npos) return subject;
  for (std::size_t begin = 0, end = 0; end != std::string::npos; begin = end + 1) {
    end = subject.find('/', begin);
    const std::string part = subject.substr(begin, end == std::string::npos ? end : end - begin);
    if (declared.count(part) == 0) return part;
  }
  return subject;
}

// `line 3, line 5` of that file, `keeper.marks.yaml:7` of another; of many the first few.
std::string places_of(const std::vector<const Finding*>& findings, const std::string& file) {
  std::string out;
  for (std::size_t i = 0; i < std::min(findings.size(), kMostPlaces); ++i)
    out += (i == 0 ? "" : ", ") + (findings[i]->file == file ? "line " : findings[i]->file + ":") +
           std::to_string(findings[i]->line);
  return findings.size() > kMostPlaces ? out + " and " + std::to_string(findings.size() - kMostPlaces) + " more" : out;
}

}  // namespace

void blame_declarations(const MachineDef& definition, std::vector<Finding>& read, std::vector<Finding>& compiled) {
  struct Uses {
    std::vector<const Finding*> all;
    std::size_t compiled = 0;
  };
  const auto unknown_name = [](const Finding& each) {
    return each.code == FindingCode::unknown_name && !each.subject.empty();
  };
  if (std::none_of(read.begin(), read.end(), unknown_name) &&
      std::none_of(compiled.begin(), compiled.end(), unknown_name))
    return;
  std::set<std::string> names;
  each_declared(definition, [&](const Text& name) { names.insert(name.text); });
  std::map<std::string, Uses> unknown;
  for (const auto* findings : {&read, &compiled})
    for (const Finding& each : *findings) {
      if (!unknown_name(each)) continue;
      Uses& uses = unknown[unknown_part(names, each.subject)];
      uses.all.push_back(&each);
      uses.compiled += findings == &compiled ? 1 : 0;
    }
  std::erase_if(unknown, [](const auto& each) { return each.second.all.size() < 2 || each.second.compiled == 0; });
  if (unknown.empty() || unknown.size() > kMostTried) return;
  const std::size_t errors = errors_in(compiled);
  std::vector<Finding> blamed;
  std::size_t tried = 0;
  std::erase_if(unknown, [&](const auto& each) {
    const auto& [named, uses] = each;
    std::string declared;
    std::optional<Place> place;
    for (const std::string& like : declared_like(definition, named)) {
      if (++tried > kMostTried) return true;
      declared = like;
      place = wrong_place(definition, declared, named, errors - uses.compiled);
      if (place) break;
    }
    if (!place || place->line == 0 || place->file >= definition.files.size()) return true;
    const std::string& file = definition.files[place->file];
    blamed.push_back(finding_in(file, FindingCode::unknown_name,
                                "\"" + declared + "\" is declared, and \"" + named + "\" is named " +
                                    std::to_string(uses.all.size()) + " times",
                                "Write it one way: \"" + named + "\" stands at " + places_of(uses.all, file) + ".",
                                place->line, place->column));
    blamed.back().subject = declared;
    return false;
  });
  for (auto* findings : {&read, &compiled})
    std::erase_if(*findings, [&](const Finding& each) {
      return unknown_name(each) && unknown.count(unknown_part(names, each.subject)) > 0;
    });
  compiled.insert(compiled.end(), std::make_move_iterator(blamed.begin()), std::make_move_iterator(blamed.end()));
}

}  // namespace mobrin::io
