#pragma once
/// The library's SQLite file, for what the library keeps in it.

#include <SQLiteCpp/SQLiteCpp.h>

#include <string>
#include <type_traits>

#include "core/result.h"

namespace heft {

/// How long a writer waits for another window's.
inline constexpr int kWaitForLibraryMs = 5000;

struct LibraryFile {
  SQLite::Database db;
  std::string path;
  std::string what;  ///< "the library's index"

  /// Whatever the database throws becomes an error that names the file.
  template <class Work>
  auto guarded(Work work) -> Result<decltype(work())> {
    try {
      if constexpr (std::is_void_v<decltype(work())>) {
        work();
        return {};
      } else {
        return work();
      }
    } catch (const SQLite::Exception& error) {
      return unwritable(path, what + ": " + error.what());
    }
  }
};

}  // namespace heft
