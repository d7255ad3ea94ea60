#include "kit.hpp"

#include <sys/mman.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "../engine_log.hpp"
#include "mobrin/contact/reach.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/pack/pack.hpp"

namespace mobrin::fuzz {

void must(bool holds, const char* what) {
  if (holds) return;
  std::fprintf(stderr, "this is not so: %s\n", what);
  std::abort();
}

// One for all, in memory: making and removing one takes longer than what most doors do with it.
const std::string& file_of(Bytes bytes) {
  static const int file = memfd_create("mobrin_fuzz", MFD_CLOEXEC);
  static const std::string path = "/proc/self/fd/" + std::to_string(file);
  must(ftruncate(file, 0) == 0 && pwrite(file, bytes.data(), bytes.size(), 0) == static_cast<ssize_t>(bytes.size()),
       "a file in memory is written");
  return path;
}

Folder::Folder(std::initializer_list<const char*> of_the_demo) {
  static int count = 0;
  path_ = "/dev/shm/mobrin_fuzz_folder_" + std::to_string(getpid()) + "_" + std::to_string(++count);
  std::filesystem::create_directories(path_);
  for (const char* each : of_the_demo)
    std::filesystem::copy_file(demo_folder() + "/" + each, file(each),
                               std::filesystem::copy_options::overwrite_existing);
}
Folder::~Folder() {
  std::error_code gone;
  std::filesystem::remove_all(path_, gone);
}

std::string demo_folder() {
  const char* folder = std::getenv("MOBRIN_DEMO_FOLDER");
  return folder != nullptr ? folder : MOBRIN_DEMO;
}

const Machine& keeper() {
  static const Machine machine = [] {
    const Loaded loaded = load_character(demo_folder() + "/keeper.yaml");
    must(loaded.machine.has_value(), "the keeper is there");
    return *loaded.machine;
  }();
  return machine;
}

void write_any(Instance& it, Source& from) {
  const Machine& machine = it.machine();
  if (machine.inputs().empty()) return;
  const auto index = static_cast<std::uint16_t>(from.pick(machine.inputs().size()));
  switch (machine.inputs()[index].kind.index()) {
    case 0:
      it.set(handle_at<Input<bool>>(machine, index), (from.take<std::uint8_t>() & 1) != 0);
      break;
    case 1:
      it.set(handle_at<Input<std::int32_t>>(machine, index), from.take<std::int32_t>());
      break;
    case 2:
      it.set(handle_at<Input<float>>(machine, index), from.take<float>());
      break;
    case 3:
      it.set(handle_at<Input<Choice>>(machine, index), Choice{from.take<std::uint8_t>()});
      break;
    default:
      it.pulse(handle_at<Pulse>(machine, index));
  }
}

void look_at_all(const Instance& it) {
  std::uint64_t seen = it.hash();
  for (std::uint16_t r = 0; r < it.region_count(); ++r) {
    double weight = 0;
    const ShownLayers layers = it.layers(r);
    for (const Shown& each : layers) weight += each.weight;
    must(layers.size() == 0 || std::abs(weight - 1) < 1e-6, "the weights of a region sum to 1");
    std::array<Shown, 4> some;
    seen += it.blended(r, some) + it.active_path(r).size() + it.picture(r).image;
    if (const auto value = it.track("t", r)) seen += *value > 0 ? 1 : 0;
  }
  seen += static_cast<std::uint64_t>(it.next_change().count) + it.look();
  for (std::uint16_t i = 0; i < it.machine().inputs().size(); ++i) seen += it.input_value(i).index();
  std::array<ActiveBox, 8> some;
  seen += boxes(it, {{1, 2}, true}, some);
  (void)seen;
}

void same_by_reference(const MachineDef& definition, const Machine& machine, const std::vector<ScriptEntry>& script,
                       Ticks until) {
  const auto told = test::run_engine(machine, script, until);
  if (told.size() <= test::kMostRecords)
    must(told == run_reference(definition, script, until), "engine and reference agree");
}

void play(const Machine& machine, Source from) {
  if (machine.block_size() > 1'000'000 || machine.most_records_per_instant() > 100'000) return;
  Instance it(machine);
  Crowd crowd(machine);
  const Member twin = crowd.add();
  CrowdCues told({}, 20'000);
  std::size_t records = 0;
  Ticks left = seconds(5);
  for (int step = 0; step < 60 && left.count > 0 && records < 20'000; ++step) {
    const Ticks dt(std::min<std::int64_t>(left.count, from.take<std::uint16_t>() * std::int64_t{6'000} + 60'000'000));
    (void)it.advance(
        dt,
        [&](const Cue& cue) {
          if (++records % 64 == 0) (void)cue.line();
          if (records == 2'000) it.set_rate(0);  // one that never comes to rest tells endlessly
        },
        kAllRecords);
    left -= dt;
    told.clear();
    if (records >= 2'000) crowd.set_rate(twin, 0);
    for (Advanced part = crowd.advance(dt, told); !part.complete() && part.needs <= told.limit();) {
      told.clear();
      part = crowd.advance(part.left, told);
    }
    write_any(it, from);
    (void)crowd.shown(twin);
  }
  look_at_all(it);
}

}  // namespace mobrin::fuzz
