// Whether a grid of equal cells is the one that a sheet was drawn on, seen in its pixels.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "mobrin/io/image.hpp"

namespace mobrin {

/// Equal cells, side by side from the top left, all in pixels.
struct CellGrid {
  std::int32_t width = 0;                                     ///< of a cell, at least 1
  std::int32_t height = 0;                                    ///< of a cell, at least 1
  std::int32_t margin = 0;                                    ///< around all cells, at least 0
  std::int32_t spacing = 0;                                   ///< between two cells, at least 0
  bool operator==(const CellGrid&) const noexcept = default;  ///< the same cells
};

/// As a clips file says it: `tile: [32, 32], spacing: 1`.
[[nodiscard]] std::string grid_keys(const CellGrid& grid);

/// A grid that fits a sheet's pictures where the one in use does not.
struct BetterGrid {
  /// What is wrong with the one in use.
  enum class Flaw : std::uint8_t {
    cuts,     ///< it parts pictures
    wanders,  ///< pictures stand elsewhere in each of its cells
    several,  ///< each of its cells holds several pictures
  };
  CellGrid grid{};                 ///< cuts through no picture
  Flaw flaw = Flaw::cuts;          ///< of the one in use
  std::vector<std::int32_t> at{};  ///< where it parts them: pixels from the image's left; else from its top
  bool across = false;             ///< those are rows, from its top
};

/// Whether there is anything that speaks against a grid: it cuts through something, leaves pixels over, or holds several
/// pictures in each cell. Looks at the cells in use once, where better_grid() looks at the whole image several times.
[[nodiscard]] bool doubtful(const Image& image, const CellGrid& grid, std::span<const std::int32_t> cells);

/// Empty where the grid in use cuts no picture, or where no other explains them better: what touches its neighbour may
/// be drawn so. `cells` are those in use, numbered row by row from the top left; what lies outside of the image is
/// passed over. A pixel shows something from an opacity of 16 of 255 on. REQUIRES: a `width` and `height` of at
/// least 1.
[[nodiscard]] std::optional<BetterGrid> better_grid(const Image& image, const CellGrid& grid,
                                                    std::span<const std::int32_t> cells);

/// The smallest cells that part a sheet into at least three pictures of like size and cut through none of them; empty
/// where there are none. Without `size` any cells of at least 8 pixels, else those with the same width and height.
[[nodiscard]] std::optional<CellGrid> grid_of(const Image& image, const std::optional<CellGrid>& size = {});

}  // namespace mobrin
