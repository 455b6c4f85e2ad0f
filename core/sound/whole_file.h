#pragma once
/// Files read and written whole: a reader meets the old bytes or the new ones, never a half.

#include <cstdint>
#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "core/result.h"

namespace heft {

inline constexpr uint64_t kMostBytes = 2'000'000'000ULL;

/// Whether a name may be a link to somewhere else.
enum class Links { Followed, Refused };

/// The bytes of a regular file of at most `limit` bytes. Errors: Unreadable, naming the file; with
/// Links::Refused also where the last part of the path is a link.
Result<std::string> readBytes(const std::string& path, uint64_t limit = kMostBytes,
                              Links links = Links::Followed);

/// Writes beside the target, flushes to the disk and renames over it. The temporary file has an unpredictable
/// name and is never opened over an existing one, so that a planted link has no effect. Errors: Unwritable,
/// naming the file; then nothing is left behind.
Result<void> writeWhole(const std::string& path, const std::string& bytes);

struct FileBytes {
  std::string path;
  const std::string* bytes;
  /// Instead of bytes: writes the file to an open one, from its start.
  std::function<Result<void>(int fd)> write = {};
};
/// Likewise for several: all of them or none, and existing files stay if one fails. Errors: Unwritable,
/// naming the first that failed, and those of its own writing.
Result<void> writeAllWhole(const std::vector<FileBytes>& files);

/// A folder created with its missing parents, and removed again with the empty ones among them unless it is
/// kept: failures leave no folders behind.
class MadeFolder {
 public:
  /// Errors: Unwritable, naming the folder.
  static Result<MadeFolder> at(const std::string& folder);
  MadeFolder(MadeFolder&& other) noexcept : fresh_(std::exchange(other.fresh_, {})) {}
  ~MadeFolder();
  void keep() { fresh_.clear(); }

 private:
  MadeFolder() = default;
  std::vector<std::string> fresh_;  ///< innermost first
};

/// "DIR/NAME.wav", or "DIR/NAME 2.wav" and so on if that exists: for writing without replacing anything.
std::string freePath(const std::string& folder, const std::string& name, const std::string& extension);

/// Removes unfinished files of writers of this machine that no longer run. Others' files and those of running
/// writers stay. No errors: files that cannot be removed stay.
void sweepUnfinished(const std::string& folder);

}  // namespace heft
