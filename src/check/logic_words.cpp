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
constexpr std::size_t kOwnWord = 3;        // cues of one kind: that is a word of somebody's own
constexpr std::size_t kMostWords = 1'000;  // held against each other

Holds held_by(const FieldValue& value) {
  if (std::holds_alternative<std::string>(value)) return Holds::text;
  if (std::holds_alternative<std::vector<double>>(value)) return Holds::list;
  return std::holds_alternative<bool>(value) ? Holds::other : Holds::number;
}

std::string sought(Holds holds) {
  switch (holds) {
    case Holds::text:
      return "a name";
    case Holds::number:
      return "a number";
    case Holds::list:
      return "a pair of numbers";
    case Holds::other:
      return "true or false";
  }
  return "";
}

std::string found(const FieldValue& value) {
  const auto* list = std::get_if<std::vector<double>>(&value);
  return list != nullptr && list->size() != 2 ? "a list of " + std::to_string(list->size()) : sought(held_by(value));
}

// Whether what is looked for is found in it.
bool fits(Holds holds, const FieldValue& value) {
  if (holds != held_by(value)) return false;
  const auto* list = std::get_if<std::vector<double>>(&value);
  return list == nullptr || list->size() == 2;
}

// The word that this one nearly is, with the same first letter: few mistype that. Empty where it is one of them, or
// none.
std::string nearly(const std::string& word, const std::vector<std::string>& known) {
  if (word.empty() || std::find(known.begin(), known.end(), word) != known.end()) return {};
  const std::string near = nearest_name(word, known);
  return !near.empty() && (word[0] | 0x20) == near[0] ? near : std::string();
}

using detail::is_digit;

char lower(char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c | 0x20) : c; }

// Whether a slip of the finger makes one of the other: a letter too few or too many, two that changed places; of long
// words also a wrong one. Numbers, plurals and sides (`arm_l`) make words of their own.
bool slips(const std::string& a, const std::string& b) {
  if (a.size() > b.size()) return slips(b, a);
  if (a.size() < 3 || b.size() < 4 || a[0] != b[0] || b.size() - a.size() > 1) return false;
  const auto [left, right] = std::mismatch(a.begin(), a.end(), b.begin());
  const std::string in_a(left, a.end()), in_b(right, b.end());  // from the first difference on
  if (in_b.empty() || is_digit(in_b[0])) return false;
  if (a.size() < b.size()) return in_a == in_b.substr(1) && in_b != "s";
  if (in_a.size() >= 2 && in_a[0] == in_b[1] && in_a[1] == in_b[0]) return in_a.substr(2) == in_b.substr(2);
  return a.size() >= 6 && *(left - 1) != '_' && !is_digit(in_a[0]) && in_a.substr(1) == in_b.substr(1);
}

bool same_but_for_case(const std::string& a, const std::string& b) {
  return a.size() == b.size() &&
         std::equal(a.begin(), a.end(), b.begin(), [](char one, char other) { return lower(one) == lower(other); });
}

// Of a word that stands once: one that stands at least twice and that it slips from; of any, one that is written with
// other capitals and stands more often (of two, the one without). Empty where there is none.
std::string usual_word(const std::map<std::string, std::size_t>& counts, const std::string& word) {
  if (counts.size() > kMostWords) return {};
  const std::size_t own = counts.at(word);
  const bool plain = std::none_of(word.begin(), word.end(), [](char c) { return lower(c) != c; });
  for (const auto& [other, count] : counts) {
    if (other == word) continue;
    if (same_but_for_case(word, other) && (count > own || (count == own && !plain))) return other;
    if (own == 1 && count > 1 && slips(word, other)) return other;
  }
  return {};
}

// Of roles by which something is done, or which are drawn in colours of their own.
std::string role_meant(const std::string& role) {
  if (role == "hit" || role == "hurt") return {};
  for (const char* does : {"hit", "hurt"})
    if (role.starts_with(does)) return does;
  for (const char* drawn : {"body", "grab"})
    if (role != drawn && (same_but_for_case(role, drawn) || slips(role, drawn))) return drawn;
  return nearly(role, {"hit", "hurt"});
}

bool has(const std::vector<FieldDef>& fields, std::string_view name) {
  return std::any_of(fields.begin(), fields.end(), [&](const FieldDef& field) { return field.name.text == name; });
}

}  // namespace

void Logic::misspelt(Place place, const std::vector<Text>& accept, const std::string& what, const std::string& word,
                     const std::string& near, const std::string& does) {
  if (near.empty()) return;
  tell(FindingCode::looks_misspelt, place, accept, what + " is nearly \"" + near + "\", " + does,
       "Write \"" + near + "\", or `accept: [looks-misspelt]` where it is a word of your own.", false, word);
}

