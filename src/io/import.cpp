// Import: images by their numbers, sheets by their grid, animations by their delays, and the clips file that says so.
#include "mobrin/io/import.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <map>
#include <numeric>

#include "clips_text.hpp"
#include "import_names.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/gltf.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {
namespace {

using io::clip_name;
using io::Numbered;
using io::numbered;
namespace fs = std::filesystem;

constexpr std::size_t kMostImages = 100'000;
constexpr std::int64_t kMostFramesOfClip = 10'000;
// What a clips file can say (reader.cpp).
constexpr std::int32_t kMostPasses = 10'000;
constexpr std::int64_t kMostHold = 1'000;
constexpr std::int64_t kMostRate = 1'000;

struct PixelSize {
  std::int32_t width = 0, height = 0;
};

// A PNG's size stands in its first bytes, so no image is decoded for it.
PixelSize png_size(const fs::path& path) {
  std::array<unsigned char, 24> head{};
  std::ifstream(path, std::ios::binary).read(reinterpret_cast<char*>(head.data()), head.size());
  const auto number = [&](std::size_t at) {
    return static_cast<std::int32_t>((std::uint32_t{head[at]} << 24 | std::uint32_t{head[at + 1]} << 16 |
                                      std::uint32_t{head[at + 2]} << 8 | head[at + 3]) &
                                     0x7fffffff);
  };
  return {number(16), number(20)};
}

struct Picture {
  std::string path;  // as seen from here
  std::int64_t number = 0;
  std::int32_t width = 0, height = 0;
};

class Importer {
 public:
  explicit Importer(const ImportOptions& options) : options_(options), folder_(fs::path(options.out).parent_path()) {}

  Imported run() {
    read_timing();
    for (const std::string& source : options_.sources) gather(source);
    for (auto& [name, pictures] : groups_) make_clip(name, pictures);
    if (out_.clips.empty() && !has_errors(out_.findings))
      report(FindingCode::unreadable_file, options_.sources.empty() ? "" : options_.sources.front(),
             "no image was found", "Give folders, images or glTF files.");
    write();
    return std::move(out_);
  }

 private:
  void report(FindingCode code, const std::string& file, std::string message, std::string remedy) {
    Finding& finding = out_.findings.emplace_back();
    finding.code = code;
    finding.file = file;
    finding.message = std::move(message);
    finding.remedy = std::move(remedy);
  }

  // What a clips file at the same place says of timing.
  void read_timing() {
    std::error_code error;
    if (!fs::exists(options_.out, error)) return;
    const Loaded loaded = load_character(options_.out);
    if (loaded.has_machine && loaded.machine)
      return report(FindingCode::wrong_kind_of_file, options_.out, "there is a machine in this file already",
                    "Import into a file of its own, which the machine names under `use:`.");
    if (!loaded.machine)
      return report(FindingCode::unreadable_file, options_.out, "the clips file that is there cannot be read",
                    "Mend it (`mobrin check` says how) or remove it; its timing would be lost.");
    for (const ClipInfo& clip : loaded.machine->clips()) known_[clip.def.name.text] = clip.def;
  }

  void gather(const std::string& source) {
    std::error_code error;
    const fs::path path(source);
    if (!fs::is_directory(path, error)) return gather_file(path, "", true);
    std::vector<fs::path> files;
    for (fs::recursive_directory_iterator at(path, fs::directory_options::skip_permission_denied, error), end;
         !error && at != end; at.increment(error)) {
      if (at->is_regular_file(error)) files.push_back(at->path());
      if (files.size() <= kMostImages) continue;
      return report(FindingCode::too_large, source, "more than 100000 files in this folder", "Import parts of it.");
    }
    std::sort(files.begin(), files.end());
    for (std::size_t i = 0; i < files.size(); ++i) {
      if (options_.progress && i % 64 == 0) options_.progress(i, files.size());
      const std::string inner = files[i].parent_path().lexically_relative(path).generic_string();
      gather_file(files[i], inner == "." ? "" : inner, false);
    }
    if (options_.progress) options_.progress(files.size(), files.size());
  }

