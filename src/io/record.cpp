// Recorder, and tapes as text.
#include "mobrin/io/record.hpp"

#include <yaml-cpp/yaml.h>

#include <algorithm>
#include <charconv>
#include <string_view>

#include "mobrin/core/names.hpp"
#include "mobrin/io/save.hpp"

namespace mobrin {
namespace {

// The start value of an input, as input_value() would give it; a pulse has none.
std::optional<FieldValue> start_of(const InputDef& input) {
  if (const auto* kind = std::get_if<BoolInput>(&input.kind)) return kind->start;
  if (const auto* kind = std::get_if<IntInput>(&input.kind)) return std::int64_t{kind->start};
  if (const auto* kind = std::get_if<FloatInput>(&input.kind))
    return static_cast<double>(static_cast<float>(kind->start));
  if (const auto* kind = std::get_if<ChoiceInput>(&input.kind))
    return kind->start.empty() ? kind->choices.front().text : kind->start.text;
  return std::nullopt;
}

void put_value(TapeStep& step, const Text& name, FieldValue value) {
  for (auto& [known, held] : step.set)
    if (known.text == name.text) {
      held = std::move(value);
      return;
    }
  step.set.emplace_back(name, std::move(value));
}

std::string shortest(double number) {
  char text[40];
  const auto end = std::to_chars(text, text + sizeof text, number);
  return {text, end.ptr};
}

std::string text_of(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return std::to_string(*whole);
  // Inputs are held in 32 bits.
  if (const auto* number = std::get_if<double>(&value)) return detail::shortest_text(static_cast<float>(*number));
  if (const auto* words = std::get_if<std::string>(&value)) return *words;
  return "";
}

// What people wrote goes through the emitter, in quotes unless it is a plain word of its own.
void put(YAML::Emitter& out, const std::string& words) {
  static constexpr std::string_view kWords[] = {"null", "true", "false", "yes", "no", "on", "off", "y", "n"};
  std::string lower = words;
  for (char& c : lower) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
  const bool plain = !words.empty() &&
                     words.find_first_not_of(
                         "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"
                         "0123456789_/") == std::string::npos &&
                     (words[0] < '0' || words[0] > '9') && words[0] != '/' &&
                     std::find(std::begin(kWords), std::end(kWords), lower) == std::end(kWords);
  if (plain)
    out << words;
  else
    out << YAML::DoubleQuoted << words;
}

void put(YAML::Emitter& out, const FieldValue& value) {
  if (const auto* words = std::get_if<std::string>(&value)) return put(out, *words);
  out << text_of(value);
}

void put(YAML::Emitter& out, Ticks at) {
  out << YAML::Flow << YAML::BeginMap << YAML::Key << "ticks" << YAML::Value << std::to_string(at.count)
      << YAML::EndMap;
}

}  // namespace

Recorder::Recorder(Instance& instance, std::string name) : instance_(instance) {
  tape_.name = std::move(name);
  begin();
  instance.set_write_hook({&Recorder::written, this});
}

// From now on, with what differs from the machine's start.
void Recorder::begin() {
  begin_ = instance_.now();
  rate_ = instance_.rate();
  tape_.steps.clear();
  add(difference());
}

// What the instance has now and the tape does not give: values of inputs, and the rate.
TapeStep Recorder::difference() const {
  TapeStep out;
  const auto inputs = instance_.machine().inputs();
  for (std::uint16_t i = 0; i < inputs.size(); ++i) {
    std::optional<FieldValue> given = start_of(inputs[i]);
    if (!given) continue;  // a pulse
    for (const TapeStep& step : tape_.steps)
      for (const auto& [name, value] : step.set)
        if (name.text == inputs[i].name.text) given = value;
    if (FieldValue value = instance_.input_value(i); value != *given) out.set.emplace_back(inputs[i].name, value);
  }
  double given = 1;
  for (const TapeStep& step : tape_.steps) given = step.rate.value_or(given);
  if (instance_.rate() != given) out.rate = instance_.rate();
  return out;
}

void Recorder::add(const TapeStep& more) {
  for (const auto& [name, value] : more.set) put_value(step_now(), name, value);
  if (more.rate) step_now().rate = more.rate;
}

// The instance went back: what was written after that instant never was. Of what was written at it what waits in the
// block stays, and values and a rate that it has.
void Recorder::cut_back(const InstanceWrite& restored) {
  const Ticks at = instance_.now() - begin_;
  if (at.count < 0) return begin();
  auto& steps = tape_.steps;
  std::erase_if(steps, [&](const TapeStep& step) { return step.at > at; });
  rate_ = instance_.rate();
  const auto first = std::find_if(steps.begin(), steps.end(), [&](const TapeStep& step) { return step.at == at; });
  lets_go_ = lets_go_ && first != steps.end();
  if (first == steps.end()) return;
  bool happens = false, froze = false;
  for (auto step = first; step != steps.end(); ++step) {
    happens = happens || !step->pulses.empty() || step->reset || step->force || step->place;
    froze = froze || step->freeze;
    step->freeze.reset();
  }
  const bool settled = steps.back().settled;
  const TapeStep differs = difference();
  // A pulse that has taken effect may have come before the block was taken or after it: it is written anew then.
  if (!restored.pending && (happens || !differs.set.empty() || differs.rate)) {
    lets_go_ = false;
    steps.erase(first, steps.end());
  }
  add(difference());
  if (froze && restored.duration.count > 0) step_now().freeze = restored.duration;
  if (!steps.empty() && steps.back().at == at) steps.back().settled = settled;
}

Recorder::~Recorder() { instance_.set_write_hook({}); }

TapeStep& Recorder::step_now(bool settled, bool anew) {
  const Ticks at = instance_.now() - begin_;
  const bool first = tape_.steps.empty() || tape_.steps.back().at != at;
  // A rate or a freeze alone settles nothing, but for a rate that lets go what was held, and what stands before the
  // begin stays there.
  const auto plain = [&](const TapeStep& s) {
    return s.set.empty() && s.pulses.empty() && !s.reset && !s.force && !s.place && !lets_go_ &&
           (at.count != 0 || s.settled);
  };
  if (first || anew || (settled && !plain(tape_.steps.back()))) {
    lets_go_ = false;
    TapeStep& step = tape_.steps.emplace_back();
    step.at = at;
    step.settled = settled && (!first || at.count == 0);  // who replays it may not have begun
  }
  return tape_.steps.back();
}

void Recorder::written(void* self, const InstanceWrite& write) {
  auto& recorder = *static_cast<Recorder*>(self);
  if (write.kind == InstanceWrite::Kind::restore) return recorder.cut_back(write);
  // What is placed comes first in a step of its own: what was written before it at this instant acts on it.
  TapeStep& step = recorder.step_now(!write.pending, write.kind == InstanceWrite::Kind::place);
  const auto inputs = recorder.instance_.machine().inputs();
  switch (write.kind) {
    case InstanceWrite::Kind::input:
      put_value(step, inputs[write.input].name, recorder.instance_.input_value(write.input));
      return;
    case InstanceWrite::Kind::pulse:
      for (const Text& known : step.pulses)
        if (known.text == inputs[write.input].name.text) return;
      step.pulses.push_back(inputs[write.input].name);
      return;
    case InstanceWrite::Kind::rate:
      recorder.lets_go_ = recorder.lets_go_ || recorder.rate_ == 0;
      recorder.rate_ = write.rate;
      step.rate = write.rate;
      return;
    case InstanceWrite::Kind::freeze:
      step.freeze = write.duration;
      return;
    case InstanceWrite::Kind::reset:
      step.reset = true;
      step.pulses.clear();  // a reset forgets them, and what was forced
      step.force.reset();
      return;
    case InstanceWrite::Kind::force:
      step.force = recorder.instance_.machine().states()[write.state].path;
      return;
    case InstanceWrite::Kind::place:
      step.place = recorder.instance_.machine().states()[write.state].path;
      step.played = write.duration;
      return;
    case InstanceWrite::Kind::restore:
      return;
  }
}

Tape Recorder::tape() const {
  Tape out = tape_;
  out.until = instance_.now() - begin_;
  return out;
}

std::string tape_text(const Tape& tape) {
  YAML::Emitter out;
  const auto key = [&](const char* name) { out << YAML::Key << name << YAML::Value; };
  out << YAML::BeginMap;
  key("mobrin"), out << 1;
  key("tape"), put(out, tape.name);
  if (!tape.machine.empty()) key("machine"), out << YAML::DoubleQuoted << tape.machine;
  if (tape.save) key("save"), out << YAML::DoubleQuoted << save_text(*tape.save);
  key("steps");
  out << YAML::BeginSeq;
  for (const TapeStep& step : tape.steps) {
    out << YAML::Flow << YAML::BeginMap;
    key("at"), put(out, step.at);
    if (!step.set.empty()) {
      key("set");
      out << YAML::Flow << YAML::BeginMap;
      for (const auto& [name, value] : step.set) {
        out << YAML::Key;
        put(out, name.text);
        out << YAML::Value;
        put(out, value);
      }
      out << YAML::EndMap;
    }
    if (!step.pulses.empty()) {
      key("pulse");
      out << YAML::Flow << YAML::BeginSeq;
      for (const Text& pulse : step.pulses) put(out, pulse.text);
      out << YAML::EndSeq;
    }
    if (step.rate) key("rate"), out << shortest(*step.rate);
    if (step.freeze) key("freeze"), put(out, *step.freeze);
    if (step.place) key("place"), put(out, step.place->text);
    if (step.played.count > 0) key("played"), put(out, step.played);
    if (step.reset) key("reset"), out << true;
    if (step.settled) key("settled"), out << true;
    if (step.force) key("force"), put(out, step.force->text);
    out << YAML::EndMap;
  }
  out << YAML::EndSeq;
  if (tape.until) key("until"), put(out, *tape.until);
  out << YAML::EndMap;
  return std::string(out.c_str()) + "\n";
}

}  // namespace mobrin
