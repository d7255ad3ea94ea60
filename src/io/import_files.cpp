#include "import_files.hpp"

#include <algorithm>
#include <filesystem>
#include <set>

#include "loader.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/load.hpp"
#include "yaml_tree.hpp"

namespace mobrin::io {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t kMostEntries = 20'000;
constexpr int kDeepest = 4;

bool is_text(const fs::path& path) {
  const std::string end = path.extension().string();
  return end == ".yaml" || end == ".yml" || end == ".json";
}

void list(const fs::path& folder, bool below, std::vector<std::string>& out) {
  std::error_code error;
  std::size_t seen = 0;
  const auto take = [&](const fs::directory_entry& entry) {
    if (entry.is_regular_file(error) && is_text(entry.path())) out.push_back(entry.path().generic_string());
    return ++seen < kMostEntries;
  };
  if (!below) {
    for (fs::directory_iterator at(folder, fs::directory_options::skip_permission_denied, error), end;
         !error && at != end; at.increment(error))
      if (!take(*at)) return;
    return;
  }
  for (fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, error), end;
       !error && at != end; at.increment(error)) {
    if (at.depth() >= kDeepest) at.disable_recursion_pending();
    if (!take(*at)) return;
  }
}

}  // namespace

std::vector<FileOfMarks> files_of_marks(const std::string& clips, const std::vector<std::string>& beside) {
  const fs::path own = whole_path(clips);
  const fs::path folder = fs::path(clips).has_parent_path() ? fs::path(clips).parent_path() : fs::path(".");
  std::vector<std::string> candidates = beside;
  list(folder, true, candidates);
  list(folder / "..", false, candidates);
  list(folder / ".." / "..", false, candidates);
  // Who uses the clips file, and which files are then read with it.
  std::map<fs::path, std::string> concerned{{own, clips}};
  std::map<fs::path, std::map<std::string, std::string>> shared;
  std::string marks = clips;
  if (const std::size_t at = marks.rfind(".clips."); at != std::string::npos) {
    marks.replace(at, 7, ".marks.");
    std::error_code error;
    if (fs::exists(marks, error)) concerned.emplace(whole_path(marks), marks);
  }
  struct User {
    Loaded loaded;
    bool uses = false;
  };
  std::vector<User> users;
  std::set<fs::path> seen;
  for (const std::string& path : candidates) {
    if (!seen.insert(whole_path(path)).second) continue;
    const auto text = read_file(path);
    if (!text || text->find("use") == std::string::npos ||
        (text->find("machine") == std::string::npos && text->find("character") == std::string::npos))
      continue;
    Loaded loaded = load_whatever_is_packed(path);
    if (!loaded.has_machine || loaded.files.empty()) continue;
    const bool uses = std::any_of(loaded.files.begin(), loaded.files.end(),
                                  [&](const std::string& each) { return whole_path(each) == own; });
    if (uses)
      for (const std::string& each : loaded.files) concerned.emplace(whole_path(each), each);
    users.push_back({std::move(loaded), uses});
  }
  // A file of marks may stand on clips of one name in two files: of a machine and of a character that has its logic.
  for (const User& user : users) {
    if (!user.loaded.machine) continue;
    for (const ClipInfo& info : user.loaded.machine->clips()) {
      if (info.def.name.place.file >= user.loaded.files.size()) continue;
      const std::string& from = user.loaded.files[info.def.name.place.file];
      if (whole_path(from) == own) continue;
      for (const std::string& each : user.loaded.files) shared[whole_path(each)].emplace(info.def.name.text, from);
    }
  }
  std::vector<FileOfMarks> out;
  for (const auto& [path, shown] : concerned) {
    const auto text = path == own ? Result<std::string>(std::string()) : read_file(shown);
    if (!text) continue;
    FileOfMarks& file = out.emplace_back();
    file.path = shown;
    file.text = *text;
    if (const auto found = shared.find(path); found != shared.end() && path != own) file.shared = found->second;
  }
  return out;
}

}  // namespace mobrin::io
