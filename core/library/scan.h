#pragma once
/// Scans folders for new, changed and missing files. The caller measures them, several at once if it likes.

#include <stop_token>
#include <vector>

#include "core/library/row.h"

namespace heft {

/// The work left after a scan.
struct ScanPlan {
  std::vector<FileStamp> toMeasure;  ///< new, or written since
  /// Renamed or moved: the only file of the same size and nanosecond of writing as a missing one; in a pack
  /// whose files share both, of the same name too. Its record moves along.
  std::vector<MovedFile> moved;
  std::vector<std::string> gone;    ///< known, but missing now
  std::vector<std::string> back;    ///< known as missing, and back unchanged
  size_t found = 0;                 ///< existing audio files
  std::vector<std::string> faults;  ///< folders that could not be read, in sentences
};

/// Scans `folders` and everything in them except links to folders, at most 200,000 files. Picks audio files
/// by extension (reading them checks the content). `known`: the index; known files outside the folders are
/// left alone. Errors: Cancelled.
Result<ScanPlan> planScan(const std::vector<std::string>& folders, const std::vector<LibraryRow>& known,
                          const std::stop_token& stop = {});

}  // namespace heft