  // `named`: the user named this very file, so it must be art.
  void gather_file(const fs::path& path, const std::string& folder, bool named) {
    const std::string shown = path.generic_string();
    std::error_code error;
    if (!std::ifstream(path) || fs::is_directory(path, error))
      return report(FindingCode::unreadable_file, shown, "the file cannot be opened", "Check the path.");
    const ImageKind kind = image_kind(shown);
    const std::string end = path.extension().generic_string();
    if (kind == ImageKind::none) {
      const bool claims = end == ".png" || end == ".gif" || end == ".gltf" || end == ".glb";
      if (looks_like_gltf(shown)) return take_gltf(shown, folder, named || claims);
      if (named || claims)
        report(FindingCode::unreadable_art, shown, "this is no PNG, GIF or glTF file",
               "Give images (PNG), animated images (GIF, APNG) or glTF 2.0 files.");
      return;
    }
    if (options_.grid && kind != ImageKind::png)
      return report(FindingCode::bad_grid, shown, "this is an animated image, not a sheet",
                    "Import it without `--tile`.");
    if (kind != ImageKind::png) return take_animation(path, folder);
    const PixelSize seen = png_size(path);
    if (seen.width == 0 || seen.height == 0)
      return report(FindingCode::unreadable_art, shown, "this image has no pixels", "Save it anew.");
    if (options_.grid) return cut_sheet(path, seen);
    number_in(path, folder, seen);
  }

  // One of the numbered images of a clip.
  void number_in(const fs::path& path, const std::string& folder, const PixelSize& size) {
    Numbered name = numbered(path.stem().generic_string());
    if (name.stem.empty()) name.stem = fs::absolute(path).parent_path().filename().generic_string();
    std::string prefix = folder;
    // A folder whose images have nothing but numbers gives them its name once.
    if (!folder.empty() && fs::path(folder).filename().generic_string() == name.stem)
      prefix = fs::path(folder).parent_path().generic_string();
    groups_[clip_name(prefix.empty() ? name.stem : prefix + "_" + name.stem)].push_back(
        {path.generic_string(), name.number.value_or(-1), size.width, size.height});
  }

  // A clip of an animated image. Its delays are its timing; of no delay, 100 ms are made.
  void take_animation(const fs::path& path, const std::string& folder) {
    const std::string shown = path.generic_string();
    std::string stem = path.stem().generic_string();
    const std::string name = clip_name(folder.empty() ? stem : folder + "_" + stem);
    std::vector<std::string> written;
    std::string trouble;
    const auto extract = [&](const Image& image) {
      if (options_.extract.empty() || !trouble.empty()) return;
      char number[16];
      std::snprintf(number, sizeof number, "_%04zu.png", written.size());
      const std::string to = (fs::path(options_.extract) / (name + number)).generic_string();
      if (const auto done = write_png(image, to); !done) trouble = done.error().message;
      written.push_back(to);
    };
    const auto read = read_animation(shown, extract);
    if (!read) return report(FindingCode::unreadable_art, shown, read.error().message, "Save it anew.");
    if (!trouble.empty())
      return report(FindingCode::unreadable_file, options_.extract, trouble, "Or give `--extract` another folder.");
    const Animation& animation = *read;
    // A still among numbered images is one of them.
    if (animation.delays.size() == 1 && numbered(stem).number && written.empty())
      return number_in(path, folder, {animation.width, animation.height});
    ClipDef clip;
    clip.name = Text(name);
    for (std::size_t i = 0; i < animation.delays.size(); ++i) {
      FrameArt& art = clip.frames.emplace_back().art;
      art.source = seen_from_out(written.empty() ? shown : written[i]);
      if (written.empty()) art.tile = std::to_string(i);
    }
    time_by(animation, clip);
    clip.play = animation.plays == 1 ? PlayMode::once() : PlayMode::loop(animation.plays);
    if (animation.plays > kMostPasses) {
      clip.play = PlayMode::loop();
      note(name, "plays " + std::to_string(animation.plays) + " times; it loops for ever here");
    }
    add(std::move(clip), true);
  }

  void note(const std::string& clip, const std::string& what) { out_.notes.push_back("\"" + clip + "\": " + what); }

