// Loading machine files: the top level, inputs, cues, and the files a file uses.
#include "mobrin/io/load.hpp"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>

#include "blame.hpp"
#include "loader.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"

namespace mobrin {
namespace io {
namespace {

// Keys by the names that people write; letters and digits go without.
constexpr std::pair<std::string_view, std::string_view> kKeyNames[] = {
    {"left", "ArrowLeft"}, {"right", "ArrowRight"},    {"up", "ArrowUp"},
    {"down", "ArrowDown"}, {"space", "Space"},         {"enter", "Enter"},
    {"tab", "Tab"},        {"shift", "ShiftLeft"},     {"control", "ControlLeft"},
    {"alt", "AltLeft"},    {"backspace", "Backspace"}, {"comma", "Comma"},
    {"period", "Period"},  {"slash", "Slash"},         {"semicolon", "Semicolon"}};

// Of a key as it is written: `space`, `j`, `4`, or its code itself (`KeyJ`).
std::optional<std::string> key_code(const std::string& text) {
  for (const auto& [name, code] : kKeyNames)
    if (text == name || text == code) return std::string(code);
  const auto upper = [](char c) { return static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c); };
  const auto letter = [&](char c) { return upper(c) >= 'A' && upper(c) <= 'Z'; };
  const auto digit = [](char c) { return c >= '0' && c <= '9'; };
  if (text.size() == 1 && letter(text[0])) return std::string("Key") + upper(text[0]);
  if (text.size() == 1 && digit(text[0])) return "Digit" + text;
  if (text.size() == 4 && text.starts_with("Key") && letter(text[3])) return text;
  if (text.size() == 6 && text.starts_with("Digit") && digit(text[5])) return text;
  return std::nullopt;
}

}  // namespace

bool Loader::read_file(const YamlNode& root, const std::string& path, bool main) {
  if (!check_version(reader, root, "a machine, or clips, marks, inputs or cues")) return false;
  if (entry_of(root, "tape") != nullptr) {
    reader.fail(FindingCode::wrong_kind_of_file, root, "\"" + path + "\" is a tape",
                main ? "Name its machine here and give the tape with `--tape`."
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
    return false;
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
  if (const YamlNode* node = fields.get("states")) read_states(*node, top.states);
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
      definition.claims.push_back(std::move(out));
      return;
    }
    reader.fail(
        FindingCode::missing_key, key, "the claim \"" + key.text + "\" has no form that can be asked",
        "Write one of {never: E}, {always: E}, {once: E, then: F}, {when: E, within: 0s, reaches: F}, {from: E, "
        "within: 2s, reaches: F}, {from: E, next: F}, {from: E, can: F}.");
  });
}

// `{move: [left, right], swing: space, hop: j}`
void Loader::read_keys(const YamlNode& node) {
  std::vector<std::string> inputs, known;
  for (const InputDef& input : definition.inputs) inputs.push_back(input.name.text);
  for (const auto& [name, code] : kKeyNames) known.emplace_back(name);
  std::map<std::string, std::string> taken;
  reader.each_entry(node, "`keys:`", [&](const YamlNode& key, const YamlNode& value) {
    KeysDef out;
    out.input = reader.text_of(key);
    const auto input = std::find(inputs.begin(), inputs.end(), key.text);
    if (input == inputs.end() && (reader.left_out || broken.count(key.text) > 0)) return;
    if (input == inputs.end()) {
      const std::string near = nearest_name(key.text, inputs);
      reader.fail(FindingCode::unknown_name, key, "there is no input \"" + key.text + "\"",
                  near.empty() ? "Inputs are declared under `inputs:`." : "Did you mean \"" + near + "\"?");
      findings.back().subject = key.text;
      return;
    }
    const auto& kind = definition.inputs[static_cast<std::size_t>(input - inputs.begin())].kind;
    for (const YamlNode& item : value.kind == YamlNode::Kind::list ? value.items : std::vector<YamlNode>{value}) {
      const auto code = item.kind == YamlNode::Kind::scalar ? key_code(item.text) : std::nullopt;
      if (!code) {
        const std::string near = nearest_name(item.text, known);
        reader.fail(FindingCode::unknown_name, item, "there is no key " + item.words(),
                    near.empty()
                        ? "Write a letter, a digit, or one of left, right, up, down, space, enter, tab, shift, "
                          "control."
                        : "Did you mean \"" + near + "\"?");
        continue;
      }
      if (const auto [other, fresh] = taken.try_emplace(*code, key.text); !fresh)
        reader.fail(FindingCode::duplicate_name, item,
                    "the key " + item.words() + " writes \"" + other->second + "\" already", "Choose another key.");
      Text text = reader.text_of(item);
      text.text = *code;
      out.codes.push_back(std::move(text));
    }
    const auto* choice = std::get_if<ChoiceInput>(&kind);
    const bool number = std::holds_alternative<IntInput>(kind) || std::holds_alternative<FloatInput>(kind);
    if (number && out.codes.size() > 2)
      reader.fail(FindingCode::bad_value, value, "the number \"" + key.text + "\" has more than two keys",
                  "One for its lower end, one for its upper.");
    if (choice != nullptr && out.codes.size() > choice->choices.size())
      reader.fail(FindingCode::bad_value, value, "\"" + key.text + "\" has more keys than choices",
                  "At most a key a choice, in their order.");
    definition.keys.push_back(std::move(out));
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
  if (const auto logic = reader.parse_file(of, *named)) read_file(*logic, of, true);
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
    const auto root = reader.parse_file(path, *name);
    if (!root || !read_file(*root, path, false)) reader.left_out = true;
    reader.set_file(file);
  });
}

