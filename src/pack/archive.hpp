// Writing and reading the values of tables: little-endian, every size checked before it is used.
#pragma once

#include <bit>
#include <cstring>
#include <type_traits>

#include "machine/tables.hpp"

namespace mobrin::detail {

template <class T>
using BitsOf = std::conditional_t<
    sizeof(T) == 8, std::uint64_t,
    std::conditional_t<sizeof(T) == 4, std::uint32_t, std::conditional_t<sizeof(T) == 2, std::uint16_t, std::uint8_t>>>;

class Writer {
 public:
  static constexpr bool kWithArt = true;
  explicit Writer(bool names) : names_(names) {}
  std::vector<std::byte> out;

  template <class T>
  void number(T value) {
    static_assert(std::is_arithmetic_v<T>);
    const auto bits = std::bit_cast<BitsOf<T>>(value);
    for (std::size_t i = 0; i < sizeof bits; ++i) out.push_back(static_cast<std::byte>(bits >> (8 * i)));
  }
  // 64 bits everywhere.
  void size(std::size_t value) { number(std::uint64_t{value}); }
  template <class E>
  void word(E value, E) {
    number(static_cast<std::uint8_t>(value));
  }
  void text(const std::string& value) {
    number(static_cast<std::uint32_t>(value.size()));
    const auto bytes = std::as_bytes(std::span(value));
    out.insert(out.end(), bytes.begin(), bytes.end());
  }
  void text(Text& value) {
    text(value.text);
    place(value.place);
  }
  void name(const std::string& value) { text(names_ ? value : std::string()); }
  template <class T>
  void words(T& value) {
    name(value);
  }
  void name(Text& value) {
    name(value.text);
    place(value.place);
  }
  void place(const Place& value) {
    if (!names_) return;
    number(value.file), number(value.line), number(value.column);
  }
  template <class T, class Each>
  void list(std::vector<T>& values, const Each& each) {
    number(static_cast<std::uint32_t>(values.size()));
    for (T& value : values) each(value);
  }
  template <class T>
  void maybe(std::optional<T>& value) {
    number(value.has_value());
    if (value) fields(*this, *value);
  }
  template <class... T>
  void choice(std::variant<T...>& value) {
    number(static_cast<std::uint8_t>(value.index()));
    std::visit([&](auto& each) { alternative(*this, each); }, value);
  }

 private:
  bool names_;
};

class Reader {
 public:
  static constexpr bool kWithArt = true;
  Reader(std::span<const std::byte> bytes, bool names)
      : bytes_(bytes), names_(names), budget_(kTimesItsSize * bytes.size() + kAnyway) {}
  // False once anything did not fit; what is read then is zero.
  [[nodiscard]] bool sound() const { return sound_; }
  [[nodiscard]] bool at_end() const { return at_ == bytes_.size(); }

  template <class T>
  void number(T& value) {
    static_assert(std::is_arithmetic_v<T>);
    BitsOf<T> bits = 0;
    if (!take(sizeof bits)) {
      value = T();
      return;
    }
    if constexpr (std::endian::native == std::endian::little)
      std::memcpy(&bits, bytes_.data() + at_ - sizeof bits, sizeof bits);
    else
      for (std::size_t i = 0; i < sizeof bits; ++i)
        bits = static_cast<BitsOf<T>>(
            bits | static_cast<BitsOf<T>>(std::to_integer<std::uint8_t>(bytes_[at_ - sizeof bits + i])) << (8 * i));
    if constexpr (std::is_same_v<T, bool>) {
      if (bits > 1) sound_ = false;
      value = bits != 0;
    } else {
      value = std::bit_cast<T>(bits);
    }
  }
  void size(std::size_t& value) {
    std::uint64_t whole = 0;
    number(whole);
    value = static_cast<std::size_t>(whole);
    if (value != whole) sound_ = false;
  }
  template <class E>
  void word(E& value, E last) {
    std::uint8_t read = 0;
    number(read);
    if (read > static_cast<std::uint8_t>(last)) sound_ = false, read = 0;
    value = static_cast<E>(read);
  }
  void text(std::string& value) {
    std::uint32_t size = 0;
    number(size);
    if (!take(size) || !afford(size > kInPlace ? size + 1 : 0)) return;
    value.assign(reinterpret_cast<const char*>(bytes_.data()) + at_ - size, size);
  }
  void text(Text& value) {
    text(value.text);
    place(value.place);
  }
  void name(std::string& value) { text(value); }
  template <class T>
  void words(T& value) {
    name(value);
  }
  void name(Text& value) { text(value); }
  void place(Place& value) {
    if (!names_) return;
    number(value.file), number(value.line), number(value.column);
  }
  template <class T, class Each>
  void list(std::vector<T>& values, const Each& each) {
    std::uint32_t count = 0;
    number(count);
    // Nothing takes less than a byte.
    if (count > bytes_.size() - at_) sound_ = false;
    if (!sound_ || !afford(std::uint64_t{count} * sizeof(T))) return;
    values.reserve(count);
    for (std::uint32_t i = 0; i < count && sound_; ++i) each(values.emplace_back());
  }
  template <class T>
  void maybe(std::optional<T>& value) {
    bool there = false;
    number(there);
    if (there) fields(*this, value.emplace());
  }
  template <class... T>
  void choice(std::variant<T...>& value) {
    std::uint8_t index = 0;
    number(index);
    if (index >= sizeof...(T)) sound_ = false;
    if (sound_) read_alternative(value, index, std::index_sequence_for<T...>());
  }

 private:
  template <class... T, std::size_t... I>
  void read_alternative(std::variant<T...>& value, std::size_t index, std::index_sequence<I...>) {
    ((I == index ? alternative(*this, value.template emplace<I>()) : void()), ...);
  }
  // A pack may take so many times its size when it is loaded, and a little anyway.
  static constexpr std::uint64_t kTimesItsSize = 4, kAnyway = 16'384;
  static constexpr std::size_t kInPlace = 15;  // bytes of a string that take no memory of their own
  bool afford(std::uint64_t bytes) {
    if (bytes > budget_) sound_ = false;
    if (sound_) budget_ -= bytes;
    return sound_;
  }
  bool take(std::size_t size) {
    if (size > bytes_.size() - at_) sound_ = false;
    if (!sound_) return false;
    at_ += size;
    return true;
  }

  std::span<const std::byte> bytes_;
  bool names_;
  std::uint64_t budget_;
  std::size_t at_ = 0;
  bool sound_ = true;
};

}  // namespace mobrin::detail
