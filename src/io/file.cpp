#include "mobrin/io/file.hpp"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <random>

#include "mobrin/core/names.hpp"

namespace mobrin {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t kMostBeside = 10'000;  // names looked through for one that is near

// Says what stands in the way, where that can be seen.
Error unwritable(const std::string& path) {
  const std::string what = "\"" + path + "\" cannot be written";
  std::error_code error;
  if (fs::is_directory(path, error)) return {what + ": it is a folder", "", "Name a file in it."};
  const fs::path folder = fs::path(path).parent_path();
  for (fs::path outer = folder; !outer.empty() && !fs::is_directory(outer, error); outer = outer.parent_path())
    if (fs::exists(outer, error)) return {what + ": \"" + outer.string() + "\" is no folder", "", "Name another one."};
  if (!folder.empty() && !fs::exists(folder, error))
    return {what + ": there is no folder \"" + folder.string() + "\"", "", "Make it first."};
  return {what + "; check its folder, the permissions and the room left", ""};
}

bool write_all(int file, std::string_view bytes) {
  while (!bytes.empty()) {
    const ssize_t count = ::write(file, bytes.data(), bytes.size());
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) return false;
    bytes.remove_prefix(static_cast<std::size_t>(count));
  }
  return true;
}

// A file beside the target, of a name that nobody has, complete and on the disk; gone again unless it is put in place.
class Beside {
 public:
  Beside(const std::string& path, std::string_view bytes) {
    std::error_code error;
    target_ = fs::is_symlink(path, error) ? fs::path(whole_path(path)) : fs::path(path);
    struct stat before {};
    const bool there = ::stat(target_.c_str(), &before) == 0;
    if (there && !S_ISREG(before.st_mode)) {
      plain_ = false;
      const int file = ::open(path.c_str(), O_WRONLY | O_CLOEXEC);
      ready_ = file >= 0 && write_all(file, bytes);
      if (file >= 0 && ::close(file) != 0) ready_ = false;
      return;
    }
    // What may not be written to is not replaced either.
    if (there && ::access(target_.c_str(), W_OK) != 0) return;
    std::random_device random;
    int file = -1;
    for (int attempt = 0; attempt < 100 && file < 0; ++attempt) {
      char ending[16];
      std::snprintf(ending, sizeof ending, ".%08x", static_cast<unsigned>(random()));
      name_ = (target_.parent_path() / ("." + target_.filename().string().substr(0, 200) + ending)).string();
      file = ::open(name_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666);
      if (file < 0 && errno != EEXIST) break;
    }
    if (file < 0) {
      name_.clear();
      return;
    }
    ready_ = write_all(file, bytes);
    if (there) ready_ = ready_ && ::fchmod(file, before.st_mode & 07777) == 0;
    ready_ = ready_ && ::fsync(file) == 0;
    if (::close(file) != 0) ready_ = false;
  }
  ~Beside() {
    if (!name_.empty()) (void)::unlink(name_.c_str());
  }
  Beside(Beside&& other) noexcept
      : target_(std::move(other.target_)),
        name_(std::exchange(other.name_, {})),
        plain_(other.plain_),
        ready_(other.ready_) {}
  Beside& operator=(Beside&&) = delete;

  [[nodiscard]] bool ready() const { return ready_; }

  bool put_in_place() {
    if (!plain_) return ready_;
    if (!ready_ || ::rename(name_.c_str(), target_.c_str()) != 0) return false;
    name_.clear();
    const fs::path folder = target_.has_parent_path() ? target_.parent_path() : fs::path(".");
    const int held = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (held >= 0) (void)::fsync(held), (void)::close(held);  // some file systems cannot; the file itself is safe
    return true;
  }

 private:
  fs::path target_;
  std::string name_;  // empty: there is none
  bool plain_ = true;
  bool ready_ = false;
};

}  // namespace

