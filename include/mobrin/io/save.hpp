// Saves: an instance's state as JSON, by names, so that it outlives the next patch of its machine.
#pragma once

#include <string>
#include <string_view>

#include "mobrin/core/carry.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// The state of `instance` as JSON text. Numbers are exact: loading it into the same machine goes on bit for bit.
[[nodiscard]] std::string save_text(const Instance& instance);
[[nodiscard]] std::string save_text(const SavedInstance& saved);

/// Reads what save_text() wrote. Never throws; text that is no save is an error that says where and why.
[[nodiscard]] Result<SavedInstance> read_save(std::string_view text);

}  // namespace mobrin
