#include "core/render/cache/helpers.h"

#include <algorithm>
#include <utility>

namespace heft {
namespace {

// This thread's task, of whichever helpers: work that it shares out belongs to it.
thread_local const void* underWay = nullptr;

}  // namespace

Helpers::Helpers(size_t count) {
  for (size_t i = 0; i < count; ++i) threads_.emplace_back([this](const std::stop_token& stop) { help(stop); });
}

Helpers::~Helpers() {
  for (std::jthread& thread : threads_) thread.request_stop();
}

bool Helpers::isWithin(const Job& job, const Job* outer) const {
  if (!outer) return true;
  for (const Job* j = job.within; j; j = j->within)
    if (j == outer) return true;
  return false;
}

std::list<Helpers::Job>::iterator Helpers::open(const Job* outer) {
  return std::find_if(jobs_.begin(), jobs_.end(),
                      [&](const Job& job) { return job.wanted > 0 && isWithin(job, outer); });
}

void Helpers::take(std::list<Job>::iterator job, std::unique_lock<std::mutex>& lock) {
  --job->wanted, ++job->running;
  lock.unlock();
  const void* before = std::exchange(underWay, &*job);
  std::exception_ptr thrown;
  try {
    job->work();
  } catch (...) {
    thrown = std::current_exception();
  }
  underWay = before;
  lock.lock();
  if (thrown && !job->thrown) job->thrown = thrown;
  // No work is left.
  job->wanted = 0;
  if (--job->running == 0) changed_.notify_all();
}

void Helpers::share(const std::function<void()>& work, size_t most) {
  std::unique_lock lock(mutex_);
  const auto job = jobs_.insert(jobs_.end(), Job{work, static_cast<const Job*>(underWay),
                                                 std::min(most, threads_.size()) + 1, 0, nullptr});
  if (job->wanted > 1) changed_.notify_all();
  take(job, lock);
  while (job->running > 0) {
    if (const auto inner = open(&*job); inner != jobs_.end())
      take(inner, lock);
    else
      changed_.wait(lock);
  }
  const std::exception_ptr thrown = job->thrown;
  jobs_.erase(job);
  if (thrown) std::rethrow_exception(thrown);
}

void Helpers::help(const std::stop_token& stop) {
  std::unique_lock lock(mutex_);
  while (!stop.stop_requested()) {
    if (const auto job = open(nullptr); job != jobs_.end())
      take(job, lock);
    else
      changed_.wait(lock, stop, [&] { return open(nullptr) != jobs_.end(); });
  }
}

}  // namespace heft
