// Grids and the pictures between their lines.
#include "mobrin/io/cells.hpp"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <cstring>
#include <iterator>
#include <utility>

namespace mobrin {
namespace {

constexpr std::int32_t kMostMargin = 16, kMostSpacing = 8, kLeastCell = 8;

// The image with its axes as they are, or exchanged: what is said of columns then holds for rows.
class Turned {
 public:
  Turned(const Image& image, bool turned) : image_(&image), turned_(turned) {}
  [[nodiscard]] std::int32_t width() const { return turned_ ? image_->height : image_->width; }
  [[nodiscard]] std::int32_t height() const { return turned_ ? image_->width : image_->height; }
  [[nodiscard]] bool shows(std::int32_t x, std::int32_t y) const { return at(x, y)[3] >= 16; }
  // Where it shows nothing, none.
  [[nodiscard]] std::uint32_t colour(std::int32_t x, std::int32_t y) const {
    if (!shows(x, y)) return 0;
    std::uint32_t out = 0;
    std::memcpy(&out, at(x, y), sizeof out);
    return out;
  }

 private:
  [[nodiscard]] const std::uint8_t* at(std::int32_t x, std::int32_t y) const {
    if (turned_) std::swap(x, y);
    return image_->rgba.data() +
           4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(image_->width) + static_cast<std::size_t>(x));
  }

  const Image* image_;
  bool turned_;
};

// Cells along one axis.
struct Steps {
  std::int32_t size = 0, margin = 0, spacing = 0;
  [[nodiscard]] std::int32_t begin(std::int32_t cell) const { return margin + cell * (size + spacing); }
  // How many of them lie within so many pixels, the last whole.
  [[nodiscard]] std::int32_t count(std::int32_t length) const {
    return std::max(0, (length - 2 * margin + spacing) / (size + spacing));
  }
  [[nodiscard]] bool fills(std::int32_t length) const {
    const std::int32_t room = length - 2 * margin + spacing;
    return room >= size + spacing && room % (size + spacing) == 0;
  }
};
Steps steps_of(const CellGrid& grid, bool across) {
  return {across ? grid.height : grid.width, grid.margin, grid.spacing};
}

// What there is in each column, over some of the rows.
struct Columns {
  std::vector<char> shows{};  // something
  std::vector<char> joins{};  // something that goes on from the column before

