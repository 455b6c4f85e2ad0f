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

  /// Runs `work` here and on up to `most` helpers that are free or get free meanwhile, and returns when all
  /// have left it; `work` ends where nothing is left to take. Work may share out work of its own; waiting
  /// here helps with that and with nothing else, since anything else might wait for this thread. Callable
  /// from any thread. Rethrows what any of them throws, once all have left.
  void share(const std::function<void()>& work, size_t most);

 private:
  struct Job {
    const std::function<void()>& work;
    const Job* within;  ///< the job that shared it out
    size_t wanted, running;
    std::exception_ptr thrown;  ///< the first by any thread
  };
  bool isWithin(const Job& job, const Job* outer) const;
  /// Under the lock: the highest-ranking job that still wants helpers.
  std::list<Job>::iterator open(const Job* outer);
  void take(std::list<Job>::iterator job, std::unique_lock<std::mutex>& lock);
  void help(const std::stop_token& stop);

  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::list<Job> jobs_;
  std::vector<std::jthread> threads_;  // last: they end first
};

}  // namespace heft
