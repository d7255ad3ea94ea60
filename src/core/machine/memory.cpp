#include "mobrin/core/memory.hpp"

#include <cstdio>
#include <cstdlib>
#include <new>

#include "mobrin/core/list.hpp"

namespace mobrin {

void detail::stop_without_memory(std::size_t bytes) {
  std::fprintf(stderr, "mobrin: no memory is left (%zu bytes were wanted); the program stops here\n", bytes);
  std::abort();
}

MemorySource detail::stopping_memory() {
  struct Stopping {
    static void* allocate(std::size_t bytes, std::size_t alignment) {
      return or_stop(MemorySource().allocate(bytes, alignment), bytes);
    }
    static void deallocate(void* memory, std::size_t bytes, std::size_t alignment) {
      MemorySource().deallocate(memory, bytes, alignment);
    }
  };
  static Stopping stopping;
  return &stopping;
}

void* MemorySource::allocate(std::size_t bytes, std::size_t alignment) const {
  if (resource_ != nullptr) return allocate_(resource_, bytes, alignment);
  return ::operator new(bytes, std::align_val_t(alignment), std::nothrow);
}

void MemorySource::deallocate(void* memory, std::size_t bytes, std::size_t alignment) const {
  if (memory == nullptr) return;
  if (resource_ != nullptr) return deallocate_(resource_, memory, bytes, alignment);
  ::operator delete(memory, std::align_val_t(alignment));
}

}  // namespace mobrin
