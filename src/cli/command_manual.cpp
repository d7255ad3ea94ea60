// mobrin manual: manual pages and completions for shells, from what the commands say of themselves.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/io/file.hpp"

namespace mobrin::cli {
namespace {

using Files = std::vector<std::pair<std::string, std::string>>;

// --- manual pages

// Words as roff takes them; `code` is set in bold.
std::string roff(const std::string& text) {
  std::string out;
  bool bold = false, begins = true;
  for (const char c : text) {
    if (begins && (c == '.' || c == '\'')) out += "\\&";
    begins = c == '\n';
    if (c == '`') {
      out += bold ? "\\fR" : "\\fB";
      bold = !bold;
    } else if (c == '\\') {
      out += "\\e";
    } else if (c == '-') {
      out += "\\-";
    } else {
      out += c;
    }
  }
  return bold ? out + "\\fR" : out;
}

std::string page_head(const std::string& name, const std::string& about) {
  std::string title = name;
  std::transform(title.begin(), title.end(), title.begin(), [](unsigned char c) { return std::toupper(c); });
  return fmt::format(".TH {} 1 \"\" \"mobrin {}\" \"Mobrin\"\n.SH NAME\n{} \\- {}\n", title, MOBRIN_VERSION_TEXT,
                     roff(name), roff(about));
}

std::string joined(const OptionText& option) {
  std::string out;
  for (const std::string& name : option.names) out += (out.empty() ? "" : ", ") + ("\\fB" + roff(name) + "\\fR");
  return option.value.empty() || option.by_place ? out : out + " \\fI" + roff(option.value) + "\\fR";
}

std::string page_of(const CommandText& command) {
  std::string out = page_head("mobrin-" + command.name, command.about);
  out += ".SH SYNOPSIS\n.B mobrin " + command.name + "\n[\\fIoptions\\fR]";
  for (const OptionText& option : command.options)
    if (option.by_place) out += " \\fI" + roff(option.names[0]) + "\\fR" + (option.many ? "..." : "");
  out += "\n.SH OPTIONS\n";
  for (const OptionText& option : command.options)
    out += ".TP\n" + joined(option) + "\n" + roff(option.text) + (option.required ? " (must be given)" : "") + "\n";
  if (!command.footer.empty()) out += ".SH MORE\n.nf\n" + roff(command.footer) + "\n.fi\n";
  return out + ".SH SEE ALSO\n\\fBmobrin\\fR(1)\n";
}

std::string page_of_all(const std::vector<CommandText>& commands) {
  std::string out = page_head("mobrin", "animation state machines for gameplay programmers");
  out += ".SH SYNOPSIS\n.B mobrin\n\\fICOMMAND\\fR [\\fIoptions\\fR]\n.SH COMMANDS\n";
  for (const CommandText& command : commands) out += ".TP\n\\fB" + command.name + "\\fR\n" + roff(command.about) + "\n";
  out +=
      ".SH EXIT STATUS\n0 when all is fine, 1 with findings or where something cannot be done, 2 where the command "
      "cannot be understood.\n.SH SEE ALSO\n";
  for (std::size_t i = 0; i < commands.size(); ++i)
    out += "\\fBmobrin\\-" + commands[i].name + "\\fR(1)" + (i + 1 < commands.size() ? ", " : "\n");
  return out;
}

// --- completions

std::string options_of(const CommandText& command) {
  std::string out;
  for (const OptionText& option : command.options)
    if (!option.by_place)
      for (const std::string& name : option.names) out += (out.empty() ? "" : " ") + name;
  return out;
}

std::string for_bash(const std::vector<CommandText>& commands) {
  std::string names, cases;
  for (const CommandText& command : commands) {
    names += (names.empty() ? "" : " ") + command.name;
    cases += fmt::format("    {}) words=\"{}\" ;;\n", command.name, options_of(command));
  }
  return fmt::format(R"(# Completions of mobrin for bash; made by `mobrin manual`.
_mobrin() {{
  local here=${{COMP_WORDS[COMP_CWORD]}} words=""
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "{} --help --version" -- "$here"))
    return
  fi
  case "${{COMP_WORDS[1]}}" in
{}  esac
  if [[ "$here" == -* ]]; then
    COMPREPLY=($(compgen -W "$words" -- "$here"))
  else
    COMPREPLY=($(compgen -f -- "$here"))
  fi
}}
complete -o filenames -F _mobrin mobrin
)",
                     names, cases);
}

