#include "run_log.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "console.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::cli {
namespace {

// The name stands out, what hangs on it steps back.
std::string cue_text(const Cue& cue) {
  const std::string line = cue.line(), name = printable(cue.name());
  const std::vector<FieldDef>& fields = cue.definition().fields;
  const std::size_t faint = std::min(
      line.size(), fields.empty() ? line.rfind("  in ") : line.find("  " + printable(fields[0].name.text) + ": "));
  return styled(Style::warm, name) + line.substr(name.size(), faint - name.size()) +
         styled(Style::faint, line.substr(faint));
}

bool is_word(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_'; }

bool speaks_of(const std::string& text, const std::string& name) {
  for (std::size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1))
    if ((at == 0 || !is_word(text[at - 1])) && (at + name.size() == text.size() || !is_word(text[at + name.size()])))
      return true;
  return false;
}

}  // namespace

std::string ms_text(Ticks time) {
  const double s = time.to_seconds();
  return s < 9.9995 ? fmt::format("{:.4g} ms", s * 1000) : fmt::format("{:.7g} s", std::round(s * 1000) / 1000);
}

Ticks Presses::life(std::uint16_t input) const {
  const auto* pulse = std::get_if<PulseInput>(&machine_.inputs()[input].kind);
  return pulse == nullptr ? Ticks() : pulse->buffer;
}

void Presses::pressed(std::uint16_t input, Ticks at) {
  std::erase_if(waiting_, [&](const Waiting& each) { return each.input == input; });
  waiting_.push_back({input, at});
}

std::optional<Ticks> Presses::taken(std::uint16_t input, Ticks at) {
  for (std::size_t i = 0; i < waiting_.size(); ++i) {
    if (waiting_[i].input != input) continue;
    const Ticks age = at - waiting_[i].at;
    waiting_.erase(waiting_.begin() + static_cast<std::ptrdiff_t>(i));
    return age;
  }
  return std::nullopt;
}

std::vector<std::pair<std::uint16_t, Ticks>> Presses::ran_out(Ticks now) {
  std::vector<std::pair<std::uint16_t, Ticks>> out;
  std::erase_if(waiting_, [&](const Waiting& each) {
    const Ticks end = each.at + life(each.input);
    if (end >= now) return false;
    out.emplace_back(each.input, end);
    return true;
  });
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
  return out;
}

std::string rule_text(const Machine& machine, const TransitionInfo& transition) {
  if (transition.place.line == 0) return printable(transition.text);
  const std::string& file = machine.files()[transition.place.file];
  return printable(
      fmt::format("{}  ({}:{})", transition.text, file.substr(folder_of(file).size()), transition.place.line));
}

Json rule_json(const Machine& machine, std::uint32_t transition) {
  if (transition == kNoTransition) return {};
  const TransitionInfo& rule = machine.transitions()[transition];
  Json out = {{"text", rule.text}, {"to", rule.to}};
  if (rule.place.line > 0) {
    out["file"] = machine.files()[rule.place.file];
    out["line"] = rule.place.line;
  }
  return out;
}

RunLog::RunLog(const Instance& instance, Line line, JsonLine json, bool all_loops)
    : instance_(instance),
      machine_(instance.machine()),
      line_(std::move(line)),
      json_(std::move(json)),
      all_loops_(all_loops),
      presses_(machine_) {}

void RunLog::flush() {
  join();
  for (const Pending& each : pending_) line_(each.at, each.what, each.text);
  pending_.clear();
}

void RunLog::put(Ticks at, std::string_view what, std::string text, bool state) {
  if (!line_) return;
  if (!pending_.empty() && pending_.back().at != at) {
    for (const Pending& each : pending_) line_(each.at, each.what, each.text);
    pending_.clear();
  }
  pending_.push_back({at, std::string(what), std::move(text), state});
}

void RunLog::put(Json json) {
  if (json_) json_(std::move(json));
}

void RunLog::run_out(Ticks now) {
  for (const auto& [input, at] : presses_.ran_out(now)) {
    const std::string& name = machine_.inputs()[input].name.text;
    put(at, "press", styled(Style::warm, name) + " ran out untaken");
    put({{"ticks", at.count}, {"what", "press"}, {"pulse", name}, {"edge", "ran_out"}});
  }
}

