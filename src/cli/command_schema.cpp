// mobrin schema: the JSON Schema of the file format, for editors.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"

namespace mobrin::cli {

void add_schema(CLI::App& app, int&) {
  const auto section = std::make_shared<std::string>();
  CLI::App* command = app.add_subcommand("schema", "Print the JSON Schema of the file format, for editors");
  command->add_option("--keys", *section,
                      "Print the keys of one section as a Markdown table instead: machine, state, go, clip, ...");
  command->footer("Example:\n  mobrin schema > mobrin.schema.json");
  command->callback([section] { fmt::print("{}", section->empty() ? json_schema() : key_table(*section)); });
}

}  // namespace mobrin::cli
