#include "mobrin/core/memory.hpp"

#include <cstdio>
#include <cstdlib>
#include <new>

#include "mobrin/core/list.hpp"

#if defined(__linux__)
// The core includes standard headers only.
extern "C" int madvise(void* memory, std::size_t bytes, int advice) noexcept;
#endif

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

namespace {

// What takes several large pages of memory begins with one. A crowd's members are touched in any order: with pages of
// 4 KB the processor looks up where each lies.
constexpr std::size_t kLargePage = std::size_t{2} << 20;

std::align_val_t aligned_for(std::size_t bytes, std::size_t alignment) {
  return std::align_val_t(bytes >= 2 * kLargePage && alignment < kLargePage ? kLargePage : alignment);
}

void ask_for_large_pages([[maybe_unused]] void* memory, [[maybe_unused]] std::size_t bytes) {
#if defined(__linux__)
  constexpr int kHugePage = 14;  // MADV_HUGEPAGE; a system without them refuses, and nothing is lost
  if (memory != nullptr && bytes >= 2 * kLargePage)
    static_cast<void>(madvise(memory, bytes - bytes % kLargePage, kHugePage));
#endif
}

}  // namespace

void* MemorySource::allocate(std::size_t bytes, std::size_t alignment) const {
  if (resource_ != nullptr) return allocate_(resource_, bytes, alignment);
  void* const memory = ::operator new(bytes, aligned_for(bytes, alignment), std::nothrow);
  ask_for_large_pages(memory, bytes);
  return memory;
}

void MemorySource::deallocate(void* memory, std::size_t bytes, std::size_t alignment) const {
  if (memory == nullptr) return;
  if (resource_ != nullptr) return deallocate_(resource_, memory, bytes, alignment);
  ::operator delete(memory, aligned_for(bytes, alignment));
}

}  // namespace mobrin
