#include "mobrin/io/tape_log.hpp"

#include <algorithm>

namespace mobrin {

std::string log_line(const Machine& machine, const Cue& cue) {
  const std::string at = std::to_string(cue.at.count) + " ";
  const auto path = [&] { return machine.states()[cue.state].path; };
  switch (cue.what) {
    case Told::enter:
      return cue.state == 0 ? "" : at + "enter " + path();
    case Told::leave:
      return cue.state == 0 ? "" : at + "leave " + path();
    case Told::done:
      return at + "done " + path();
    case Told::fault:
      return at + "fault";
    case Told::cue:
      return at +
             (cue.edge == Edge::none    ? "cue "
              : cue.edge == Edge::begin ? "begin "
                                        : "end ") +
             std::string(cue.name());
    case Told::loop:
      break;
  }
  return "";
}

Result<std::string> with_log(const std::string& text, const std::vector<std::string>& log) {
  const std::string end = text.find("\r\n") != std::string::npos ? "\r\n" : "\n";
  std::string block = log.empty() ? "log: []" + end : "log:" + end;
  for (const std::string& line : log) block += "  - " + line + end;
  // Lines, each with its end.
  std::vector<std::string> lines;
  for (std::size_t begin = 0; begin < text.size();) {
    const std::size_t stop = std::min(text.find('\n', begin), text.size() - 1) + 1;
    lines.push_back(text.substr(begin, stop - begin));
    begin = stop;
  }
  std::string out;
  bool placed = false, inside = false;
  for (const std::string& line : lines) {
    const char first = line[0];
    if (first == '{' || first == '[')
      return Error{"the tape's keys do not stand one below the other", "",
                   "Write it as `tape: NAME`, `steps:`, ..., each on a line of its own."};
    // What belongs to the old log is indented, or an item of it.
    if (inside && (first == ' ' || first == '-' || first == '\t')) continue;
    inside = line.starts_with("log:");
    if (inside && placed) return Error{"the tape has two logs", "", "Remove one of them."};
    if (inside) {
      out += block;
      placed = true;
      continue;
    }
    out += line;
  }
  if (!placed) {
    if (!out.empty() && out.back() != '\n') out += end;
    out += block;
  }
  return out;
}

}  // namespace mobrin
