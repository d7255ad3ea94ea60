// Memory in pages of two megabytes, where the system gives such: fewer of them are to be looked up.
#pragma once

#include <memory_resource>
#include <new>

#if defined(__linux__)
#include <sys/mman.h>
#endif

namespace mobrin::bench {

class LargePages : public std::pmr::memory_resource {
 private:
  static constexpr std::size_t kPage = std::size_t{2} << 20;
  static std::align_val_t alignment_for(std::size_t bytes, std::size_t asked) {
    return std::align_val_t{bytes >= kPage ? kPage : asked};
  }
  void* do_allocate(std::size_t bytes, std::size_t alignment) override {
    void* const what = ::operator new(bytes, alignment_for(bytes, alignment));
#if defined(__linux__)
    if (bytes >= kPage) madvise(what, bytes, MADV_HUGEPAGE);
#endif
    return what;
  }
  void do_deallocate(void* what, std::size_t bytes, std::size_t alignment) override {
    ::operator delete(what, alignment_for(bytes, alignment));
  }
  [[nodiscard]] bool do_is_equal(const memory_resource& other) const noexcept override { return this == &other; }
};

}  // namespace mobrin::bench
