// Import: images by their numbers, sheets by their grid, animations by their delays, and the clips file that says so.
#include "mobrin/io/import.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <set>
#include <utility>

#include "clips_file.hpp"
#include "clips_text.hpp"
#include "import_cells.hpp"
#include "import_gltf.hpp"
#include "import_merge.hpp"
#include "import_names.hpp"
#include "import_timing.hpp"
#include "loader.hpp"
#include "machine/limits.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/gltf.hpp"
#include "mobrin/io/load.hpp"
#include "picture_formats.hpp"

namespace mobrin {
namespace {

using io::ArtClip;
using io::ArtPicture;
using io::clip_name;
using io::inner_folder;
using io::Numbered;
using io::numbered;
namespace fs = std::filesystem;

constexpr std::size_t kMostImages = 100'000;
constexpr std::int32_t kMostPasses = 10'000;  // a clips file can say (reader.cpp)

struct Picture {
  std::string path;  // as seen from here
  std::int64_t number = 0;
  std::int32_t width = 0, height = 0;
  // On a packed sheet: the file that describes it; `path` is the picture's name.
  std::string sheet{};
  std::string print{};
};

class Importer {
 public:
  explicit Importer(const ImportOptions& options) : options_(options), folder_(fs::path(options.out).parent_path()) {}

  Imported run() {
    read_known();
    for (const std::string& source : options_.sources) gather(source);
    make_clips();
    if (found_.empty() && out_.findings.empty())
      report(FindingCode::unreadable_file, options_.sources.empty() ? "" : options_.sources.front(),
             "no image was found", "Give folders, images or glTF files.");
    if (found_.empty() && !has_errors(out_.findings)) out_.findings.back().severe = true;  // all cells are empty
    io::merge_into_file(options_, {roots_, std::move(before_), std::move(known_), std::move(found_)}, out_);
    if (!tracks_.empty()) out_.tracks_text = io::tracks_text(tracks_);
    return std::move(out_);
  }

 private:
  void report(FindingCode code, const std::string& file, std::string message, std::string remedy) {
    out_.findings.push_back(finding_in(file, code, std::move(message), std::move(remedy)));
  }

  // What a clips file at the same place says.
  void read_known() {
    std::error_code error;
    if (!fs::exists(options_.out, error)) return;
    const Loaded loaded = io::load_whatever_is_packed(options_.out);
    if (loaded.has_machine && loaded.machine)
      return report(FindingCode::wrong_kind_of_file, options_.out, "there is a machine in this file already",
                    "Import into a file of its own, which the machine names under `use:`.");
    const auto text = read_file(options_.out);
    io::YamlNode root;
    io::YamlProblem problem;
    if (!loaded.machine || !text ||
        !io::parse_yaml(std::string_view(*text).substr(text->starts_with("\xEF\xBB\xBF") ? 3 : 0), root, problem))
      return report(FindingCode::unreadable_file, options_.out, "the clips file that is there cannot be read",
                    "Mend it (`mobrin check` says how) or remove it; its timing would be lost.");
    before_ = *text;
    known_ = io::clips_of(root, *loaded.machine);
  }

  void gather(const std::string& source) {
    std::error_code error;
    const fs::path path(source);
    roots_.push_back(whole_path(source));
    if (!fs::is_directory(path, error)) return gather_file(path, "", true);
    std::vector<fs::path> files;
    for (fs::recursive_directory_iterator at(path, fs::directory_options::skip_permission_denied, error), end;
         !error && at != end; at.increment(error)) {
      if (at->path().filename().string().starts_with('.')) {  // what systems and tools leave: no art
        at.disable_recursion_pending();
        continue;
      }
      if (at->is_regular_file(error)) files.push_back(at->path());
      if (files.size() <= kMostImages) continue;
      return report(FindingCode::too_large, source, "more than 100000 files in this folder", "Import parts of it.");
    }
    std::sort(files.begin(), files.end());
    // What is on packed sheets first: their images are no pictures of their own.
    std::vector<fs::path> described;
    std::erase_if(files, [&](const fs::path& file) {
      const bool is = is_packed_sheet(file.generic_string());
      if (is) described.push_back(file);
      return is;
    });
    for (const fs::path& file : described) take_packed(file, inner_folder(file, path));
    for (std::size_t i = 0; i < files.size(); ++i) {
      if (options_.progress && i % 64 == 0) options_.progress(i, files.size());
      gather_file(files[i], inner_folder(files[i], path), false);
    }
    if (options_.progress) options_.progress(files.size(), files.size());
  }

