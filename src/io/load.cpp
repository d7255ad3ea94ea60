// Loading machine files: the top level, cues, and the files a file uses.
#include "mobrin/io/load.hpp"

#include <algorithm>
#include <filesystem>
#include <utility>

#include "blame.hpp"
#include "loader.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"

namespace mobrin {
namespace io {

namespace {

// What is written in place of a claim, as one: `never in(faint)`.
std::string claim_in_words(const std::string& text) {
  const std::size_t space = text.find(' ');
  const std::string first = text.substr(0, space);
  const bool says = space != std::string::npos && (first == "never" || first == "always");
  return says ? "{" + first + ": " + text.substr(space + 1) + "}" : "{always: " + text + "}";
}

// Of a claim that begins somewhere and says what is never, always or then so: two ways to mean that.
std::string claim_from_on(const Fields& fields) {
  const auto text_of = [&](const std::string& key, bool joined) {
    const std::string text = fields.has(key.c_str()) ? fields.get(key.c_str())->text : "";
    return joined && text.find(' ') != std::string::npos ? "(" + text + ")" : text;
  };
  std::string begin;
  int begins = 0;
  for (const char* key : {"once", "when", "from"})
    if (!text_of(key, false).empty()) begin = key, ++begins;
  const std::string never = text_of("never", true), always = text_of("always", true), then = text_of("then", false);
  if (begins != 1 || (never.empty() ? 0 : 1) + (always.empty() ? 0 : 1) + (then.empty() ? 0 : 1) != 1) return "";
  const std::string on = "From then on it is `{once: " + text_of(begin, false) + ", then: ";
  const std::string at = text_of(begin, true);
  if (!never.empty()) return on + "not " + never + "}`; at the same time `{never: " + at + " and " + never + "}`.";
  if (!always.empty())
    return on + text_of("always", false) + "}`; at the same time `{always: not " + at + " or " + always + "}`.";
  if (begin == "once") return "";
  return on + then + "}`; at once `{" + begin + ": " + text_of(begin, false) + ", within: 0s, reaches: " + then + "}`.";
}

std::string what_a_claim_lacks(const Fields& fields) {
  const auto has = [&](const char* key) { return fields.has(key); };
  if (std::string remedy = claim_from_on(fields); !remedy.empty()) return remedy;
  int firsts = 0;
  for (const char* key : {"never", "always", "once", "when", "from"}) firsts += has(key) ? 1 : 0;
  if (firsts > 1) return "A claim says one thing: write two of them.";
  if ((has("when") || has("from")) && has("reaches") && !has("within"))
    return "Say in what time: `within: 2s`, or `0s` for at once.";
  if ((has("when") || has("from")) && has("within")) return "Say what comes by then: `reaches: E`.";
  if (firsts == 0 && (has("can") || has("next"))) return "Say from where, `from: E`; from anywhere is `from: true`.";
  if (has("once")) return "Say what is so from then on: `then: E`.";
  return "Write one of {never: E}, {always: E}, {once: E, then: F}, {when: E, within: 0s, reaches: F}, {from: E, "
         "within: 2s, reaches: F}, {from: E, next: F}, {from: E, can: F}.";
}

}  // namespace

bool Loader::read_file(YamlNode& root, const std::string& path, bool main) {
  if (!check_version(reader, root, "a machine, or clips, marks, inputs or cues")) return false;
  if (entry_of(root, "tape") != nullptr) {
    reader.fail(FindingCode::wrong_kind_of_file, root, "\"" + path + "\" is a tape",
                main ? "Name its machine here and give the tape with `--tape`."
                     : "Only clips, marks, inputs and cues can be used.");
    return false;
  }
  if (const YamlEntry* scene = entry_of(root, "scene"); scene != nullptr) {
    reader.fail(FindingCode::wrong_kind_of_file, scene->key, "\"" + path + "\" is a scene",
                main
                    ? "Name the machine of one of its actors; `check`, `run`, `explain`, `draw` and `live` take scenes."
                    : "Only clips, marks, inputs and cues can be used.");
    return false;
  }
  read_files_.insert(whole_path(path));
  const std::string folder = folder_of(path);
  if (main && !has_character_) main_folder = folder;
  if (main) roots_.push_back(folder);
  const std::uint16_t file = reader.file();
  if (entry_of(root, "character") != nullptr) {
    if (main && !has_character_) return read_character(root, path), true;
    reader.fail(FindingCode::wrong_kind_of_file, root, "\"" + path + "\" is a character",
                has_character_ ? "A character is made over a machine: name that machine's file."
                               : "Only clips, marks, inputs and cues can be used.");
    return false;
  }
  if (told_by_its_keys(reader, root)) return false;
  const Fields fields = reader.fields(root, Section::machine);
  if (const YamlNode* node = fields.get("accept"))
    for (const Text& code : reader.names(*node, "a finding's code")) definition.accept.push_back(code);
  if (main && fields.has("machine")) {
    has_machine = true;
    const auto name = reader.name(*fields.get("machine"), "the machine's name");
    if (name && !has_character_) definition.name = *name;
  }
  for (const std::string_view key : {"machine", "states", "regions", "go", "initial", "vars", "enter", "exit",
                                     "reaches", "zones", "looks", "claims", "assume", "keys"}) {
    if (!fields.has(key) || (main && has_machine)) continue;
    reader.fail(FindingCode::wrong_kind_of_file, *fields.get(key),
                main ? "the file has `" + std::string(key) + ":` but no `machine:`"
                     : "a file that is used by another has `" + std::string(key) + ":`",
                main ? "Add `machine: NAME`." : "Only clips, marks, inputs and cues can be used.");
    if (!main) return false;
    has_machine = true;  // what else is wrong is told at once
  }
  if (const YamlNode* use = fields.get("use")) read_use(*use, folder);
  reader.set_file(file);
  enter_folder(folder);
  if (const YamlNode* unit = fields.get("unit")) read_unit(*unit);
  if (const YamlNode* node = fields.get("inputs")) read_inputs(*node);
  if (const YamlNode* node = fields.get("cues")) read_cues(*node);
  if (const YamlNode* node = fields.get("sheets")) read_sheets(*node);
  if (const YamlNode* node = fields.get("clips")) read_clips(*node);
  if (const YamlNode* node = fields.get("marks")) read_marks(*node);
  if (!main || !has_machine) return true;
  if (const YamlNode* node = fields.get("reaches")) read_reaches(*node);
  if (const YamlNode* node = fields.get("zones")) read_zones(*node);
  if (const YamlNode* node = fields.get("looks"); node != nullptr && !own_looks_) read_looks(*node);
  if (const YamlNode* node = fields.get("claims")) read_claims(*node);
  if (const YamlNode* node = fields.get("assume"))
    reader.each_item(*node, [&](const YamlNode& item) {
      if (const auto expression = reader.expression(item, "`assume:`")) definition.assumed.push_back(*expression);
    });
  if (const YamlNode* node = fields.get("keys")) read_keys(*node);
  StateDef& top = definition.root;
  top.place = {file, 1, 1};
  if (const YamlNode* node = fields.get("initial")) read_initial(*node, definition.name.text, top.initial);
  if (const YamlNode* node = fields.get("vars")) read_vars(*node, top.vars);
  if (const YamlNode* node = fields.get("enter")) top.enter = read_actions(*node);
  if (const YamlNode* node = fields.get("exit")) top.exit = read_actions(*node);
  if (const YamlNode* node = fields.get("go")) read_go(*node, top.go);
  if (const YamlNode* node = fields.get("states")) read_states(*node, definition.name.text, top.states);
  if (const YamlNode* node = fields.get("regions")) read_regions(*node, top.regions);
  return true;
}

void Loader::enter_folder(const std::string& folder) {
  file_folder_ = folder;
  art_folder_ =
      folder == main_folder
          ? ""
          : std::filesystem::path(folder).lexically_relative(main_folder.empty() ? "." : main_folder).generic_string() +
                "/";
}

// `{never: cue(step) and is(dead)}`, `{from: in(net), within: 2s, reaches: not in(net)}`
void Loader::read_claims(const YamlNode& node) {
  struct Form {
    const char *first, *second;
    bool timed;
    ClaimKind kind;
  };
  constexpr Form kForms[] = {
      {"never", nullptr, false, ClaimKind::never},  {"always", nullptr, false, ClaimKind::always},
      {"once", "then", false, ClaimKind::once},     {"when", "reaches", true, ClaimKind::when},
      {"from", "reaches", true, ClaimKind::within}, {"from", "next", false, ClaimKind::next},
      {"from", "can", false, ClaimKind::can}};
  reader.each_entry(node, "`claims:`", [&](const YamlNode& key, const YamlNode& value) {
    if (value.kind == YamlNode::Kind::scalar && !value.text.empty())
      return reader.fail(FindingCode::wrong_type, value, "a claim is \"" + value.text + "\"",
                         "Write `" + claim_in_words(value.text) + "`.");
    const Fields fields = reader.fields(value, Section::claim);
    if (fields.foreign) return;
    for (const Form& form : kForms) {
      const std::size_t wanted = 1 + (form.second != nullptr ? 1 : 0) + (form.timed ? 1 : 0);
      if (!fields.has(form.first) || (form.second != nullptr && !fields.has(form.second)) ||
          (form.timed && !fields.has("within")) || value.entries.size() != wanted)
        continue;
      ClaimDef out;
      out.name = reader.text_of(key);
      out.kind = form.kind;
      const std::size_t before = findings.size();
      if (const auto first = reader.expression(*fields.get(form.first), "`" + std::string(form.first) + ":`"))
        out.first = *first;
      if (form.second != nullptr)
        if (const auto second = reader.expression(*fields.get(form.second), "`" + std::string(form.second) + ":`"))
          out.second = *second;
      if (form.timed) {
        const auto within = reader.duration(*fields.get("within"), "`within:`");
        if (!within) return;
        out.within = *within;
      }
      if (!errors_since(before)) definition.claims.push_back(std::move(out));
      return;
    }
    if (fields.strange) return;
    reader.fail(FindingCode::missing_key, key, "the claim \"" + key.text + "\" has no form that can be asked",
                what_a_claim_lacks(fields));
  });
}

void Loader::read_unit(const YamlNode& node) {
  const bool px = node.kind == YamlNode::Kind::scalar && node.text.ends_with("px");
  const auto value = px ? parse_number(node.text.substr(0, node.text.size() - 2)) : std::nullopt;
  if (!value || !(*value > 0 && *value <= 100'000))
    return reader.mismatch(node, "`unit:`", "pixels to a world unit, such as `32px`");
  if (has_character_ && has_unit_) return;  // the character's own counts
  definition.unit = *value;
  has_unit_ = true;
}

// A character is a machine's logic with clips and marks of its own. These are read first; where the machine's files
// define a clip or the marks of a clip that the character has, the character's count.
void Loader::read_character(const YamlNode& root, const std::string& path) {
  const std::string folder = folder_of(path);
  const std::uint16_t file = reader.file();
  const Fields fields = reader.fields(root, Section::character);
  if (const auto name = reader.name(*fields.get("character"), "the character's name")) definition.name = *name;
  if (const YamlNode* use = fields.get("use")) read_use(*use, folder);
  reader.set_file(file);
  enter_folder(folder);
  if (const YamlNode* node = fields.get("accept"))
    for (Text& code : reader.names(*node, "a code")) definition.accept.push_back(std::move(code));
  if (const YamlNode* node = fields.get("unit")) read_unit(*node);
  if (const YamlNode* node = fields.get("sheets")) read_sheets(*node);
  if (const YamlNode* node = fields.get("clips")) read_clips(*node);
  if (const YamlNode* node = fields.get("marks")) read_marks(*node);
  if (const YamlNode* node = fields.get("looks")) {
    read_looks(*node);
    own_looks_ = true;
  }
  for (const ClipDef& clip : definition.clips) own_clips_.insert(clip.name.text);
  for (const ClipMarksDef& marks : definition.marks) own_marks_.insert(marks.clip.text);
  const YamlNode* machine = fields.get("machine");
  if (machine == nullptr)
    return reader.fail(FindingCode::missing_key, root,
                       "the character \"" + definition.name.text + "\" names no machine",
                       "Add `machine: FILE`, the machine whose logic it has.");
  const auto named = reader.name(*machine, "`machine:`");
  if (!named) return;
  has_character_ = true;
  const std::string of = join(folder, named->text);
  if (auto logic = reader.parse_file(of, *named)) read_file(*logic, of, true);
  reader.set_file(file);
  if (!has_machine && !has_errors(findings))
    reader.fail(FindingCode::wrong_kind_of_file, *machine, "\"" + of + "\" holds no machine", "Name a machine's file.");
}

void Loader::read_use(const YamlNode& node, const std::string& folder) {
  reader.each_item(node, [&](const YamlNode& item) {
    const auto name = reader.name(item, "a file to use");
    if (!name) {
      reader.left_out = true;
      return;
    }
    if (!stays(folder, *name)) return;
    const std::string path = join(folder, name->text);
    if (name->text.front() == '/') roots_.push_back(folder_of(path));  // its author's own choice, with what lies there
    if (!read_files_.insert(whole_path(path)).second) return;          // read already
    if (definition.files.size() >= kMaxFiles)
      return reader.fail(FindingCode::too_large, item, "more than 256 files are used", "Join some of them.");
    const std::uint16_t file = reader.file();
    auto root = reader.parse_file(path, *name);
    if (!root || !read_file(*root, path, false)) reader.left_out = true;
    reader.set_file(file);
  });
}

void Loader::read_cues(const YamlNode& node) {
  reader.each_entry(node, "`cues:`", [&](const YamlNode& key, const YamlNode& value) {
    const Watch watch(*this, key.text);
    CueDef cue;
    cue.name = reader.text_of(key);
    const auto is_word = [&](const YamlNode& kind) {
      const bool word = kind.quoted || (!parse_number(kind.text) && kind.text != "true" && kind.text != "false");
      if (!word)
        reader.mismatch(kind, "the kind of the cue \"" + key.text + "\"", "a word, such as `damage` or `sound`");
      return word;
    };
    if (value.kind == YamlNode::Kind::scalar && !value.tagged) {
      if (!is_word(value)) return;
      cue.kind = value.text;
    } else if (value.kind == YamlNode::Kind::map) {
      cue.fields = read_fields(value, key.text, {"kind", "accept"});
      for (const auto& [name, kind] : value.entries) {
        if (name.text == "accept")
          for (const Text& code : reader.names(kind, "a finding's code")) cue.accept.push_back(code);
        if (name.text != "kind") continue;
        if (const auto words = reader.name(kind, "`kind:`"); words && is_word(kind)) cue.kind = words->text;
      }
    } else if (value.kind == YamlNode::Kind::list) {
      reader.mismatch(value, "the cue \"" + key.text + "\"",
                      "its kind, or a map such as `{kind: sound, file: grass.wav}`");
      return;
    }
    definition.cues.push_back(std::move(cue));
  });
}

namespace {

Loaded finish(Loader& loader) {
  Loaded out;
  loader.resolve_parts();
  loader.resolve_keys();
  out.has_machine = loader.has_machine;
  if (!loader.has_machine && !has_errors(loader.findings)) {
    // A file of clips and marks alone: cues its marks name, and clips it has marks for, are defined where it is used.
    std::erase_if(loader.definition.marks, [&](const ClipMarksDef& marks) {
      const auto& clips = loader.definition.clips;
      return std::none_of(clips.begin(), clips.end(),
                          [&](const ClipDef& clip) { return clip.name.text == marks.clip.text; });
    });
    std::set<std::string> declared;
    for (const CueDef& cue : loader.definition.cues) declared.insert(cue.name.text);
    for (ClipMarksDef& marks : loader.definition.marks)
      for (MarkDef& mark : marks.marks) {
        mark.fields.clear();
        if (declared.insert(mark.cue.text).second) loader.definition.cues.push_back({mark.cue, "", {}});
      }
    loader.definition.name = Text("shared");
    loader.definition.root.states.emplace_back().name = Text("nothing");
  }
  // Compiling finds more even where reading found errors, but not what only follows from them.
  out.findings = std::move(loader.findings);
  if (loader.has_machine || !has_errors(out.findings)) {
    Compiled compiled = compile(loader.definition);
    const bool sound = !has_errors(out.findings);
    blame_declarations(loader.definition, out.findings, compiled.findings);
    const std::vector<std::string> broken(loader.broken.begin(), loader.broken.end());
    for (Finding& finding : compiled.findings) {
      const std::string name = finding.subject.substr(finding.subject.find_last_of('/') + 1);  // of a path
      const bool follows = (!name.empty() && loader.broken.count(name) > 0) ||
                           (loader.reader.left_out && finding.code == FindingCode::unknown_name);
      if (follows) continue;
      if (finding.code == FindingCode::unknown_name && finding.remedy.find("Did you mean") == std::string::npos)
        if (const std::string near = nearest_name(name, broken); !near.empty())
          finding.remedy = "Did you mean \"" + near + "\"?";
      out.findings.push_back(std::move(finding));
    }
    if (sound) out.machine = std::move(compiled.machine);
  }
  out.files = loader.definition.files;
  if (out.machine) out.definition = std::move(loader.definition);
  out.findings = sorted_by_place(std::move(out.findings), out.files);
  return out;
}

}  // namespace
}  // namespace io

Loaded load_character(const std::string& path) { return load_character(path, {}); }

Loaded load_character(const std::string& path, const FileText& instead) {
  io::Loader loader;
  loader.reader.instead = instead.path.empty() ? nullptr : &instead;
  auto root = loader.reader.parse_file(path, {});
  if (root)
    loader.read_file(*root, path, true);
  else
    loader.has_machine = false;
  return io::finish(loader);
}

Loaded io::load_whatever_is_packed(const std::string& path, const FileText& instead) {
  Loader loader;
  loader.reader.instead = instead.path.empty() ? nullptr : &instead;
  loader.trusts_packed_names = true;
  if (auto root = loader.reader.parse_file(path, {})) loader.read_file(*root, path, true);
  return finish(loader);
}

Loaded load_character_text(std::string_view text, const std::string& name) {
  io::Loader loader;
  auto root = loader.reader.parse_text(text, name);
  if (root) loader.read_file(*root, name, true);
  return io::finish(loader);
}

}  // namespace mobrin
