#include "core/sound/fft.h"

#include <fftw3.h>

#include <algorithm>
#include <map>
#include <memory>
#include <mutex>

namespace heft {

/// A plan costs several transforms to make and serves any buffers of FFTW's own alignment, on any thread.
struct RealFft::Plans {
  fftw_plan forward, inverse;
};

namespace {

constexpr size_t kMostSizes = 64;

// FFTW's planner is the one part of it that two threads may not enter together.
std::mutex& plannerMutex() {
  static std::mutex mutex;
  return mutex;
}

void destroy(RealFft::Plans* plans) {
  const std::lock_guard lock(plannerMutex());
  fftw_destroy_plan(plans->forward);
  fftw_destroy_plan(plans->inverse);
  delete plans;
}

std::shared_ptr<const RealFft::Plans> plansFor(size_t size, double* time, fftw_complex* bins) {
  static std::map<size_t, std::shared_ptr<const RealFft::Plans>> made;
  std::map<size_t, std::shared_ptr<const RealFft::Plans>> dropped;  // destroyed after the lock is released
  const std::lock_guard lock(plannerMutex());
  if (const auto found = made.find(size); found != made.end()) return found->second;
  if (made.size() >= kMostSizes) dropped.swap(made);
  const int n = static_cast<int>(size);
  return made[size] = std::shared_ptr<const RealFft::Plans>(
             new RealFft::Plans{fftw_plan_dft_r2c_1d(n, time, bins, FFTW_ESTIMATE),
                                fftw_plan_dft_c2r_1d(n, bins, time, FFTW_ESTIMATE)},
             [](const RealFft::Plans* plans) { destroy(const_cast<RealFft::Plans*>(plans)); });
}

}  // namespace

size_t fastSize(size_t n) {
  // An odd one takes two to four times as long as one that halves often.
  const size_t step = n >= 1024 ? 32 : 1;
  for (size_t size = (std::max<size_t>(n, 1) + step - 1) / step * step;; size += step) {
    size_t rest = size;
    for (size_t prime : {2, 3, 5})
      while (rest % prime == 0) rest /= prime;
    if (rest == 1) return size;
  }
}

size_t sharedSize(size_t n) {
  for (size_t octave = 4;; octave *= 2)
    for (size_t size : {octave, octave / 4 * 5, octave / 2 * 3})
      if (size >= n) return size;
}

RealFft::RealFft(size_t size) : size_(size) {
  time_ = fftw_alloc_real(size);
  auto* bins = fftw_alloc_complex(size / 2 + 1);
  bins_ = reinterpret_cast<std::complex<double>*>(bins);
  plans_ = plansFor(size, time_, bins);
  std::fill_n(time_, size, 0.0);
}

RealFft::~RealFft() {
  fftw_free(time_);
  fftw_free(bins_);
}

void RealFft::forward() {
  fftw_execute_dft_r2c(plans_->forward, time_, reinterpret_cast<fftw_complex*>(bins_));
}

void RealFft::inverse() {
  fftw_execute_dft_c2r(plans_->inverse, reinterpret_cast<fftw_complex*>(bins_), time_);
  const double scale = 1.0 / static_cast<double>(size_);
  for (size_t i = 0; i < size_; ++i) time_[i] *= scale;
}

}  // namespace heft
