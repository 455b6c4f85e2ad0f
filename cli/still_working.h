#pragma once
/// Shows progress on a terminal while a command takes long: files and pipes get only the result.

#include <chrono>
#include <condition_variable>
#include <mutex>
#include <string>
#include <thread>

namespace heft::cli {

/// From its second second on it keeps a line on standard error, "heft-cli: reading loop.wav, 5 s; Ctrl+C
/// stops", and removes it at the end.
class StillWorking {
 public:
  explicit StillWorking(std::string words);
  ~StillWorking();
  StillWorking(const StillWorking&) = delete;
  StillWorking& operator=(const StillWorking&) = delete;

 private:
  void tell(const std::stop_token& stop);
  std::string words_;
  std::mutex mutex_;
  std::condition_variable_any over_;
  std::jthread teller_;  // last: it must end before the members it uses
};

}  // namespace heft::cli
