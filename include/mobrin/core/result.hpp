// Result: a value or the error that stands in its place; nothing is thrown.
#pragma once

#include <cassert>
#include <optional>
#include <string>
#include <utility>

namespace mobrin {

/// What went wrong, for a person: the message names the offending words, `nearest` is the known name closest to them
/// (empty where nothing is close). Plain value.
struct Error {
  std::string message;
  std::string nearest;

  /// The message, followed by the nearest name where there is one.
  [[nodiscard]] std::string text() const {
    return nearest.empty() ? message : message + "; did you mean \"" + nearest + "\"?";
  }
};

/// Either a T or an Error. Same thread rule as T.
template <class T>
class [[nodiscard]] Result {
 public:
  Result(T value) : value_(std::move(value)) {}      // NOLINT: a value is a result
  Result(Error error) : error_(std::move(error)) {}  // NOLINT: an error is a result

  [[nodiscard]] explicit operator bool() const { return value_.has_value(); }
  /// REQUIRES: holds a value.
  [[nodiscard]] const T& operator*() const { return assert(value_), *value_; }
  [[nodiscard]] const T* operator->() const { return assert(value_), &*value_; }
  [[nodiscard]] T& operator*() { return assert(value_), *value_; }
  [[nodiscard]] T* operator->() { return assert(value_), &*value_; }
  /// REQUIRES: holds an error.
  [[nodiscard]] const Error& error() const { return assert(!value_), error_; }

 private:
  std::optional<T> value_;
  Error error_;
};

/// Success without a value, or an Error.
struct Done {};
using Outcome = Result<Done>;

}  // namespace mobrin
