#include "output.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <vector>

#include "command.hpp"
#include "console.hpp"

namespace mobrin::cli {
namespace {

namespace fs = std::filesystem;

bool begins(std::string_view text, std::string_view with) {
  return text.substr(std::min(text.find_first_not_of(" \t\r\n"), text.size())).starts_with(with);
}

// Whether a file that begins so may be one of this ending.
bool is_kind(std::string_view ending, std::string_view head) {
  if (ending == ".png" || ending == ".apng") return head.starts_with("\x89PNG\r\n\x1a\n");
  if (ending == ".svg") return begins(head, "<?xml") || begins(head, "<svg");
  if (ending == ".dot") return begins(head, "digraph") || begins(head, "graph") || begins(head, "strict");
  if (ending == ".mmd")
    return begins(head, "stateDiagram") || begins(head, "flowchart") || begins(head, "%%") || begins(head, "---");
  if (ending == ".pack")
    return !begins(head, "mobrin:") && !begins(head, "{") && !begins(head, "<") && !begins(head, "#") &&
           !head.starts_with("\x89PNG") && !head.starts_with("GIF8");
  return head.find('\0') == std::string_view::npos;  // text
}

bool same_file(const std::string& a, const std::string& b) {
  std::error_code error;
  return fs::equivalent(a, b, error) && !error;
}

}  // namespace

bool can_write(const std::string& option, const std::string& path, std::initializer_list<std::string_view> endings,
               const Loaded* loaded) {
  std::error_code error;
  const auto status = fs::status(path, error);
  if (fs::exists(status) && !fs::is_regular_file(status) && !fs::is_directory(status)) return true;
  const auto refuse = [&](const std::string& what, const std::string& remedy) {
    usage(fmt::format("`{} {}` {}", option, path, what), remedy);
    return false;
  };
  if (fs::is_directory(status)) return refuse("is a folder", "Name a file in it.");
  const auto ending = std::find_if(endings.begin(), endings.end(), [&](std::string_view each) {
    return path.size() > each.size() && path.ends_with(each);
  });
  const std::string all = fmt::format("{}", fmt::join(endings, ", "));
  if (ending == endings.end())
    return refuse(
        endings.size() == 1 ? fmt::format("does not end in {}", all) : fmt::format("ends in none of {}", all),
        fmt::format("Write `{} {}{}`.", option, fs::path(path).replace_extension().string(), *endings.begin()));
  if (!fs::exists(status)) return true;
  if (loaded != nullptr) {
    std::vector<std::string> sources = loaded->files;
    const std::string folder = loaded->files.empty() ? "" : folder_of(loaded->files.front());
    if (loaded->machine)
      for (const ClipInfo& clip : loaded->machine->clips())
        for (const FrameDef& frame : clip.def.frames)
          if (!frame.art.source.empty() && (sources.empty() || sources.back() != folder + frame.art.source))
            sources.push_back(fs::path(frame.art.source).is_absolute() ? frame.art.source : folder + frame.art.source);
    for (const std::string& source : sources)
      if (same_file(source, path)) return refuse("is a source of what is written there", "Name another file.");
  }
  std::ifstream in(path, std::ios::binary);
  char head[256];
  in.read(head, sizeof head);
  const std::string_view there(head, static_cast<std::size_t>(in.gcount()));
  if (!there.empty() && !is_kind(*ending, there))
    return refuse(fmt::format("is there already, and is no {} file", ending->substr(1)),
                  "Name another file, or remove that one.");
  return true;
}

}  // namespace mobrin::cli
