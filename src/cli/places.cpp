#include "places.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>

namespace mobrin::cli {

std::vector<std::string> files_at(const std::vector<std::string>& places,
                                  const std::function<bool(const std::string&)>& wanted) {
  namespace fs = std::filesystem;
  std::vector<std::string> out;
  for (const std::string& place : places) {
    std::error_code error;
    if (!fs::is_directory(place, error)) {
      out.push_back(place);
      continue;
    }
    std::vector<std::string> here;
    for (fs::recursive_directory_iterator at(place, fs::directory_options::skip_permission_denied, error), end;
         !error && at != end; at.increment(error)) {
      const std::string path = at->path().lexically_normal().generic_string();
      const bool text = path.ends_with(".yaml") || path.ends_with(".yml") || path.ends_with(".json");
      if (text && at->is_regular_file(error) && wanted(path)) here.push_back(path);
    }
    std::sort(here.begin(), here.end());
    out.insert(out.end(), here.begin(), here.end());
  }
  return out;
}

bool says_mobrin(const std::string& path) {
  constexpr std::size_t kMost = 1 << 16;  // it stands near the begin
  std::ifstream in(path, std::ios::binary);
  std::string text(kMost, '\0');
  in.read(text.data(), static_cast<std::streamsize>(text.size()));
  text.resize(static_cast<std::size_t>(in.gcount()));
  if (text.starts_with("\xEF\xBB\xBF")) text.erase(0, 3);
  return text.starts_with("mobrin:") || text.find("\nmobrin:") != std::string::npos ||
         text.find("\"mobrin\"") != std::string::npos;
}

}  // namespace mobrin::cli
