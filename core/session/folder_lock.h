#pragma once
/// Who has a folder open: a lock that ends with its process, even where process ids repeat (containers).

#include <string>

namespace heft {

/// Held while a session's folder, or an autosave's, is open for writing. flock(2): the kernel releases it
/// when the process ends, however it ends, and refuses a second lock in the same process like another's.
class FolderLock {
 public:
  FolderLock() = default;
  FolderLock(FolderLock&& other) noexcept;
  FolderLock& operator=(FolderLock&& other) noexcept;
  ~FolderLock() { release(); }

  enum class State {
    Held,        ///< by this lock
    Elsewhere,   ///< by another window or process
    Impossible,  ///< no lock can be made there: not writable, or no folder
  };
  /// Locks `folder` and releases the former one first. Never waits.
  State take(const std::string& folder);
  void release();
  bool isHeld() const { return fd_ >= 0; }
  /// The lock's file in a folder; removed with the lock.
  static constexpr const char* kName = ".heft-lock";

 private:
  int fd_ = -1;
  std::string path_;
};

}  // namespace heft
