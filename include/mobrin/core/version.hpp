// The version of these headers. CMakeLists.txt reads it from here.
#pragma once

#define MOBRIN_VERSION_MAJOR 0
#define MOBRIN_VERSION_MINOR 1
#define MOBRIN_VERSION_PATCH 0
/// One number to compare: `#if MOBRIN_VERSION >= 200` asks for 0.2.0 or later.
#define MOBRIN_VERSION (MOBRIN_VERSION_MAJOR * 10000 + MOBRIN_VERSION_MINOR * 100 + MOBRIN_VERSION_PATCH)

namespace mobrin {

/// MOBRIN_VERSION of the library that is linked; another one than the headers' means that the two do not belong
/// together.
[[nodiscard]] int linked_version();

}  // namespace mobrin