  // Exact delays: holds over the greatest rate that all of them are multiples of, or times where there is none.
  void time_by(const Animation& animation, ClipDef& clip) {
    std::vector<Fraction> delays = animation.delays;
    std::size_t none = 0;
    for (Fraction& delay : delays) {
      if (delay.num * 1000 >= delay.den) continue;
      delay = {1, 10};
      ++none;
    }
    if (none > 0)
      note(clip.name.text, (none == 1 ? std::string("1 frame asks") : std::to_string(none) + " frames ask") +
                               " for no delay and " + (none == 1 ? "gets" : "get") + " 100ms");
    // All delays as whole multiples of 1/common s, then their greatest common part.
    std::int64_t common = 1, part = 0;
    for (const Fraction& delay : delays) {
      common = std::lcm(common, delay.den);
      if (common > 1'000'000) break;
    }
    if (common <= 1'000'000) {
      for (const Fraction& delay : delays) part = std::gcd(part, delay.num * (common / delay.den));
      const std::int64_t divisor = std::gcd(common, part);
      clip.fps = {common / divisor, part / divisor};
    }
    bool holds = common <= 1'000'000 && clip.fps.num <= kMostRate * clip.fps.den;
    for (std::size_t i = 0; i < delays.size() && holds; ++i) {
      const std::int64_t hold = delays[i].num * (common / delays[i].den) / part;
      holds = hold <= kMostHold;
      clip.frames[i].hold = static_cast<std::int32_t>(hold);
    }
    if (holds) return;
    clip.fps = {0, 1};
    for (std::size_t i = 0; i < delays.size(); ++i) {
      clip.frames[i].hold = 1;
      clip.frames[i].time =
          Ticks((2 * delays[i].num * kTicksPerSecond + delays[i].den) / (2 * delays[i].den));  // to the nearest
    }
  }

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
    std::map<std::string, int> seen;
    for (std::size_t i = 0; i < read->size(); ++i) {
      const GltfAnimation& animation = (*read)[i];
      const std::string own = animation.name.empty() ? "animation_" + std::to_string(i) : animation.name;
      std::string name = clip_name(folder.empty() ? own : folder + "_" + own);
      if (const int count = ++seen[name]; count > 1) {
        name += "_" + std::to_string(count);
        note(name, "a clip of that name stands before it in " + shown);
      }
      if (!animation.name.empty() && name != animation.name && folder.empty())
        note(name, "called \"" + animation.name + "\" in " + shown);
      ClipDef clip;
      clip.name = Text(name);
      clip.length = Ticks(std::llround((animation.last - animation.first) * static_cast<double>(kTicksPerSecond)));
      if (clip.length.count < kTicksPerSecond / 1000 || clip.length.count > kTicksPerSecond * 36'000) {
        report(FindingCode::no_length, shown, "the animation \"" + own + "\" lasts less than 1 ms, or above 10 hours",
               "A pose needs no clip; else check its keys.");
        continue;
      }
      if (animation.first > 0) {
        char text[96];
        std::snprintf(text, sizeof text, "its keys run from %.6g s to %.6g s; the clip begins at the first",
                      animation.first, animation.last);
        note(name, text);
      }
      clip.play = PlayMode::once();
      if (options_.tracks && !animation.tracks.empty()) add_tracks(name, animation.tracks);
      add(std::move(clip), false);
    }
  }

  void add_tracks(const std::string& clip, const std::vector<TrackDef>& tracks) {
    ClipMarksDef& marks = tracks_.emplace_back();
    marks.clip = Text(clip);
    for (TrackDef track : tracks) {
      track.name = Text(clip_name(track.name.text));
      const auto same = [&](const TrackDef& other) { return other.name.text == track.name.text; };
      if (std::any_of(marks.tracks.begin(), marks.tracks.end(), same))
        note(clip, "the track \"" + track.name.text + "\" stands there twice; the first counts");
      else
        marks.tracks.push_back(std::move(track));
    }
  }

