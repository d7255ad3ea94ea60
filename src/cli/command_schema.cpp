// mobrin schema: the JSON Schema of the file format, for editors.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"

namespace mobrin::cli {

namespace {

const Command schema_command(
    Command::Rank::ship, "schema", "Print the JSON Schema of the file format, for editors",
    [](Parameters& parameters) -> Action {
      const auto section = std::make_shared<std::string>();
      parameters.option("--keys", *section,
                        "Print the keys of one section as a Markdown table instead: machine, state, go, clip, ...");
      parameters.footer("Example:\n  mobrin schema > mobrin.schema.json");
      return [section] {
        fmt::print("{}", section->empty() ? json_schema() : key_table(*section));
        return kFine;
      };
    });

}  // namespace

}  // namespace mobrin::cli
