#include "core/sound/fft.h"

#include <fftw3.h>

#include <algorithm>
#include <mutex>

namespace heft {
namespace {

// FFTW's planner is the one part of it that two threads may not enter together.
std::mutex& plannerMutex() {
  static std::mutex mutex;
  return mutex;
}

}  // namespace

size_t fastSize(size_t n) {
  for (size_t size = std::max<size_t>(n, 1);; ++size) {
    size_t rest = size;
    for (size_t prime : {2, 3, 5})
      while (rest % prime == 0) rest /= prime;
    if (rest == 1) return size;
  }
}

RealFft::RealFft(size_t size) : size_(size) {
  const std::lock_guard lock(plannerMutex());
  const int n = static_cast<int>(size);
  time_ = fftw_alloc_real(size);
  auto* bins = fftw_alloc_complex(size / 2 + 1);
  bins_ = reinterpret_cast<std::complex<double>*>(bins);
  forwardPlan_ = fftw_plan_dft_r2c_1d(n, time_, bins, FFTW_ESTIMATE);
  inversePlan_ = fftw_plan_dft_c2r_1d(n, bins, time_, FFTW_ESTIMATE);
  std::fill_n(time_, size, 0.0);
}

RealFft::~RealFft() {
  const std::lock_guard lock(plannerMutex());
  fftw_destroy_plan(static_cast<fftw_plan>(forwardPlan_));
  fftw_destroy_plan(static_cast<fftw_plan>(inversePlan_));
  fftw_free(time_);
  fftw_free(bins_);
}

void RealFft::forward() {
  fftw_execute(static_cast<fftw_plan>(forwardPlan_));
}

void RealFft::inverse() {
  fftw_execute(static_cast<fftw_plan>(inversePlan_));
  const double scale = 1.0 / static_cast<double>(size_);
  for (size_t i = 0; i < size_; ++i) time_[i] *= scale;
}

}  // namespace heft
