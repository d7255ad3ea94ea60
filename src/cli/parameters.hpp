// What a command of the tool takes. The parser stands behind this, in parameters.cpp alone.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace mobrin::cli {

struct ParameterParser;

// Told what a command takes; the values are written before the command runs, into what must live as long.
class Parameters {
 public:
  explicit Parameters(ParameterParser& parser) : parser_(&parser) {}

  enum class Need : std::uint8_t { optional, required };
  // Numbers that are taken, both ends included.
  struct Within {
    double least, most;
  };

  // By place: one, or one and more.
  void place(const char* name, std::string& value, const char* text, Need need = Need::required);
  void places(const char* name, std::vector<std::string>& values, const char* text, Need need = Need::required);
  // By name, such as `--tape` or `-o,--out`: one, or several.
  void option(const char* name, std::string& value, const char* text, Need need = Need::optional);
  void options(const char* name, std::vector<std::string>& values, const char* text);
  void number(const char* name, std::int64_t& value, Within within, const char* text);
  void number(const char* name, double& value, Within within, const char* text);
  void flag(const char* name, bool& value, const char* text);
  // Calls `take` with each value at once, so in the order of the command line among all such options.
  void each(const char* name, std::function<void(const std::string&)> take, const char* text);
  // An example, and what else is to be said below the list.
  void footer(const char* text);

 private:
  ParameterParser* parser_;
};

// What a chosen command does; its exit code.
using Action = std::function<int()>;

// A command. A file that holds one as a constant adds it to the tool; nothing else names it.
class Command {
 public:
  // Where it stands in the list of all: what people begin with first.
  enum class Rank : std::uint8_t { begin, look, run, art, ship };
  Command(Rank rank, const char* name, const char* about, Action (*describe)(Parameters&));
  Command(const Command&) = delete;
  Command& operator=(const Command&) = delete;

  const Rank rank;
  const char* const name;
  const char* const about;
  Action (*const describe)(Parameters&);

  // By rank, of one rank by name.
  static std::vector<const Command*> all();
};

// What a command takes, as it was told.
struct OptionText {
  std::vector<std::string> names;  // `--out`, `-o`; of one by place its name
  std::string value;               // what stands behind it, such as TEXT; empty for a flag
  std::string text;
  bool by_place = false, required = false, many = false;
};
struct CommandText {
  std::string name, about, footer;
  std::vector<OptionText> options;
};
[[nodiscard]] std::vector<CommandText> describe_commands();

// Chooses a command by the arguments and runs it; the program's exit code.
int run_tool(int argc, char** argv);

}  // namespace mobrin::cli