  void make_clip(const std::string& name, std::vector<Picture>& pictures) {
    std::stable_sort(pictures.begin(), pictures.end(),
                     [](const auto& a, const auto& b) { return a.number < b.number; });
    const auto file = [](const Picture& picture) { return fs::path(picture.path).filename().generic_string(); };
    if (pictures.size() > static_cast<std::size_t>(kMostFramesOfClip))
      return report(FindingCode::too_large, pictures.front().path, "\"" + name + "\" has more than 10000 images",
                    "Split it up.");
    bool twice = false;
    std::string sizes;
    for (std::size_t i = 1; i < pictures.size(); ++i) {
      const Picture &before = pictures[i - 1], &here = pictures[i];
      if (here.number == before.number) {
        twice = true;
        report(FindingCode::number_twice, here.path,
               "\"" + file(before) + "\" and \"" + file(here) + "\" have the same number",
               "Remove one, or give it another number.");
      } else if (here.number != before.number + 1) {
        const std::int64_t missing = here.number - before.number - 1;
        report(FindingCode::gap_in_numbers, here.path,
               (missing == 1 ? "the number " + std::to_string(before.number + 1) + " is missing"
                             : "the numbers " + std::to_string(before.number + 1) + " to " +
                                   std::to_string(here.number - 1) + " are missing") +
                   " between \"" + file(before) + "\" and \"" + file(here) + "\"",
               "If a frame was lost, add it; else number the images anew.");
      }
      const bool differs = here.width != pictures[0].width || here.height != pictures[0].height;
      if (differs && sizes.empty()) {
        sizes = "\"" + file(here) + "\" is " + std::to_string(here.width) + " x " + std::to_string(here.height) +
                " pixels, \"" + file(pictures[0]) + "\" " + std::to_string(pictures[0].width) + " x " +
                std::to_string(pictures[0].height);
        report(FindingCode::mixed_sizes, here.path, sizes, "Give all images of a clip one size, or it will jump.");
      }
    }
    if (twice) return;
    ClipDef clip;
    clip.name = Text(name);
    for (const Picture& picture : pictures) clip.frames.emplace_back().art.source = seen_from_out(picture.path);
    add_untimed(std::move(clip));
  }

  void cut_sheet(const fs::path& path, const PixelSize& image) {
    const SheetGrid& grid = *options_.grid;
    const std::string shown = path.generic_string();
    const auto fit = [&](std::int32_t whole, std::int32_t cell, const char* word, const char* cells) {
      const std::int64_t room = std::int64_t{whole} - 2 * grid.margin + grid.spacing;
      const std::int64_t count = room / (cell + grid.spacing);
      if (count >= 1 && room % (cell + grid.spacing) == 0) return static_cast<std::int32_t>(count);
      const std::int64_t next = std::max<std::int64_t>(count, 0) + 1;
      const std::int64_t taken = 2 * grid.margin + next * cell + (next - 1) * grid.spacing;
      report(FindingCode::bad_grid, shown,
             "the image is " + std::to_string(whole) + " pixels " + word + "; " + std::to_string(next) + " " + cells +
                 " of " + std::to_string(cell) + " would take " + std::to_string(taken) +
                 (grid.margin + grid.spacing > 0 ? " with margin and spacing" : ""),
             "Check `--tile`, `--margin` and `--spacing`.");
      return 0;
    };
    const std::int32_t columns = fit(image.width, grid.width, "wide", "columns");
    const std::int32_t rows = fit(image.height, grid.height, "high", "rows");
    if (columns == 0 || rows == 0) return;
    const std::int32_t cells = grid.count.value_or(columns * rows);
    if (cells < 1 || cells > columns * rows)
      return report(FindingCode::bad_grid, shown,
                    "the sheet has " + std::to_string(columns) + " x " + std::to_string(rows) + " = " +
                        std::to_string(columns * rows) + " cells, not " + std::to_string(cells),
                    "Check `--count`.");
    const auto decoded = load_png(shown);
    if (!decoded) return report(FindingCode::unreadable_art, shown, decoded.error().message, "Save it anew.");
    const auto empty = [&](std::int32_t cell) {
      const std::int32_t left = grid.margin + cell % columns * (grid.width + grid.spacing);
      const std::int32_t top = grid.margin + cell / columns * (grid.height + grid.spacing);
      for (std::int32_t y = top; y < top + grid.height; ++y)
        for (std::int32_t x = left; x < left + grid.width; ++x)
          if (decoded->rgba[(static_cast<std::size_t>(y) * static_cast<std::size_t>(decoded->width) +
                             static_cast<std::size_t>(x)) *
                                4 +
                            3] != 0)
            return false;
      return true;
    };
    const auto cut = [&](const std::string& name, std::int32_t first, std::int32_t end) {
      std::int32_t last = end;
      while (last > first && empty(last - 1)) --last;
      if (last == first)
        return report(FindingCode::empty_frame, shown, "all cells of \"" + name + "\" are empty", "Check the row.");
      if (last != end)
        out_.notes.push_back("\"" + name + "\": " + std::to_string(end - last) + " empty cells at its end left out");
      ClipDef clip;
      clip.name = Text(name);
      std::string blank;
      std::size_t blanks = 0;
      for (std::int32_t cell = first; cell < last; ++cell) {
        if (empty(cell)) {
          if (++blanks <= 8) blank += (blank.empty() ? "" : ", ") + std::to_string(cell);
        }
        FrameArt& art = clip.frames.emplace_back().art;
        art.source = seen_from_out(shown);
        art.tile = std::to_string(cell);
        art.rect = {-1, -1, grid.width, grid.height};
        art.margin = grid.margin;
        art.spacing = grid.spacing;
      }
      if (blanks > 0)
        report(FindingCode::empty_frame, shown,
               (blanks == 1 ? "a cell of \"" : std::to_string(blanks) + " cells of \"") + name + "\" " +
                   (blanks == 1 ? "is" : "are") + " empty: " + blank + (blanks > 8 ? ", ..." : ""),
               "Draw them, or cut the sheet into rows: `--row 0:" + name + "`.");
      add_untimed(std::move(clip));
    };
    if (grid.rows.empty()) return cut(clip_name(path.stem().generic_string()), 0, cells);
    for (const auto& [row, name] : grid.rows) {
      if (row < 0 || row >= rows || row * columns >= cells)
        report(
            FindingCode::bad_grid, shown,
            "there is no row " + std::to_string(row) + "; the sheet has " + std::to_string(rows) + ", numbered from 0",
            "Check `--row`.");
      else
        cut(clip_name(name), row * columns, std::min(cells, (row + 1) * columns));
    }
  }

