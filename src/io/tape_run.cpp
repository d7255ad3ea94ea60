// Tapes, run.
#include <vector>

#include "mobrin/core/carry.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

bool takes_turn(const TapeStep& step, bool written) {
  return step.settled || (written && !step.place && (step.reset || step.force));
}

void write_step(Instance& instance, const TapeStep& step) {
  if (step.place)
    if (const auto state = instance.machine().state(step.place->text)) instance.place(*state, step.played);
  if (step.reset) instance.reset();
  for (const auto& [name, value] : step.set) static_cast<void>(instance.set_by_name(name.text, value));
  for (const Text& pulse : step.pulses) static_cast<void>(instance.pulse_by_name(pulse.text));
  if (step.rate) instance.set_rate(*step.rate);
  if (step.freeze) instance.freeze(*step.freeze);
  if (step.force)
    if (const auto state = instance.machine().state(step.force->text)) instance.force(*state);
}

void run_tape(Instance& instance, const Tape& tape, const RunOptions& options,
              const std::function<void(const Cue&)>& told) {
  CueList<256> cues(options.listening);
  std::vector<Cue> more;  // for the rare instant that tells more than the list holds
  const auto cut = [&](Ticks dt) {
    for (Advanced step{{}, dt, 0};;) {
      step = instance.advance(step.left, cues);
      for (const Cue& cue : cues) told(cue);
      cues.clear();
      if (step.needs > 0) {
        more.resize(step.needs);
        CueBuffer large(more, options.listening);
        step = instance.advance(step.left, large);
        for (const Cue& cue : large) told(cue);
      }
      if (step.complete()) return;
    }
  };
  const auto cover = [&](Ticks dt) {
    const Ticks to = instance.now() + dt;
    if (options.at_wakes) {
      cut(Ticks(0));
      for (Ticks wake = instance.next_wake(); wake > instance.now() && wake < to; wake = instance.next_wake())
        cut(wake - instance.now());
    }
    cut(to - instance.now());
  };
  if (tape.save) (void)load(*tape.save, instance);
  const Ticks begin = instance.now();
  const Ticks until = options.until ? *options.until : tape.until.value_or(Ticks());
  std::int64_t steps = 0;
  // Whole steps of the rate up to `to`, then the rest of the way.
  const auto run_to = [&](Ticks to) {
    // Beyond what any game runs in one go the cuts, which change nothing, would take longer than the run.
    while (options.rate_hz > 0 && to <= Ticks(kMaxDurationTicks) && step_end(steps + 1, options.rate_hz) <= to) {
      ++steps;
      cover(begin + step_end(steps, options.rate_hz) - instance.now());
    }
    cover(begin + to - instance.now());
  };
  for (std::size_t i = 0; i < tape.steps.size() && tape.steps[i].at <= until;) {
    const Ticks at = tape.steps[i].at;
    if (at.count > 0) run_to(at);
    for (bool written = false; i < tape.steps.size() && tape.steps[i].at == at; ++i, written = true) {
      if (takes_turn(tape.steps[i], written)) cover(Ticks(0));
      write_step(instance, tape.steps[i]);
    }
    cover(Ticks(0));
  }
  run_to(until);
}

}  // namespace mobrin
