// mobrin import: from folders of images and sheets to a clips file.
#include <fmt/format.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/import.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

struct ImportRequest {
  std::vector<std::string> sources, rows, clips, beside;
  std::string out, tile, fps, play, extract, tracks;
  std::int64_t margin = 0, spacing = 0, count = 0;
  bool json = false, dry_run = false, yes = false, as_new = false;
};

// `48x40`
bool read_size(const std::string& text, std::int32_t& width, std::int32_t& height) {
  char rest = 0;
  return std::sscanf(text.c_str(), "%dx%d%c", &width, &height, &rest) == 2 && width > 0 && height > 0 &&
         width <= 100'000 && height <= 100'000;
}

// Findings that marks beside the clips now have: frames and clips they name may have gone.
std::vector<Finding> marks_findings(const std::string& out) {
  std::string marks = out;
  const std::size_t at = marks.rfind(".clips.");
  if (at == std::string::npos) return {};
  marks.replace(at, 7, ".marks.");
  std::error_code error;
  if (!std::filesystem::exists(marks, error)) return {};
  const auto name = [](const std::string& path) { return std::filesystem::path(path).filename().generic_string(); };
  // A machine of no states would be an error of its own; this one only holds the marks against the clips. What its cues
  // are is said elsewhere.
  const std::string text =
      "mobrin: 1\nmachine: marks\nuse: [\"" + name(out) + "\", \"" + name(marks) + "\"]\nstates: {a: {}}\n";
  const Loaded both = load_character_text(text, folder_of(out) + "marks");
  std::vector<Finding> found;
  for (const Finding& finding : both.findings)
    if (finding.file == marks &&
        (finding.message.starts_with("there is no clip") || finding.code == FindingCode::outside_clip))
      found.push_back(finding);
  return found;
}