  Columns(const Turned& image, const std::vector<char>& rows)
      : shows(static_cast<std::size_t>(image.width())), joins(shows.size()) {
    for (std::int32_t y = 0; y < image.height(); ++y) {
      if (!rows[static_cast<std::size_t>(y)]) continue;
      bool before = false;
      for (std::int32_t x = 0; x < image.width(); ++x) {
        const bool here = image.shows(x, y);
        if (here) shows[static_cast<std::size_t>(x)] = 1;
        if (here && before) joins[static_cast<std::size_t>(x)] = 1;
        before = here;
      }
    }
  }
  [[nodiscard]] bool any(std::int32_t from, std::int32_t to) const {
    return std::find(shows.begin() + from, shows.begin() + to, 1) != shows.begin() + to;
  }
  // Whether the steps cut through nothing and leave nothing out, and only the last of their cells may be empty.
  [[nodiscard]] bool part_by(const Steps& steps) const {
    const auto length = static_cast<std::int32_t>(shows.size());
    if (!steps.fills(length) || any(0, steps.margin) || any(length - steps.margin, length)) return false;
    const std::int32_t count = steps.count(length);
    bool ended = false;
    for (std::int32_t cell = 0; cell < count; ++cell) {
      const std::int32_t from = steps.begin(cell);
      if (cell > 0 &&
          (steps.spacing > 0 ? any(from - steps.spacing, from) : joins[static_cast<std::size_t>(from)] != 0))
        return false;
      const bool empty = !any(from, from + steps.size);
      if (ended && !empty) return false;
      ended = ended || empty;
      if (cell == 0 && empty) return false;
    }
    return true;
  }
  // How far the middle of what cells show differs from cell to cell, at most.
  [[nodiscard]] double spread(const Steps& steps) const {
    double least = 0, most = 0;
    bool first = true;
    for (std::int32_t cell = 0; cell < steps.count(static_cast<std::int32_t>(shows.size())); ++cell) {
      const auto begin = shows.begin() + steps.begin(cell), end = begin + steps.size;
      const auto from = std::find(begin, end, 1);
      if (from == end) continue;
      const auto last = std::find(std::make_reverse_iterator(end), std::make_reverse_iterator(from), 1).base();
      const double middle = static_cast<double>((from - begin) + (last - begin)) / 2;
      least = first ? middle : std::min(least, middle);
      most = first ? middle : std::max(most, middle);
      first = false;
    }
    return most - least;
  }
  // The smallest such cells with this margin and spacing; 0 if there are none.
  [[nodiscard]] std::int32_t smallest(std::int32_t margin, std::int32_t spacing) const {
    const auto length = static_cast<std::int32_t>(shows.size());
    for (std::int32_t count = length / kLeastCell; count >= 1; --count) {
      const std::int32_t room = length - 2 * margin - (count - 1) * spacing;
      if (room >= kLeastCell * count && room % count == 0 && part_by({room / count, margin, spacing}))
        return room / count;
    }
    return 0;
  }
};

// Those of one row of cells, or of several.
std::vector<char> rows_of(std::int32_t height, const Steps& steps, const std::vector<std::int32_t>& used) {
  std::vector<char> rows(static_cast<std::size_t>(height));
  for (const std::int32_t cell : used) std::fill_n(rows.begin() + steps.begin(cell), steps.size, 1);
  return rows;
}

// Margins and spacings, what is next to nothing first.
std::vector<std::pair<std::int32_t, std::int32_t>> margins_and_spacings() {
  std::vector<std::pair<std::int32_t, std::int32_t>> out;
  for (std::int32_t sum = 0; sum <= kMostMargin + kMostSpacing; ++sum)
    for (std::int32_t spacing = std::min(sum, kMostSpacing); spacing >= 0; --spacing)
      if (sum - spacing <= kMostMargin) out.emplace_back(sum - spacing, spacing);
  return out;
}

// Which of two grids that part a sheet is rather the one it was drawn on: that of more cells, then that in which
// pictures stand alike and whose sizes are as people choose them.
struct Likely {
  CellGrid grid{};
  std::int64_t cells = 0;
  double oddity = 0;

  Likely() = default;
  // The image by its columns, and by its rows.
  Likely(const CellGrid& of, const Columns& columns, const Columns& rows) : grid(of) {
    const Steps along = steps_of(of, false), down = steps_of(of, true);
    cells = std::int64_t{along.count(static_cast<std::int32_t>(columns.shows.size()))} *
            down.count(static_cast<std::int32_t>(rows.shows.size()));
    oddity = of.margin + of.spacing + columns.spread(along) + rows.spread(down);
    for (const std::int32_t size : {of.width, of.height})
      oddity += size % 8 == 0 ? 0 : size % 4 == 0 ? 1 : size % 2 == 0 ? 2 : 3;
  }
  [[nodiscard]] bool before(const Likely& other) const {
    return cells != other.cells ? cells > other.cells : oddity < other.oddity;
  }
};

// The cells in use, by column and row.
struct Used {
  std::vector<std::int32_t> columns{}, rows{};
  std::vector<std::array<std::int32_t, 2>> cells{};  // column, row

  Used(const Image& image, const CellGrid& grid, std::span<const std::int32_t> numbers) {
    const std::int32_t wide = steps_of(grid, false).count(image.width), high = steps_of(grid, true).count(image.height);
    for (const std::int32_t number : numbers) {
      if (wide == 0 || number < 0 || number / wide >= high) continue;
      cells.push_back({number % wide, number / wide});
      columns.push_back(number % wide);
      rows.push_back(number / wide);
    }
    for (auto* each : {&columns, &rows}) {
      std::sort(each->begin(), each->end());
      each->erase(std::unique(each->begin(), each->end()), each->end());
    }
    std::sort(cells.begin(), cells.end());
    cells.erase(std::unique(cells.begin(), cells.end()), cells.end());
  }
};

// The borders of the cells in use, on one axis: how many there are, and which cut through something.
struct Cuts {
  std::size_t borders = 0, cut = 0;
  std::vector<std::int32_t> at{}, whole{};  // where; the second those that do not