void Logic::words() {
  words_of_cues();
  words_of_boxes();
  std::map<std::string, std::size_t> traits;
  for (const StateView& view : views_)
    for (const Text& trait : view.def->traits) ++traits[trait.text];
  for (const StateView& view : views_)
    for (const Text& trait : view.def->traits) {
      const std::string what = "the trait \"" + trait.text + "\" of the state \"" + view.path + "\"";
      const std::string dead = nearly(trait.text, {"dead"});
      misspelt(trait.place, view.def->accept, what, trait.text, dead, "whom nothing hits any more");
      if (dead.empty())
        misspelt(trait.place, view.def->accept, what, trait.text, usual_word(traits, trait.text),
                 "which other states have");
    }
}

void Logic::words_of_cues() {
  std::set<std::string> known;
  for (const KnownField& each : kFields)
    if (!each.kind.empty()) known.emplace(each.kind);
  const std::vector<std::string> kinds(known.begin(), known.end());
  std::map<std::string, std::size_t> alike;
  std::map<std::string, std::map<std::string, std::size_t>> fields;  // by kind
  for (const CueDef& cue : def_.cues) {
    ++alike[cue.kind];
    for (const FieldDef& field : cue.fields) ++fields[cue.kind][field.name.text];
  }
  for (const CueDef& cue : def_.cues) {
    const std::string of = "\" of the cue \"" + cue.name.text + "\"";
    if (alike[cue.kind] < kOwnWord)
      misspelt(cue.name.place, cue.accept, "the kind \"" + cue.kind + of, cue.kind, nearly(cue.kind, kinds),
               "by which something is done");
    for (const FieldDef& field : cue.fields) {
      look_at_kind(cue, field);
      std::vector<std::string> names;
      for (const KnownField& each : kFields)
        if (each.kind == cue.kind && each.holds == held_by(field.value) && !has(cue.fields, each.name))
          names.emplace_back(each.name);
      const std::string& word = field.name.text;
      const std::string what = "the field \"" + word + of, near = nearly(word, names);
      misspelt(field.name.place, cue.accept, what, word, near, "which is looked for");
      if (near.empty())
        misspelt(field.name.place, cue.accept, what, word, usual_word(fields[cue.kind], word),
                 "which other cues of its kind have");
    }
  }
}

void Logic::look_at_kind(const CueDef& cue, const FieldDef& field) {
  for (const KnownField& each : kFields) {
    if (each.kind.empty() || each.kind != cue.kind || each.name != field.name.text || fits(each.holds, field.value))
      continue;
    tell(FindingCode::unread_field, field.name.place, cue.accept,
         "the field \"" + field.name.text + "\" of the cue \"" + cue.name.text + "\" holds " + found(field.value) +
             ", and " + sought(each.holds) + " is looked for",
         "Write " + sought(each.holds) + (each.holds == Holds::list ? ", such as `[9, 14]`." : "."), false,
         field.name.text);
  }
}

// What hits and is hit goes by the role of its box alone; who is spared, by a tag that means oneself.
void Logic::words_of_boxes() {
  std::map<std::string, std::size_t> roles, names;
  for (const ClipMarksDef& marks : def_.marks)
    for (const BoxDef& box : marks.boxes) ++roles[box.role.text], ++names[box.name.text];
  const auto compare_self = [&](Place place, const std::vector<Text>& accept, const std::string& of,
                                const std::vector<std::string>& spares) {
    for (const std::string& tag : spares)
      misspelt(place, accept, "the tag \"" + tag + "\" that " + of + " spares", tag, nearly(tag, {"self"}),
               "by which one spares oneself");
  };
  std::map<std::string, std::vector<Text>> accepts;  // by clip
  for (const ClipDef& clip : def_.clips) accepts[clip.name.text] = clip.accept;
  for (const ClipMarksDef& marks : def_.marks) {
    const std::vector<Text>& accept = accepts[marks.clip.text];
    for (const BoxDef& box : marks.boxes) {
      const std::string& role = box.role.text;
      const std::string near = roles[role] < kOwnWord ? role_meant(role) : "";
      misspelt(
          box.role.place, accept, "the role \"" + role + "\" of the box \"" + box.name.text + "\"", role, near,
          near == "hit" || near == "hurt" ? "by which something is done" : "which is drawn in a colour of its own");
      misspelt(box.name.place, accept, "the name of the box \"" + box.name.text + "\"", box.name.text,
               usual_word(names, box.name.text), "which others have");
      compare_self(box.place, accept, "the box \"" + box.name.text + "\"", box.spares);
    }
  }
  for (const ReachDef& reach : def_.reaches)
    compare_self(reach.name.place, reach.accept, "the reach \"" + reach.name.text + "\"", reach.spares);
}

}  // namespace mobrin::check