// Of one pass, as the compiler counts it.
Ticks length_of(const ClipDef& clip) {
  if (clip.frames.empty()) return clip.length;
  std::int64_t holds = 0, times = 0;
  for (const FrameDef& frame : clip.frames) {
    holds += frame.hold;
    times += frame.time.count;
  }
  if (clip.fps.num == 0) return Ticks(times);
  const double seconds =
      static_cast<double>(holds) * static_cast<double>(clip.fps.den) / static_cast<double>(clip.fps.num);
  if (seconds > 36'000) return Ticks(kMaxDurationTicks);
  return Ticks(holds * clip.fps.den * kTicksPerSecond / clip.fps.num);
}

std::string timing_of(const ClipDef& clip) {
  if (clip.frames.empty()) return "no frames";
  const std::string frames = plural(clip.frames.size(), "frame");
  if (clip.fps.num == 0) return frames + ", each with its time";
  return frames + (clip.fps.den == 1 ? fmt::format(", {} fps", clip.fps.num)
                                     : fmt::format(", {}/{} fps", clip.fps.num, clip.fps.den));
}

// Whether a file is there that something else than `--tracks` has written.
bool somebodys_own(const std::string& path) {
  std::ifstream in(path);
  std::string first;
  return in && std::getline(in, first) && !first.starts_with("# Tracks made by `mobrin import --tracks`");
}

// `walk=loop@14`, `walk=@14`, `walk=once`; empty with a message told where it is none.
std::optional<ImportOptions::OfClip> read_clip(const std::string& text) {
  const std::size_t equals = text.find('='), at = text.find('@', equals == std::string::npos ? 0 : equals);
  const std::string play = equals == std::string::npos ? "" : text.substr(equals + 1, at - equals - 1);
  const std::string fps = at == std::string::npos ? "" : text.substr(at + 1);
  const auto wrong = [&](const std::string& remedy) {
    usage("`--clip " + text + "` cannot be read", remedy);
    return std::nullopt;
  };
  if (equals == std::string::npos || equals == 0 || (play.empty() && fps.empty()))
    return wrong("Write the clip, how it plays, and its rate: `walk=loop@14`, `walk=once`, `walk=@24`.");
  const Loaded loaded = load_character_text("mobrin: 1\nclips: {c: {frames: [0], fps: " + (fps.empty() ? "12" : fps) +
                                                ", play: " + (play.empty() ? "once" : play) + "}}",
                                            "command line");
  if (!loaded.machine) return wrong(loaded.findings.front().message + ". " + loaded.findings.front().remedy);
  ImportOptions::OfClip out;
  out.clip = text.substr(0, equals);
  if (!play.empty()) out.play = loaded.machine->clips()[0].def.play;
  if (!fps.empty()) out.fps = loaded.machine->clips()[0].def.fps;
  return out;
}

// What will be done beyond new frames, before it is done.
void print_plan(const Imported& imported, std::FILE* to) {
  for (const std::string& move : imported.moves) fmt::print(to, "moves  {}\n", move);
  for (const std::string& loss : imported.losses) fmt::print(to, "lost   {}\n", loss);
  for (const auto& [path, text] : imported.others) fmt::print(to, "writes {}\n", path);
}

bool asks_yes() {
  fmt::print(stderr, "Do it? [y/N] ");
  char answer[16] = "";
  return std::fgets(answer, sizeof answer, stdin) != nullptr && (answer[0] == 'y' || answer[0] == 'Y');
}

// The grid of a sheet; an exit code.
int read_grid(const ImportRequest& options, ImportOptions& request) {
  if (!options.tile.empty()) {
    SheetGrid& grid = request.grid.emplace();
    if (!read_size(options.tile, grid.width, grid.height))
      return usage("`--tile " + options.tile + "` is no size", "Write width and height in pixels: `--tile 48x40`.");
    grid.margin = static_cast<std::int32_t>(options.margin);
    grid.spacing = static_cast<std::int32_t>(options.spacing);
    if (options.count > 0) grid.count = static_cast<std::int32_t>(options.count);
    for (const std::string& row : options.rows) {
      const std::size_t colon = row.find(':');
      char* end = nullptr;
      const long number = std::strtol(row.c_str(), &end, 10);
      if (colon == std::string::npos || end != row.c_str() + colon || colon + 1 == row.size() || number < 0 ||
          number > 100'000)
        return usage("`--row " + row + "` is no row", "Write its number from 0 and a clip's name: `--row 2:walk`.");
      grid.rows.emplace_back(static_cast<std::int32_t>(number), row.substr(colon + 1));
    }
  } else if (!options.rows.empty() || options.margin != 0 || options.spacing != 0 || options.count != 0) {
    return usage("`--row`, `--margin`, `--spacing` and `--count` speak of a sheet",
                 "Give the size of its cells: `--tile 48x40`.");
  }
  return kFine;
}

// `--fps` and `--play` are the file's own words, read by the loader. False where they are wrong, which was told.
bool read_timing(const ImportRequest& options, ImportOptions& request) {
  if (options.fps.empty() && options.play.empty()) return true;
  const Loaded loaded =
      load_character_text("mobrin: 1\nclips: {c: {frames: [0], fps: " + (options.fps.empty() ? "12" : options.fps) +
                              ", play: " + (options.play.empty() ? "once" : options.play) + "}}",
                          "command line");
  if (!loaded.machine) {
    fmt::print(stderr, "error: {}\n    {}\n", loaded.findings.front().message, loaded.findings.front().remedy);
    return false;
  }
  if (!options.fps.empty()) request.fps = loaded.machine->clips()[0].def.fps;
  if (!options.play.empty()) request.play = loaded.machine->clips()[0].def.play;
  return true;
}

// Shows what would be lost or moved, and asks where somebody can answer. False where nothing is to be written for that.
bool may_write(const ImportRequest& options, const Imported& imported) {
  const bool planned = !imported.moves.empty() || !imported.losses.empty();
  if (!options.json && (planned || options.dry_run)) print_plan(imported, options.dry_run ? stdout : stderr);
  if (!options.dry_run && planned && !options.yes) {
    const bool terminal = isatty(STDIN_FILENO) != 0 && isatty(STDERR_FILENO) != 0;
    if (terminal ? !asks_yes() : !imported.losses.empty()) {
      if (options.json) print_plan(imported, stderr);
      fmt::print(stderr, "{}\n",
                 terminal
                     ? "Nothing was written."
                     : "Nothing was written, for something would be lost. Run it with `--yes` to let that go, or bring "
                       "back what is missing.");
      return false;
    }
  }
  return true;
}

bool write_all(const ImportRequest& options, const ImportOptions& request, Imported& imported) {
  std::vector<std::pair<std::string, std::string>> files = imported.others;
  files.emplace_back(options.out, imported.text);
  if (request.tracks && imported.tracks_text.empty())
    imported.notes.push_back("nothing moves that makes a track, so " + options.tracks + " was not written");
  else if (request.tracks)
    files.emplace_back(options.tracks, imported.tracks_text);
  // What is as it was is not even touched.
  std::erase_if(files, [](const auto& file) {
    const auto before = read_file(file.first);
    return before && *before == file.second;
  });
  if (!request.extract.empty() && imported.taken_out.empty())
    imported.notes.push_back("nothing is animated, so no pictures were written to " + options.extract);
  auto written = write_pictures(imported);
  if (written) written = write_files(files);
  if (!written) {
    fmt::print(stderr, "error: {}\n", written.error().text());
    return false;
  }
  return true;
}

void tell_json(const ImportRequest& options, const Imported& imported) {
  Json clips = Json::array(), findings = Json::array();
  for (const ClipDef& clip : imported.clips)
    clips.push_back({{"name", clip.name.text},
                     {"frames", clip.frames.size()},
                     {"ticks", length_of(clip).count},
                     {"play", clip.play.text()}});
  for (const Finding& finding : imported.findings) findings.push_back(json_of(finding));
  fmt::print("{}\n", print_json({{"file", options.out},
                                 {"clips", clips},
                                 {"findings", findings},
                                 {"notes", imported.notes},
                                 {"moves", imported.moves},
                                 {"losses", imported.losses},
                                 {"written", !options.dry_run}}));
}

void tell(const ImportRequest& options, const Imported& imported) {
  std::size_t frames = 0;
  for (const ClipDef& clip : imported.clips) frames += clip.frames.size();
  print_findings(imported.findings, true);
  for (const ClipDef& clip : imported.clips)
    fmt::print("  {:16}  {:.3f} s, {}, {}\n", clip.name.text, length_of(clip).to_seconds(), timing_of(clip),
               clip.play.text());
  for (const std::string& note : imported.notes) fmt::print("note  {}\n", note);
  fmt::print("{}, {}, {}  {}\n", plural(imported.clips.size(), "clip"), plural(frames, "frame"),
             imported.findings.empty() ? "no findings" : counts(imported.findings), options.out);
  if (options.dry_run)
    fmt::print("Nothing was written (--dry-run).\n");
  else
    fmt::print("See them: mobrin sheet {} -o clips.png\n", as_argument(options.out));
}

int import(const ImportRequest& options) {
  ImportOptions request;
  request.beside = options.beside;
  request.as_new = options.as_new;
  for (const std::string& text : options.clips) {
    auto clip = read_clip(text);
    if (!clip) return kUsage;
    request.clips.push_back(std::move(*clip));
  }
  request.sources = options.sources;
  request.out = options.out;
  request.extract = options.extract;
  request.tracks = !options.tracks.empty();
  if (request.tracks && somebodys_own(options.tracks))
    return usage("`--tracks " + options.tracks + "` is there already and was not written by it",
                 "Name another file: it is written anew at each import.");
  std::error_code error;
  if (!options.extract.empty() && std::filesystem::exists(options.extract, error) &&
      !std::filesystem::is_directory(options.extract, error))
    return usage("`--extract " + options.extract + "` is no folder",
                 "Name a folder; it is made where it is not there.");
  if (const int bad = read_grid(options, request); bad != kFine) return bad;
  if (!read_timing(options, request)) return kUsage;
  if (isatty(STDERR_FILENO) != 0)
    request.progress = [](std::size_t done, std::size_t all) {
      if (all > 256) fmt::print(stderr, "\r{} of {} images{}", done, all, done == all ? "\n" : "");
    };
  if (!can_write("-o", options.out, {".clips.yaml", ".yaml", ".yml", ".json"})) return kFindings;
  if (!options.tracks.empty() && !can_write("--tracks", options.tracks, {".yaml", ".yml", ".json"})) return kFindings;
  const EditLock lock(options.out);
  if (!lock.held())
    return usage("somebody else is editing files beside " + options.out, "Wait until that is done, and run it again.");
  Imported imported = import_art(request);
  if (has_errors(imported.findings) || imported.clips.empty()) {
    print_findings(imported.findings, true);
    fmt::print(stderr, "{}; {} was not written.\n", counts(imported.findings), options.out);
    return kFindings;
  }
  if (!may_write(options, imported)) return kFindings;
  if (!options.dry_run && !write_all(options, request, imported)) return kFindings;
  if (!options.dry_run)
    for (Finding& finding : marks_findings(options.out)) imported.findings.push_back(std::move(finding));
  if (options.json)
    tell_json(options, imported);
  else
    tell(options, imported);
  return imported.findings.empty() ? kFine : kFindings;
}

const Command import_command(
    Command::Rank::art, "import", "Make a clips file from numbered images, sheets, animated images or glTF",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<ImportRequest>();
      parameters.places(
          "SOURCE", options->sources,
          fmt::format("Folders, images, animated or not ({}), glTF 2.0 files, packed sheets (docs/format.md)",
                      fmt::join(image_endings(), ", "))
              .c_str());
      parameters.option("-o,--out", options->out, "The clips file to write, NAME.clips.yaml",
                        Parameters::Need::required);
      parameters.option("--tile", options->tile, "The sources are sheets with cells of this size, such as 48x40");
      parameters.number("--margin", options->margin, {0, 100'000}, "Pixels around all cells");
      parameters.number("--spacing", options->spacing, {0, 100'000}, "Pixels between two cells");
      parameters.options("--row", options->rows,
                         "A row of the sheet (from 0) as a clip: 2:walk; may be given several times");
      parameters.number("--count", options->count, {1, 1'000'000}, "Only the first so many cells");
      parameters.option("--extract", options->extract,
                        "Write the frames of animated images as PNG files to this folder, and let the clips use those");
      parameters.option("--tracks", options->tracks,
                        "Write what moves in glTF animations (positions of nodes, weights of shapes) as tracks to this "
                        "file of marks");
      parameters.option("--fps", options->fps,
                        "Frames a second of all clips whose art does not say it; else as the file says, else 12");
      parameters.option("--play", options->play,
                        "once, loop, back-and-forth; else what the art or the file says, else once");
      parameters.options("--clip", options->clips,
                         "How one clip plays, and its rate: walk=loop@14; may be given several times");
      parameters.flag("--dry-run", options->dry_run, "Say what would be done, and do nothing");
      parameters.flag("--yes", options->yes,
                      "Do it without asking, also where something is lost with pictures that are gone");
      parameters.flag("--as-new", options->as_new, "Clips under another name are new ones, whatever their pictures");
      parameters.options(
          "--beside", options->beside,
          "A machine or character elsewhere whose marks stand on these clips; those near the file are found");
      parameters.flag("--json", options->json, "Print the result as JSON");
      parameters.footer(
          "Example:\n  mobrin import art/keeper -o keeper.clips.yaml\n  mobrin import keeper.png --tile 48x40 --row "
          "1:walk "
          "-o "
          "keeper.clips.yaml\n  mobrin import swing.gif --extract art -o keeper.clips.yaml\n\nRun it again when the "
          "art changes. Pictures are known again: timing, order, pictures left out and marks go with them, in all "
          "files "
          "that use the clips. What would be lost is told, and done with --yes only.");
      return [options] { return import(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
