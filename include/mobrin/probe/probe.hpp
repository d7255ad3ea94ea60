// Probe: lets `mobrin live --attach` watch instances of a running game.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "mobrin/core/instance.hpp"

namespace mobrin {

struct ProbeOptions {
  std::uint16_t port = 0;       ///< of 127.0.0.1; 0: a free one
  bool may_write = false;       ///< whether who watches may write inputs and pulses
  std::size_t ring = 1u << 20;  ///< bytes that wait to be sent; what does not fit is left out, and the gap is told
};

/// Watches instances for one viewer at a time. Each frame the game calls poll(): it copies what was written since and
/// the blocks, and a thread of the probe's own sends them; with nobody there it does next to nothing. A game that makes
/// no probe has neither thread nor socket. All calls from the game's own thread. Allocates when something is shown or a
/// viewer comes, not in poll(), but for writes that are carried out.
class Probe {
 public:
  explicit Probe(ProbeOptions options = {});
  /// Gives the write hooks back that were set before.
  ~Probe();
  Probe(const Probe&) = delete;
  Probe& operator=(const Probe&) = delete;

  /// What `mobrin live --attach` takes: `127.0.0.1:PORT/TOKEN`; empty where there is no socket: see error().
  [[nodiscard]] std::string address() const;
  [[nodiscard]] const std::string& error() const { return error_; }

  /// Shows an instance under a name from the next poll() on; one that has the name is shown no more. Takes its write
  /// hook and calls the one that was set. REQUIRES: it stays where it is, and none other sets its write hook, until
  /// hide() or the probe's end. At most 64.
  bool show(std::string_view name, Instance& instance);
  void hide(std::string_view name);

  /// Once a frame, after the instances were advanced.
  void poll();

  /// Whether somebody watches.
  [[nodiscard]] bool watched() const;

 private:
  struct Shown;
  struct Inside;
  std::unique_ptr<Inside> inside_;
  std::string error_;
};

}  // namespace mobrin
