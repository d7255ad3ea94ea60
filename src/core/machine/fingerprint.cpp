// A machine's fingerprint: a hash of all that decides what it does, the same on every machine.
#include <bit>
#include <type_traits>

#include "machine/tables.hpp"

namespace mobrin {
namespace detail {

// FNV-1a over what the tables hold. Places, pictures and words for people are no part of it.
class Fingerprint {
 public:
  static constexpr bool kWithArt = false;

  template <class T>
  void number(T value) {
    std::uint64_t bits = 0;
    if constexpr (std::is_floating_point_v<T>)
      bits = std::bit_cast<std::uint64_t>(static_cast<double>(value));
    else
      bits = static_cast<std::uint64_t>(value);
    for (int i = 0; i < 8; ++i) byte(static_cast<std::uint8_t>(bits >> (8 * i)));
  }
  void size(std::size_t value) { number(value); }
  template <class E>
  void word(E value, E) {
    number(static_cast<std::uint8_t>(value));
  }
  void text(const std::string& value) {
    number(value.size());
    for (const char c : value) byte(static_cast<std::uint8_t>(c));
  }
  void text(const Text& value) { text(value.text); }
  template <class T>
  void name(const T& value) {
    text(value);
  }
  template <class T>
  void words(const T&) {}
  void place(const Place&) {}
  template <class T, class Each>
  void list(std::vector<T>& values, const Each& each) {
    number(values.size());
    for (T& value : values) each(value);
  }
  template <class T>
  void maybe(std::optional<T>& value) {
    number(value.has_value());
    if (value) fields(*this, *value);
  }
  template <class... T>
  void choice(std::variant<T...>& value) {
    number(value.index());
    std::visit([&](auto& each) { alternative(*this, each); }, value);
  }
  [[nodiscard]] std::uint64_t value() const { return hash_; }

 private:
  void byte(std::uint8_t value) { hash_ = (hash_ ^ value) * 0x100000001b3u; }

  std::uint64_t hash_ = 0xcbf29ce484222325u;
};

}  // namespace detail

std::uint64_t Machine::fingerprint() const {
  std::atomic<std::uint64_t>& known = data_->fingerprint.value;
  std::uint64_t value = known.load(std::memory_order_relaxed);
  if (value == 0) {
    detail::Fingerprint print;
    fields(print,
           const_cast<detail::MachineData&>(*data_));  // an archive might change what it is shown; this one does not
    value = print.value() != 0 ? print.value() : 1;
    known.store(value, std::memory_order_relaxed);
  }
  return value;
}

}  // namespace mobrin
