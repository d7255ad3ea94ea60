// Words that are nearly those which mean something: written so, nothing comes of them, and nobody says a word.
#include <algorithm>
#include <string_view>

#include "logic_views.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::check {

namespace {

// What scenes, contacts, the live page and proofs do by the word alone: kinds of cues, and the fields that they look
// for in such.
enum class Holds : std::uint8_t { text, number, list, other };
struct KnownField {
  std::string_view kind, name;
  Holds holds;
};
constexpr KnownField kFields[] = {{"damage", "reach", Holds::text}, {"impulse", "forward", Holds::number},
                                  {"impulse", "up", Holds::number}, {"sound", "file", Holds::text},
                                  {"spawn", "what", Holds::text},   {"spawn", "from", Holds::list},
                                  {"", "kind", Holds::text}};
constexpr std::size_t kOwnWord = 3;  // cues of one kind: that is a word of somebody's own

Holds held_by(const FieldValue& value) {
  if (std::holds_alternative<std::string>(value)) return Holds::text;
  if (std::holds_alternative<std::vector<double>>(value)) return Holds::list;
  return std::holds_alternative<bool>(value) ? Holds::other : Holds::number;
}

// The word that this one nearly is, with the same first letter: few mistype that. Empty where it is one of them, or
// none.
std::string nearly(const std::string& word, const std::vector<std::string>& known) {
  if (word.empty() || std::find(known.begin(), known.end(), word) != known.end()) return {};
  const std::string near = nearest_name(word, known);
  return !near.empty() && (word[0] | 0x20) == near[0] ? near : std::string();
}

bool has(const std::vector<FieldDef>& fields, std::string_view name) {
  return std::any_of(fields.begin(), fields.end(), [&](const FieldDef& field) { return field.name.text == name; });
}

}  // namespace

void Logic::words() {
  const auto compare = [&](Place place, const std::vector<Text>& accept, const std::string& what, const std::string& of,
                           const std::string& word, const std::vector<std::string>& known, const std::string& does) {
    const std::string near = nearly(word, known);
    if (!near.empty())
      tell(FindingCode::looks_misspelt, place, accept,
           "the " + what + " \"" + word + "\" of " + of + " is nearly \"" + near + "\", " + does,
           "Write \"" + near + "\", or `accept: [looks-misspelt]` where it is a word of your own.", false, word);
  };
  std::set<std::string> known;
  for (const KnownField& each : kFields)
    if (!each.kind.empty()) known.emplace(each.kind);
  const std::vector<std::string> kinds(known.begin(), known.end());
  std::map<std::string, std::size_t> alike;
  for (const CueDef& cue : def_.cues) ++alike[cue.kind];
  for (const CueDef& cue : def_.cues) {
    const std::string of = "the cue \"" + cue.name.text + "\"";
    if (alike[cue.kind] < kOwnWord)
      compare(cue.name.place, cue.accept, "kind", of, cue.kind, kinds, "by which something is done");
    for (const FieldDef& field : cue.fields) {
      std::vector<std::string> names;
      for (const KnownField& each : kFields)
        if (each.kind == cue.kind && each.holds == held_by(field.value) && !has(cue.fields, each.name))
          names.emplace_back(each.name);
      compare(field.name.place, cue.accept, "field", of, field.name.text, names, "which is looked for");
    }
  }
  for (const StateView& view : views_)
    for (const Text& trait : view.def->traits)
      compare(trait.place, view.def->accept, "trait", "the state \"" + view.path + "\"", trait.text, {"dead"},
              "whom nothing hits any more");
}

}  // namespace mobrin::check
