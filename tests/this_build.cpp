#include "tests/this_build.h"

#include <cstdlib>
#include <filesystem>
#include <new>

namespace {
thread_local long calls = 0;
}  // namespace

namespace heft {

bool isWatched() {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
  return true;
#else
  return false;
#endif
}

std::string heftCli() {
  return std::filesystem::read_symlink("/proc/self/exe").parent_path() / "heft-cli";
}

long heapCalls() {
  return calls;
}

}  // namespace heft

// Sanitizers keep their own books of new and delete.
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
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
