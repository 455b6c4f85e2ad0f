#include "core/session/folder_lock.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <utility>

namespace heft {

FolderLock::FolderLock(FolderLock&& other) noexcept
    : fd_(std::exchange(other.fd_, -1)), path_(std::move(other.path_)) {}

FolderLock& FolderLock::operator=(FolderLock&& other) noexcept {
  std::swap(fd_, other.fd_), std::swap(path_, other.path_);
  return *this;
}

FolderLock::State FolderLock::take(const std::string& folder) {
  release();
  const std::string path = (std::filesystem::path(folder) / kName).string();
  constexpr int kTries = 8;
  for (int i = 0; i < kTries; ++i) {
    const int fd = open(path.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC, 0666);
    if (fd < 0) return State::Impossible;
    if (flock(fd, LOCK_EX | LOCK_NB) != 0) {
      const bool elsewhere = errno == EWOULDBLOCK;
      close(fd);
      return elsewhere ? State::Elsewhere : State::Impossible;
    }
    // The former holder may have removed the file between the two calls: then the lock is void.
    struct stat mine {
    }, there{};
    if (fstat(fd, &mine) == 0 && stat(path.c_str(), &there) == 0 && mine.st_ino == there.st_ino) {
      fd_ = fd, path_ = path;
      return State::Held;
    }
    close(fd);
  }
  return State::Impossible;
}

void FolderLock::release() {
  if (fd_ < 0) return;
  unlink(path_.c_str());
  close(std::exchange(fd_, -1));
}

}  // namespace heft
