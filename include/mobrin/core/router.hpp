// Router: hands each cue to the handlers bound to its name, its kind, or all.
#pragma once

#include <concepts>
#include <cstdint>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "mobrin/core/cue.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin {

namespace detail {

/// Not for users: anything that can be called with a cue.
class Handler {
 public:
  template <class F>
  requires std::invocable<F&, const Cue&>
  explicit Handler(F handler)
      : object_(new F(std::move(handler))),
        call_([](void* object, const Cue& cue) { (*static_cast<F*>(object))(cue); }),
        end_([](void* object) { delete static_cast<F*>(object); }) {}
  Handler(Handler&& other) noexcept
      : object_(std::exchange(other.object_, nullptr)), call_(other.call_), end_(other.end_) {}
  Handler& operator=(Handler&& other) noexcept {
    std::swap(object_, other.object_);
    std::swap(call_, other.call_);
    std::swap(end_, other.end_);
    return *this;
  }
  ~Handler() {
    if (object_ != nullptr) end_(object_);
  }
  void operator()(const Cue& cue) const { call_(object_, cue); }

 private:
  void* object_;
  void (*call_)(void*, const Cue&);
  void (*end_)(void*);
};

}  // namespace detail

/// Binds handlers to a machine's cues. Binding allocates, routing does not. Moved, not copied. Not thread-safe while
/// binding; afterwards as safe as its handlers.
class Router {
 public:
  /// Keeps a copy of `machine`, which shares its tables.
  explicit Router(Machine machine);
  Router(Router&&) = default;             ///< Moves, with its handlers.
  Router& operator=(Router&&) = default;  ///< Moves, with its handlers.
  Router(const Router&) = delete;
  Router& operator=(const Router&) = delete;

  /// Calls `handler(const Cue&)` for cues of that name. A name the machine does not know is an error with the nearest
  /// one.
  template <class F>
  Outcome on(std::string_view cue, F handler) {
    return bind(By::name, cue, detail::Handler(std::move(handler)));
  }
  /// Calls `handler` for cues of that kind. A kind no cue of the machine has is an error with the nearest one.
  template <class F>
  Outcome on_kind(std::string_view kind, F handler) {
    return bind(By::kind, kind, detail::Handler(std::move(handler)));
  }
  /// Calls `handler` for every record, also those that are no cues.
  template <class F>
  void on_all(F handler) {
    (void)bind(By::all, {}, detail::Handler(std::move(handler)));
  }
  /// Calls `handler` when the machine says it is done.
  template <class F>
  void on_done(F handler) {
    (void)bind(By::done, {}, detail::Handler(std::move(handler)));
  }

  /// Handlers by name first, then by kind, then for all, each in the order of binding. False for a record of another
  /// machine, as after a reload: nobody is called, it is counted (see strangers()), and builds with asserts say so on
  /// standard error, once a router.
  bool operator()(const Cue& cue) const;
  /// How many records of another machine it was given so far.
  [[nodiscard]] std::uint64_t strangers() const { return strangers_; }

  /// After a reload: binds all handlers anew to the cues of another machine. Every name and kind that it does not have
  /// is an error; its handler stays and is bound again when a later machine has it.
  [[nodiscard]] std::vector<Error> rebind(Machine machine);

  /// The machine whose cues it routes.
  [[nodiscard]] const Machine& machine() const { return machine_; }

 private:
  enum class By : std::uint8_t { name, kind, all, done };
  struct Bound {
    By by;
    std::string what;
    detail::Handler handler;
  };
  Outcome bind(By by, std::string_view what, detail::Handler handler);
  Outcome connect(std::uint32_t bound);

  Machine machine_;
  detail::List<Bound> bound_;
  // Into bound_: an entry a cue; kinds are spread over their cues at binding.
  detail::List<detail::List<std::uint32_t>> by_cue_, by_kind_;
  detail::List<std::uint32_t> all_, done_;
  mutable std::uint64_t strangers_ = 0;
};

}  // namespace mobrin
