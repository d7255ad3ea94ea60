// mobrin sheet: the frames of clips as a picture.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/sheet.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

struct Request {
  std::string file, out, ghost, frames;
  SheetOptions sheet;
};

// `3` or `3-8`
bool read_frames(const std::string& text, SheetOptions& sheet) {
  int first = 0, last = 0, end = 0;
  if (std::sscanf(text.c_str(), "%6d-%6d%n", &first, &last, &end) == 2 && end == static_cast<int>(text.size()))
    sheet.frames = {first, last};
  else if (std::sscanf(text.c_str(), "%6d%n", &first, &end) == 1 && end == static_cast<int>(text.size()))
    sheet.frames = {first, first};
  return sheet.frames && first >= 0;
}

// `walk` or `walk:3`
bool read_ghost(const std::string& text, SheetOptions& sheet) {
  const std::size_t colon = text.find(':');
  sheet.ghost = text.substr(0, colon);
  if (colon == std::string::npos) return true;
  int frame = 0, end = 0;
  const std::string number = text.substr(colon + 1);
  if (std::sscanf(number.c_str(), "%6d%n", &frame, &end) != 1 || end != static_cast<int>(number.size())) return false;
  sheet.ghost_frame = frame;
  return true;
}

int sheet(Request options) {
  if (!options.frames.empty() && !read_frames(options.frames, options.sheet)) {
    fmt::print(stderr, "error: `--frames {}` is no range\n    Write `--frames 3-8`, or one frame `--frames 3`.\n",
               options.frames);
    return kUsage;
  }
  if (!options.ghost.empty() && !read_ghost(options.ghost, options.sheet)) {
    fmt::print(stderr, "error: `--ghost {}` is no frame\n    Write a clip, or a clip and a frame: `--ghost idle:0`.\n",
               options.ghost);
    return kUsage;
  }
  const auto loaded = load_or_report(options.file);
  if (!loaded) return kFindings;
  if (!can_write("-o", options.out, {".png", ".svg", ".apng"}, &*loaded)) return kFindings;
  options.sheet.art_folder = folder_of(options.file);
  const auto drawn = draw_sheet(*loaded->machine, options.sheet, options.out);
  if (!drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  for (const std::string& message : *drawn) fmt::print(stderr, "warning: {}\n", message);
  const std::size_t chosen = options.sheet.clips.size();
  fmt::print("{}  {}\n", options.out, plural(chosen == 0 ? loaded->machine->clips().size() : chosen, "clip"));
  return drawn->empty() ? kFine : kFindings;
}

const Command sheet_command(
    Command::Rank::look, "sheet", "Draw every frame of a clip with its number, seconds, hold, cues, boxes and pivot",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<Request>();
      parameters.place("FILE", options->file, "A machine, or a file of clips and marks");
      parameters.options("--clip", options->sheet.clips, "Draw only this clip; may be given several times");
      parameters.option("--frames", options->frames, "Draw only these frames: 3-8");
      parameters.option("--ghost", options->ghost,
                        "Another clip faintly under each frame, pivot on pivot: idle, or one frame of it: idle:0");
      parameters.option("--look", options->sheet.look, "With the art of this look");
      parameters.number("--zoom", options->sheet.zoom, {0.1, 64.0}, "Image pixels this many times as large");
      parameters.option("-o,--out", options->out,
                        "What to write, by its ending: .png, .svg, or a film of one clip, .apng",
                        Parameters::Need::required);
      parameters.flag("--dark", options->sheet.dark, "On a dark ground");
      parameters.footer(
          "Example:\n  mobrin sheet keeper.yaml --clip net -o net.png\n  mobrin sheet keeper.yaml --clip walk --ghost "
          "idle:0 --zoom 6 -o walk.png\n  mobrin sheet keeper.yaml --clip walk -o walk.apng");
      return [options] { return sheet(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
