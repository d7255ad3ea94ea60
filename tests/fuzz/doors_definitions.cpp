// The door for definitions made in code, which hold what no file would say.
#include <algorithm>
#include <array>
#include <string>
#include <vector>

#include "../made_machine.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/pack/pack.hpp"
#include "spoil.hpp"

namespace mobrin::fuzz {
namespace {

// One of the demo's, or made up.
MachineDef whole_definition(Source& from) {
  static const std::vector<MachineDef> demo = [] {
    std::vector<MachineDef> out;
    for (const char* name : {"keeper", "hornet", "hive", "smoker", "puff"}) {
      const Loaded loaded = load_character(demo_folder() + "/" + name + ".yaml");
      must(loaded.definition.has_value(), "the demo is sound");
      out.push_back(*loaded.definition);
    }
    return out;
  }();
  const std::uint32_t which = from.pick(12);
  if (which < demo.size()) return demo[which];
  const auto seed = from.take<std::uint32_t>();
  return test::made(seed, test::RandomMachine(seed));
}

// What is written to inputs of a random machine that are as they were.
std::vector<ScriptEntry> some_script(const Machine& machine, Source& from) {
  std::vector<ScriptEntry> out;
  Ticks at{};
  for (int i = 0; i < 12; ++i) {
    at += milliseconds(from.pick(200));
    if (machine.inputs().empty()) return out;
    const InputDef& input = machine.inputs()[from.pick(machine.inputs().size())];
    ScriptEntry entry{at};
    entry.name = input.name.text;
    entry.kind = input.kind.index() == 4 ? ScriptEntry::Kind::pulse : ScriptEntry::Kind::set;
    entry.value = static_cast<double>(from.pick(2));
    const std::array<std::string, 5> kNames = {"b", "n", "v", "h", entry.name};
    if (entry.name == kNames[input.kind.index()]) out.push_back(entry);
  }
  return out;
}

}  // namespace

void definitions(Bytes bytes) {
  Source from(bytes);
  MachineDef definition = whole_definition(from);
  for (std::uint32_t i = 1 + from.pick(3); i > 0; --i) Spoiler(definition, from).spoil();
  const Compiled compiled = compile(definition);
  const bool wrong = has_errors(compiled.findings);
  must(wrong != compiled.machine.has_value(), "what is not made has an error, what is made has none");
  for (const Finding& finding : compiled.findings) must(!finding.text().empty(), "a finding has words");
  if (!compiled.machine) return;
  const Machine& machine = *compiled.machine;
  play(machine, from);
  if (machine.block_size() <= 100'000 && machine.most_records_per_instant() <= 5'000)
    same_by_reference(definition, machine, some_script(machine, from), seconds(3));
  const auto packed = load_pack(pack(machine));
  must(packed && packed->fingerprint() == machine.fingerprint(), "a machine can be packed");
  for (const Finding& finding : logic_findings(definition, machine))
    must(!finding.text().empty(), "a finding has words");
  for (const StageInfo& stage : compile_stages()) (void)machine.dump(stage.name);
}

}  // namespace mobrin::fuzz
