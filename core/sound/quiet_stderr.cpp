#include "core/sound/quiet_stderr.h"

#include <fcntl.h>
#include <unistd.h>

#include <cstdio>
#include <mutex>

namespace heft {
namespace {

// stderr belongs to the process, and so does its holder.
struct Holders {
  std::mutex mutex;
  int count = 0;
  int saved = -1;
};

Holders& holders() {
  static Holders instance;
  return instance;
}

}  // namespace

QuietStderr::QuietStderr() {
  Holders& h = holders();
  const std::lock_guard lock(h.mutex);
  if (h.count++ > 0) return;
  std::fflush(stderr);
  h.saved = fcntl(STDERR_FILENO, F_DUPFD_CLOEXEC, 3);
  const int nowhere = open("/dev/null", O_WRONLY | O_CLOEXEC);
  if (h.saved >= 0 && nowhere >= 0) dup2(nowhere, STDERR_FILENO);
  if (nowhere >= 0) close(nowhere);
}

QuietStderr::~QuietStderr() {
  Holders& h = holders();
  const std::lock_guard lock(h.mutex);
  if (--h.count > 0 || h.saved < 0) return;
  std::fflush(stderr);
  dup2(h.saved, STDERR_FILENO);
  close(h.saved);
  h.saved = -1;
}

}  // namespace heft