Outcome write_file(const std::string& path, std::string_view bytes) {
  Beside beside(path, bytes);
  return beside.ready() && beside.put_in_place() ? Outcome(Done{}) : unwritable(path);
}

Outcome write_files(const std::vector<std::pair<std::string, std::string>>& paths_and_bytes) {
  std::vector<Beside> all;
  for (const auto& [path, bytes] : paths_and_bytes) {
    all.emplace_back(path, bytes);
    if (!all.back().ready()) return unwritable(path);
  }
  for (std::size_t i = 0; i < all.size(); ++i)
    if (!all[i].put_in_place()) return unwritable(paths_and_bytes[i].first);
  return Done{};
}

bool is_plain_file(const std::string& path) {
  struct stat status {};
  return ::stat(path.c_str(), &status) == 0 && S_ISREG(status.st_mode);
}

std::string whole_path(const std::string& path) {
  std::error_code error;
  const fs::path whole = fs::weakly_canonical(path, error);
  if (error == std::errc::not_enough_memory) throw std::bad_alloc();
  return whole.string();
}

std::string path_remedy(const std::string& path, const std::string& otherwise) {
  // What stands before the endings must be near by itself: `moth.yaml` is not meant by `nothing.yaml`.
  const auto stem = [](const std::string& name) { return name.substr(0, name.find('.', 1)); };
  const fs::path wanted(path);
  std::error_code error;
  if (fs::exists(wanted, error)) return otherwise;
  const std::string name = wanted.filename().string();
  std::vector<std::string> near;
  std::size_t seen = 0;
  for (fs::directory_iterator at(wanted.has_parent_path() ? wanted.parent_path() : ".", error), end;
       !error && at != end; at.increment(error)) {
    if (++seen > kMostBeside) return otherwise;
    const std::string other = at->path().filename().string();
    if (!nearest_name(stem(name), std::array{stem(other)}).empty()) near.push_back(other);
  }
  std::sort(near.begin(), near.end());
  // Without its ending it is one of those that have no more than one.
  std::string ends;
  for (const std::string& each : near)
    if (each.size() > name.size() && each.starts_with(name + ".") &&
        each.find('.', name.size() + 1) == std::string::npos)
      ends += (ends.empty() ? "\"" : " or \"") + each + "\"";
  if (!ends.empty()) return "Did you mean " + ends + "?";
  const std::string meant = nearest_name(name, near);
  return meant.empty() ? otherwise : "Did you mean \"" + meant + "\"?";
}

Result<std::string> read_file(const std::string& path) {
  const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (file < 0) return Error{"\"" + path + "\" cannot be opened: " + std::strerror(errno), ""};
  std::string out;
  char part[65536];
  ssize_t count = 0;
  while ((count = ::read(file, part, sizeof part)) > 0 || (count < 0 && errno == EINTR))
    if (count > 0) out.append(part, static_cast<std::size_t>(count));
  const int trouble = count < 0 ? errno : 0;
  (void)::close(file);
  if (trouble != 0) return Error{"\"" + path + "\" cannot be read: " + std::strerror(trouble), ""};
  return out;
}

EditLock::EditLock(const std::string& path, double seconds) {
  std::error_code error;
  const fs::path target = fs::is_symlink(path, error) ? fs::path(whole_path(path)) : fs::path(path);
  const fs::path folder = target.has_parent_path() ? target.parent_path() : fs::path(".");
  folder_ = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (folder_ < 0) return;
  for (int tries = static_cast<int>(seconds * 100); ::flock(folder_, LOCK_EX | LOCK_NB) != 0; --tries) {
    if (errno != EWOULDBLOCK && errno != EINTR) return;  // no locks here
    if (tries <= 0) {
      held_ = false;
      return;
    }
    ::usleep(10'000);
  }
}

EditLock::~EditLock() {
  if (folder_ >= 0) (void)::close(folder_);
}

}  // namespace mobrin
