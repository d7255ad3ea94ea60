// What watching costs a game, what going back costs, what the logic of a large file costs.
#include <arpa/inet.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <atomic>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <random>
#include <string>
#include <thread>

#include "mobrin/live/session.hpp"
#include "mobrin/probe/probe.hpp"
#include "mobrin/probe/wire.hpp"
#include "mobrin/prove/prove.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

[[noreturn]] void give_up(const std::string& what) {
  std::fprintf(stderr, "%s\n", what.c_str());
  std::exit(1);
}

Loaded hornet() {
  Loaded loaded = load_character(std::string(MOBRIN_BENCH_FOLDER) + "/hornet.yaml");
  if (!loaded.machine) give_up("the hornet does not load");
  return loaded;
}

// A viewer that reads all that comes and counts frames and gaps.
class Viewer {
 public:
  explicit Viewer(const std::string& address) {
    const std::size_t colon = address.find(':'), slash = address.find('/');
    socket_ = socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in to{};
    to.sin_family = AF_INET;
    to.sin_port = htons(static_cast<std::uint16_t>(std::atoi(address.c_str() + colon + 1)));
    to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    const std::string hello = std::string(probe::kGreeting) + address.substr(slash + 1) + "\n";
    if (connect(socket_, reinterpret_cast<sockaddr*>(&to), sizeof to) != 0 ||
        send(socket_, hello.data(), hello.size(), 0) != static_cast<ssize_t>(hello.size()))
      give_up("the probe does not listen");
    thread_ = std::thread([this] { read_all(); });
  }
  ~Viewer() {
    shutdown(socket_, SHUT_RDWR);
    thread_.join();
    close(socket_);
  }
  std::atomic<std::uint64_t> frames{0}, gaps{0}, last{0};

 private:
  void read_all() {
    std::vector<std::byte> data;
    std::byte part[65536];
    for (;;) {
      const ssize_t got = recv(socket_, part, sizeof part, 0);
      if (got <= 0) return;
      data.insert(data.end(), part, part + got);
      std::size_t at = 0;
      for (;;) {
        probe::Taker taker(data.data() + at, data.size() - at);
        const auto size = taker.take<std::uint32_t>();
        if (!taker.sound() || taker.left() < size) break;
        if (taker.take<std::uint8_t>() == static_cast<std::uint8_t>(probe::Kind::frame)) {
          last = taker.take<std::uint64_t>();
          gaps += taker.take<std::uint8_t>();
          ++frames;
        }
        at += 4 + size;
      }
      data.erase(data.begin(), data.begin() + static_cast<std::ptrdiff_t>(at));
    }
  }
  int socket_;
  std::thread thread_;
};

// A frame of a game that writes one input and advances, with a probe that somebody watches and without.
void frame_watched(benchmark::State& state) {
  const Loaded loaded = hornet();
  Instance watched(*loaded.machine), alone(*loaded.machine);
  Probe probe;
  if (!probe.show("hornet", watched)) give_up(probe.error());
  Viewer viewer(probe.address());
  for (int i = 0; i < 2000 && !probe.watched(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  if (!probe.watched()) give_up("nobody watches");
  const auto distance = loaded.machine->input<float>("distance");
  CueList<64> cues;
  std::uint64_t polls = 0;
  float value = 0;
  const auto step = [&](Instance& instance) {
    instance.set(*distance, value += 0.25F);
    cues.clear();
    (void)instance.advance(Ticks(kTicksPerSecond / 60), cues);
  };
  time_in_turns(
      state,
      [&] {
        step(watched);
        probe.poll();
        ++polls;
      },
      [&] { step(alone); });
  for (int i = 0; i < 2000 && viewer.last < polls; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  if (viewer.frames == 0 || viewer.last > polls) give_up("the viewer saw no frames");
  state.counters["seen"] = static_cast<double>(viewer.frames) / static_cast<double>(polls);
}
BENCHMARK(frame_watched);

// What a poll adds to a frame of a crowd of a hundred thousand: one member's block, and its share of the count.
void crowd_watched(benchmark::State& state) {
  const Loaded loaded = hornet();
  Crowd watched(*loaded.machine), alone(*loaded.machine);
  for (Crowd* crowd : {&watched, &alone})
    for (int i = 0; i < 100'000; ++i) crowd->add();
  Probe probe;
  if (!probe.show("hornets", watched)) give_up(probe.error());
  Viewer viewer(probe.address());
  for (int i = 0; i < 2000 && !probe.watched(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  if (!probe.watched()) give_up("nobody watches");
  CrowdCues cues;
  const auto step = [&](Crowd& crowd) {
    cues.clear();
    (void)crowd.advance(Ticks(kTicksPerSecond / 60), cues);
  };
  time_in_turns(
      state,
      [&] {
        step(watched);
        probe.poll();
      },
      [&] { step(alone); });
  if (watched.hash() != alone.hash()) give_up("a crowd that is watched is another one");
  for (int i = 0; i < 2000 && viewer.frames == 0; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  if (viewer.frames == 0) give_up("the viewer saw no frames");
}
BENCHMARK(crowd_watched);

// To a random instant of ten minutes of play, and the block there compared.
void jump_in_ten_minutes(benchmark::State& state) {
  const auto cast = load_cast(std::string(MOBRIN_BENCH_FOLDER) + "/hornet.yaml").cast;
  if (cast == nullptr) give_up("the hornet does not load");
  Session session(cast);
  std::mt19937 random(1);
  std::vector<std::pair<Ticks, std::uint64_t>> was;
  while (session.now() < seconds(600)) {
    TapeStep step;
    step.set.emplace_back("distance", FieldValue(static_cast<double>(random() % 300)));
    (void)session.write(0, step);
    session.advance(Ticks(static_cast<std::int64_t>(random() % 400'000'000)));
    was.emplace_back(session.now(), session.run().instance(0).hash());
  }
  std::size_t at = 0;
  for (auto _ : state) {
    at = random() % was.size();
    session.jump(was[at].first);
    benchmark::DoNotOptimize(session);
    if (session.run().instance(0).hash() != was[at].second) give_up("another block than the first time");
  }
}
BENCHMARK(jump_in_ten_minutes);

// All findings about the logic of a file of so many states with three transitions each.
void logic_of(benchmark::State& state) {
  const std::int64_t states = state.range(0);
  std::string text =
      "mobrin: 1\nmachine: large\ninputs: {near: {float: 0, min: 0, max: 100}, hit: pulse, free: false}\n"
      "clips: {c: {frames: [0-5], fps: 12}}\ninitial: s0\nstates:\n";
  for (std::int64_t i = 0; i < states; ++i) {
    const auto to = [&](std::int64_t way) { return "s" + std::to_string((i + way) % states); };
    text += "  s" + std::to_string(i) + ": {clip: c, go: [{pulse: hit, to: " + to(1) + "}, {when: near > " +
            std::to_string(i % 50) + " and not free, to: " + to(2) + "}, {at: end, to: " + to(3) + "}]}\n";
  }
  const Loaded loaded = load_character_text(text, "large.yaml");
  if (!loaded.machine) give_up("it does not load");
  std::size_t findings = 0;
  for (auto _ : state) findings = logic_and_runs(*loaded.definition, *loaded.machine).findings.size();
  state.counters["findings"] = static_cast<double>(findings);
}
BENCHMARK(logic_of)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Iterations(2);

}  // namespace
}  // namespace mobrin::bench

BENCHMARK_MAIN();
