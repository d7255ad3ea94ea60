// MemorySource: where a crowd's memory comes from.
#pragma once

#include <cstddef>

namespace mobrin {

/// A source of memory: the program's own (the default; 4 MB and more are asked for in large pages where the system
/// gives such), or a std::pmr::memory_resource or anything else with the same
/// `allocate(bytes, alignment)` and `deallocate(pointer, bytes, alignment)`, which must outlive all that took from it.
/// `allocate` may return null where it has no more: a list of cues then says so (CrowdCues), a crowd that grows ends
/// the program with a word on standard error (std::abort), for half a member would be worse. Plain value. As
/// thread-safe as what it stands for.
class MemorySource {
 public:
  MemorySource() = default;
  /// Memory from a resource, which must live as long as what takes from it.
  template <class Resource>
  requires requires(Resource& resource, void* memory) {
    memory = resource.allocate(std::size_t{}, std::size_t{});
    resource.deallocate(memory, std::size_t{}, std::size_t{});
  }
  MemorySource(Resource* resource)  // NOLINT: implicit so that `options.memory = &pool` reads well
      : resource_(resource),
        allocate_([](void* from, std::size_t bytes, std::size_t alignment) -> void* {
          return static_cast<Resource*>(from)->allocate(bytes, alignment);
        }),
        deallocate_([](void* from, void* memory, std::size_t bytes, std::size_t alignment) {
          static_cast<Resource*>(from)->deallocate(memory, bytes, alignment);
        }) {}

  /// Null where there is none left.
  [[nodiscard]] void* allocate(std::size_t bytes, std::size_t alignment) const;
  /// REQUIRES: allocate() of the same source gave it for the same size and alignment. Null is passed over.
  void deallocate(void* memory, std::size_t bytes, std::size_t alignment) const;

 private:
  void* resource_ = nullptr;
  void* (*allocate_)(void*, std::size_t, std::size_t) = nullptr;
  void (*deallocate_)(void*, void*, std::size_t, std::size_t) = nullptr;
};

}  // namespace mobrin
