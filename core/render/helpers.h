#pragma once
/// A pool of threads: starting one costs more than many a step.

#include <condition_variable>
#include <exception>
#include <functional>
#include <list>
#include <mutex>
#include <thread>
#include <vector>

namespace heft {

/// Helpers join shared work and sleep in between.
class Helpers {
 public:
  explicit Helpers(size_t count);
  ~Helpers();
  Helpers(const Helpers&) = delete;
  Helpers& operator=(const Helpers&) = delete;

  /// Runs `work` here and on up to `most` helpers who are free or come free meanwhile, and returns when all
  /// have left it; `work` ends where nothing is left to take. Work may share out work of its own; who waits
  /// here helps with that, and with nothing else, for anything else may wait for the one who waits. By any
  /// thread. What any of them throws is thrown here, once all have left.
  void share(const std::function<void()>& work, size_t most);

 private:
  struct Job {
    const std::function<void()>& work;
    const Job* within;  ///< the job that it was shared out of
    size_t wanted, running;
    std::exception_ptr thrown;  ///< the first by any who took part
  };
  bool isWithin(const Job& job, const Job* outer) const;
  /// Under the lock: the job of highest standing that still wants someone.
  std::list<Job>::iterator open(const Job* outer);
  void take(std::list<Job>::iterator job, std::unique_lock<std::mutex>& lock);
  void help(const std::stop_token& stop);

  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::list<Job> jobs_;
  std::vector<std::jthread> threads_;  // last: they end first
};

}  // namespace heft