  // `named`: the user named this very file, so it must be art.
  void gather_file(const fs::path& path, const std::string& folder, bool named) {
    const std::string shown = path.generic_string();
    if (!is_plain_file(shown) || !std::ifstream(path))
      return report(FindingCode::unreadable_file, shown, "the file cannot be opened",
                    path_remedy(shown, "Check the path."));
    const auto [format, kind] = io::recognise(shown);
    if (kind == ImageKind::none) {
      const bool claims = path.extension() == ".gltf" || path.extension() == ".glb" || has_image_ending(shown);
      if (named && is_packed_sheet(shown)) return take_packed(path, folder);
      if (looks_like_gltf(shown)) return take_gltf(shown, folder, named || claims);
      if (named || claims)
        report(FindingCode::unreadable_art, shown,
               claims ? "this is no " + io::picture_format_names() + " or glTF file"
                      : "this is no art, and describes no packed sheet",
               "Give images, animated or not (" + io::picture_format_names() +
                   "), glTF 2.0 files or packed sheets (docs/format.md).");
      return;
    }
    if (options_.grid && kind == ImageKind::animated)
      return report(FindingCode::bad_grid, shown, "this is an animated image, not a sheet",
                    "Import it without `--tile`.");
    if (on_packed_.count(whole_path(path.string()))) return;
    if (kind == ImageKind::animated) return take_animation(path, folder);
    const io::PixelSize seen = format->size(shown);
    if (seen.width == 0 || seen.height == 0)
      return report(FindingCode::unreadable_art, shown, "this image has no pixels", "Save it anew.");
    if (options_.grid) return cut_sheet(path, seen);
    if (named && options_.sources.size() == 1 && !numbered(path.stem().generic_string()).number)
      note(shown, "taken as one picture; a sheet is cut into cells with `--tile`" + io::fitting(shown));
    number_in(path, folder, {path.generic_string(), 0, seen.width, seen.height});
  }

  // The pictures of a packed sheet, each by its name as if it were an image.
  void take_packed(const fs::path& path, const std::string& folder) {
    const std::string shown = path.generic_string();
    if (options_.grid)
      return report(FindingCode::bad_grid, shown, "this describes a packed sheet, which has no grid",
                    "Import it without `--tile`.");
    const auto sheet = io::read_packed_sheet(shown, out_.findings);
    if (!sheet) return;
    on_packed_.insert(whole_path(sheet->image));
    const auto image = load_image(sheet->image);
    if (!image) return report(FindingCode::unreadable_art, shown, image.error().message, "Check its `image:`.");
    for (const io::PackedSheet::Picture& each : sheet->pictures) {
      const PixelRect& rect = each.rect;
      const auto wrong = [&](const std::string& what, const std::string& remedy) {
        report(FindingCode::unreadable_art, shown, "the rectangle \"" + each.name + "\" " + what, remedy);
      };
      if (rect.x > image->width - rect.width || rect.y > image->height - rect.height) {
        wrong("lies outside \"" + sheet->image + "\", which is " + std::to_string(image->width) + " x " +
                  std::to_string(image->height) + " pixels",
              "Pack the sheet anew.");
        continue;
      }
      if (each.name.find('*') != std::string::npos || each.name.empty()) {
        wrong("has a name that `frames:` cannot say", "Name it without `*`.");
        continue;
      }
      const bool trimmed = each.whole.width > 0;
      Picture picture{each.name,
                      0,
                      trimmed ? each.whole.width : rect.width,
                      trimmed ? each.whole.height : rect.height,
                      seen_from_out(shown),
                      io::print_of(*image, rect)};
      number_in(fs::path(each.name + ".png"), folder, std::move(picture));
    }
  }

  // One of the numbered images of a clip.
  void number_in(const fs::path& path, const std::string& folder, Picture picture) {
    const fs::path plain =
        picture.sheet.empty() ? fs::absolute(path).parent_path().filename() : fs::path(picture.sheet).stem().stem();
    names_.push_back({path.stem().generic_string(), folder, plain.generic_string()});
    pictures_.push_back(std::move(picture));
  }
  void make_clips() {
    std::map<std::string, std::vector<Picture>> groups;
    const io::NamedClips named = io::clips_by_names(names_);
    for (std::size_t i = 0; i < named.pictures.size(); ++i) {
      std::vector<Picture>& group = groups[named.pictures[i].clip];
      group.push_back(std::move(pictures_[i]));
      group.back().number = named.pictures[i].number;
    }
    for (const auto& [clip, what] : named.notes) note(clip, what);
    for (const auto& [first, other] : named.clashes) {
      const std::string& clip = named.pictures[first].clip;
      report(
          FindingCode::duplicate_name, groups[clip].front().path,
          "\"" + names_[first].name + "\" and \"" + names_[other].name + "\" would both be of a clip \"" + clip + "\"",
          std::string("Rename the pictures of one of them: ") + io::kClipLetters + ".");
      groups.erase(clip);
    }
    for (auto& [name, pictures] : groups) make_clip(name, pictures);
  }

