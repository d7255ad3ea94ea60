#include "long_tape.hpp"

namespace mobrin::io {
namespace {

constexpr std::size_t kShort = 1u << 20;
constexpr std::size_t kStepsAtOnce = 4'096;

// Lines of a text, with their ends.
class StepLines {
 public:
  explicit StepLines(std::string_view text) : text_(text) {}
  [[nodiscard]] bool next() {
    at_ += line.size();
    if (at_ >= text_.size()) return false;
    const std::size_t end = text_.find('\n', at_);
    line = end == std::string_view::npos ? text_.substr(at_) : text_.substr(at_, end - at_ + 1);
    ++number;
    indent = line.find_first_not_of(' ');
    words = indent < line.size() ? line.substr(indent, line.find_last_not_of(" \r\n") + 1 - indent) : "";
    return true;
  }

  std::string_view line, words;  // words: without what is blank around it
  std::size_t indent = 0;
  std::uint32_t number = 0;  // from 1

 private:
  std::string_view text_;
  std::size_t at_ = 0;
};

bool begins_step(std::string_view words) { return words == "-" || words.starts_with("- "); }
bool says_nothing(std::string_view words) { return words.empty() || words.front() == '#'; }

}  // namespace

std::optional<LongTape> split_long_tape(std::string_view text) {
  // What is named once and used elsewhere, or stands in several documents, is read at once.
  for (const std::string_view sign : {" &", " *", "\n---", "\n...", "\t"})
    if (text.size() < kShort || text.find(sign) != std::string_view::npos) return std::nullopt;
  LongTape out;
  StepLines lines(text);
  const auto keep = [&] { out.around += lines.line; };
  bool found = false;
  while (!found && lines.next()) {
    found = lines.indent == 0 && lines.words == "steps:";
    keep();
  }
  std::optional<std::size_t> column;  // of the dashes
  while (lines.next()) {
    const bool silent = says_nothing(lines.words);
    if (!column && !silent) {
      if (!begins_step(lines.words)) return std::nullopt;
      column = lines.indent;
    }
    const bool begins = column && lines.indent == *column && begins_step(lines.words);
    if (!silent && !begins && lines.indent <= *column) {
      keep();
      break;
    }
    out.around += '\n';
    if (begins && out.steps++ % kStepsAtOnce == 0) out.pieces.push_back({"steps:\n", lines.number - 2});
    if (!out.pieces.empty()) out.pieces.back().text += lines.line;
  }
  while (lines.next()) keep();
  if (!column) return std::nullopt;
  return out;
}

}  // namespace mobrin::io
