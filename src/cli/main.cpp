// The command-line tool: chooses a command, and turns what goes wrong into an exit code.
#include <fmt/format.h>

#include "command.hpp"

int main(int argc, char** argv) {
  using namespace mobrin::cli;
  CLI::App app{"Animation state machines for gameplay programmers: exact, checked before they run, visible while they run."};
  app.name("mobrin");
  app.set_version_flag("--version", "mobrin " MOBRIN_VERSION);
  app.require_subcommand(1);
  app.footer("Start with `mobrin demo`. Every command explains itself: `mobrin run --help`.");
  int exit_code = kFine;
  add_demo(app, exit_code);
  add_check(app, exit_code);
  add_list(app, exit_code);
  add_run(app, exit_code);
  add_sheet(app, exit_code);
  add_schema(app, exit_code);
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
