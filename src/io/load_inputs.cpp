// Loading inputs, and the keys that write them where a machine is tried out.
#include <algorithm>
#include <utility>

#include "loader.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
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

void Loader::read_inputs(const YamlNode& node) {
  reader.each_entry(node, "`inputs:`", [&](const YamlNode& key, const YamlNode& value) {
    const Watch watch(*this, key.text);
    if (auto input = read_input(key, value)) definition.inputs.push_back(std::move(*input));
  });
}

namespace {

// The type of an input that is meant, by whatever word; empty for none.
std::string type_meant(const YamlNode& value) {
  static const std::vector<std::string> words{"pulse", "true", "false", "bool", "int", "float", "one_of"};
  const std::string word(meant_key(Section::input, value.text));
  return word.empty() ? nearest_name(value.text, words) : word;
}

// How an input is written of which only the type is named, or whose word is misspelt; empty for none.
std::string form_meant(const YamlNode& value) {
  if (value.kind != YamlNode::Kind::scalar) return {};
  const std::string word = type_meant(value);
  if (word == "pulse" || word == "true" || word == "false") return "`" + word + "`";
  if (word == "bool") return "how it starts, `false`, or `{bool: false}`";
  if (word == "int" || word == "float") return "`{" + word + ": 0}`, with what it starts at";
  return word == "one_of" ? "its choices, `{one_of: [a, b]}`" : std::string();
}

// How long an early press waits, as a file writes it: a number lacks its unit.
std::string buffer_meant(const std::string& text) {
  if (read_duration(text)) return text;
  const auto number = parse_number(text);
  if (!number || *number <= 0) return "110ms";
  return text + (*number < 5 ? "s" : "ms");
}

}  // namespace

// `{pulse: true, buffer: 0.2}`: the word is the kind, its value the buffer.
bool Loader::told_as_pulse(const YamlNode& value, const std::string& what) {
  const YamlEntry* pulse = entry_of(value, "pulse");
  if (pulse == nullptr || pulse->value.kind != YamlNode::Kind::scalar) return false;
  const std::string& word = pulse->value.text;
  if (word != "true" && word != "false" && word != "pulse" && word != "yes" && word != "on") return false;
  std::string buffer;
  for (const auto& [key, each] : value.entries)
    if (&each != &pulse->value && each.kind == YamlNode::Kind::scalar && meant_key(Section::input, key.text) == "pulse")
      buffer = buffer_meant(each.text);
  reader.fail(FindingCode::wrong_type, pulse->value,
              "behind \"pulse\" stands how long an early press waits, and of " + what + " it is \"" + word + "\"",
              buffer.empty() ? "Write `pulse` alone, or `{pulse: 110ms}` where it is to wait."
                             : "Write `{pulse: " + buffer + "}`.");
  return true;
}

// `{type: int, default: 6}`: the type is a key, its value the start.
bool Loader::told_as_type(const YamlNode& value) {
  const YamlEntry* type = entry_of(value, "type");
  if (type == nullptr || type->value.kind != YamlNode::Kind::scalar) return false;
  const std::string word = type_meant(type->value);
  const bool number = word == "int" || word == "float";
  if (!number && word != "bool" && word != "pulse" && word != "one_of") return false;
  std::string start = number ? "0" : word == "bool" ? "false" : word == "pulse" ? "110ms" : "[a, b]";
  std::string form_end;
  for (const auto& [key, each] : value.entries) {
    const std::string_view meant = meant_key(Section::input, key.text);
    const bool starts = key.text == "start" || meant == "start";
    if (each.kind == YamlNode::Kind::scalar &&
        (starts ? number || word == "bool" : word == "pulse" && meant == "pulse"))
      start = starts ? each.text : buffer_meant(each.text);
    if (word != "one_of") continue;
    if (starts && each.kind == YamlNode::Kind::scalar) form_end += ", start: " + each.text;
    if (meant != "one_of" || each.kind != YamlNode::Kind::list) continue;
    start.clear();
    for (const YamlNode& item : each.items) start += (start.empty() ? "[" : ", ") + item.text;
    start += start.empty() ? "[a, b]" : "]";
  }
  std::string form = "{" + word + ": " + start + form_end;
  for (const char* range : {"min", "max"})
    if (const YamlEntry* entry = entry_of(value, range);
        number && entry != nullptr && entry->value.kind == YamlNode::Kind::scalar)
      form += ", " + std::string(range) + ": " + entry->value.text;
  reader.fail(FindingCode::unknown_key, type->key, "\"type\" is no key of an input: the type itself is one",
              "Write `" + form + "}`.");
  return true;
}

// `{start: 1.0, min: 0}` as `{float: 1.0, min: 0}`; empty where no number says what it is.
std::string with_its_type(const Fields& fields) {
  std::string start = "0", range;
  bool number = false, whole = true;
  for (const char* key : {"start", "min", "max", "grain"}) {
    const YamlNode* node = fields.get(key);
    if (node == nullptr) continue;
    if (node->kind != YamlNode::Kind::scalar || !parse_number(node->text)) return "";
    number = true;
    whole = whole && parse_whole(node->text) && std::string_view(key) != "grain";
    if (std::string_view(key) == "start")
      start = node->text;
    else
      range += ", " + std::string(key) + ": " + node->text;
  }
  return number ? (whole ? "{int: " : "{float: ") + start + range + "}" : "";
}

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
  const bool words = std::all_of(value.items.begin(), value.items.end(), [](const YamlNode& item) {
    return item.kind == YamlNode::Kind::scalar && is_name(item.text);
  });
  if (value.kind == YamlNode::Kind::list && !value.items.empty() && words) {
    // Choices without the word for them.
    std::string list;
    for (const YamlNode& item : value.items) list += (list.empty() ? "" : ", ") + item.text;
    reader.fail(FindingCode::wrong_type, value, what + " is a list", "Write `{one_of: [" + list + "]}`.");
    out.kind = ChoiceInput{reader.names(value, "a choice of " + what), {}};
    return out;
  }
  if (value.kind != YamlNode::Kind::map) {
    if (const std::string form = form_meant(value); !form.empty())
      reader.fail(FindingCode::wrong_type, value, what + " is " + value.words(), "Write " + form + ".");
    else
      reader.mismatch(value, what, forms);
    return std::nullopt;
  }
  if (told_as_type(value) || told_as_pulse(value, what)) return std::nullopt;
  const Fields fields = reader.fields(value, Section::input);
  if (fields.foreign) return std::nullopt;
  if (const YamlNode* node = fields.get("accept"))
    for (const Text& code : reader.names(*node, "a finding's code")) out.accept.push_back(code);
  int kinds = 0;
  for (const std::string_view kind : {"bool", "int", "float", "one_of", "pulse"}) kinds += fields.has(kind) ? 1 : 0;
  if (kinds != 1) {
    const std::string typed = kinds == 0 ? with_its_type(fields) : "";
    reader.fail(kinds == 0 ? FindingCode::missing_key : FindingCode::conflicting_keys, value,
                what + (kinds == 0 ? " says no type" : " says several types"),
                typed.empty() ? "Write one of bool, int, float, one_of and pulse." : "Write `" + typed + "`.");
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
    if (value.kind == YamlNode::Kind::list && value.items.empty())
      reader.fail(FindingCode::bad_value, value, "\"" + key.text + "\" has no key",
                  "Name one, `" + key.text + ": space`, or leave the line out.");
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

}  // namespace mobrin::io
