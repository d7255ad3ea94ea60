// Whether the processor computes floating-point numbers as everywhere else.
#pragma once

namespace mobrin {

/// Runs are the same, bit for bit, where floats are rounded to nearest and the smallest are not flushed to zero: as
/// every program starts. False where this thread was set otherwise (by the game, or a library it loads): then values of
/// guards, speeds and inputs may differ from other machines'. Mobrin reads no mode and changes none; builds with
/// asserts check this when an instance or a crowd is made.
[[nodiscard]] bool floats_are_exact();

}  // namespace mobrin