  Cuts(const Turned& image, const Steps& along, const Steps& across, const Used& used, bool turned) {
    for (const auto& cell : used.cells) {
      const std::int32_t from = along.begin(cell[turned ? 1 : 0]), top = across.begin(cell[turned ? 0 : 1]);
      for (const auto& [inside, outside] :
           {std::array{from, from - 1}, std::array{from + along.size - 1, from + along.size}}) {
        if (outside < 0 || outside >= image.width()) continue;
        ++borders;
        bool through = false;
        for (std::int32_t y = top; y < top + across.size && !through; ++y)
          through = image.shows(inside, y) && image.shows(outside, y);
        cut += through ? 1 : 0;
        (through ? at : whole).push_back(std::max(inside, outside));
      }
    }
    for (auto* each : {&at, &whole}) {
      std::sort(each->begin(), each->end());
      each->erase(std::unique(each->begin(), each->end()), each->end());
    }
  }
  // Enough of them to look for another grid.
  [[nodiscard]] bool many() const { return cut >= 2 && 4 * cut >= borders; }
  // Whether all that the other does not cut as well are cut through: so of cells of half the size.
  [[nodiscard]] bool all_but(const Steps& other, std::int32_t length) const {
    return cut >= 4 && std::all_of(whole.begin(), whole.end(), [&](std::int32_t border) {
             for (std::int32_t cell = 0; cell <= other.count(length); ++cell)
               if (border == other.begin(cell)) return true;
             return false;
           });
  }
};

// How far the middle of what the cells show differs from cell to cell; it is measured by columns.
double spread(const Turned& image, const Steps& along, const Steps& across, const Used& used, bool turned) {
  double least = 0, most = 0;
  bool first = true;
  for (const auto& cell : used.cells) {
    const std::int32_t from = along.begin(cell[turned ? 1 : 0]), top = across.begin(cell[turned ? 0 : 1]);
    double sum = 0;
    std::int64_t count = 0;
    for (std::int32_t y = top; y < std::min(top + across.size, image.height()); ++y)
      for (std::int32_t x = from; x < std::min(from + along.size, image.width()); ++x)
        if (image.shows(x, y)) sum += x - from, ++count;
    if (count == 0) continue;
    const double middle = sum / static_cast<double>(count);
    least = first ? middle : std::min(least, middle);
    most = first ? middle : std::max(most, middle);
    first = false;
  }
  return most - least;
}

// How like each other two parts of a cell are: pictures of a movement show nearly the same in nearly one place; what a
// picture holds twice is the very same, or its mirror image.
struct Likeness {
  std::int64_t both = 0, either = 0;
  bool same = true, mirrored = true;

  Likeness(const Turned& image, std::int32_t left, std::int32_t right, std::int32_t width, std::int32_t top,
           std::int32_t height) {
    for (std::int32_t y = top; y < top + height; ++y)
      for (std::int32_t x = 0; x < width; ++x) {
        const bool a = image.shows(left + x, y), b = image.shows(right + x, y);
        both += a && b ? 1 : 0;
        either += a || b ? 1 : 0;
        same = same && image.colour(left + x, y) == image.colour(right + x, y);
        mirrored = mirrored && image.colour(left + x, y) == image.colour(right + width - 1 - x, y);
      }
  }
};

// Whether each of the cells in use, two at least, is so many pictures side by side, the last perhaps fewer.
bool holds(const Turned& image, const Steps& along, const Steps& across, const Used& used, bool turned,
           const Steps& parts, std::int32_t count) {
  constexpr double kAlike = 0.5, kLeastAlike = 0.2;
  double sum = 0;
  std::int32_t pairs = 0;
  bool same = true, mirrored = true;
  for (const auto& cell : used.cells) {
    const std::int32_t from = along.begin(cell[turned ? 1 : 0]), top = across.begin(cell[turned ? 0 : 1]);
    const auto shows = [&](std::int32_t x) {
      for (std::int32_t y = top; y < top + across.size; ++y)
        if (image.shows(x, y) && (parts.spacing > 0 || image.shows(x - 1, y))) return true;
      return false;
    };
    for (std::int32_t part = 1; part < count; ++part) {
      const std::int32_t begin = from + part * (parts.size + parts.spacing);
      for (std::int32_t x = begin - parts.spacing; x < begin + (parts.spacing > 0 ? 0 : 1); ++x)
        if (shows(x)) return false;
      const Likeness pair(image, begin - parts.size - parts.spacing, begin, parts.size, top, across.size);
      const double alike = static_cast<double>(pair.both) / static_cast<double>(std::max<std::int64_t>(1, pair.either));
      if (pair.both == 0 && &cell == &used.cells.back()) break;
      if (alike < kLeastAlike) return false;
      sum += alike, ++pairs;
      same = same && pair.same;
      mirrored = mirrored && pair.mirrored;
    }
  }
  return used.cells.size() >= 2 && pairs > 0 && sum >= kAlike * pairs && !same && !mirrored;
}

// The size of the pictures of which each cell holds several; 0 where it does not.
std::int32_t size_of_several(const Image& image, const CellGrid& grid, const Used& used, bool turned) {
  const Turned seen(image, turned);
  const Steps along = steps_of(grid, turned), across = steps_of(grid, !turned);
  for (std::int32_t count = along.size / kLeastCell; count >= 2; --count) {
    const std::int32_t room = along.size - (count - 1) * along.spacing;
    if (room < count * kLeastCell || room % count != 0) continue;
    if (holds(seen, along, across, used, turned, {room / count, 0, along.spacing}, count)) return room / count;
  }
  return 0;
}

// What speaks against a grid, by columns and by rows.
struct Doubt {
  Used used;
  std::array<Cuts, 2> cuts;
  std::array<bool, 2> left_over{};        // pixels, of more than two cells in a row
  std::array<std::int32_t, 2> several{};  // the size of each of the pictures that a cell holds several of; 0