void Loader::read_inputs(const YamlNode& node) {
  reader.each_entry(node, "`inputs:`", [&](const YamlNode& key, const YamlNode& value) {
    const Watch watch(*this, key.text);
    if (auto input = read_input(key, value)) definition.inputs.push_back(std::move(*input));
  });
}

namespace {

// How an input is written of which only the type is named, by whatever word, or whose word is misspelt; empty for none.
std::string form_meant(const YamlNode& value) {
  if (value.kind != YamlNode::Kind::scalar) return {};
  static const std::vector<std::string> words{"pulse", "true", "false", "bool", "int", "float", "one_of"};
  std::string word(meant_key(Section::input, value.text));
  if (word.empty()) word = nearest_name(value.text, words);
  if (word == "pulse" || word == "true" || word == "false") return "`" + word + "`";
  if (word == "bool") return "how it starts, `false`, or `{bool: false}`";
  if (word == "int" || word == "float") return "`{" + word + ": 0}`, with what it starts at";
  return word == "one_of" ? "its choices, `{one_of: [a, b]}`" : std::string();
}

}  // namespace

std::optional<InputDef> Loader::read_input(const YamlNode& key, const YamlNode& value) {
  InputDef out;
  out.name = reader.text_of(key);
  const std::string what = "the input \"" + key.text + "\"";
  const std::string forms =
      "`pulse`, `true`, a number, or a map such as `{float: 0, min: -1, max: 1}`, `{one_of: [a, b]}`, `{pulse: 110ms}`";
  if (value.kind == YamlNode::Kind::scalar && value.text == "pulse") return out.kind = PulseInput{}, out;
  if (value.kind == YamlNode::Kind::scalar && !value.quoted && !value.tagged) {
    if (value.text == "true" || value.text == "false") return out.kind = BoolInput{value.text == "true"}, out;
    if (const auto whole = parse_whole(value.text); whole && *whole == static_cast<std::int32_t>(*whole))
      return out.kind = IntInput{static_cast<std::int32_t>(*whole)}, out;
    if (const auto number = parse_number(value.text)) return out.kind = FloatInput{*number}, out;
  }
  if (value.kind != YamlNode::Kind::map) {
    if (const std::string form = form_meant(value); !form.empty())
      reader.fail(FindingCode::wrong_type, value, what + " is " + value.words(), "Write " + form + ".");
    else
      reader.mismatch(value, what, forms);
    return std::nullopt;
  }
  const Fields fields = reader.fields(value, Section::input);
  if (fields.foreign) return std::nullopt;
  if (const YamlNode* node = fields.get("accept"))
    for (const Text& code : reader.names(*node, "a finding's code")) out.accept.push_back(code);
  int kinds = 0;
  for (const std::string_view kind : {"bool", "int", "float", "one_of", "pulse"}) kinds += fields.has(kind) ? 1 : 0;
  if (kinds != 1) {
    reader.fail(kinds == 0 ? FindingCode::missing_key : FindingCode::conflicting_keys, value,
                what + (kinds == 0 ? " says no type" : " says several types"),
                "Write one of bool, int, float, one_of and pulse.");
    return std::nullopt;
  }
  const auto allow = [&](std::initializer_list<std::string_view> allowed) {
    for (const std::string_view extra : {"min", "max", "grain", "start"})
      if (fields.has(extra) && std::find(allowed.begin(), allowed.end(), extra) == allowed.end())
        reader.fail(FindingCode::conflicting_keys, *fields.get(extra),
                    "`" + std::string(extra) + ":` means nothing for " + what, "Leave it out.");
  };
  if (const YamlNode* node = fields.get("bool")) {
    allow({});
    const auto start = reader.boolean(*node, what);
    if (!start) return std::nullopt;
    out.kind = BoolInput{*start};
  } else if (const YamlNode* whole = fields.get("int")) {
    allow({"min", "max"});
    IntInput kind;
    const auto read = [&](const YamlNode* from, std::int32_t& to) {
      if (from == nullptr) return;
      if (const auto read_value = reader.whole(*from, what, INT32_MIN, INT32_MAX))
        to = static_cast<std::int32_t>(*read_value);
    };
    read(whole, kind.start);
    read(fields.get("min"), kind.min);
    read(fields.get("max"), kind.max);
    out.kind = kind;
  } else if (const YamlNode* number = fields.get("float")) {
    allow({"min", "max", "grain"});
    FloatInput kind;
    const auto read = [&](const YamlNode* from, double& to) {
      if (from == nullptr) return;
      if (const auto read_value = reader.number(*from, what)) to = *read_value;
    };
    read(number, kind.start);
    read(fields.get("min"), kind.min);
    read(fields.get("max"), kind.max);
    read(fields.get("grain"), kind.grain);
    out.kind = kind;
  } else if (const YamlNode* choices = fields.get("one_of")) {
    allow({"start"});
    ChoiceInput kind;
    kind.choices = reader.names(*choices, "a choice of " + what);
    if (const YamlNode* start = fields.get("start"))
      if (const auto name = reader.name(*start, "`start:`")) kind.start = *name;
    out.kind = kind;
  } else {
    allow({});
    const auto buffer = reader.duration(*fields.get("pulse"), "the buffer of " + what);
    if (!buffer) return std::nullopt;
    out.kind = PulseInput{*buffer};
  }
  return out;
}