  // A clip of an animated image. Its delays are its timing; of no delay, 100 ms are made.
  void take_animation(const fs::path& path, const std::string& folder) {
    const std::string shown = path.generic_string();
    std::string stem = path.stem().generic_string();
    const std::string words = folder.empty() ? stem : folder + "_" + stem, name = clip_name(words);
    std::vector<std::string> taken, prints;
    std::string trouble;
    const auto extract = [&](const Image& image) {
      prints.push_back(io::print_of(image, {0, 0, image.width, image.height}));
      if (options_.extract.empty() || !trouble.empty()) return;
      char number[16];
      std::snprintf(number, sizeof number, "_%04zu.png", taken.size());
      const std::string to = (fs::path(options_.extract) / (name + number)).generic_string();
      // What somebody else put there is not written over.
      std::error_code there;
      const auto is_known = [&](const std::string& file) {
        return std::ranges::any_of(known_, [&](const ArtClip& known) { return known.has_image(file); });
      };
      if (fs::exists(to, there) && !is_known(seen_from_out(to)) && io::print_of_file(to) != prints.back())
        trouble = "there is another file at \"" + to + "\" already";
      taken.push_back(to);
    };
    const auto read = read_animation(shown, extract);
    if (!read) return report(FindingCode::unreadable_art, shown, read.error().message, "Save it anew.");
    if (!trouble.empty())
      return report(FindingCode::unreadable_file, options_.extract, trouble, "Or give `--extract` another folder.");
    const Animation& animation = *read;
    // A still among numbered images is one of them.
    if (animation.delays.size() == 1 && numbered(stem).number && taken.empty())
      return number_in(path, folder, {shown, 0, animation.width, animation.height});
    ArtClip clip;
    clip.name = Text(name);
    clip.timed = true;
    clip.kind = taken.empty() ? ArtClip::Kind::cells : ArtClip::Kind::images;
    if (taken.empty())
      clip.source = seen_from_out(shown);
    else
      out_.taken_out.push_back({shown, taken});
    for (std::size_t i = 0; i < animation.delays.size(); ++i) {
      const Fraction& delay = animation.delays[i];
      ArtPicture& picture = clip.pictures.emplace_back();
      picture.name = taken.empty() ? std::to_string(i) : seen_from_out(taken[i]);
      picture.cell = static_cast<std::int64_t>(i);
      picture.print = prints[i];
      if (taken.empty())
        picture.delay = std::to_string(delay.num) + (delay.den == 1 ? "" : "/" + std::to_string(delay.den)) + "s";
      clip.frames.push_back({static_cast<std::int32_t>(i), 1, {}});
    }
    if (io::loses_letters(words)) note(name, io::called(stem));
    if (const std::string told = io::time_by(animation.delays, clip); !told.empty()) note(name, told);
    clip.play = animation.plays == 1 ? PlayMode::once() : PlayMode::loop(animation.plays);
    if (animation.plays > kMostPasses) {
      clip.play = PlayMode::loop();
      note(name, "plays " + std::to_string(animation.plays) + " times; it loops for ever here");
    }
    add(std::move(clip));
  }

  void note(const std::string& clip, const std::string& what) { out_.notes.push_back("\"" + clip + "\": " + what); }

  // A clip for each animation of a glTF file, known by its length.
  // `claimed`: by its name or by the user; else JSON that cannot be read is something else that speaks of assets.
  void take_gltf(const std::string& shown, const std::string& folder, bool claimed) {
    if (options_.grid)
      return report(FindingCode::bad_grid, shown, "this is a glTF file, not a sheet", "Import it without `--tile`.");
    const auto read = read_gltf(shown);
    if (!read && !claimed) return;
    if (!read) return report(FindingCode::unreadable_art, shown, read.error().message, "Export it anew as glTF 2.0.");
    if (read->empty())
      return report(FindingCode::no_length, shown, "this file has no animations", "Export it with its animations.");
    io::GltfClips made = io::clips_of_gltf(shown, *read, folder, options_.tracks);
    for (Finding& finding : made.findings) out_.findings.push_back(std::move(finding));
    for (std::string& told : made.notes) out_.notes.push_back(std::move(told));
    for (ClipMarksDef& tracks : made.tracks) tracks_.push_back(std::move(tracks));
    for (ArtClip& clip : made.clips) {
      clip.source = seen_from_out(shown);
      add(std::move(clip));
    }
  }

