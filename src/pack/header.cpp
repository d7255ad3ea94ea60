// The C++ header of a machine: handles with names that the compiler checks, and the pack itself.
#include <algorithm>
#include <array>
#include <cctype>
#include <cstdio>
#include <set>
#include <string_view>

#include "mobrin/core/parts.hpp"
#include "mobrin/pack/pack.hpp"

namespace mobrin {
namespace {

constexpr std::string_view kReserved[] = {
    "alignas",     "alignof",   "and",        "and_eq",    "asm",      "auto",         "bitand",
    "bitor",       "bool",      "break",      "case",      "catch",    "char",         "char8_t",
    "char16_t",    "char32_t",  "class",      "compl",     "concept",  "const",        "consteval",
    "constexpr",   "constinit", "const_cast", "continue",  "co_await", "co_return",    "co_yield",
    "decltype",    "default",   "delete",     "do",        "double",   "dynamic_cast", "else",
    "enum",        "explicit",  "export",     "extern",    "false",    "float",        "for",
    "friend",      "goto",      "if",         "inline",    "int",      "long",         "mutable",
    "namespace",   "new",       "noexcept",   "not",       "not_eq",   "nullptr",      "operator",
    "or",          "or_eq",     "private",    "protected", "public",   "register",     "reinterpret_cast",
    "requires",    "return",    "short",      "signed",    "sizeof",   "static",       "static_assert",
    "static_cast", "struct",    "switch",     "template",  "this",     "thread_local", "throw",
    "true",        "try",       "typedef",    "typeid",    "typename", "union",        "unsigned",
    "using",       "virtual",   "void",       "volatile",  "wchar_t",  "while",        "xor",
    "xor_eq"};

bool is_reserved(std::string_view name) {
  return std::find(std::begin(kReserved), std::end(kReserved), name) != std::end(kReserved);
}

// `body/hover` becomes `body_hover`; a word of the language gets a stroke.
std::string cpp_name(std::string_view name) {
  std::string out(name);
  for (char& c : out)
    if (std::isalnum(static_cast<unsigned char>(c)) == 0) c = '_';
  return is_reserved(out) ? out + "_" : out;
}

// One group of handles.
class Group {
 public:
  Group(std::string type, std::string member) : type_(std::move(type)), member_(std::move(member)) {}
  // False where the name is taken.
  bool add(const std::string& handle, std::string_view name, std::size_t index) {
    const std::string own = cpp_name(name);
    if (!taken_.insert(own).second) return false;
    members_ += "    " + handle + " " + own + ";\n";
    values_ += (values_.empty() ? "" : ",\n            ") +
               ("mobrin::handle_at<" + handle + ">(of, " + std::to_string(index) + ")");
    return true;
  }
  [[nodiscard]] std::string definition() const {
    return "  struct " + type_ + " {\n" + members_ + "  } " + member_ + ";\n";
  }
  [[nodiscard]] std::string initializer() const { return member_ + "{" + values_ + "}"; }