void Loader::read_cues(const YamlNode& node) {
  reader.each_entry(node, "`cues:`", [&](const YamlNode& key, const YamlNode& value) {
    const Watch watch(*this, key.text);
    CueDef cue;
    cue.name = reader.text_of(key);
    if (value.kind == YamlNode::Kind::scalar && !value.tagged) {
      cue.kind = value.text;
    } else if (value.kind == YamlNode::Kind::map) {
      cue.fields = read_fields(value, key.text, {"kind", "accept"});
      for (const auto& [name, kind] : value.entries) {
        if (name.text == "accept")
          for (const Text& code : reader.names(kind, "a finding's code")) cue.accept.push_back(code);
        if (name.text != "kind") continue;
        if (const auto words = reader.name(kind, "`kind:`")) cue.kind = words->text;
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
    for (Finding& finding : compiled.findings) {
      const std::string name = finding.subject.substr(finding.subject.find_last_of('/') + 1);  // of a path
      const bool follows = (!name.empty() && loader.broken.count(name) > 0) ||
                           (loader.reader.left_out && finding.code == FindingCode::unknown_name);
      if (!follows) out.findings.push_back(std::move(finding));
    }
    if (sound) out.machine = std::move(compiled.machine);
  }
  out.files = loader.definition.files;
  if (out.machine) out.definition = std::move(loader.definition);
  std::stable_sort(out.findings.begin(), out.findings.end(), [&](const Finding& a, const Finding& b) {
    const auto order = [&](const Finding& f) {
      return std::find(out.files.begin(), out.files.end(), f.file) - out.files.begin();
    };
    return std::tuple(order(a), a.line, a.column) < std::tuple(order(b), b.line, b.column);
  });
  return out;
}

}  // namespace
}  // namespace io

Loaded load_character(const std::string& path) { return load_character(path, {}); }

Loaded load_character(const std::string& path, const FileText& instead) {
  io::Loader loader;
  loader.reader.instead = instead.path.empty() ? nullptr : &instead;
  const auto root = loader.reader.parse_file(path, {});
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
  if (const auto root = loader.reader.parse_file(path, {})) loader.read_file(*root, path, true);
  return finish(loader);
}

Loaded load_character_text(std::string_view text, const std::string& name) {
  io::Loader loader;
  const auto root = loader.reader.parse_text(text, name);
  if (root) loader.read_file(*root, name, true);
  return io::finish(loader);
}

}  // namespace mobrin
