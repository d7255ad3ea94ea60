// List: a vector that ends the program where no memory is left, for what must never stand half changed.
#pragma once

#include <cstddef>
#include <new>
#include <vector>

#include "mobrin/core/memory.hpp"

namespace mobrin::detail {

/// Writes to standard error how much was wanted and ends the program (std::abort).
[[noreturn]] void stop_without_memory(std::size_t bytes);
/// What was allocated; ends the program where that is nothing.
[[nodiscard]] inline void* or_stop(void* memory, std::size_t bytes) {
  if (memory == nullptr) stop_without_memory(bytes);
  return memory;
}

/// Gives the program's own memory; where there is none left, ends it instead of throwing.
template <class T>
struct StoppingAllocator {
  using value_type = T;
  StoppingAllocator() = default;
  template <class Other>
  StoppingAllocator(const StoppingAllocator<Other>&) {}  // NOLINT: as allocators are
  [[nodiscard]] T* allocate(std::size_t count) {
    constexpr std::size_t kSize = sizeof(T);  // NOLINT(bugprone-sizeof-expression): T may be a pointer
    const std::size_t bytes = count * kSize;
    void* memory = count > static_cast<std::size_t>(-1) / kSize ? nullptr
                   : alignof(T) > __STDCPP_DEFAULT_NEW_ALIGNMENT__
                       ? ::operator new(bytes, std::align_val_t(alignof(T)), std::nothrow)
                       : ::operator new(bytes, std::nothrow);
    return static_cast<T*>(or_stop(memory, bytes));
  }
  void deallocate(T* memory, std::size_t) {
    if constexpr (alignof(T) > __STDCPP_DEFAULT_NEW_ALIGNMENT__)
      ::operator delete(memory, std::align_val_t(alignof(T)));
    else
      ::operator delete(memory);
  }
  friend bool operator==(const StoppingAllocator&, const StoppingAllocator&) { return true; }
};

/// The program's own memory as a source that never gives null: where there is none left, it ends the program.
[[nodiscard]] MemorySource stopping_memory();

template <class T>
using List = std::vector<T, StoppingAllocator<T>>;

}  // namespace mobrin::detail