  // Timing that images do not have: a rate, once.
  void add_untimed(ClipDef clip) {
    clip.fps = {12, 1};
    clip.play = PlayMode::once();
    add(std::move(clip), false);
  }

  // `timed`: the art brings its own timing, which goes before what the file said.
  void add(ClipDef clip, bool timed) {
    for (const ClipDef& other : out_.clips)
      if (other.name.text == clip.name.text)
        return report(FindingCode::duplicate_name, options_.sources.front(),
                      "there are two clips \"" + clip.name.text + "\"", "Rename the images or rows of one of them.");
    if (const auto known = known_.find(clip.name.text); known != known_.end()) {
      const ClipDef& before = known->second;
      clip.play = before.play;
      const bool same_count = before.frames.size() == clip.frames.size();
      if (timed || clip.frames.empty()) {
        if (options_.play) clip.play = *options_.play;
        if (options_.fps) rate_of_frames(clip);
        out_.clips.push_back(std::move(clip));
        return;
      }
      if (before.fps.num > 0) clip.fps = before.fps;
      for (std::size_t i = 0; same_count && !options_.fps && i < clip.frames.size(); ++i) {
        clip.frames[i].hold = before.frames[i].hold;
        clip.frames[i].time = before.frames[i].time;
      }
      if (same_count && !options_.fps) clip.fps = before.fps;
      if (!same_count)
        out_.notes.push_back("\"" + clip.name.text + "\" had " + std::to_string(before.frames.size()) +
                             " frames and has " + std::to_string(clip.frames.size()) + " now; its holds begin anew");
    }
    if (options_.fps) rate_of_frames(clip);
    if (options_.play) clip.play = *options_.play;
    out_.clips.push_back(std::move(clip));
  }

  // The rate that was asked for: each frame once.
  void rate_of_frames(ClipDef& clip) const {
    if (clip.frames.empty()) return;
    clip.fps = *options_.fps;
    for (FrameDef& frame : clip.frames) {
      frame.hold = 1;
      frame.time = {};
    }
  }

  [[nodiscard]] std::string seen_from_out(const std::string& path) const {
    std::error_code error;
    const fs::path from = folder_.empty() ? fs::path(".") : folder_;
    const fs::path relative = fs::relative(path, from, error);
    return error || relative.empty() ? path : relative.generic_string();
  }

  void write() {
    std::sort(out_.clips.begin(), out_.clips.end(),
              [](const ClipDef& a, const ClipDef& b) { return a.name.text < b.name.text; });
    out_.text = io::clips_text(out_.clips);
    if (!tracks_.empty()) out_.tracks_text = io::tracks_text(tracks_);
  }

  const ImportOptions& options_;
  fs::path folder_;
  std::map<std::string, ClipDef> known_;
  std::map<std::string, std::vector<Picture>> groups_;
  Imported out_;
  std::vector<ClipMarksDef> tracks_;
};

}  // namespace

Imported import_art(const ImportOptions& options) { return Importer(options).run(); }

}  // namespace mobrin
