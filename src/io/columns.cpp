// Columns of bytes made columns of characters.
#include "columns.hpp"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace mobrin::io {
namespace {

class Columns {
 public:
  explicit Columns(std::string_view text) : lines_{0} {
    for (std::uint32_t at = 0; at < text.size(); ++at) {
      if (text[at] == '\n') lines_.push_back(at + 1);
      if (goes_on(text[at])) inner_.push_back(at);
    }
  }
  // Of what stands at a column that counts bytes.
  [[nodiscard]] std::uint32_t of(std::uint32_t line, std::uint32_t column) const {
    if (line == 0 || line > lines_.size() || column == 0) return column;
    const std::uint32_t begin = lines_[line - 1];
    return column - static_cast<std::uint32_t>(inner_before(begin + column - 1) - inner_before(begin));
  }
  void count(YamlNode& node) const {
    node.column = of(node.line, node.column);
    for (YamlNode& item : node.items) count(item);
    for (YamlEntry& entry : node.entries) count(entry.key), count(entry.value);
  }

 private:
  [[nodiscard]] std::ptrdiff_t inner_before(std::uint32_t at) const {
    return std::lower_bound(inner_.begin(), inner_.end(), at) - inner_.begin();
  }

  std::vector<std::uint32_t> lines_;  // where each begins
  std::vector<std::uint32_t> inner_;  // bytes of letters, but the first of each
};

}  // namespace

std::size_t characters(std::string_view text) {
  return text.size() - static_cast<std::size_t>(std::count_if(text.begin(), text.end(), goes_on));
}

void count_characters(std::string_view text, YamlNode& root, std::span<Finding> findings) {
  if (std::none_of(text.begin(), text.end(), goes_on)) return;
  const Columns columns(text);
  columns.count(root);
  for (Finding& finding : findings) finding.column = columns.of(finding.line, finding.column);
}

}  // namespace mobrin::io