  void make_clip(const std::string& name, std::vector<Picture>& pictures) {
    std::stable_sort(pictures.begin(), pictures.end(),
                     [](const auto& a, const auto& b) { return a.number < b.number; });
    const auto file = [](const Picture& picture) { return fs::path(picture.path).filename().generic_string(); };
    const Picture& first = pictures[0];
    if (pictures.size() > detail::kMaxFrames)
      return report(FindingCode::too_large, first.path, "\"" + name + "\" has more than 10000 images", "Split it up.");
    bool twice = false, mixed = false;
    for (std::size_t i = 1; i < pictures.size(); ++i) {
      const Picture &before = pictures[i - 1], &here = pictures[i];
      if (here.number == before.number) {
        twice = true;
        report(FindingCode::number_twice, here.path,
               "\"" + file(before) + "\" and \"" + file(here) + "\" have the same number",
               "Remove one, or give it another number.");
      } else if (here.number != before.number + 1) {
        report(FindingCode::gap_in_numbers, here.path,
               io::numbers_between(before.number, here.number) + " between \"" + file(before) + "\" and \"" +
                   file(here) + "\"",
               "If a frame was lost, add it; else number the images anew.");
      }
      if (mixed || (here.width == first.width && here.height == first.height)) continue;
      mixed = true;
      report(FindingCode::mixed_sizes, here.path,
             "\"" + file(here) + "\" is " + std::to_string(here.width) + " x " + std::to_string(here.height) +
                 " pixels, \"" + file(first) + "\" " + std::to_string(first.width) + " x " +
                 std::to_string(first.height),
             "Give all images of a clip one size, or it will jump.");
    }
    if (twice) return;
    ArtClip clip;
    clip.name = Text(name);
    clip.source = first.sheet;
    clip.packed = clip.sheet = !clip.source.empty();
    clip.kind = clip.packed ? ArtClip::Kind::cells : ArtClip::Kind::images;
    for (const Picture& picture : pictures) {
      if (picture.sheet != clip.source)
        return report(FindingCode::duplicate_name, picture.path, "\"" + name + "\" has pictures of several sources",
                      "Rename those of one of them.");
      const auto place = static_cast<std::int32_t>(clip.pictures.size());
      clip.frames.push_back({place, 1, {}});
      if (clip.packed)
        clip.pictures.push_back({picture.path, place, picture.print});
      else
        clip.pictures.push_back({seen_from_out(picture.path), 0, io::print_of_file(picture.path)});
    }
    add_untimed(std::move(clip));
  }

  // How many cells fit side by side; 0 where some are left over, which is reported.
  std::int32_t fit(const std::string& shown, std::int32_t whole, std::int32_t cell, const char* word,
                   const char* cells) {
    const SheetGrid& grid = *options_.grid;
    const io::Fit fit = io::fit(whole, cell, grid);
    if (fit.count > 0) return fit.count;
    const auto image = load_image(shown);
    report(
        FindingCode::bad_grid, shown,
        "the image is " + std::to_string(whole) + " pixels " + word + "; " + io::pixels_taken(fit, cells, cell, grid),
        "Check `--tile`, `--margin` and `--spacing`" + (image ? io::fitting(*image, grid) : std::string()) + ".");
    return 0;
  }

  void cut_sheet(const fs::path& path, const io::PixelSize& image) {
    const SheetGrid& grid = *options_.grid;
    const std::string shown = path.generic_string();
    if (!io::is_grid(grid))
      return report(FindingCode::bad_grid, shown, "no grid has such sizes",
                    "A cell is at least 1x1 pixels, margin and spacing at least 0, nothing above 65536.");
    const std::int32_t columns = fit(shown, image.width, grid.width, "wide", "columns");
    const std::int32_t rows = fit(shown, image.height, grid.height, "high", "rows");
    if (columns == 0 || rows == 0) return;
    const std::int32_t cells = grid.count.value_or(columns * rows);
    if (cells < 1 || cells > columns * rows)
      return report(FindingCode::bad_grid, shown,
                    "the sheet has " + std::to_string(columns) + " x " + std::to_string(rows) + " = " +
                        std::to_string(columns * rows) + " cells, not " + std::to_string(cells),
                    "Check `--count`.");
    const auto decoded = load_image(shown);
    if (!decoded) return report(FindingCode::unreadable_art, shown, decoded.error().message, "Save it anew.");
    const io::CellSheet sheet{grid, *decoded, shown, columns, rows, cells};
    if (grid.rows.empty()) return cut_clip(sheet, path.stem().generic_string(), 0, cells);
    for (const auto& [row, name] : grid.rows) {
      if (const auto [message, remedy] = sheet.lacks(row); !message.empty())
        report(FindingCode::bad_grid, shown, message, remedy);
      else
        cut_clip(sheet, name, row * columns, std::min(cells, (row + 1) * columns));
    }
  }

