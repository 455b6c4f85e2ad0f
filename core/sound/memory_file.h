#pragma once
/// Bytes in memory as libsndfile sees a file: reading by content, never by name.

#include <sndfile.h>

#include <memory>
#include <string>

namespace heft {

struct MemoryFile {
  std::string* bytes;
  sf_count_t at = 0;
};
/// For sf_open_virtual() with a MemoryFile.
SF_VIRTUAL_IO memoryIo();

struct SndCloser {
  void operator()(SNDFILE* file) const { sf_close(file); }
};
using SndFile = std::unique_ptr<SNDFILE, SndCloser>;

}  // namespace heft
