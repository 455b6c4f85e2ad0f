#pragma once
/// Looking through folders: what is new or changed, what has gone. Measuring is left to the caller, who may do
/// several files at once.

#include <stop_token>
#include <vector>

#include "core/library/row.h"

namespace heft {

/// What there is to do after a look at the disk.
struct ScanPlan {
  std::vector<FileStamp> toMeasure;  ///< new, or written since
  /// Renamed or moved: as long and written at the same nanosecond as one that has gone, and no other is; in a
  /// pack whose files share both, of the same name too. What is known of them goes along.
  std::vector<MovedFile> moved;
  std::vector<std::string> gone;    ///< known, but not there any more
  std::vector<std::string> back;    ///< known as gone, and there again as they were
  size_t found = 0;                 ///< audio files that are there
  std::vector<std::string> faults;  ///< folders that could not be read, in sentences
};

/// Looks through `folders` and everything in them, links to folders apart, at most 200,000 files. Audio files
/// are told by their ending here (what they are is told by their content when they are read). `known`: as the
/// index has it; known files outside the folders are left alone. Errors: Cancelled.
Result<ScanPlan> planScan(const std::vector<std::string>& folders, const std::vector<LibraryRow>& known,
                          const std::stop_token& stop = {});

}  // namespace heft
