// Bindings: many handles fetched at once with all their errors, and fetched anew after a reload.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/router.hpp"

namespace mobrin {

/// Fetches a game's handles by their names and remembers where they lie, so that one call fetches all of them, and the
/// handlers of its routers, from another machine. The handles and routers are the caller's: they outlive the bindings
/// and stay where they are. Moved, not copied. Not thread-safe. Allocates.
///
///     Bindings names(keeper);
///     names.input(move, "move").pulse(swing, "swing").state(net, "net").router(router);
///     if (!names) std::puts(names.text().c_str());          // all that is wrong, not the first only
///     ...
///     for (const Error& gone : names.rebind(changed)) ...   // after a reload
class Bindings {
 public:
  /// For this machine, which is shared.
  explicit Bindings(Machine machine) : machine_(std::move(machine)) {}
  Bindings(Bindings&&) = default;  ///< Moves; the one moved from is only fit to be assigned to or destroyed.
  /// Moves; the one moved from is only fit to be assigned to or destroyed.
  Bindings& operator=(Bindings&&) = default;
  Bindings(const Bindings&) = delete;
  Bindings& operator=(const Bindings&) = delete;

  /// Each fetches at once. Where the machine has no such name the handle becomes one that every machine refuses.
  Bindings& input(Input<bool>& handle, std::string_view name);
  Bindings& input(Input<std::int32_t>& handle, std::string_view name);  ///< The same of a whole number.
  Bindings& input(Input<float>& handle, std::string_view name);         ///< The same of a number.
  Bindings& input(Input<Choice>& handle, std::string_view name);        ///< The same of a choice.
  Bindings& pulse(Pulse& handle, std::string_view name);                ///< The same of a pulse.
  /// A choice of the choice input `input`; index 255, which every machine refuses, where there is none.
  Bindings& choice(Choice& choice, std::string_view input, std::string_view name);
  /// Fetches the handle of a state, by its path or by its name where only one has it.
  Bindings& state(State& handle, std::string_view path);
  Bindings& trait(Trait& handle, std::string_view name);  ///< The same of a trait.
  /// The same of a field, by its cue and its name there.
  Bindings& field(Field& handle, std::string_view cue, std::string_view name);
  Bindings& clip(Clip& handle, std::string_view name);      ///< The same of a clip.
  Bindings& region(Region& handle, std::string_view path);  ///< The same of a region, by its path.
  /// A variable of the whole machine, or of the state with this path.
  Bindings& variable(Variable& handle, std::string_view name, std::string_view state = {});
  /// Its handlers are bound anew by rebind().
  Bindings& router(Router& router);

  /// All that could not be fetched so far, or at the last rebind().
  [[nodiscard]] std::span<const Error> errors() const { return errors_; }
  /// Whether all that was asked for so far was there.
  [[nodiscard]] explicit operator bool() const { return errors_.empty(); }
  /// The errors, a line each; empty for none.
  [[nodiscard]] std::string text() const;

  /// Fetches all handles from `machine` and binds all routers to it. Every name that it does not have, or has as
  /// something else, is an error; they stay errors() until the next rebind().
  std::span<const Error> rebind(Machine machine);

  /// The one whose handles these are.
  [[nodiscard]] const Machine& machine() const { return machine_; }

 private:
  struct Bound {
    void* handle;
    void (*fetch)(Bindings& names, const Bound& bound);
    std::string name, of;
  };
  template <class Handle, class Fetch>
  Bindings& bind(Handle& handle, std::string_view name, std::string_view of, Fetch fetch);
  template <class T>
  Bindings& bind_input(Input<T>& handle, std::string_view name);

  Machine machine_;
  std::vector<Bound> bound_;
  std::vector<Error> errors_;
};

}  // namespace mobrin
