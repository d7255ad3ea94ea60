// A soak: a crowd of 100,000 that is written to, grows, shrinks, is reloaded and rolled back at full speed for minutes
// or hours. Its memory must stay flat, and a twin that was snapshotted and restored at random must be the same to the
// last bit. Usage: mobrin_soak MINUTES [MEMBERS] [SEED] [DAYS]; with DAYS the clock begins so long before its
// end (docs/behaviour.md).
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <string>
#include <string_view>
#include <vector>

#include <unistd.h>

#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

namespace {

using namespace mobrin;

// The bees of a hive; `spread` is what a reload changes.
Machine bees(int spread) {
  const std::string text =
      "mobrin: 1\nmachine: bee\ninputs: {full: {float: 0, min: 0, max: 10}, call: {pulse: 200ms}, cold: false}\n"
      "cues: {hum: {}, waggle: {kind: sound}, home: {}}\n"
      "clips: {fly: {frames: [0-5], fps: 12, play: loop}, dance: {frames: [0-3*" +
      std::to_string(spread) +
      "], fps: 10}, sleep: {frames: [0, 1], fps: 2, play: back-and-forth}}\n"
      "marks: {fly: {cues: {2: hum}}, dance: {cues: {1: waggle}}}\n"
      "vars: {trips: 0}\ninitial: flying\ngo: [{when: cold, to: sleeping}]\n"
      "states:\n  flying: {clip: fly, speed: 0.5 + full / 10, go: [{pulse: call, to: dancing, fade: 80ms}, {when: full "
      ">= 8, to: coming}]}\n"
      "  coming: {clip: fly, enter: [trips = trips + 1, {tell: home}], go: [{after: 1.5s, to: flying}, {when: full < "
      "2, to: flying}]}\n"
      "  dancing: {clip: dance, go: [{at: end, to: flying}]}\n"
      "  sleeping: {clip: sleep, go: [{when: not cold, to: flying}]}\n";
  const Loaded loaded = load_character_text(text, "bee.yaml");
  if (!loaded.machine) {
    for (const Finding& each : loaded.findings) std::fprintf(stderr, "%s\n", each.text().c_str());
    std::exit(2);
  }
  return *loaded.machine;
}

class Random {
 public:
  explicit Random(std::uint64_t seed) : state_(seed) {}
  std::uint32_t below(std::uint32_t count) {
    state_ ^= state_ << 13, state_ ^= state_ >> 7, state_ ^= state_ << 17;
    return static_cast<std::uint32_t>((state_ >> 16) % count);
  }

 private:
  std::uint64_t state_;
};

// What is done to a crowd in one step, out of a seed: to the crowd and to its twin the same.
void do_step(Crowd& crowd, std::uint64_t seed, std::uint32_t members, CrowdCues& told) {
  Random random(seed * 2654435761u + 88172645463325252u);
  const Machine& machine = crowd.machine();
  const auto full = *machine.input<float>("full");
  const auto cold = *machine.input<bool>("cold");
  const auto call = *machine.pulse("call");
  const std::uint32_t places = crowd.places();
  for (std::uint32_t i = 0; i < members / 20; ++i) {
    const Member member = crowd.at(random.below(places));
    switch (random.below(8)) {
      case 0:
        (void)crowd.pulse(member, call);
        break;
      case 1:
        (void)crowd.set(member, cold, random.below(4) == 0);
        break;
      default:
        (void)crowd.set(member, full, static_cast<float>(random.below(41)) / 4);
    }
  }
  for (std::uint32_t i = 0; i < members / 200; ++i) {
    if (random.below(2) == 0)
      (void)crowd.remove(crowd.at(random.below(places)));
    else if (crowd.size() < members)
      (void)crowd.add();
  }
  if (random.below(50) == 0) (void)crowd.set_all(cold, random.below(3) == 0);
  told.clear();
  Advanced part = crowd.advance(Ticks(static_cast<std::int64_t>(random.below(20'000'000))), told);
  while (!part.complete()) {
    told.clear();
    part = crowd.advance(part.left, told);
  }
}

long resident_kilobytes() {
  long whole = 0, resident = 0;
  std::ifstream("/proc/self/statm") >> whole >> resident;
  return resident * (sysconf(_SC_PAGESIZE) / 1024);
}

}  // namespace

