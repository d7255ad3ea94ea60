// mobrin new: a character's folder that runs at once.
#include <fmt/format.h>

#include <cctype>
#include <filesystem>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/import.hpp"
#include "mobrin/pack/pack.hpp"
#include "placeholder.hpp"
#include "project_text.hpp"

namespace mobrin::cli {
namespace {

namespace fs = std::filesystem;

struct NewRequest {
  std::string name, art, out;
};

constexpr std::size_t kMostFiles = 20'000;
constexpr std::uintmax_t kMostBytes = std::uintmax_t{1} << 30;

// It names a class, files and a program.
bool is_name(const std::string& name) {
  constexpr std::string_view kTaken[] = {"main", "mobrin", "std"};
  return is_cpp_name(name) && std::isalpha(static_cast<unsigned char>(name[0])) != 0 && name.size() <= 60 &&
         std::find(std::begin(kTaken), std::end(kTaken), name) == std::end(kTaken);
}

// Files that an import may read.
bool is_art(const fs::path& path) {
  std::string ending = path.extension().string();
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return has_image_ending(path.string()) || ending == ".gltf" || ending == ".glb" || ending == ".bin" ||
         is_packed_sheet(path.string());
}

// The pictures in a folder; the error says why there are none. Asked before anything is made, which may be in there.
Result<std::vector<fs::path>> pictures_in(const std::string& from) {
  std::error_code error;
  if (is_plain_file(from))
    return Error{"\"" + from + "\" is one file", "",
                 "Name the folder that has the pictures; what is cut from a sheet comes by `mobrin import`."};
  if (!fs::is_directory(from, error))
    return Error{"the folder \"" + from + "\" is not there", "", "Name the folder that has the pictures."};
  std::vector<fs::path> out;
  std::uintmax_t bytes = 0;
  for (fs::recursive_directory_iterator at(from, fs::directory_options::skip_permission_denied, error), end;
       !error && at != end; at.increment(error)) {
    if (!is_plain_file(at->path().string()) || !is_art(at->path())) continue;
    bytes += fs::file_size(at->path(), error);
    out.push_back(at->path());
    if (out.size() > kMostFiles || bytes > kMostBytes)
      return Error{"\"" + from + "\" has more than " + std::to_string(kMostFiles) + " pictures or a gigabyte", "",
                   "Name the folder of one character."};
  }
  if (error) return Error{"\"" + from + "\" cannot be read: " + error.message(), ""};
  if (out.empty())
    return Error{"there are no pictures in \"" + from + "\"", "",
                 fmt::format("Files of these are taken: {}, glTF.", fmt::join(image_endings(), ", "))};
  return out;
}

// So that the new folder stands on its own.
Outcome copy_all(const std::vector<fs::path>& pictures, const std::string& from, const fs::path& to) {
  for (const fs::path& each : pictures) {
    std::error_code error;
    const fs::path copy = to / each.lexically_relative(from);
    fs::create_directories(copy.parent_path(), error);
    fs::copy_file(each, copy, error);
    if (error) return Error{"\"" + each.string() + "\" cannot be copied: " + error.message(), ""};
  }
  return Done{};
}

// Findings name the folder that is being made, which nobody knows: with the name of the one people see in its place.
std::vector<Finding> as_seen(std::vector<Finding> findings, const std::string& made, const std::string& seen) {
  for (Finding& finding : findings)
    for (std::string* text : {&finding.file, &finding.message, &finding.remedy})
      for (std::size_t at = 0; (at = text->find(made, at)) != std::string::npos; at += seen.size())
        text->replace(at, made.size(), seen);
  return findings;
}

// How large the pictures are, so that those which stand in for missing ones fit beside them.
int size_of_art(const fs::path& art) {
  std::error_code error;
  for (fs::recursive_directory_iterator at(art, error), end; !error && at != end; at.increment(error)) {
    if (image_kind(at->path().string()) != ImageKind::still) continue;
    if (const auto image = load_image(at->path().string()))
      return std::min(256, std::max(16, static_cast<int>(image->height)));
  }
  return 48;
}

Outcome draw_missing(Role role, const fs::path& art, int size) {
  const std::string name(kRoles[role]);
  for (int i = 0; i < placeholder_frames(name); ++i)
    if (const auto written =
            write_png(draw_placeholder(name, i, size), (art / fmt::format("{}_{}.png", name, i)).string());
        !written)
      return written;
  return Done{};
}

int fail(const Error& error) {
  fmt::print(stderr, "error: {}\n", error.text());
  return kFindings;
}

int import_failed(const std::vector<Finding>& findings, const fs::path& art, const std::string& from) {
  print_findings(as_seen(findings, art.string(), from), true);
  fmt::print(stderr, "{}; nothing was made. See what is wrong: mobrin import {} -o clips.yaml --dry-run\n",
             counts(findings), as_argument(from));
  return kFindings;
}

// Fills `folder`, which is fresh; an exit code. `shown` is its name for people.
int fill(const NewRequest& options, const fs::path& folder, const std::string& shown) {
  std::vector<fs::path> pictures;
  if (!options.art.empty()) {
    const auto found = pictures_in(options.art);
    if (!found) return fail(found.error());
    pictures = *found;
  }
  const fs::path art = folder / "art";
  std::error_code error;
  fs::create_directories(art, error);
  if (error) return fail({"\"" + art.string() + "\" cannot be made: " + error.message(), ""});
  if (const auto copied = copy_all(pictures, options.art, art); !copied) return fail(copied.error());

  ImportOptions request;
  request.sources = {art.string()};
  request.out = (folder / (options.name + ".clips.yaml")).string();
  request.fps = Fraction{12, 1};
  Project project;
  project.name = options.name;
  Imported imported;
  if (!options.art.empty()) {
    imported = import_art(request);
    if (has_errors(imported.findings) || imported.clips.empty())
      return import_failed(imported.findings, art, options.art);
  }
  project.shows = clips_for_roles(imported.clips);
  const bool stand_is_drawn = project.shows[stand].empty();
  const int size = size_of_art(art);
  std::string drawn;
  for (const Role role : {stand, move, act, hurt, down}) {
    std::string& clip = project.shows[role];
    if (!clip.empty()) continue;
    clip = kRoles[role];
    if (const auto done = draw_missing(role, art, size); !done) return fail(done.error());
    drawn += (drawn.empty() ? "" : ", ") + clip;
  }
  for (const Role role : {stand, move}) request.clips.push_back({project.shows[role], PlayMode::loop(), {}});
  if (stand_is_drawn) request.clips.front().fps = Fraction{5, 1};  // who stands breathes slowly
  for (const Role role : {act, hurt, down}) request.clips.push_back({project.shows[role], PlayMode::once(), {}});
  imported = import_art(request);
  if (has_errors(imported.findings)) return import_failed(imported.findings, art, options.art);

  const Loaded loaded = load_character_text(imported.text, request.out);
  if (!loaded.machine) return import_failed(loaded.findings, art, options.art);
  for (const Role role : {stand, move, act, hurt, down})
    if (const auto clip = loaded.machine->clip(project.shows[role]))
      project.clips[role] = loaded.machine->clips()[clip->index];
  project.more_clips = loaded.machine->clips().size() > kRoles.size();

  std::vector<std::pair<std::string, std::string>> files = {{request.out, imported.text}};
  for (auto& [name, text] : project_files(project)) files.emplace_back((folder / name).string(), std::move(text));
  if (const auto written = write_files(files); !written) return fail(written.error());

  print_findings(as_seen(imported.findings, folder.string(), shown), true);
  const std::string machine = shown + "/" + options.name + ".yaml";
  fmt::print("{}/: {} of {} in art/, a machine, a tape, a program\n", shown,
             plural(loaded.machine->clips().size(), "clip"),
             options.art.empty() ? "stand-in pictures" : "your pictures");
  for (const Role role : {stand, move, act, hurt, down})
    fmt::print("  {:6} shows {}\n", kRoles[role], project.shows[role]);
  if (!options.art.empty() && !drawn.empty())
    fmt::print(
        "No clip's name says that it shows {}: stand-ins are drawn. Where the art has it, write the clip's name behind "
        "`clip:` in {}.\n",
        drawn, machine);
  fmt::print(
      "Play it:   mobrin live {0}\nTry it:    mobrin test {1}\nBuild it:  cmake -S {1} -B {1}/build && cmake --build "
      "{1}/build\n",
      as_argument(machine), as_argument(shown));
  return kFine;
}

int make_new(NewRequest options) {
  // `pets/bee`: the folder, and who lives in it.
  if (options.out.empty()) options.out = options.name;
  if (fs::path path(options.name); options.out == options.name) {
    if (!path.has_filename()) path = path.parent_path();
    options.name = path.filename().string();
  }
  if (!is_name(options.name))
    return usage("\"" + options.name + "\" cannot be a character's name",
                 "Write a name of letters, digits and strokes that begins with a letter: `mobrin new keeper`. It names "
                 "files, a class and a program.");
  const std::string& out = options.out;
  std::error_code error;
  if (fs::exists(fs::symlink_status(out, error)) && !(fs::is_directory(out, error) && fs::is_empty(out, error)))
    return usage("\"" + out + "\" is there already", "Give another name, or another folder with `-o`.");
  // In a folder beside it first: who stops in the middle leaves nothing half done.
  fs::path whole = fs::path(out).lexically_normal();
  if (!whole.has_filename()) whole = whole.parent_path();
  const fs::path beside = whole.parent_path() / fmt::format(".{}.new", whole.filename().string());
  fs::remove_all(beside, error);
  const int code = fill(options, beside, whole.string());
  if (code == kFine) {
    fs::remove(whole, error);  // an empty folder
    fs::rename(beside, whole, error);
    if (error) {
      const std::string why = error.message();
      fs::remove_all(beside, error);
      return fail({"\"" + whole.string() + "\" cannot be made: " + why, ""});
    }
  } else {
    fs::remove_all(beside, error);
  }
  return code;
}

const Command new_command(
    Command::Rank::begin, "new", "Make a character's folder that runs at once: art, machine, tape, program",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<NewRequest>();
      parameters.place("NAME", options->name,
                       "The character's name (of its files, its class, its program), or a path that ends with it");
      parameters.option("--art", options->art,
                        "A folder with its pictures, which are copied; else stand-ins are drawn");
      parameters.option("-o,--out", options->out, "The folder to make; else one called NAME");
      parameters.footer(
          "Example:\n  mobrin new keeper --art pictures/keeper\n\nClips are taken from the pictures as by `mobrin "
          "import`. "
          "The first machine stands, moves, acts, is hurt and goes down, with the clips whose names say so (idle, "
          "walk, "
          "swing, hurt, die, ...); for what the art does not have stand-ins are drawn, to be drawn over.");
      return [options] { return make_new(*options); };
    });

}  // namespace
}  // namespace mobrin::cli
