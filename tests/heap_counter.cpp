#include "tests/heap_counter.h"

#include <cstdlib>
#include <new>

// Sanitizers keep their own books of new and delete.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
namespace heft {
long heapCalls() {
  return -1;
}
}  // namespace heft
#else

namespace {
thread_local long calls = 0;
}  // namespace

namespace heft {
long heapCalls() {
  return calls;
}
}  // namespace heft

void* operator new(size_t size) {
  ++calls;
  if (void* p = std::malloc(size ? size : 1)) return p;
  throw std::bad_alloc();
}
void operator delete(void* p) noexcept {
  ++calls;
  std::free(p);
}
void operator delete(void* p, size_t) noexcept {
  ++calls;
  std::free(p);
}
#endif
