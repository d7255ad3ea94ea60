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

namespace mobrin::live {

// One of those that a game shows.
struct Watched {
  std::uint16_t id = 0;
  std::string name{};
  Machine machine;
  bool writable = false;
};
struct WatchedFrame {
  bool gap = false;  // frames before it were left out
  std::vector<std::uint16_t> ids{};
  std::vector<SessionWrite> writes{};  // actor: index into ids; in order of time
  std::vector<std::vector<std::byte>> blocks{};
  Ticks at{};  // set by who knows the machines
};

class Attach {
 public:
  // Of the connection's thread. `ended`: the game has gone.
  struct Listener {
    std::function<void(std::vector<Watched>)> machines;  // all that are shown, whenever one comes
    std::function<void(WatchedFrame)> frame;
    std::function<void()> ended;
  };
  // `address`: as Probe::address() gives it. The error says why there is no game.
  [[nodiscard]] static Result<std::unique_ptr<Attach>> connect(const std::string& address);
  ~Attach();
  Attach(const Attach&) = delete;
  Attach& operator=(const Attach&) = delete;

  // Waits for the first machines; empty where none come in time.
  [[nodiscard]] std::vector<Watched> first();
  void listen(Listener listener);
  // Asks the game to write something to one of those it shows.
  bool write(const Watched& to, const TapeStep& step);

 private:
  explicit Attach(int socket) : socket_(socket) {}
  void read_all();
  bool take(const std::vector<std::byte>& message);

  int socket_;
  std::atomic<bool> over_{false};
  std::mutex lock_;
  std::condition_variable came_;
  std::vector<Watched> watched_;
  bool whole_ = false;  // the first frame has come, so all machines have
  Listener listener_;
  std::vector<WatchedFrame> early_;  // before anybody listened
  std::thread thread_;
};

// Those that a game shows as a cast: each by itself. Where `file` holds the same machine, with its art.
[[nodiscard]] std::shared_ptr<const Cast> cast_of(const std::vector<Watched>& watched,
                                                  const std::shared_ptr<const Cast>& file);

}  // namespace mobrin::live
