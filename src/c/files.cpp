// Machines from files, tapes and saves for C.
#include "mobrin/c/mobrin_files.h"

#include "convert.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"

using namespace mobrin::c;
using mobrin::Ticks;

struct mobrin_tape {
  mobrin::Tape tape;
};
struct mobrin_recorder {
  mobrin_recorder(mobrin::Instance& it, std::string name) : recorder(it, std::move(name)) {}
  mobrin::Recorder recorder;
};

namespace {

void report(const std::vector<mobrin::Finding>& findings, mobrin_text** out) {
  if (out == nullptr) return;
  std::string text;
  for (const mobrin::Finding& finding : findings) text += finding.text() + "\n";
  *out = text_of(std::move(text));
}

mobrin_machine* machine_or_report(const mobrin::Loaded& loaded, mobrin_text** out) {
  report(loaded.findings, out);
  return loaded.machine && loaded.has_machine ? given(new mobrin::Machine(*loaded.machine)) : nullptr;
}

mobrin_tape* tape_or_report(mobrin::LoadedTape loaded, const char* name, const mobrin_machine* machine,
                            mobrin_text** out) {
  if (loaded.tape && machine != nullptr) {
    const auto misfits = mobrin::check_tape(*loaded.tape, *of(machine), std::string(view(name)));
    loaded.findings.insert(loaded.findings.end(), misfits.begin(), misfits.end());
  }
  report(loaded.findings, out);
  if (!loaded.tape || mobrin::has_errors(loaded.findings)) return nullptr;
  return new mobrin_tape{std::move(*loaded.tape)};
}

}  // namespace

extern "C" {

mobrin_machine* mobrin_machine_from_file(const char* path, mobrin_text** out) {
  return machine_or_report(mobrin::load_character(std::string(view(path))), out);
}
mobrin_machine* mobrin_machine_from_text(const char* text, size_t size, const char* name, mobrin_text** out) {
  const std::string_view all = text == nullptr ? std::string_view() : std::string_view(text, size);
  return machine_or_report(mobrin::load_character_text(all, std::string(view(name))), out);
}

mobrin_tape* mobrin_tape_from_file(const char* path, const mobrin_machine* machine, mobrin_text** out) {
  return tape_or_report(mobrin::load_tape(std::string(view(path))), path, machine, out);
}
mobrin_tape* mobrin_tape_from_text(const char* text, size_t size, const char* name, const mobrin_machine* machine,
                                   mobrin_text** out) {
  const std::string_view all = text == nullptr ? std::string_view() : std::string_view(text, size);
  return tape_or_report(mobrin::load_tape_text(all, std::string(view(name))), name, machine, out);
}
void mobrin_tape_free(mobrin_tape* tape) { delete tape; }
const char* mobrin_tape_machine(const mobrin_tape* tape) { return tape == nullptr ? "" : tape->tape.machine.c_str(); }
mobrin_ticks mobrin_tape_end(const mobrin_tape* tape) {
  if (tape == nullptr) return 0;
  if (tape->tape.until) return tape->tape.until->count;
  return tape->tape.steps.empty() ? 0 : tape->tape.steps.back().at.count;
}
int mobrin_tape_run(const mobrin_tape* tape, mobrin_instance* it, int64_t hz, mobrin_cue_handler handler, void* context,
                    uint32_t listening) {
  if (tape == nullptr || it == nullptr || hz < 1) return 0;
  mobrin::RunOptions options;
  options.rate_hz = hz;
  options.until = Ticks(mobrin_tape_end(tape));
  options.listening = static_cast<mobrin::Listening>(listening & MOBRIN_ALL_RECORDS);
  mobrin::run_tape(*of(it), tape->tape, options, Teller{handler, context});
  return 1;
}

mobrin_recorder* mobrin_recorder_new(mobrin_instance* it, const char* name) {
  return it == nullptr ? nullptr : new mobrin_recorder(*of(it), std::string(view(name)));
}
mobrin_text* mobrin_recorder_tape(const mobrin_recorder* recorder) {
  return recorder == nullptr ? nullptr : text_of(mobrin::tape_text(recorder->recorder.tape()));
}
void mobrin_recorder_free(mobrin_recorder* recorder) { delete recorder; }

mobrin_text* mobrin_save(const mobrin_instance* it) {
  return it == nullptr ? nullptr : text_of(mobrin::save_text(*of(it)));
}
int mobrin_load_save(mobrin_instance* into, const char* text, size_t size, mobrin_text** losses, mobrin_error* error) {
  if (losses != nullptr) *losses = nullptr;
  if (into == nullptr || text == nullptr) return no_object(error);
  const auto saved = mobrin::read_save({text, size});
  if (!saved) return fail(error, mobrin_bad_file, saved.error().text());
  (void)tell_losses(mobrin::load(*saved, *of(into)), losses);
  return mobrin_ok;
}

}  // extern "C"
