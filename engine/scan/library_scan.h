#pragma once
/// Scans the library's folders: several files at once, measurements going into the index as they come.

#include <functional>
#include <stop_token>

#include "core/library/index.h"
#include "core/library/scan.h"

namespace heft {

struct ScanProgress {
  size_t done = 0, all = 0;
};

struct ScanSummary {
  size_t found = 0, measured = 0, gone = 0, moved = 0, broken = 0;
  std::vector<std::string> faults;  ///< folders that could not be read, in sentences
};

/// Blocks until all is done or `stop` is requested: finished measurements are kept, so that the next scan
/// continues. `tell` is called on this thread. Errors: those of the index; Cancelled.
Result<ScanSummary> scanLibrary(const std::string& indexPath, unsigned threads,
                                const std::function<void(ScanProgress)>& tell,
                                const std::stop_token& stop = {});

}  // namespace heft
