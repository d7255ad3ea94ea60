// The one file that knows the argument parser.
#include "parameters.hpp"

#include <CLI/CLI.hpp>
#include <iostream>
#include <new>
#include <system_error>

#include <algorithm>
#include <cstdio>
#include <string_view>

#include "command.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin::cli {

struct ParameterParser {
  CLI::App* command;
};

namespace {

std::vector<const Command*>& commands() {
  static std::vector<const Command*> all;
  return all;
}

int refuse(const std::string& message, const std::string& remedy) {
  std::fprintf(stderr, "error: %s\n    %s\n", message.c_str(), remedy.c_str());
  return kUsage;
}

template <class T>
void add_number(CLI::App& command, const char* name, T& value, Parameters::Within within, const char* text) {
  const auto least = static_cast<T>(within.least), most = static_cast<T>(within.most);
  CLI::Option* const option = command.add_option(name, value, text)->check(CLI::Range(least, most));
  if (least <= value && value <= most) option->capture_default_str();  // else it stands for none
}

}  // namespace

Command::Command(Rank where, const char* called, const char* words, Action (*told)(Parameters&))
    : rank(where), name(called), about(words), describe(told) {
  commands().push_back(this);
}

std::vector<const Command*> Command::all() {
  std::vector<const Command*> sorted = commands();
  std::sort(sorted.begin(), sorted.end(), [](const Command* a, const Command* b) {
    return a->rank != b->rank ? a->rank < b->rank : std::string_view(a->name) < b->name;
  });
  return sorted;
}

void Parameters::place(const char* name, std::string& value, const char* text, Need need) {
  parser_->command->add_option(name, value, text)->required(need == Need::required);
}
void Parameters::places(const char* name, std::vector<std::string>& values, const char* text, Need need) {
  parser_->command->add_option(name, values, text)->required(need == Need::required);
}
void Parameters::option(const char* name, std::string& value, const char* text, Need need) {
  CLI::Option* option = parser_->command->add_option(name, value, text)->required(need == Need::required);
  if (!value.empty()) option->capture_default_str();
}
void Parameters::options(const char* name, std::vector<std::string>& values, const char* text) {
  parser_->command->add_option(name, values, text);
}
void Parameters::number(const char* name, std::int64_t& value, Within within, const char* text) {
  add_number(*parser_->command, name, value, within, text);
}
void Parameters::number(const char* name, double& value, Within within, const char* text) {
  add_number(*parser_->command, name, value, within, text);
}
void Parameters::flag(const char* name, bool& value, const char* text) {
  parser_->command->add_flag(name, value, text);
}
void Parameters::each(const char* name, std::function<void(const std::string&)> take, const char* text) {
  parser_->command
      ->add_option_function<std::vector<std::string>>(
          name,
          [take = std::move(take)](const std::vector<std::string>& values) {
            for (const std::string& value : values) take(value);
          },
          text)
      ->trigger_on_parse();
}
void Parameters::footer(const char* text) { parser_->command->footer(text); }

namespace {

// Adds a command to the parser.
Action add_command(CLI::App& app, const Command& command) {
  ParameterParser parser{app.add_subcommand(command.name, command.about)};
  Parameters parameters(parser);
  Action action = command.describe(parameters);
  parser.command->add_flag_callback(
      "--allow-outside", [] { allow_outside(true); },
      "Let files name others outside of their folder (`use: ../shared.yaml`)");
  return action;
}

// The first of the words that is meant for an option that the command does not have, in words; empty where none is.
std::string unknown_option(const CLI::App& command, const std::vector<std::string>& words) {
  std::vector<std::string> known;
  for (const CLI::Option* option : command.get_options())
    for (const std::string& name : option->get_lnames()) known.push_back("--" + name);
  for (const std::string& word : words) {
    const std::string name = word.substr(0, word.find('='));
    if (name.size() < 3 || !name.starts_with("--") || std::find(known.begin(), known.end(), name) != known.end())
      continue;
    return Error{"`mobrin " + command.get_name() + "` has no option \"" + name + "\"", nearest_name(name, known)}
        .text();
  }
  return {};
}

}  // namespace