void RunLog::pass(Ticks now) {
  if (joining_ && at_ < now) join();
  run_out(now);
  if (!pending_.empty() && pending_.back().at < now) {
    for (const Pending& each : pending_) line_(each.at, each.what, each.text);
    pending_.clear();
  }
}

void RunLog::written(const InstanceWrite& write) {
  const Ticks at = instance_.now();
  pass(at);
  join();
  if (write.kind == InstanceWrite::Kind::input) note_look();
  tell_look(at);
  const auto name = [&] { return machine_.inputs()[write.input].name.text; };
  switch (write.kind) {
    case InstanceWrite::Kind::pulse: {
      const Ticks life = presses_.life(write.input);
      presses_.pressed(write.input, at);
      put(at, "press", styled(Style::warm, name()) + (life.count > 0 ? ", kept for " + ms_text(life) : ""));
      put({{"ticks", at.count}, {"what", "press"}, {"pulse", name()}, {"edge", "written"}});
      return;
    }
    case InstanceWrite::Kind::input:
      if (!write.clamped) return;
      put(at, "write", name() + " = " + value_text(instance_.input_value(write.input)) + ", clamped into its range");
      put({{"ticks", at.count},
           {"what", "write"},
           {"input", name()},
           {"value", json_of(instance_.input_value(write.input))},
           {"clamped", true}});
      return;
    case InstanceWrite::Kind::reset:
      presses_.forget();
      put(at, "write", "reset");
      put({{"ticks", at.count}, {"what", "reset"}});
      return;
    case InstanceWrite::Kind::force:
      put(at, "write", "force " + machine_.states()[write.state].path);
      put({{"ticks", at.count}, {"what", "force"}, {"state", machine_.states()[write.state].path}});
      return;
    case InstanceWrite::Kind::place: {
      const std::string& path = machine_.states()[write.state].path;
      put(at, "write",
          "place " + path + (write.duration.count > 0 ? ", active for " + ms_text(write.duration) + " already" : ""));
      put({{"ticks", at.count}, {"what", "place"}, {"state", path}, {"played_ticks", write.duration.count}});
      return;
    }
    case InstanceWrite::Kind::rate:
      put(at, "write", fmt::format("rate {:g}", write.rate));
      put({{"ticks", at.count}, {"what", "rate"}, {"rate", write.rate}});
      return;
    case InstanceWrite::Kind::freeze:
      put(at, "write", "freeze for " + ms_text(write.duration));
      put({{"ticks", at.count}, {"what", "freeze"}, {"duration_ticks", write.duration.count}});
      return;
    case InstanceWrite::Kind::restore:
      return;
  }
}

void RunLog::add(const Cue& record) {
  pass(record.at);
  note_look();
  if (record.at != at_) {
    taken_.clear();
    went_.clear();
  }
  if (json_) {
    Json json = json_of(record);
    const bool reasoned = record.what == Told::enter || record.what == Told::leave || record.what == Told::fault;
    if (reasoned) json["rule"] = rule_json(machine_, record.transition);
    put(std::move(json));
  }
  if (record.what == Told::enter || record.what == Told::leave) {
    if (joining_ && (record.transition != transition_ || record.at != at_)) join();
    if (!joining_) {
      joining_ = true;
      transition_ = record.transition;
      at_ = record.at;
      if (transition_ != kNoTransition) taken_.push_back(transition_);
    }
    if (record.what == Told::leave && left_.empty()) left_ = record.state_path();
    // Of the way down only the innermost; where regions split it, one a region.
    if (record.what == Told::enter && !machine_.states()[record.state].has_children)
      entered_.emplace_back(record.state_path());
    return;
  }
  join();
  at_ = record.at;
  // A loop on which nothing hangs is no news.
  if (record.what == Told::loop && !all_loops_ && !machine_.states()[record.state].uses_loops) return;
  switch (record.what) {
    case Told::cue:
      put(record.at, "cue", cue_text(record));
      break;
    case Told::loop:
      put(record.at, "loop", record.line());
      break;
    case Told::done:
      put(record.at, "done", styled(Style::strong, record.line()));
      break;
    case Told::fault:
      faults_ = true;
      tell_runaway(record);
      break;
    default:
      break;
  }
  tell_look(record.at);
}

