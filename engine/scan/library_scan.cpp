#include "engine/scan/library_scan.h"

#include <algorithm>
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <thread>

namespace heft {
namespace {

constexpr size_t kBatch = 64;
constexpr auto kTellEvery = std::chrono::milliseconds(200);

// Files in, measured rows out.
class Measurers {
 public:
  Measurers(const std::vector<FileStamp>& files, unsigned threads, std::stop_token stop)
      : files_(files), stop_(std::move(stop)), running_(std::max(1u, threads)) {
    for (size_t i = 0, count = running_; i < count; ++i) threads_.emplace_back([this] { run(); });
  }
  /// Rows finished since, after a moment; empty and `isDone` at the end.
  std::vector<LibraryRow> take(bool& isDone) {
    std::unique_lock lock(mutex_);
    came_.wait_for(lock, kTellEvery, [&] { return rows_.size() >= kBatch || running_ == 0; });
    isDone = running_ == 0;
    return std::exchange(rows_, {});
  }

 private:
  void run() {
    for (size_t i; !stop_.stop_requested() && (i = next_++) < files_.size();) {
      LibraryRow row = measureFile(files_[i]);
      const std::lock_guard lock(mutex_);
      rows_.push_back(std::move(row));
      if (rows_.size() >= kBatch) came_.notify_one();
    }
    const std::lock_guard lock(mutex_);
    --running_;
    came_.notify_one();
  }
  const std::vector<FileStamp>& files_;
  std::stop_token stop_;
  std::atomic<size_t> next_{0};
  std::mutex mutex_;
  std::condition_variable came_;
  std::vector<LibraryRow> rows_;
  size_t running_;
  std::vector<std::jthread> threads_;  // last, so that they end first
};

}  // namespace

Result<ScanSummary> scanLibrary(const std::string& indexPath, unsigned threads,
                                const std::function<void(ScanProgress)>& tell, const std::stop_token& stop) {
  auto index = LibraryIndex::open(indexPath);
  if (!index) return Fail(index.error());
  const auto folders = index->folders();
  if (!folders) return Fail(folders.error());
  const auto known = index->rows();
  if (!known) return Fail(known.error());
  const auto plan = planScan(*folders, *known, stop);
  if (!plan) return Fail(plan.error());
  if (auto done = index->move(plan->moved); !done) return Fail(done.error());
  if (auto done = index->setPresent(plan->gone, false); !done) return Fail(done.error());
  if (auto done = index->setPresent(plan->back, true); !done) return Fail(done.error());
  ScanSummary out;
  out.found = plan->found, out.gone = plan->gone.size(), out.moved = plan->moved.size(),
  out.faults = plan->faults;
  tell({0, plan->toMeasure.size()});
  Measurers measurers(plan->toMeasure, threads, stop);
  for (bool isDone = false; !isDone;) {
    const auto rows = measurers.take(isDone);
    if (rows.empty()) continue;
    if (auto put = index->put(rows); !put) return Fail(put.error());
    out.measured += rows.size();
    out.broken += static_cast<size_t>(
        std::count_if(rows.begin(), rows.end(), [](const LibraryRow& r) { return !r.fault.empty(); }));
    tell({out.measured, plan->toMeasure.size()});
  }
  if (stop.stop_requested()) return cancelled();
  return out;
}

}  // namespace heft