std::vector<CommandText> describe_commands() {
  std::vector<CommandText> out;
  for (const Command* command : Command::all()) {
    CLI::App app;
    (void)add_command(app, *command);
    const CLI::App& parsed = *app.get_subcommand(command->name);
    CommandText& text = out.emplace_back(CommandText{command->name, command->about, parsed.get_footer(), {}});
    for (const CLI::Option* option : parsed.get_options()) {
      OptionText& one = text.options.emplace_back();
      for (const std::string& name : option->get_snames()) one.names.push_back("-" + name);
      for (const std::string& name : option->get_lnames()) one.names.push_back("--" + name);
      one.by_place = one.names.empty();
      if (one.by_place) one.names.push_back(option->get_name());
      const std::string type = option->get_type_name();  // `INT:INT in [0 - 9]`
      one.value = option->get_expected_max() == 0 ? "" : type.substr(0, type.find(':'));
      one.text = option->get_description();
      one.required = option->get_required();
      one.many = option->get_expected_max() > 1;
    }
  }
  return out;
}

int run_tool(int argc, char** argv) {
  CLI::App app{
      "Animation state machines for gameplay programmers: exact, checked before they run, visible while they run."};
  app.name("mobrin");
  app.set_version_flag("--version", "mobrin " MOBRIN_VERSION_TEXT);
  app.require_subcommand(1);
  app.footer("Start with `mobrin demo`. Every command explains itself: `mobrin run --help`.");
  const std::vector<const Command*> all = Command::all();
  std::vector<std::string> known;
  for (const Command* command : all) known.emplace_back(command->name);
  // The parser would only say that a command is missing.
  if (argc > 1 && argv[1][0] != '-' && std::find(known.begin(), known.end(), argv[1]) == known.end())
    return refuse(Error{"there is no command \"" + std::string(argv[1]) + "\"", nearest_name(argv[1], known)}.text(),
                  "See `mobrin --help`.");
  std::vector<std::pair<CLI::App*, Action>> actions;
  for (const Command* command : all) {
    Action action = add_command(app, *command);
    actions.emplace_back(app.get_subcommand(command->name), std::move(action));
  }
  try {
    app.parse(argc, argv);
    for (const auto& [command, act] : actions)
      if (command->parsed()) {
        const int code = act();
        if (std::fflush(stdout) == 0 && std::ferror(stdout) == 0) return code;
        std::fputs("error: the output cannot be written; is there room where it goes?\n", stderr);
        return kFindings;
      }
    return kFine;
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) {  // --help, --version
      const int code = app.exit(error);
      std::cout.flush();
      if (std::cout.good()) return code;
      std::fputs("error: the output cannot be written; is there room where it goes?\n", stderr);
      return kFindings;
    }
    const auto command =
        std::find_if(actions.begin(), actions.end(), [](const auto& each) { return each.first->parsed(); });
    if (command == actions.end()) return refuse("no command is named", "`mobrin --help` lists them.");
    const std::string called = command->first->get_name();
    const std::string wrong = dynamic_cast<const CLI::ExtrasError*>(&error) == nullptr
                                  ? ""
                                  : unknown_option(*command->first, {argv + 2, argv + argc});
    return refuse(wrong.empty() ? error.what() : wrong, "See `mobrin " + called + " --help`.");
  } catch (const std::system_error& error) {
    std::fprintf(stderr, "error: the output cannot be written: %s\n", error.code().message().c_str());
    return kFindings;
  } catch (const std::bad_alloc&) {
    std::fputs("error: there is no memory left\n", stderr);
    return kFindings;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "error: %s\n", error.what());
    return kFindings;
  }
}

}  // namespace mobrin::cli
