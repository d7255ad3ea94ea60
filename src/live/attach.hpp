// The viewer's end of a probe: a running game's machines and frames.
#pragma once

#include <atomic>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "mobrin/live/session.hpp"
#include "mobrin/probe/wire.hpp"

namespace mobrin::live {

// One of those that a game shows.
struct Watched {
  std::uint16_t id = 0;
  std::string name{};
  Machine machine;
  bool writable = false, crowd = false;
};
// What a game's frame says of one of them, beside its state.
struct WatchedNote {
  std::vector<probe::OpenTicket> tickets{};
  std::uint32_t place = probe::kNobody;  // of the crowd's member that is looked at
  // Of a crowd, as counted last: members, places, and how many are in which state.
  std::uint32_t members = 0, places = 0;
  std::vector<std::pair<std::uint16_t, std::uint32_t>> counts{};
};
struct WatchedFrame {
  bool gap = false;                                        // frames before it were left out
  std::uint32_t group = 0;                                 // another number where others are looked at than before
  std::vector<SessionWrite> writes{};                      // actor: index into blocks; in order of time
  std::vector<std::vector<std::byte>> blocks{};            // of those that share the clock that is looked at
  std::vector<WatchedNote> notes{};                        // one a block
  std::vector<std::pair<std::string, Ticks>> elsewhere{};  // those with other clocks: name and now
};

class Attach {
 public:
  // Of the connection's thread. `ended`: the game has gone.
  struct Listener {
    std::function<void(std::vector<Watched>, std::uint32_t group)> machines;  // those of the frames that follow
    std::function<void(WatchedFrame)> frame;
    std::function<void()> ended;
  };
  // `address`: as Probe::address() gives it. The error says why there is no game.
  [[nodiscard]] static Result<std::unique_ptr<Attach>> connect(const std::string& address);
  // Over a socket that is connected already, and goes with it.
  [[nodiscard]] static std::unique_ptr<Attach> over(int socket);
  ~Attach();
  Attach(const Attach&) = delete;
  Attach& operator=(const Attach&) = delete;

  // Waits for the first machines; empty where none come in time.
  [[nodiscard]] std::vector<Watched> first();
  void listen(Listener listener);
  // Asks the game to write something to one of those it shows.
  bool write(const Watched& to, const TapeStep& step);
  // Looks at another member of a crowd; at those that share the clock of another one, by name.
  bool choose(const Watched& crowd, std::uint32_t place);
  void look_at(const std::string& name);

 private:
  explicit Attach(int socket);
  void read_all();
  bool take(const std::vector<std::byte>& message);
  struct Known;
  bool take_machine(probe::Taker& taker);
  bool take_counts(probe::Taker& taker);
  bool take_frame(probe::Taker& taker);
  bool take_one(probe::Taker& taker, std::size_t& index, std::vector<SessionWrite>& writes);
  [[nodiscard]] std::vector<Watched> together() const;

  int socket_;
  std::atomic<bool> over_{false};
  std::mutex lock_;
  std::condition_variable came_;
  std::vector<Known> known_;
  std::string lead_;    // whose clock is looked at; empty: the first one's
  bool asked_ = false;  // for another lead
  std::uint32_t group_ = 0;
  bool whole_ = false;  // the first frame has come, so all machines have
  Listener listener_;
  std::vector<WatchedFrame> early_;  // before anybody listened
  std::thread thread_;
};

// Those that a game shows as a cast: each by itself. Where `file` holds the same machine, with its art.
[[nodiscard]] std::shared_ptr<const Cast> cast_of(const std::vector<Watched>& watched,
                                                  const std::shared_ptr<const Cast>& file);

}  // namespace mobrin::live
