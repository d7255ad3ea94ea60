// Findings about art: reads the images and looks at their pixels.
#include "mobrin/prove/art_files.hpp"

#include <algorithm>
#include <charconv>
#include <map>
#include <set>
#include <tuple>

#include "mobrin/check/art.hpp"
#include "mobrin/io/cells.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/image.hpp"

namespace mobrin {
namespace {

// What takes longer to look at than anybody waits, or more memory than a check should take.
constexpr std::int64_t kMostPixelsRead = std::int64_t{256} << 20, kMostPixelsOfImage = std::int64_t{32} << 20;

std::string folder_of_art(const std::string& path) { return path.substr(0, path.rfind('/') + 1); }
std::string size_text(const Image& image) { return std::to_string(image.width) + " x " + std::to_string(image.height); }

// A trimmed picture as it was.
FramePixels put_together(const ArtStore::Picture& picture, const PixelRect& whole) {
  const auto size = [](std::int32_t pixels) { return static_cast<std::size_t>(pixels) * 4; };
  const auto pixels =
      std::make_shared<std::vector<std::uint8_t>>(size(whole.width) * static_cast<std::size_t>(whole.height));
  const PixelRect& rect = picture.rect;
  for (std::int32_t y = 0; y < rect.height; ++y) {
    const std::size_t from = static_cast<std::size_t>(rect.y + y) * size(picture.image->width) + size(rect.x);
    const std::size_t to = static_cast<std::size_t>(whole.y + y) * size(whole.width) + size(whole.x);
    std::copy_n(picture.image->rgba.begin() + static_cast<std::ptrdiff_t>(from), size(rect.width),
                pixels->begin() + static_cast<std::ptrdiff_t>(to));
  }
  return {pixels->data(), whole.width, whole.height, whole.width, pixels};
}

Finding finding_at(FindingCode code, const Loaded& loaded, const std::string& path, const Text& of) {
  Finding out;
  out.code = code;
  out.file = of.place.file < loaded.files.size() ? loaded.files[of.place.file] : path;
  out.line = of.place.line;
  out.column = of.place.column;
  out.subject = of.text;
  return out;
}

// Images a machine's clips name must be there, with the frames on them, and without the usual mistakes; the machine
// runs without.
void check_art(const Loaded& loaded, const std::string& path, ArtStore& store, std::vector<Finding>& findings) {
  std::set<std::string> told, left_out;
  for (const ClipInfo& clip : loaded.machine->clips()) {
    for (const FrameDef& frame : clip.def.frames) {
      if (frame.art.source.empty()) continue;
      const auto picture = store.find(frame.art);
      if (picture) continue;
      if (store.left_out(frame.art.source)) {
        left_out.insert(frame.art.source);
        continue;
      }
      if (!told.insert(picture.error().message).second) continue;
      Finding& finding = findings.emplace_back(finding_at(FindingCode::missing_art, loaded, path, clip.def.name));
      finding.message = "the clip \"" + clip.def.name.text + "\": " + picture.error().message;
      const std::string& remedy = picture.error().remedy;
      finding.remedy = "The machine runs without it; pictures do not. " +
                       (remedy.empty() ? path_remedy(store.path_of(frame.art.source),
                                                     "Check the path, which is relative to this file.")
                                       : remedy);
      break;
    }
  }
  if (!left_out.empty()) {
    Finding& finding = findings.emplace_back();
    finding.code = FindingCode::art_left_out;
    finding.hint = true;
    finding.file = path;
    finding.message = std::to_string(left_out.size()) + (left_out.size() == 1 ? " image was" : " images were") +
                      " not looked at, the first is " + *left_out.begin();
    finding.remedy = "Looked at are " + std::to_string(kMostPixelsRead >> 20) + " megapixels in all, and " +
                     std::to_string(kMostPixelsOfImage >> 20) + " of one image. Smaller ones are looked at.";
  }
  const auto pixels = [&](const FrameArt& art) -> std::optional<FramePixels> {
    const auto picture = store.find(art);
    if (!picture) return std::nullopt;
    const PixelRect& rect = picture->rect;
    if (art.whole.width > 0) return put_together(*picture, art.whole);
    const auto at = 4 * (static_cast<std::size_t>(rect.y) * static_cast<std::size_t>(picture->image->width) +
                         static_cast<std::size_t>(rect.x));
    return FramePixels{picture->image->rgba.data() + at, rect.width, rect.height, picture->image->width,
                       picture->image};
  };
  for (Finding& finding : art_findings(*loaded.machine, pixels, loaded.has_machine))
    findings.push_back(std::move(finding));
}

// "24, 48, 72 and 5 more".
std::string some_of(const std::vector<std::int32_t>& places) {
  constexpr std::size_t kMostNamed = 3;
  std::string out;
  const std::size_t named = places.size() <= kMostNamed + 1 ? places.size() : kMostNamed;
  for (std::size_t i = 0; i < named; ++i)
    out += (i == 0 ? "" : i + 1 == places.size() ? " and " : ", ") + std::to_string(places[i]);
  return named == places.size() ? out : out + " and " + std::to_string(places.size() - named) + " more";
}
std::string cells_text(const CellGrid& grid) {
  return std::to_string(grid.width) + " x " + std::to_string(grid.height);
}

std::string flaw_text(const BetterGrid& better, const CellGrid& grid, const std::string& sheet, const Image& image) {
  const std::string cells = cells_text(grid);
  switch (better.flaw) {
    case BetterGrid::Flaw::cuts:
      return ": its cells of " + cells + " cut through the pictures of " + sheet + ", at " + some_of(better.at) +
             " pixels from the " + (better.across ? "top" : "left");
    case BetterGrid::Flaw::wanders:
      return ": what its cells of " + cells + " show wanders from cell to cell of " + sheet + ", which is " +
             size_text(image) + " pixels";
    case BetterGrid::Flaw::several:
      break;
  }
  return ": each of its cells of " + cells + " holds several pictures of " + sheet + ", " + cells_text(better.grid) +
         " each";
}

// Cells that are not those that a sheet was drawn in; told once a sheet and grid.
void check_grids(const Loaded& loaded, const std::string& path, ArtStore& store, std::vector<Finding>& findings) {
  using Key = std::tuple<std::string, std::string, std::string>;  // image, its cells, those that would fit
  struct Told {
    Finding finding{};
    std::string of{};
    std::size_t others = 0;
  };
  std::map<Key, Told> told;
  std::int64_t looked_at = 0;
  for (const ClipInfo& clip : loaded.machine->clips()) {
    const auto on_cells = [](const FrameDef& frame) { return frame.art.rect.x < 0 && !frame.art.source.empty(); };
    const auto first = std::find_if(clip.def.frames.begin(), clip.def.frames.end(), on_cells);
    if (first == clip.def.frames.end()) continue;
    const FrameArt& art = first->art;
    const CellGrid grid{art.rect.width, art.rect.height, art.margin, art.spacing};
    std::vector<std::int32_t> cells;
    for (const FrameDef& frame : clip.def.frames) {
      std::int32_t cell = -1;
      if (on_cells(frame) && frame.art.source == art.source)
        std::from_chars(frame.art.tile.data(), frame.art.tile.data() + frame.art.tile.size(), cell);
      cells.push_back(cell);
    }
    const auto picture = store.find(art);
    if (!picture) continue;
    if (!doubtful(*picture->image, grid, cells)) continue;
    looked_at += std::int64_t{picture->image->width} * picture->image->height;
    if (looked_at > kMostPixelsRead) break;
    const auto better = better_grid(*picture->image, grid, cells);
    if (!better) continue;
    const std::string keys = grid_keys(better->grid);
    auto [entry, fresh] = told.try_emplace({art.source, grid_keys(grid), keys});
    if (!fresh) {
      ++entry->second.others;
      continue;
    }
    Finding& finding = entry->second.finding = finding_at(FindingCode::wrong_grid, loaded, path, clip.def.name);
    entry->second.of = "the clip \"" + clip.def.name.text + "\"";
    finding.message = flaw_text(*better, grid, art.source, *picture->image);
    finding.remedy = "`" + keys + "` would fit" +
                     (better->flaw == BetterGrid::Flaw::wanders ? "." : "; the numbers of `frames:` then change.");
  }
  for (auto& [key, each] : told) {
    if (each.others > 0)
      each.of += " and " + std::to_string(each.others) + (each.others == 1 ? " other" : " others") + " like it";
    each.finding.message = each.of + each.finding.message;
    findings.push_back(std::move(each.finding));
  }
}

// A look's images stand in for others: same size, same frames, and for images that clips use.
void check_looks(const Loaded& loaded, const std::string& path, ArtStore& store, std::vector<Finding>& findings) {
  for (const LookDef& look : loaded.machine->looks())
    for (const auto& [from, to] : look.art) {
      const auto report = [&](const std::string& what, const std::string& remedy) {
        Finding& finding = findings.emplace_back(finding_at(FindingCode::look_misfit, loaded, path, look.name));
        finding.message = "the look \"" + look.name.text + "\": " + what;
        finding.remedy = remedy;
      };
      bool used = false;
      std::string told;
      for (const ClipInfo& clip : loaded.machine->clips())
        for (const FrameDef& frame : clip.def.frames) {
          if (frame.art.source != from) continue;
          used = true;
          FrameArt other = frame.art;
          other.source = to;
          const auto before = store.find(frame.art);
          const auto after = store.find(other);
          if (!before || !told.empty() || (!after && store.left_out(to))) continue;
          if (!after)
            told = after.error().message;
          else if (before->image->width != after->image->width || before->image->height != after->image->height)
            told = to + " is " + size_text(*after->image) + " pixels, " + from + " " + size_text(*before->image);
        }
      if (!used)
        report("no clip uses " + from, "Name an image as the clips name it.");
      else if (!told.empty())
        report(told, path_remedy(store.path_of(to), "Its frames lie at the same places and are as many."));
    }
}

}  // namespace

void honour_accepts(const MachineDef& definition, std::vector<Finding>& art, std::vector<ProvedFinding>& logic) {
  const auto accepts = [&](const std::vector<Text>& accept, const std::string& code, const std::string& name) {
    bool found = false;
    for (const Text& each : accept) {
      if (each.text != code && each.text != code + " " + name) continue;
      found = true;
      // It was of use.
      std::erase_if(logic, [&](const ProvedFinding& idle) {
        return idle.finding.code == FindingCode::idle_accept && idle.finding.line == each.place.line &&
               idle.finding.column == each.place.column && idle.finding.file == definition.files[each.place.file];
      });
    }
    return found;
  };
  std::erase_if(art, [&](const Finding& finding) {
    const std::string code(text_of(finding.code));
    bool accepted = accepts(definition.accept, code, finding.subject);
    for (const ClipDef& clip : definition.clips)
      if (clip.name.text == finding.subject) accepted = accepts(clip.accept, code, "") || accepted;
    return accepted;
  });
}

std::vector<Finding> art_file_findings(const Loaded& loaded, const std::string& path) {
  std::vector<Finding> out;
  ArtStore store(folder_of_art(path));  // each image is read once for both
  store.spend_at_most(kMostPixelsRead, kMostPixelsOfImage);
  check_art(loaded, path, store, out);
  check_grids(loaded, path, store, out);
  check_looks(loaded, path, store, out);
  return out;
}

}  // namespace mobrin