void RunLog::join() {
  if (!joining_) return;
  joining_ = false;
  const std::string entered = fmt::format("{}", fmt::join(entered_, ", "));
  const std::string states = left_.empty() ? entered : entered.empty() ? left_ + " is left" : left_ + " -> " + entered;
  std::string why;
  if (transition_ != kNoTransition) {
    const TransitionInfo& rule = machine_.transitions()[transition_];
    why = "  " + rule_text(machine_, rule);
    if (rule.pulse != kNoIndex)
      if (const auto age = presses_.taken(rule.pulse, at_); age && age->count > 0)
        why += "  " + ms_text(*age) + " after the press";
  }
  went_.push_back(entered.empty() ? left_ : entered);
  put(at_, "state", styled(Style::good, states) + styled(Style::faint, why), true);
  left_.clear();
  entered_.clear();
  tell_look(at_);
}

// The ring as one line in place of its 64 rounds, with the values that keep it going.
void RunLog::tell_runaway(const Cue& record) {
  std::size_t period = 1;
  const auto repeats = [&](std::size_t by) {
    if (taken_.size() < 2 * by) return false;
    for (std::size_t i = 0; i < by; ++i)
      if (taken_[taken_.size() - 1 - i] != taken_[taken_.size() - 1 - i - by]) return false;
    return true;
  };
  while (period < taken_.size() && !repeats(period)) ++period;
  std::erase_if(pending_, [&](const Pending& each) { return each.state && each.at == record.at; });
  std::string ring;
  const std::size_t count = std::min(period, went_.size());
  for (std::size_t i = went_.size() - count; i < went_.size(); ++i)
    ring += (ring.empty() ? "" : count == 2 ? " <-> " : " -> ") + went_[i];
  if (count != 2 && !went_.empty()) ring += " -> " + went_[went_.size() - count];
  const std::vector<std::uint32_t> rules(taken_.end() - static_cast<std::ptrdiff_t>(std::min(period, taken_.size())),
                                         taken_.end());
  std::string why;
  for (const std::uint32_t rule : rules) why += "  " + rule_text(machine_, machine_.transitions()[rule]);
  put(record.at, "fault",
      styled(Style::bad, "runaway") + ": " + styled(Style::good, ring) + ", 64 times" + styled(Style::faint, why) +
          values_of(rules));
}

std::string RunLog::values_of(const std::vector<std::uint32_t>& transitions) const {
  std::string out;
  for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i) {
    const std::string& name = machine_.inputs()[i].name.text;
    const bool spoken = std::any_of(transitions.begin(), transitions.end(), [&](std::uint32_t each) {
      return speaks_of(machine_.transitions()[each].text, name);
    });
    if (spoken) out += fmt::format("{}{} is {}", out.empty() ? "; " : ", ", name, value_text(instance_.input_value(i)));
  }
  return out;
}

// What a record is about may change how it looks, at the instant at which the instance is.
void RunLog::note_look() {
  if (machine_.looks().empty()) return;
  look_ = instance_.look();
}

void RunLog::tell_look(Ticks at) {
  if (look_ == told_look_) return;
  told_look_ = look_;
  const std::string name = look_ == kNoIndex ? "" : machine_.looks()[look_].name.text;
  put(at, "look", name.empty() ? "as drawn" : name);
  put({{"ticks", at.count}, {"what", "look"}, {"look", text_or_null(name)}});
}

void RunLog::end() {
  join();
  pass(Ticks(instance_.now().count + 1));
}

std::vector<std::string> RunLog::active_leaves(const Machine& machine, const Instance& instance) {
  std::vector<std::uint16_t> leaves;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    const std::uint16_t leaf = instance.active(r);
    if (leaf != kNoIndex && !machine.states()[leaf].has_children) leaves.push_back(leaf);
  }
  std::sort(leaves.begin(), leaves.end());
  std::vector<std::string> paths;
  for (const std::uint16_t leaf : leaves) paths.push_back(machine.states()[leaf].path);
  return paths;
}

}  // namespace mobrin::cli
