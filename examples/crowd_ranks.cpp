// One crowd over several processes (MPI): each rank steps a range of the members; what the game writes and what members
// tell each other goes around once a step. The whole is the same, to the last bit, for any number of ranks.
//   mpirun -np 4 example_crowd_ranks demo/apiary 100000 120
#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

namespace {

using namespace mobrin;

// What the world says of a member at a step: the same on every rank, so nobody has to send it.
float distance_of(std::uint32_t member, int step) {
  return static_cast<float>(60 + (member * 2654435761u + static_cast<unsigned>(step) * 40503u) % 300);
}

std::uint64_t add(std::uint64_t hash, const void* bytes, std::size_t size) {
  for (std::size_t i = 0; i < size; ++i) hash = (hash ^ static_cast<const unsigned char*>(bytes)[i]) * 0x100000001b3u;
  return hash;
}

}  // namespace

int main(int argc, char** argv) {
  MPI_Init(&argc, &argv);
  int rank = 0, ranks = 1;
  MPI_Comm_rank(MPI_COMM_WORLD, &rank);
  MPI_Comm_size(MPI_COMM_WORLD, &ranks);
  const std::string folder = argc > 1 ? argv[1] : "demo/apiary";
  const auto members = static_cast<std::uint32_t>(argc > 2 ? std::atoi(argv[2]) : 2000);
  const int steps = argc > 3 ? std::atoi(argv[3]) : 120;

  const Loaded loaded = load_character(folder + "/hornet.yaml");
  if (!loaded.machine) return std::fputs("run it where demo/apiary is\n", stderr), MPI_Abort(MPI_COMM_WORLD, 1);
  const Machine& hornet = *loaded.machine;
  const auto distance = hornet.input<float>("distance");
  const auto sees_keeper = hornet.input<bool>("sees_keeper");
  const auto dive = hornet.pulse("dive"), stunned = hornet.pulse("stunned");
  const std::uint16_t stings = hornet.cue("stings").value_or(kNoIndex);

  // My members are [first, end) of all.
  const auto cut = [&](int at) {
    return static_cast<std::uint32_t>(std::uint64_t{members} * static_cast<unsigned>(at) /
                                      static_cast<unsigned>(ranks));
  };
  const std::uint32_t first = cut(rank), end = cut(rank + 1);
  Crowd crowd(hornet);
  crowd.reserve(end - first);
  for (std::uint32_t i = first; i < end; ++i) crowd.add();
  crowd.set_all(*sees_keeper, true);

  CrowdCues cues;
  std::vector<float> distances(end - first);
  std::vector<std::uint32_t> divers, struck, mine, theirs;
  std::vector<int> counts(static_cast<std::size_t>(ranks)), begins(static_cast<std::size_t>(ranks));
  std::uint64_t told = 0, sent = 0;
  MPI_Barrier(MPI_COMM_WORLD);
  const auto began = std::chrono::steady_clock::now();
  for (int step = 0; step < steps; ++step) {
    for (std::uint32_t i = first; i < end; ++i) distances[i - first] = distance_of(i, step / 30);
    crowd.set_all(*distance, distances);
    divers.clear();
    for (std::uint32_t i = first; i < end; ++i)
      if ((i + static_cast<std::uint32_t>(step)) % 97 == 0) divers.push_back(i - first);
    crowd.pulse(divers, *dive);
    crowd.pulse(struck, *stunned);

    cues.clear();
    crowd.advance(step_end(step + 1, 60) - step_end(step, 60), cues);

    // Who stings startles the next one, who may live elsewhere: everybody hears of all stings, in order of members.
    mine.clear();
    for (const CrowdCue& each : cues)
      if (each.cue.cue == stings) mine.push_back(first + each.place);
    told += cues.size();
    int own = static_cast<int>(mine.size()), all = 0;
    MPI_Allgather(&own, 1, MPI_INT, counts.data(), 1, MPI_INT, MPI_COMM_WORLD);
    for (std::size_t r = 0; r < counts.size(); ++r) {
      begins[r] = all;
      all += counts[r];
    }
    theirs.resize(static_cast<std::size_t>(all));
    MPI_Allgatherv(mine.data(), own, MPI_UINT32_T, theirs.data(), counts.data(), begins.data(), MPI_UINT32_T,
                   MPI_COMM_WORLD);
    sent += sizeof own + mine.size() * sizeof mine[0];
    struck.clear();
    for (const std::uint32_t who : theirs) {
      const std::uint32_t next = (who + 1) % members;
      if (next >= first && next < end) struck.push_back(next - first);
    }
  }
  const double seconds_taken = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();

  // A hash of each member, gathered in order.
  std::vector<std::uint64_t> hashes(end - first), gathered(rank == 0 ? members : 0);
  std::vector<std::byte> bytes(crowd.member_size());
  for (std::uint32_t i = 0; i < hashes.size(); ++i)
    if (crowd.member_bytes(i, bytes)) hashes[i] = add(0xcbf29ce484222325u, bytes.data(), bytes.size());
  for (int r = 0; r < ranks; ++r) {
    counts[static_cast<std::size_t>(r)] = static_cast<int>(cut(r + 1) - cut(r));
    begins[static_cast<std::size_t>(r)] = static_cast<int>(cut(r));
  }
  MPI_Gatherv(hashes.data(), static_cast<int>(hashes.size()), MPI_UINT64_T, gathered.data(), counts.data(),
              begins.data(), MPI_UINT64_T, 0, MPI_COMM_WORLD);
  std::uint64_t all_told = 0, all_sent = 0;
  double slowest = 0;
  MPI_Reduce(&told, &all_told, 1, MPI_UINT64_T, MPI_SUM, 0, MPI_COMM_WORLD);
  MPI_Reduce(&sent, &all_sent, 1, MPI_UINT64_T, MPI_SUM, 0, MPI_COMM_WORLD);
  MPI_Reduce(&seconds_taken, &slowest, 1, MPI_DOUBLE, MPI_MAX, 0, MPI_COMM_WORLD);
  if (rank == 0) {
    std::printf("hash %016llx, %llu records\n",
                static_cast<unsigned long long>(add(0xcbf29ce484222325u, gathered.data(), gathered.size() * 8)),
                static_cast<unsigned long long>(all_told));
    std::fprintf(stderr, "%d ranks, %u members: %.3f ms a step, %.0f bytes sent a step by all\n", ranks, members,
                 slowest * 1000 / steps, static_cast<double>(all_sent) / steps);
  }
  MPI_Finalize();
  return 0;
}
