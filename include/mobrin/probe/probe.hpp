// Probe: lets `mobrin live --attach` watch instances of a running game.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "mobrin/core/crowd.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin {

/// How a game lets itself be watched.
struct ProbeOptions {
  std::uint16_t port = 0;       ///< of 127.0.0.1; 0: a free one
  bool may_write = false;       ///< whether who watches may write inputs and pulses
  std::size_t ring = 1u << 20;  ///< bytes that wait to be sent; what does not fit is left out, and the gap is told
};

/// Shows instances and crowds to one viewer at a time; another waits until it has gone. Each frame the game calls
/// poll(): it copies what was written since and the blocks, and a thread of the probe's own sends them; with nobody
/// there it does next to nothing. A game that makes no probe has neither thread nor socket. All calls from the game's
/// own thread. Allocates when something is shown or a viewer comes; in poll() only for the one member of a crowd that
/// is looked at, and where writes are carried out.
class Probe {
 public:
  explicit Probe(ProbeOptions options = {});  ///< Begins to listen; error() says where that cannot be.
  /// Gives the write hooks back that were set before.
  ~Probe();
  Probe(const Probe&) = delete;
  Probe& operator=(const Probe&) = delete;

  /// What `mobrin live --attach` takes: `127.0.0.1:PORT/TOKEN`; empty where there is no socket: see error().
  [[nodiscard]] std::string address() const;
  /// Why nobody can come; empty where all is well.
  [[nodiscard]] const std::string& error() const { return error_; }

  /// Shows an instance under a name from the next poll() on; one that has the name is shown no more. Takes its write
  /// hook and calls the one that was set. REQUIRES: it stays where it is, and none other sets its write hook, until
  /// hide() or the probe's end. At most 64.
  bool show(std::string_view name, Instance& instance);
  /// Shows a crowd: how many of its members are in each state, about once a second (at most 2,048 places are looked at
  /// in a poll(), so a count of more than 122,880 takes longer, and is of no single instant), and each frame one
  /// member, which the viewer chooses. What was written to that member is known by what its inputs hold. REQUIRES: as
  /// above.
  bool show(std::string_view name, Crowd& crowd);
  void hide(std::string_view name);  ///< Shows that one no longer; nothing where it is not shown.

  /// Once a frame, after the instances were advanced.
  void poll();

  /// Whether somebody watches.
  [[nodiscard]] bool watched() const;

 private:
  struct Shown;
  Shown* add(std::string_view name);
  struct Inside;
  std::unique_ptr<Inside> inside_;
  std::string error_;
};

}  // namespace mobrin
