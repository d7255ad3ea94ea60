// Recorder, and tapes as text.
#include "mobrin/io/record.hpp"

#include <charconv>
#include <cmath>

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

template <class Number>
std::string shortest(Number number) {
  char text[40];
  const auto end = std::to_chars(text, text + sizeof text, number);
  return {text, end.ptr};
}

std::string text_of(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return std::to_string(*whole);
  // Inputs are held in 32 bits.
  if (const auto* number = std::get_if<double>(&value)) return shortest(static_cast<float>(*number));
  if (const auto* words = std::get_if<std::string>(&value)) return *words;
  return "";
}

std::string instant_text(Ticks at) { return "{ticks: " + std::to_string(at.count) + "}"; }

}  // namespace

Recorder::Recorder(Instance& instance, std::string name) : instance_(instance), begin_(instance.now()) {
  tape_.name = std::move(name);
  const auto inputs = instance.machine().inputs();
  for (std::uint16_t i = 0; i < inputs.size(); ++i) {
    const auto start = start_of(inputs[i]);
    const FieldValue value = instance.input_value(i);
    if (start && value != *start) step_now().set.emplace_back(inputs[i].name, value);
  }
  if (instance.rate() != 1) step_now().rate = instance.rate();
  instance.set_write_hook({&Recorder::written, this});
}

Recorder::~Recorder() { instance_.set_write_hook({}); }

TapeStep& Recorder::step_now() {
  const Ticks at = instance_.now() - begin_;
  if (tape_.steps.empty() || tape_.steps.back().at != at) tape_.steps.emplace_back().at = at;
  return tape_.steps.back();
}

void Recorder::written(void* self, const InstanceWrite& write) {
  auto& recorder = *static_cast<Recorder*>(self);
  TapeStep& step = recorder.step_now();
  const auto inputs = recorder.instance_.machine().inputs();
  switch (write.kind) {
    case InstanceWrite::Kind::input: {
      const Text& name = inputs[write.input].name;
      FieldValue value = recorder.instance_.input_value(write.input);
      for (auto& [known, held] : step.set)
        if (known.text == name.text) {
          held = std::move(value);
          return;
        }
      step.set.emplace_back(name, std::move(value));
      return;
    }
    case InstanceWrite::Kind::pulse:
      for (const Text& known : step.pulses)
        if (known.text == inputs[write.input].name.text) return;
      step.pulses.push_back(inputs[write.input].name);
      return;
    case InstanceWrite::Kind::rate:
      step.rate = write.rate;
      return;
    case InstanceWrite::Kind::freeze:
      step.freeze = write.duration;
      return;
    case InstanceWrite::Kind::reset:
      step.reset = true;
      step.pulses.clear();  // a reset forgets them
      return;
  }
}

Tape Recorder::tape() const {
  Tape out = tape_;
  out.until = instance_.now() - begin_;
  return out;
}

std::string tape_text(const Tape& tape) {
  std::string out = "mobrin: 1\ntape: " + tape.name + "\n";
  if (!tape.machine.empty()) out += "machine: " + tape.machine + "\n";
  out += "steps:\n";
  for (const TapeStep& step : tape.steps) {
    out += "  - {at: " + instant_text(step.at);
    std::string set;
    for (const auto& [name, value] : step.set) set += (set.empty() ? "" : ", ") + name.text + ": " + text_of(value);
    if (!set.empty()) out += ", set: {" + set + "}";
    std::string pulses;
    for (const Text& pulse : step.pulses) pulses += (pulses.empty() ? "" : ", ") + pulse.text;
    if (!pulses.empty()) out += ", pulse: [" + pulses + "]";
    if (step.rate) out += ", rate: " + shortest(*step.rate);
    if (step.freeze) out += ", freeze: " + instant_text(*step.freeze);
    if (step.reset) out += ", reset: true";
    out += "}\n";
  }
  if (tape.until) out += "until: " + instant_text(*tape.until) + "\n";
  return out;
}

}  // namespace mobrin
