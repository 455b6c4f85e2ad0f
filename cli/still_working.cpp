#include "cli/still_working.h"

#include <unistd.h>

#include <cstdio>

#include "core/theory/text.h"

namespace heft::cli {

StillWorking::StillWorking(std::string words) : words_(printable(std::move(words))) {
  if (isatty(STDERR_FILENO)) teller_ = std::jthread([this](const std::stop_token& stop) { tell(stop); });
}

StillWorking::~StillWorking() = default;

void StillWorking::tell(const std::stop_token& stop) {
  constexpr auto kEach = std::chrono::seconds(1);
  std::unique_lock lock(mutex_);
  for (int seconds = 1;; ++seconds) {
    over_.wait_for(lock, stop, kEach, [] { return false; });
    if (stop.stop_requested()) {
      if (seconds > 2) std::fprintf(stderr, "\r\033[K");
      return;
    }
    if (seconds > 1) std::fprintf(stderr, "\r\033[Kheft-cli: %s, %d s; Ctrl+C stops", words_.c_str(), seconds);
  }
}

}  // namespace heft::cli
