// Result: a value or the error that stands in its place; nothing is thrown.
#pragma once

#include <optional>
#include <string>
#include <utility>

namespace mobrin {

/// What went wrong, for a person: the message names the offending words, `nearest` is the known name closest to them
/// (empty where nothing is close). Plain value.
struct Error {
  std::string message;   ///< what is wrong, in one line without a full stop
  std::string nearest;   ///< a known name that is meant, perhaps
  std::string remedy{};  ///< what to do, where the message does not say it
  bool unknown = false;  ///< a name that nothing has; else the name is known and does not fit

  /// The message, followed by the nearest name or the remedy where there is one; printable (see printable() in
  /// names.hpp).
  [[nodiscard]] std::string text() const;
};

namespace detail {
// Says the error on standard error and ends the program.
[[noreturn]] void stop_at(const Error& error);
}  // namespace detail

/// Either a T or an Error. Taking the value of an error ends the program with the error's text, in every build: ask
/// first, or use value_or(). Same thread rule as T.
template <class T>
class [[nodiscard]] Result {
 public:
  /// A value.
  Result(T value) : value_(std::move(value)) {}  // NOLINT: a value is a result
  /// An error in its place.
  Result(Error error) : error_(std::move(error)) {}  // NOLINT: an error is a result

  /// Whether there is a value.
  [[nodiscard]] explicit operator bool() const { return value_.has_value(); }
  /// The value; ends the program with the error's text where there is none, as the next ones do.
  [[nodiscard]] const T& operator*() const& { return value(); }
  /// The value, to be changed.
  [[nodiscard]] T& operator*() & { return value(), *value_; }
  /// The value, moved out.
  [[nodiscard]] T operator*() && { return value(), std::move(*value_); }
  /// A part of the value.
  [[nodiscard]] const T* operator->() const { return &value(); }
  /// A part of the value, to be changed.
  [[nodiscard]] T* operator->() { return value(), &*value_; }
  /// The value; `other` where there is none.
  [[nodiscard]] T value_or(T other) const { return value_ ? *value_ : std::move(other); }
  /// The error; an empty one where there is a value.
  [[nodiscard]] const Error& error() const { return error_; }

 private:
  const T& value() const {
    if (!value_) detail::stop_at(error_);
    return *value_;
  }

  std::optional<T> value_;
  Error error_;
};

/// Success without a value, or an Error.
struct Done {};
using Outcome = Result<Done>;

}  // namespace mobrin
