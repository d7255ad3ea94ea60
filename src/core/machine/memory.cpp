#include "mobrin/core/memory.hpp"

#include <new>

namespace mobrin {

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