  Doubt(const Image& image, const CellGrid& grid, std::span<const std::int32_t> cells)
      : used(image, grid, cells), cuts{of(image, grid, false), of(image, grid, true)} {
    for (const bool turned : {false, true}) {
      const std::vector<std::int32_t>& columns = turned ? used.rows : used.columns;
      left_over[turned ? 1 : 0] = !columns.empty() && columns.back() - columns.front() >= 2 &&
                                  !steps_of(grid, turned).fills(Turned(image, turned).width());
      several[turned ? 1 : 0] = cut(false) || cut(true) ? 0 : size_of_several(image, grid, used, turned);
    }
  }
  [[nodiscard]] bool cut(bool turned) const { return cuts[turned ? 1 : 0].many(); }
  [[nodiscard]] bool any() const {
    return cut(false) || cut(true) || left_over[0] || left_over[1] || several[0] != 0 || several[1] != 0;
  }

 private:
  [[nodiscard]] Cuts of(const Image& image, const CellGrid& grid, bool turned) const {
    return {Turned(image, turned), steps_of(grid, turned), steps_of(grid, !turned), used, turned};
  }
};

// Of the axis that the grid in use cuts.
std::optional<BetterGrid> parted(const Image& image, const CellGrid& grid, const Doubt& doubt, bool turned) {
  const Turned seen(image, turned);
  const Steps mine = steps_of(grid, turned), other = steps_of(grid, !turned);
  const bool other_cut = doubt.cut(!turned);
  const Cuts& cuts = doubt.cuts[turned ? 1 : 0];
  const std::vector<char> rows = other_cut
                                     ? std::vector<char>(static_cast<std::size_t>(seen.height()), 1)
                                     : rows_of(seen.height(), other, turned ? doubt.used.columns : doubt.used.rows);
  const Columns columns(seen, rows);
  const Columns crossing(Turned(image, !turned), std::vector<char>(static_cast<std::size_t>(seen.width()), 1));
  Likely best;
  for (const auto& [margin, spacing] : margins_and_spacings()) {
    CellGrid out = grid;
    out.margin = margin, out.spacing = spacing;
    std::int32_t& size = turned ? out.height : out.width;
    size = columns.smallest(margin, spacing);
    if (size == 0 || size == seen.width() - 2 * margin) continue;  // all in one
    // The other axis has the same margin and spacing, and its own size where it can.
    std::int32_t& across = turned ? out.width : out.height;
    if (other_cut || !steps_of(out, !turned).fills(seen.height())) across = crossing.smallest(margin, spacing);
    if (across == 0) continue;
    if (const Likely now(out, turned ? crossing : columns, turned ? columns : crossing); now.before(best)) best = now;
  }
  if (best.cells == 0 || best.grid == grid) return std::nullopt;
  const Steps found = steps_of(best.grid, turned);
  if (found.size % mine.size == 0 && found.margin == mine.margin && found.spacing == mine.spacing &&
      !cuts.all_but(found, seen.width()))
    return std::nullopt;
  return BetterGrid{best.grid, BetterGrid::Flaw::cuts, cuts.at, turned};
}

// A spacing that was forgotten, or a size that is not quite right: pixels are left over, and what is drawn in the cells
// wanders from each to the next, and does not in the other grid.
bool wanders(const Image& image, const CellGrid& grid, const CellGrid& found, const Used& used, bool turned) {
  const Turned seen(image, turned);
  const Steps mine = steps_of(grid, turned), other = steps_of(found, turned);
  const std::vector<std::int32_t>& columns = turned ? used.rows : used.columns;
  const std::int32_t apart = columns.back() - columns.front();
  const std::int32_t off = std::abs(other.size + other.spacing - mine.size - mine.spacing);
  if (off == 0 || columns.back() >= other.count(seen.width())) return false;
  const double before = spread(seen, mine, steps_of(grid, !turned), used, turned);
  const double after = spread(seen, other, steps_of(found, !turned), used, turned);
  return before - after >= std::max(1.5, 0.6 * off * apart);
}

// Whether the cells show at least three pictures, of like size: the parts of one picture seldom are.
bool of_like_size(const Image& image, const CellGrid& grid) {
  const Turned seen(image, false);
  const Steps along = steps_of(grid, false), down = steps_of(grid, true);
  std::int64_t shown = 0, least = 0, most = 0;
  for (std::int32_t y = 0; y < down.count(image.height); ++y)
    for (std::int32_t x = 0; x < along.count(image.width); ++x) {
      std::int64_t pixels = 0;
      for (std::int32_t j = 0; j < grid.height; ++j)
        for (std::int32_t i = 0; i < grid.width; ++i)
          pixels += seen.shows(along.begin(x) + i, down.begin(y) + j) ? 1 : 0;
      if (pixels == 0) continue;
      least = shown == 0 ? pixels : std::min(least, pixels);
      most = std::max(most, pixels);
      ++shown;
    }
  return shown >= 3 && 4 * least >= most;
}

}  // namespace