int main(int argc, char** argv) {
  // Minutes, or `5000steps`: then a run is the same every time.
  const double length = argc > 1 ? std::atof(argv[1]) : 60;
  const bool in_steps = argc > 1 && std::string_view(argv[1]).ends_with("steps");
  const auto members = static_cast<std::uint32_t>(argc > 2 ? std::atoi(argv[2]) : 100'000);
  const std::uint64_t first = argc > 3 ? std::strtoull(argv[3], nullptr, 10) : 1;
  if (!(length > 0) || members < 400)
    return std::fprintf(stderr, "usage: mobrin_soak MINUTES|STEPSsteps [MEMBERS] [SEED] [DAYS]\n"), 2;
  Machine machine = bees(2);
  Crowd crowd(machine), twin(machine);
  crowd.reserve(members), twin.reserve(members);
  for (std::uint32_t i = 0; i < members; ++i) (void)crowd.add(), (void)twin.add();
  CrowdCues told, other;
  if (argc > 4)
    for (Crowd* each : {&crowd, &twin}) {
      (void)each->set_all(*machine.input<bool>("cold"), true);
      (void)each->advance(milliseconds(1), told);
      (void)each->advance(Ticks((std::int64_t{1} << 62) - seconds(86'400.0 * std::atoi(argv[4])).count), told);
      (void)each->set_all(*machine.input<bool>("cold"), false);
    }
  std::vector<std::byte> snapshot;
  Random random(first * 7919 + 1);
  const auto begun = std::chrono::steady_clock::now();
  const auto minutes = [&] {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count() / 60;
  };
  std::uint64_t step = first << 32, cues = 0, rollbacks = 0, reloads = 0, sleeps = 0, steps = 0;
  const auto passed = [&] { return in_steps ? static_cast<double>(steps) : minutes(); };
  long warm = 0, most = 0;
  double next_word = 1;
  while (passed() < length) {
    // The twin strays: other steps, forgotten again by going back.
    if (random.below(4) == 0) {
      ++rollbacks;
      twin.snapshot(snapshot);
      for (std::uint32_t i = 0, astray = 1 + random.below(3); i < astray; ++i)
        do_step(twin, step + 1'000'000 + i, members, other);
      if (!twin.restore(snapshot)) return std::fprintf(stderr, "a snapshot was not taken back\n"), 1;
    }
    if (random.below(300) == 0) {  // a changed file
      ++reloads;
      machine = bees(1 + static_cast<int>(reloads % 3));
      for (Crowd* each : {&crowd, &twin}) {
        Crowd into(machine);
        (void)carry_over(*each, into);
        *each = std::move(into);
      }
    }
    if (random.below(400) == 0) {  // months in which nobody looks
      ++sleeps;
      do_step(crowd, step, members, told), do_step(twin, step, members, other), ++step;
      for (Crowd* each : {&crowd, &twin}) {
        const auto cold = *machine.input<bool>("cold");
        (void)each->set_all(cold, true);  // they sleep
        told.clear();
        Advanced part = each->advance(seconds(86'400 * 30), told);
        while (!part.complete()) told.clear(), part = each->advance(part.left, told);
        (void)each->set_all(cold, false);
      }
    }
    do_step(crowd, step, members, told);
    do_step(twin, step, members, other);
    ++step, ++steps;
    cues += told.size();
    if (told.size() != other.size() || crowd.hash() != twin.hash())
      return std::fprintf(stderr, "step %llu of seed %llu: the twin is another\n",
                          static_cast<unsigned long long>(steps), static_cast<unsigned long long>(first)),
             1;
    const long now = resident_kilobytes();
    // Everything has been as large as it gets once each kind of thing, and each of the three machines, has been there.
    if (passed() < length / 4 || reloads < 3 || sleeps < 2)
      warm = std::max(warm, now);
    else
      most = std::max(most, now);
    if (minutes() >= next_word) {
      std::printf("%.0f min: %llu steps, %.0f MB, now %.1f days\n", minutes(), static_cast<unsigned long long>(steps),
                  static_cast<double>(now) / 1024, crowd.now().to_seconds() / 86'400);
      std::fflush(stdout);
      next_word *= 2;
    }
  }
  const bool flat = most > 0 && most <= warm + warm / 20;
  std::printf(
      "%u members, %llu steps, %llu cues, %llu rollbacks, %llu reloads, %.1f days of the game's time: the twin is the "
      "same; memory %.1f MB at first, at most %.1f MB then: %s\n",
      members, static_cast<unsigned long long>(steps), static_cast<unsigned long long>(cues),
      static_cast<unsigned long long>(rollbacks), static_cast<unsigned long long>(reloads),
      crowd.now().to_seconds() / 86'400, static_cast<double>(warm) / 1024, static_cast<double>(most) / 1024,
      flat ? "flat" : "NOT flat");
  return flat ? 0 : 1;
}
