#pragma once
/// The library's index: one SQLite file, which several windows may have open at once.

#include <memory>
#include <vector>

#include "core/library/row.h"

namespace heft {

class LibraryIndex {
 public:
  /// Opens or creates the file. A file that is no index, or of a later version, stays untouched. Errors:
  /// Unreadable, Unwritable.
  static Result<LibraryIndex> open(const std::string& path);
  LibraryIndex(LibraryIndex&&) noexcept;
  LibraryIndex& operator=(LibraryIndex&&) noexcept;
  ~LibraryIndex();

  /// Library folders, sorted.
  Result<std::vector<std::string>> folders();
  Result<void> addFolder(const std::string& folder);
  /// Removes its files too, except favourites, which are kept as gone.
  Result<void> removeFolder(const std::string& folder);

  /// All files that are known, by path.
  Result<std::vector<LibraryRow>> rows();
  /// Adds measured rows as one step; keeps a favourite mark that the index has.
  Result<void> put(const std::vector<LibraryRow>& rows);
  /// Marks files as gone from the disk, or back.
  Result<void> setPresent(const std::vector<std::string>& paths, bool present);
  /// Gives files a new path; their measurements and favourite mark move along.
  Result<void> move(const std::vector<MovedFile>& files);
  Result<void> setFavourite(const std::string& path, bool favourite);

 private:
  struct Data;
  explicit LibraryIndex(std::unique_ptr<Data> data);
  std::unique_ptr<Data> data_;
};

}  // namespace heft
