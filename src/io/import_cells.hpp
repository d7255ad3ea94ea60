// A sheet that is divided into equal cells.
#pragma once

#include <algorithm>
#include <optional>
#include <string>
#include <utility>

#include "mobrin/io/cells.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"

namespace mobrin::io {

// Whether a grid has sizes that an image may be divided by.
[[nodiscard]] inline bool is_grid(const SheetGrid& grid) {
  constexpr std::int32_t kMost = 1 << 16;
  return std::min(grid.width, grid.height) >= 1 && std::min(grid.margin, grid.spacing) >= 0 &&
         std::max({grid.width, grid.height, grid.margin, grid.spacing}) <= kMost;
}

// How many cells fit side by side; 0 where some pixels are left over: so many cells would take so many pixels.
struct Fit {
  std::int32_t count = 0;
  std::int64_t next = 0, taken = 0;
};
// REQUIRES: is_grid().
[[nodiscard]] inline Fit fit(std::int32_t whole, std::int32_t cell, const SheetGrid& grid) {
  const std::int64_t room = std::int64_t{whole} - std::int64_t{2} * grid.margin + grid.spacing;
  const std::int64_t count = room / (cell + grid.spacing);
  if (count >= 1 && room % (cell + grid.spacing) == 0) return {static_cast<std::int32_t>(count)};
  const std::int64_t next = std::max<std::int64_t>(count, 0) + 1;
  return {0, next, std::int64_t{2} * grid.margin + next * cell + (next - 1) * grid.spacing};
}

// "3 columns of 48 would take 144 with margin and spacing", of what does not fit.
[[nodiscard]] inline std::string pixels_taken(const Fit& fit, const char* cells, std::int32_t cell,
                                              const SheetGrid& grid) {
  return std::to_string(fit.next) + " " + cells + " of " + std::to_string(cell) + " would take " +
         std::to_string(fit.taken) + (grid.margin + grid.spacing > 0 ? " with margin and spacing" : "");
}

[[nodiscard]] inline CellGrid cells_of(const SheetGrid& grid) {
  return {grid.width, grid.height, grid.margin, grid.spacing};
}
// As the options of an import say it: `--tile 32x32 --spacing 1`.
[[nodiscard]] inline std::string grid_options(const CellGrid& grid) {
  return "--tile " + std::to_string(grid.width) + "x" + std::to_string(grid.height) +
         (grid.margin > 0 ? " --margin " + std::to_string(grid.margin) : "") +
         (grid.spacing > 0 ? " --spacing " + std::to_string(grid.spacing) : "");
}
// What would fit a sheet's pictures, to go on with; empty where that cannot be seen.
[[nodiscard]] inline std::string fitting(const Image& image, const std::optional<SheetGrid>& asked = {}) {
  std::optional<CellGrid> found;
  if (asked) found = grid_of(image, cells_of(*asked));
  if (!found) found = grid_of(image);
  return found ? "; `" + grid_options(*found) + "` would fit its pictures" : std::string();
}
[[nodiscard]] inline std::string fitting(const std::string& path) {
  const auto image = load_image(path);
  return image ? fitting(*image) : std::string();
}

// A sheet of equal cells, as the options of an import say.
struct CellSheet {
  const SheetGrid& grid;
  const Image& image;
  std::string shown;
  std::int32_t columns = 0, rows = 0, cells = 0;
  [[nodiscard]] PixelRect part(std::int32_t cell) const {
    return {grid.margin + cell % columns * (grid.width + grid.spacing),
            grid.margin + cell / columns * (grid.height + grid.spacing), grid.width, grid.height};
  }
  // Why there is no such row, and what to do; empty where there is one.
  [[nodiscard]] std::pair<std::string, std::string> lacks(std::int32_t row) const {
    if (row < 0 || row >= rows)
      return {
          "there is no row " + std::to_string(row) + "; the sheet has " + std::to_string(rows) + ", numbered from 0",
          "Check `--row`."};
    if (row * columns < cells) return {};
    return {"row " + std::to_string(row) + " begins behind the first " + std::to_string(cells) + " cells",
            "`--count` counts the cells of the whole sheet: raise it, or leave it out."};
  }
  [[nodiscard]] bool empty(std::int32_t cell) const {
    const PixelRect where = part(cell);
    for (std::int32_t y = where.y; y < where.y + where.height; ++y)
      for (std::int32_t x = where.x; x < where.x + where.width; ++x) {
        const std::size_t pixel =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(x);
        if (image.rgba[pixel * 4 + 3] != 0) return false;
      }
    return true;
  }
  // How many of the cells [first, last) are empty, and their numbers in words.
  [[nodiscard]] std::pair<std::size_t, std::string> empty_among(std::int32_t first, std::int32_t last) const {
    constexpr std::size_t kMostNamed = 8;
    std::size_t count = 0;
    std::string numbers;
    for (std::int32_t cell = first; cell < last; ++cell)
      if (empty(cell) && ++count <= kMostNamed) numbers += (numbers.empty() ? "" : ", ") + std::to_string(cell);
    return {count, numbers + (count > kMostNamed ? ", ..." : "")};
  }
};

}  // namespace mobrin::io