 private:
  std::string type_, member_, members_, values_;
  std::set<std::string> taken_;
};

std::string handle_of(const InputDef& input) {
  constexpr const char* kHandles[] = {"mobrin::Input<bool>", "mobrin::Input<std::int32_t>", "mobrin::Input<float>",
                                      "mobrin::Input<mobrin::Choice>", "mobrin::Pulse"};
  return kHandles[input.kind.index()];
}

std::string bytes_text(std::span<const std::byte> bytes) {
  std::string out;
  out.reserve(bytes.size() * 5);
  for (std::size_t i = 0; i < bytes.size(); ++i) {
    char text[24];
    std::snprintf(text, sizeof text, "%s%u",
                  i == 0        ? ""
                  : i % 32 == 0 ? ",\n      "
                                : ",",
                  std::to_integer<unsigned>(bytes[i]));
    out += text;
  }
  return out;
}

}  // namespace

bool is_cpp_name(std::string_view name) {
  return !name.empty() && std::isdigit(static_cast<unsigned char>(name.front())) == 0 && cpp_name(name) == name;
}

Result<std::string> header_text(const Machine& machine, const HeaderOptions& options) {
  const std::string& name = options.name;
  if (!is_cpp_name(name))
    return Error{"\"" + name + "\" cannot be the name of a class", "", "Write a C++ name: letters, digits, strokes."};
  const auto clash = [](std::string_view what, std::string_view which) {
    return Error{"two " + std::string(what) + " would have the C++ name \"" + cpp_name(which) + "\"",
                 "Rename one of them."};
  };
  Group inputs("Inputs", "inputs"), states("States", "states"), traits("Traits", "traits");
  std::string choices, cues;
  for (std::size_t i = 0; i < machine.inputs().size(); ++i) {
    const InputDef& input = machine.inputs()[i];
    if (!inputs.add(handle_of(input), input.name.text, i)) return clash("inputs", input.name.text);
    const auto* choice = std::get_if<ChoiceInput>(&input.kind);
    if (choice == nullptr) continue;
    choices +=
        "  /// The choices of `" + input.name.text + "`.\n  struct " + cpp_name(input.name.text) + "_choices {\n";
    for (std::size_t c = 0; c < choice->choices.size(); ++c)
      choices +=
          "    static constexpr mobrin::Choice " + cpp_name(choice->choices[c].text) + "{" + std::to_string(c) + "};\n";
    choices += "  };\n";
  }
  for (std::size_t i = 1; i < machine.states().size(); ++i)
    if (!states.add("mobrin::State", machine.states()[i].path, i)) return clash("states", machine.states()[i].path);
  std::vector<std::string> known;
  for (const StateInfo& state : machine.states())
    for (const std::string& trait : state.traits)
      if (std::find(known.begin(), known.end(), trait) == known.end()) known.push_back(trait);
  for (const std::string& trait : known)
    if (const auto handle = machine.trait(trait)) static_cast<void>(traits.add("mobrin::Trait", trait, handle->index));
  for (std::size_t i = 0; i < machine.cues().size(); ++i)
    cues += "    static constexpr std::uint16_t " + cpp_name(machine.cues()[i].name.text) + " = " + std::to_string(i) +
            ";\n";

  char fits[24];
  std::snprintf(fits, sizeof fits, "0x%016llxu", static_cast<unsigned long long>(interface_of(machine)));
  const std::vector<std::byte> packed = pack(machine, {options.names});
  return "// Made by `mobrin pack --cpp` from " + options.source +
         ": change that file and make this again.\n#pragma once\n\n#include <cstddef>\n#include <cstdint>\n#include "
         "<span>\n\n"
         "#include \"mobrin/core/instance.hpp\"\n#include \"mobrin/pack/pack.hpp\"\n\n/// The machine `" +
         std::string(machine.name()) + "` with a handle for each of its names.\nclass " + name +
         " {\n public:\n  /// The machine that is built in here.\n  static mobrin::Result<" + name +
         "> load() { return load(std::as_bytes(std::span(kPack))); }\n"
         "  /// A pack from elsewhere; refused where it does not fit these handles.\n  static mobrin::Result<" +
         name + "> load(std::span<const std::byte> packed) {\n    auto loaded = mobrin::load_pack(packed, " + fits +
         ");\n    if (!loaded) return loaded.error();\n    return " + name +
         "(*loaded);\n  }\n\n  mobrin::Machine machine;\n" + inputs.definition() + states.definition() +
         traits.definition() + "  /// Compare with Cue::cue.\n  struct Cues {\n" + cues + "  };\n" + choices +
         "\n private:\n  explicit " + name + "(const mobrin::Machine& of)\n      : machine(of),\n        " +
         inputs.initializer() + ",\n        " + states.initializer() + ",\n        " + traits.initializer() +
         " {}\n\n  static constexpr unsigned char kPack[] = {\n      " + bytes_text(packed) + "};\n};\n";
}

}  // namespace mobrin
