#pragma once
/// A sound that the session uses.

#include <cstdint>
#include <string>

namespace heft {

/// Keys of the file that this version does not know, kept as JSON text so that saving loses nothing. Empty:
/// none.
using Unknown = std::string;

/// A file's size and time of writing.
struct SourceStamp {
  uint64_t bytes = 0;
  int64_t changedNs = 0;  ///< time of its last change, ns since 1970; 0: not known
  bool operator==(const SourceStamp&) const = default;
};

/// A sound that the session uses, by the content of its file.
struct AssetRef {
  std::string hash;        ///< XXH3-128 of the file's bytes, 32 hex digits; empty: none
  std::string name;        ///< file name as it came, for people
  std::string from = {};   ///< whole path of that file, where known, to see whether it changed on disk
  SourceStamp stamp = {};  ///< of that file when it was read
  Unknown unknown = {};
  bool operator==(const AssetRef&) const = default;
  bool empty() const { return hash.empty(); }
};

}  // namespace heft
