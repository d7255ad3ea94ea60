#include "mobrin/core/bindings.hpp"

namespace mobrin {

template <class Handle, class Fetch>
Bindings& Bindings::bind(Handle& handle, std::string_view name, std::string_view of, Fetch) {
  bound_.push_back({&handle,
                    [](Bindings& names, const Bound& bound) {
                      auto found = Fetch()(names.machine_, bound);
                      *static_cast<Handle*>(bound.handle) = found ? *found : Handle{};
                      if (!found) names.errors_.push_back(found.error());
                    },
                    std::string(name), std::string(of)});
  bound_.back().fetch(*this, bound_.back());
  return *this;
}

template <class T>
Bindings& Bindings::bind_input(Input<T>& handle, std::string_view name) {
  return bind(handle, name, {}, [](const Machine& m, const Bound& bound) { return m.input<T>(bound.name); });
}

Bindings& Bindings::input(Input<bool>& handle, std::string_view name) { return bind_input(handle, name); }
Bindings& Bindings::input(Input<std::int32_t>& handle, std::string_view name) { return bind_input(handle, name); }
Bindings& Bindings::input(Input<float>& handle, std::string_view name) { return bind_input(handle, name); }
Bindings& Bindings::input(Input<Choice>& handle, std::string_view name) { return bind_input(handle, name); }

Bindings& Bindings::pulse(Pulse& handle, std::string_view name) {
  return bind(handle, name, {}, [](const Machine& m, const Bound& bound) { return m.pulse(bound.name); });
}
Bindings& Bindings::state(State& handle, std::string_view path) {
  return bind(handle, path, {}, [](const Machine& m, const Bound& bound) { return m.state(bound.name); });
}
Bindings& Bindings::trait(Trait& handle, std::string_view name) {
  return bind(handle, name, {}, [](const Machine& m, const Bound& bound) { return m.trait(bound.name); });
}
Bindings& Bindings::field(Field& handle, std::string_view cue, std::string_view name) {
  return bind(handle, name, cue, [](const Machine& m, const Bound& bound) { return m.field(bound.of, bound.name); });
}

Bindings& Bindings::clip(Clip& handle, std::string_view name) {
  return bind(handle, name, {}, [](const Machine& m, const Bound& bound) { return m.clip(bound.name); });
}
Bindings& Bindings::region(Region& handle, std::string_view path) {
  return bind(handle, path, {}, [](const Machine& m, const Bound& bound) { return m.region(bound.name); });
}
Bindings& Bindings::variable(Variable& handle, std::string_view name, std::string_view state) {
  return bind(handle, name, state,
              [](const Machine& m, const Bound& bound) { return m.variable(bound.name, bound.of); });
}

Bindings& Bindings::choice(Choice& choice, std::string_view input, std::string_view name) {
  bound_.push_back({&choice,
                    [](Bindings& names, const Bound& bound) {
                      Choice& to = *static_cast<Choice*>(bound.handle);
                      to = {255};
                      const auto of = names.machine_.input<Choice>(bound.of);
                      const auto found = of ? names.machine_.choice(*of, bound.name) : Result<Choice>(of.error());
                      if (found)
                        to = *found;
                      else
                        names.errors_.push_back(found.error());
                    },
                    std::string(name), std::string(input)});
  bound_.back().fetch(*this, bound_.back());
  return *this;
}

Bindings& Bindings::router(Router& router) {
  bound_.push_back({&router,
                    [](Bindings& names, const Bound& bound) {
                      for (Error& gone : static_cast<Router*>(bound.handle)->rebind(names.machine_))
                        names.errors_.push_back(std::move(gone));
                    },
                    {},
                    {}});
  if (router.machine().serial() != machine_.serial()) bound_.back().fetch(*this, bound_.back());
  return *this;
}

std::string Bindings::text() const {
  std::string out;
  for (const Error& error : errors_) out += error.text() + "\n";
  return out;
}

std::span<const Error> Bindings::rebind(Machine machine) {
  machine_ = std::move(machine);
  errors_.clear();
  for (const Bound& bound : bound_) bound.fetch(*this, bound);
  return errors_;
}

}  // namespace mobrin
