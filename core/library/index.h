#pragma once
/// The library's index: one SQLite file, which several windows may have open at once.

#include <memory>
#include <vector>

#include "core/library/row.h"

namespace heft {

class LibraryIndex {
 public:
  /// Opens or makes the file. One that is no index, or of a later version, is left as it is. Errors:
  /// Unreadable, Unwritable.
  static Result<LibraryIndex> open(const std::string& path);
  LibraryIndex(LibraryIndex&&) noexcept;
  LibraryIndex& operator=(LibraryIndex&&) noexcept;
  ~LibraryIndex();

  /// Folders that are looked through, sorted.
  Result<std::vector<std::string>> folders();
  Result<void> addFolder(const std::string& folder);
  /// Its files go with it, but for favourites, which are kept as gone.
  Result<void> removeFolder(const std::string& folder);

  /// All files that are known, by path.
  Result<std::vector<LibraryRow>> rows();
  /// Takes measured rows in as one step; a favourite mark that the index has stays.
  Result<void> put(const std::vector<LibraryRow>& rows);
  /// Marks files as gone from the disk, or back.
  Result<void> setPresent(const std::vector<std::string>& paths, bool present);
  /// Files that go by another path now; what is known of them, and their mark, goes along.
  Result<void> move(const std::vector<MovedFile>& files);
  Result<void> setFavourite(const std::string& path, bool favourite);

 private:
  struct Data;
  explicit LibraryIndex(std::unique_ptr<Data> data);
  std::unique_ptr<Data> data_;
};

}  // namespace heft
