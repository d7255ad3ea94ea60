// The command-line tool: chooses a command, and turns what goes wrong into an exit code.
#include <fmt/format.h>

#include <algorithm>

#include "command.hpp"
#include "mobrin/core/names.hpp"

int main(int argc, char** argv) {
  using namespace mobrin::cli;
  CLI::App app{
      "Animation state machines for gameplay programmers: exact, checked before they run, visible while they run."};
  app.name("mobrin");
  app.set_version_flag("--version", "mobrin " MOBRIN_VERSION);
  app.require_subcommand(1);
  app.footer("Start with `mobrin demo`. Every command explains itself: `mobrin run --help`.");
  int exit_code = kFine;
  add_demo(app, exit_code);
  add_draw(app, exit_code);
  add_check(app, exit_code);
  add_list(app, exit_code);
  add_run(app, exit_code);
  add_explain(app, exit_code);
  add_import(app, exit_code);
  add_marks(app, exit_code);
  add_sheet(app, exit_code);
  add_pack(app, exit_code);
  add_schema(app, exit_code);
  // The parser would only say that a command is missing.
  if (argc > 1 && argv[1][0] != '-') {
    std::vector<std::string> known;
    for (const CLI::App* command : app.get_subcommands({})) known.push_back(command->get_name());
    if (std::find(known.begin(), known.end(), argv[1]) == known.end()) {
      const std::string nearest = mobrin::nearest_name(argv[1], known);
      fmt::print(stderr, "error: there is no command \"{}\"{}\n    See `mobrin --help`.\n", argv[1],
                 nearest.empty() ? "" : fmt::format("; did you mean \"{}\"?", nearest));
      return kUsage;
    }
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) return app.exit(error);  // --help, --version
    fmt::print(stderr, "error: {}\n    See `mobrin --help`, or `mobrin COMMAND --help`.\n", error.what());
    return kUsage;
  } catch (const std::exception& error) {
    fmt::print(stderr, "error: {}\n", error.what());
    return kFindings;
  }
  return exit_code;
}
