// A list that mostly holds few: those stand in it, and only more of them cost an allocation. A search copies lists of
// what is active and known millions of times.
#pragma once

#include <algorithm>
#include <compare>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <initializer_list>
#include <iterator>
#include <memory>
#include <type_traits>
#include <utility>

namespace mobrin::proof {

template <class T, std::uint32_t N>
class Few {
  static_assert(std::is_trivially_copyable_v<T>);

 public:
  using value_type = T;
  using iterator = T*;
  using const_iterator = const T*;

  Few() = default;
  Few(std::size_t count, T value) { assign(count, value); }
  Few(std::initializer_list<T> all) : Few(all.begin(), all.end()) {}
  template <std::forward_iterator Iterator>
  Few(Iterator first, Iterator last) {
    append(first, last);
  }
  Few(const Few& other) { copy(other); }
  Few(Few&& other) noexcept { take(other); }
  Few& operator=(const Few& other) {
    if (this != &other) copy(other);
    return *this;
  }
  Few& operator=(Few&& other) noexcept {
    if (this != &other) take(other);
    return *this;
  }
  ~Few() = default;

  [[nodiscard]] std::size_t size() const { return size_; }
  [[nodiscard]] bool empty() const { return size_ == 0; }
  [[nodiscard]] T* data() { return far_ ? far_.get() : reinterpret_cast<T*>(near_); }
  [[nodiscard]] const T* data() const { return far_ ? far_.get() : reinterpret_cast<const T*>(near_); }
  [[nodiscard]] T* begin() { return data(); }
  [[nodiscard]] T* end() { return data() + size_; }
  [[nodiscard]] const T* begin() const { return data(); }
  [[nodiscard]] const T* end() const { return data() + size_; }
  [[nodiscard]] T& operator[](std::size_t at) { return data()[at]; }
  [[nodiscard]] const T& operator[](std::size_t at) const { return data()[at]; }
  [[nodiscard]] T& back() { return data()[size_ - 1]; }
  [[nodiscard]] const T& back() const { return data()[size_ - 1]; }

  void clear() { size_ = 0; }
  void pop_back() { --size_; }
  void push_back(T one) {
    make_room(size_ + 1);
    data()[size_++] = one;
  }
  void assign(std::size_t count, T value) {
    size_ = 0;
    make_room(count);
    size_ = static_cast<std::uint32_t>(count);
    std::fill(begin(), end(), value);
  }
  // Behind those that there are.
  template <std::forward_iterator Iterator>
  void append(Iterator first, Iterator last) {
    make_room(size_ + static_cast<std::size_t>(std::distance(first, last)));
    for (; first != last; ++first) data()[size_++] = *first;
  }
  template <class Is>
  void erase_if(const Is& is) {
    size_ = static_cast<std::uint32_t>(std::remove_if(begin(), end(), is) - begin());
  }

  bool operator==(const Few& other) const { return std::equal(begin(), end(), other.begin(), other.end()); }
  auto operator<=>(const Few& other) const {
    return std::lexicographical_compare_three_way(begin(), end(), other.begin(), other.end());
  }

 private:
  void make_room(std::size_t count) {
    if (count <= room_) return;
    const std::size_t room = std::max<std::size_t>(count, std::size_t{2} * room_);
    std::unique_ptr<T[]> more(new T[room]);
    std::copy(begin(), end(), more.get());
    far_ = std::move(more);
    room_ = static_cast<std::uint32_t>(room);
  }
  void copy(const Few& other) {
    if (!far_ && !other.far_) {  // all of it, as that is a few instructions
      size_ = other.size_;
      std::memcpy(near_, other.near_, sizeof near_);
      return;
    }
    size_ = 0;
    make_room(other.size_);
    size_ = other.size_;
    std::memcpy(static_cast<void*>(data()), other.data(), size_ * sizeof(T));
  }
  void take(Few& other) noexcept {
    if (!other.far_) return copy(other);  // there is room for what stood in the other
    far_ = std::move(other.far_);
    size_ = std::exchange(other.size_, 0);
    room_ = std::exchange(other.room_, N);
  }

  std::unique_ptr<T[]> far_;  // all of them, where they are more than N
  std::uint32_t size_ = 0, room_ = N;
  alignas(T) std::byte near_[N * sizeof(T)];
};

}  // namespace mobrin::proof
