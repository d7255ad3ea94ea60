// Files, written whole or not at all, by one at a time.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "mobrin/core/result.hpp"

namespace mobrin {

/// Writes `bytes` as the file at `path`: under a fresh name beside it first, then over it once the bytes are on the
/// disk. Who stops in the middle, or has no room, leaves the old file; the error names it. Its permissions stay. A link
/// stays one: the file that it leads to is written. What is no plain file (a pipe, a device) is written to as it is.
[[nodiscard]] Outcome write_file(const std::string& path, std::string_view bytes);

/// Writes several files: all of them are on the disk under fresh names before the first takes its place, so that only
/// something that happens between two renames leaves some of them old. The error names the file; none is changed where
/// one could not be prepared.
[[nodiscard]] Outcome write_files(const std::vector<std::pair<std::string, std::string>>& paths_and_bytes);

/// Whether a path is a file that can be read to its end: no folder, pipe or device. A link counts as what it leads to.
[[nodiscard]] bool is_plain_file(const std::string& path);

/// A path with its links followed and its dots taken away, as far as it is there; empty where that cannot be told.
/// Throws std::bad_alloc where memory is out: nobody may take a path for another one then.
[[nodiscard]] std::string whole_path(const std::string& path);

/// What to say of a path that cannot be read: `Did you mean "NAME"?` where nothing is there but a file or folder of the
/// same folder has a name that is close (see nearest_name; looked for among at most 10,000), else `otherwise`.
[[nodiscard]] std::string path_remedy(const std::string& path, const std::string& otherwise);

/// The bytes of a file. The error says whether it cannot be opened or not be read.
[[nodiscard]] Result<std::string> read_file(const std::string& path);

/// While it lives, no other that edits a file of the same folder can have one: who reads a file, changes it and writes
/// it back holds it all the while, so that no edit is lost. Falls away with the process.
class EditLock {
 public:
  /// Waits up to `seconds` for the folder of `path`; then held() is false, and nothing should be written. A folder that
  /// cannot be locked at all (it is not there, or its file system has no locks) does not hold anybody up.
  explicit EditLock(const std::string& path, double seconds = 10);
  ~EditLock();
  EditLock(const EditLock&) = delete;
  EditLock& operator=(const EditLock&) = delete;
  /// Whether the lock is ours.
  [[nodiscard]] bool held() const { return held_; }

 private:
  int folder_ = -1;
  bool held_ = true;
};

}  // namespace mobrin
