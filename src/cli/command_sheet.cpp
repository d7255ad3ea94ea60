// mobrin sheet: the frames of clips as a picture.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/sheet.hpp"

namespace mobrin::cli {
namespace {

int sheet(const std::string& file, const std::vector<std::string>& clips, const std::string& out) {
  const auto loaded = load_or_report(file);
  if (!loaded) return kFindings;
  SheetOptions options;
  options.clips = clips;
  options.art_folder = folder_of(file);
  const auto drawn = draw_sheet(*loaded->machine, options, out);
  if (!drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  for (const std::string& message : *drawn) fmt::print(stderr, "warning: {}\n", message);
  const std::size_t count = clips.empty() ? loaded->machine->clips().size() : clips.size();
  fmt::print("{}  {}\n", out, plural(count, "clip"));
  return drawn->empty() ? kFine : kFindings;
}

}  // namespace

void add_sheet(CLI::App& app, int& exit_code) {
  struct Options {
    std::string file, out;
    std::vector<std::string> clips;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* command =
      app.add_subcommand("sheet", "Draw every frame of a clip with its number, seconds, hold, cues and pivot");
  command->add_option("FILE", options->file, "A machine, or a file of clips and marks")->required();
  command->add_option("--clip", options->clips, "Draw only this clip; may be given several times");
  command->add_option("-o,--out", options->out, "The PNG to write")->required();
  command->footer("Example:\n  mobrin sheet keeper.yaml --clip net -o net.png");
  command->callback([options, &exit_code] { exit_code = sheet(options->file, options->clips, options->out); });
}

}  // namespace mobrin::cli
