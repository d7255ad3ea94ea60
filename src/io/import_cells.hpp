// A sheet that is divided into equal cells.
#pragma once

#include <string>

#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"

namespace mobrin::io {

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
};

}  // namespace mobrin::io
