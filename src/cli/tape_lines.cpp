#include "tape_lines.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "console.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/record.hpp"

namespace mobrin::cli {
namespace {

// As short as it can be exact.
std::string at_text(Ticks at) {
  for (int digits = 0; digits <= 6; ++digits) {
    const std::string text = fmt::format("{:.{}f}ms", at.to_seconds() * 1000, digits);
    if (parse_duration(text) == at) return at.count == 0 ? "0s" : text;
  }
  return fmt::format("{{ticks: {}}}", at.count);
}

}  // namespace

std::vector<std::string> tape_lines(const Tape& tape) {
  std::vector<std::string> out;
  for (const TapeStep& step : tape.steps) {
    std::string line = "{at: " + at_text(step.at);
    std::string set;
    for (const auto& [name, value] : step.set)
      set += fmt::format("{}{}: {}", set.empty() ? "" : ", ", printable(name.text), value_text(value));
    if (!set.empty()) line += ", set: {" + set + "}";
    if (step.pulses.size() == 1) line += ", pulse: " + printable(step.pulses[0].text);
    if (step.pulses.size() > 1) {
      line += ", pulse: [";
      for (std::size_t i = 0; i < step.pulses.size(); ++i) line += (i > 0 ? ", " : "") + printable(step.pulses[i].text);
      line += "]";
    }
    out.push_back(line + "}");
  }
  return out;
}

Json json_of(const Tape& tape) {
  Json steps = Json::array();
  for (const TapeStep& step : tape.steps) {
    Json out = {{"ticks", step.at.count}};
    for (const auto& [name, value] : step.set) out["set"][name.text] = json_of(value);
    for (const Text& pulse : step.pulses) out["pulse"].push_back(pulse.text);
    steps.push_back(std::move(out));
  }
  return {{"steps", steps}, {"until_ticks", tape.until.value_or(Ticks{}).count}};
}

std::string file_name_of(const std::string& name) {
  std::string out;
  for (const char c : name) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
    if (plain)
      out += c;
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? "tape" : out;
}

std::string write_tape(Tape tape, const std::string& folder, const std::string& name, const std::string& machine) {
  namespace fs = std::filesystem;
  std::error_code error;
  fs::create_directories(folder, error);
  const std::string path = (fs::path(folder) / (file_name_of(name) + ".tape.yaml")).generic_string();
  const fs::path from = fs::absolute(machine, error).lexically_relative(fs::absolute(folder, error));
  tape.machine = from.empty() ? machine : from.generic_string();
  return write_or_report(path, tape_text(tape)) ? path : "";
}

}  // namespace mobrin::cli