  // `asked`: the clip's name as somebody wrote it.
  void cut_clip(const io::CellSheet& sheet, const std::string& asked, std::int32_t first, std::int32_t end) {
    const std::string name = clip_name(asked);
    if (!sheet.grid.rows.empty() && name != asked) note(name, "\"" + asked + "\" cannot be a clip's name");
    std::int32_t last = end;
    while (last > first && sheet.empty(last - 1)) --last;
    if (last == first)
      return report(FindingCode::empty_frame, sheet.shown, "all cells of \"" + name + "\" are empty",
                    sheet.grid.rows.empty() ? "Check that this is the right image." : "Check the row.");
    if (last != end) note(name, std::to_string(end - last) + " empty cells at its end left out");
    ArtClip clip;
    clip.kind = ArtClip::Kind::cells;
    clip.sheet = true;
    clip.name = Text(name);
    clip.source = seen_from_out(sheet.shown);
    clip.tile = {-1, -1, sheet.grid.width, sheet.grid.height};
    clip.margin = sheet.grid.margin;
    clip.spacing = sheet.grid.spacing;
    for (std::int32_t cell = first; cell < last; ++cell) {
      clip.frames.push_back({static_cast<std::int32_t>(clip.pictures.size()), 1, {}});
      clip.pictures.push_back({std::to_string(cell), cell, io::print_of(sheet.image, sheet.part(cell))});
    }
    if (const auto [count, numbers] = sheet.empty_among(first, last); count > 0)
      report(FindingCode::empty_frame, sheet.shown,
             (count == 1 ? "a cell of \"" : std::to_string(count) + " cells of \"") + name + "\" " +
                 (count == 1 ? "is" : "are") + " empty: " + numbers,
             "Draw them, or cut the sheet into rows: `--row 0:" + name + "`.");
    std::vector<std::int32_t> cells;
    for (std::int32_t cell = first; cell < last; ++cell) cells.push_back(cell);
    constexpr const char* kFlaws[] = {"cut through its pictures", "part its pictures unevenly",
                                      "hold several pictures each"};
    if (const auto better = better_grid(sheet.image, io::cells_of(sheet.grid), cells))
      report(FindingCode::wrong_grid, sheet.shown,
             "the cells of \"" + name + "\" " + kFlaws[static_cast<std::size_t>(better->flaw)],
             "`" + io::grid_options(better->grid) + "` would fit.");
    add_untimed(std::move(clip));
  }

  // Timing that images do not have: a rate, once.
  void add_untimed(ArtClip clip) {
    clip.fps = {12, 1};
    clip.play = PlayMode::once();
    add(std::move(clip));
  }

  void add(ArtClip clip) {
    for (const ArtClip& other : found_)
      if (other.name.text == clip.name.text)
        return report(FindingCode::duplicate_name, options_.sources.front(),
                      "there are two clips \"" + clip.name.text + "\"", "Rename the images or rows of one of them.");
    found_.push_back(std::move(clip));
  }

  // As the clips file names it; told, once, where it would not be loaded from there.
  [[nodiscard]] std::string seen_from_out(const std::string& path) {
    const fs::path relative =
        fs::path(whole_path(path)).lexically_relative(whole_path(folder_.empty() ? "." : folder_.string()));
    const std::string name = relative.empty() ? path : relative.generic_string();
    if (name.starts_with("../") && !outside_is_allowed() && !std::exchange(told_outside_, true))
      report(FindingCode::outside_folder, path, "the pictures lie outside of the folder of " + options_.out,
             "Write the clips file into a folder that has them, or say that it is meant so: `--allow-outside`, which "
             "every command then needs that loads it.");
    return name;
  }

  const ImportOptions& options_;
  fs::path folder_;
  std::string before_;  // the clips file's text
  std::vector<ArtClip> known_, found_;
  std::vector<fs::path> roots_;
  std::vector<Picture> pictures_;       // images and rectangles that are part of a clip
  std::vector<io::PictureName> names_;  // by picture
  std::set<fs::path> on_packed_;        // images that packed sheets are on
  Imported out_;
  std::vector<ClipMarksDef> tracks_;
  bool told_outside_ = false;
};

}  // namespace

Imported import_art(const ImportOptions& options) { return Importer(options).run(); }

}  // namespace mobrin
