#include "core/sound/memory_file.h"

#include <algorithm>
#include <cstring>

namespace heft {
namespace {

sf_count_t memoryLength(void* user) {
  return static_cast<sf_count_t>(static_cast<MemoryFile*>(user)->bytes->size());
}

sf_count_t memorySeek(sf_count_t offset, int whence, void* user) {
  auto* file = static_cast<MemoryFile*>(user);
  const sf_count_t base = whence == SEEK_CUR ? file->at : whence == SEEK_END ? memoryLength(user) : 0;
  file->at = std::max<sf_count_t>(0, base + offset);
  return file->at;
}

sf_count_t memoryRead(void* target, sf_count_t count, void* user) {
  auto* file = static_cast<MemoryFile*>(user);
  const sf_count_t left = std::max<sf_count_t>(0, memoryLength(user) - file->at);
  count = std::clamp<sf_count_t>(count, 0, left);
  std::memcpy(target, file->bytes->data() + file->at, static_cast<size_t>(count));
  file->at += count;
  return count;
}

sf_count_t memoryWrite(const void* source, sf_count_t count, void* user) {
  auto* file = static_cast<MemoryFile*>(user);
  const size_t end = static_cast<size_t>(file->at + count);
  if (file->bytes->size() < end) file->bytes->resize(end);
  std::memcpy(file->bytes->data() + file->at, source, static_cast<size_t>(count));
  file->at += count;
  return count;
}

sf_count_t memoryTell(void* user) {
  return static_cast<MemoryFile*>(user)->at;
}

}  // namespace

SF_VIRTUAL_IO memoryIo() {
  return {memoryLength, memorySeek, memoryRead, memoryWrite, memoryTell};
}

}  // namespace heft