// Quotes, brackets and colons mean something to zsh, quotes to fish.
std::string plain(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '\'')
      out += "’";
    else if (c == '[' || c == ']' || c == ':')
      out += std::string("\\") + c;
    else if (c != '`')
      out += c == '\n' ? ' ' : c;
  }
  return out;
}

std::string for_zsh(const std::vector<CommandText>& commands) {
  std::string list, cases;
  for (const CommandText& command : commands) {
    list += fmt::format("    '{}:{}'\n", command.name, plain(command.about));
    cases += fmt::format("    {}) _arguments", command.name);
    for (const OptionText& option : command.options)
      for (const std::string& name : option.names)
        if (!option.by_place)
          cases += fmt::format(" '{}[{}]{}'", name, plain(option.text), option.value.empty() ? "" : ":value:_files");
    cases += " '*:file:_files' ;;\n";
  }
  return fmt::format(R"(#compdef mobrin
# Completions of mobrin for zsh; made by `mobrin manual`.
_mobrin() {{
  local -a commands
  commands=(
{}  )
  if (( CURRENT == 2 )); then
    _describe 'command' commands
    return
  fi
  local command=${{words[2]}}
  shift words
  (( CURRENT-- ))
  case "$command" in
{}  esac
}}
_mobrin "$@"
)",
                     list, cases);
}

std::string for_fish(const std::vector<CommandText>& commands) {
  std::string out = "# Completions of mobrin for fish; made by `mobrin manual`.\n";
  const auto words = [](const std::string& text) {
    std::string quoted;
    for (const char c : text)
      if (c == '\'')
        quoted += "’";
      else if (c != '`' && c != '\\')
        quoted += c == '\n' ? ' ' : c;
    return quoted;
  };
  for (const CommandText& command : commands) {
    out +=
        fmt::format("complete -c mobrin -n __fish_use_subcommand -a {} -d '{}'\n", command.name, words(command.about));
    for (const OptionText& option : command.options) {
      if (option.by_place) continue;
      out += fmt::format("complete -c mobrin -n '__fish_seen_subcommand_from {}'", command.name);
      for (const std::string& name : option.names)
        out += name.starts_with("--") ? " -l " + name.substr(2) : " -s " + name.substr(1);
      out += fmt::format("{} -d '{}'\n", option.value.empty() ? "" : " -r", words(option.text));
    }
  }
  return out;
}

int write_manual(const std::string& folder) {
  const std::vector<CommandText> commands = describe_commands();
  Files files = {{"mobrin.1", page_of_all(commands)},
                 {"mobrin.bash", for_bash(commands)},
                 {"_mobrin", for_zsh(commands)},
                 {"mobrin.fish", for_fish(commands)}};
  for (const CommandText& command : commands) files.emplace_back("mobrin-" + command.name + ".1", page_of(command));
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  for (auto& [name, text] : files) name = folder + "/" + name;
  if (const auto written = write_files(files); !written) {
    fmt::print(stderr, "error: {}\n", written.error().text());
    return kFindings;
  }
  fmt::print(
      "{}/: {} manual pages, completions for bash, zsh and fish\nRead one: man {}/mobrin.1\nComplete:  source "
      "{}/mobrin.bash\n",
      folder, commands.size() + 1, as_argument(folder), as_argument(folder));
  return kFine;
}

const Command manual_command(Command::Rank::ship, "manual",
                             "Write manual pages, and completions for bash, zsh and fish",
                             [](Parameters& parameters) -> Action {
                               const auto folder = std::make_shared<std::string>();
                               parameters.option("-o,--out", *folder, "The folder to write to",
                                                 Parameters::Need::required);
                               parameters.footer("Example:\n  mobrin manual -o manual");
                               return [folder] { return write_manual(*folder); };
                             });

}  // namespace
}  // namespace mobrin::cli
