// Files and folders that a command is given.
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace mobrin::cli {

// The files among `places` as they are; in the place of a folder those below it that end as our files do and are
// `wanted`, in order.
[[nodiscard]] std::vector<std::string> files_at(const std::vector<std::string>& places,
                                                const std::function<bool(const std::string&)>& wanted);

// Whether a file says `mobrin:`, as all of ours do, whatever is wrong with it.
[[nodiscard]] bool says_mobrin(const std::string& path);

}  // namespace mobrin::cli
