// Memory in pages of two megabytes, where the system gives such, as a crowd asks for by itself: for the loop by hand.
#pragma once

#include <memory_resource>

#include "mobrin/core/memory.hpp"

namespace mobrin::bench {

class LargePages : public std::pmr::memory_resource {
 private:
  void* do_allocate(std::size_t bytes, std::size_t alignment) override {
    return MemorySource().allocate(bytes, alignment);
  }
  void do_deallocate(void* what, std::size_t bytes, std::size_t alignment) override {
    MemorySource().deallocate(what, bytes, alignment);
  }
  [[nodiscard]] bool do_is_equal(const memory_resource& other) const noexcept override { return this == &other; }
};

}  // namespace mobrin::bench
