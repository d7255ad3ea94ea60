// Router: hands each cue to the handlers bound to its name, its kind, or all.
#pragma once

#include <functional>
#include <string_view>
#include <vector>

#include "mobrin/core/cue.hpp"

namespace mobrin {

/// Binds handlers to a machine's cues. Binding allocates, routing does not. Not thread-safe while binding; afterwards
/// as safe as its handlers.
class Router {
 public:
  using Handler = std::function<void(const Cue&)>;

  /// Keeps a copy of `machine`, which shares its tables.
  explicit Router(Machine machine);

  /// Calls `handler` for cues of that name. A name the machine does not know is an error with the nearest one.
  Outcome on(std::string_view cue, Handler handler);
  /// Calls `handler` for cues of that kind. A kind no cue of the machine has is an error with the nearest one.
  Outcome on_kind(std::string_view kind, Handler handler);
  /// Calls `handler` for every record, also those that are no cues.
  void on_all(Handler handler);
  /// Calls `handler` when the machine says it is done.
  void on_done(Handler handler);

  /// Handlers by name first, then by kind, then for all, each in the order of binding. A record of another machine is
  /// passed over.
  void operator()(const Cue& cue) const;

 private:
  Machine machine_;
  std::vector<std::vector<Handler>> by_cue_;   // an entry a cue; kinds are spread over their cues at binding
  std::vector<std::vector<Handler>> by_kind_;  // likewise
  std::vector<Handler> all_;
  std::vector<Handler> done_;
};

}  // namespace mobrin