std::string grid_keys(const CellGrid& grid) {
  return "tile: [" + std::to_string(grid.width) + ", " + std::to_string(grid.height) + "]" +
         (grid.margin > 0 ? ", margin: " + std::to_string(grid.margin) : "") +
         (grid.spacing > 0 ? ", spacing: " + std::to_string(grid.spacing) : "");
}

bool doubtful(const Image& image, const CellGrid& grid, std::span<const std::int32_t> cells) {
  return Doubt(image, grid, cells).any();
}

std::optional<BetterGrid> better_grid(const Image& image, const CellGrid& grid, std::span<const std::int32_t> cells) {
  const Doubt doubt(image, grid, cells);
  if (!doubt.any()) return std::nullopt;
  for (const bool turned : {false, true})
    if (doubt.cut(turned))
      if (auto found = parted(image, grid, doubt, turned)) return found;
  for (const bool turned : {false, true})
    if (doubt.left_over[turned ? 1 : 0])
      for (const auto& found : {grid_of(image, grid), grid_of(image)})
        if (found && wanders(image, grid, *found, doubt.used, turned))
          return BetterGrid{*found, BetterGrid::Flaw::wanders, {}, turned};
  if (doubt.several[0] == 0 && doubt.several[1] == 0) return std::nullopt;
  BetterGrid out{grid, BetterGrid::Flaw::several, {}, doubt.several[0] == 0};
  if (doubt.several[0] != 0) out.grid.width = doubt.several[0];
  if (doubt.several[1] != 0) out.grid.height = doubt.several[1];
  return out;
}

std::optional<CellGrid> grid_of(const Image& image, const std::optional<CellGrid>& size) {
  const auto all = [](std::int32_t rows) { return std::vector<char>(static_cast<std::size_t>(rows), 1); };
  const Columns columns(Turned(image, false), all(image.height)), rows(Turned(image, true), all(image.width));
  Likely best;
  for (const auto& [margin, spacing] : margins_and_spacings()) {
    CellGrid out{size ? size->width : columns.smallest(margin, spacing),
                 size ? size->height : rows.smallest(margin, spacing), margin, spacing};
    if (out.width == 0 || out.height == 0) continue;
    if (size && (!columns.part_by(steps_of(out, false)) || !rows.part_by(steps_of(out, true)))) continue;
    if (const Likely now(out, columns, rows); now.before(best)) best = now;
  }
  return best.cells > 0 && of_like_size(image, best.grid) ? std::optional(best.grid) : std::nullopt;
}

}  // namespace mobrin
