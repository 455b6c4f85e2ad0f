#pragma once
/// Real transforms through FFTW, planned with FFTW_ESTIMATE so that the same input gives the same bits on every
/// run, and planned once a length.

#include <complex>
#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace heft {

/// Smallest number >= n whose only prime factors are 2, 3 and 5.
size_t fastSize(size_t n);

/// Smallest of three sizes an octave >= n, at most a third longer: sounds of all lengths then share a few
/// plans, which cost more than their transforms.
size_t sharedSize(size_t n);

/// One real transform length with its own buffers. Not for use by two threads at once.
class RealFft {
 public:
  struct Plans;
  explicit RealFft(size_t size);  ///< size >= 1
  ~RealFft();
  RealFft(const RealFft&) = delete;
  RealFft& operator=(const RealFft&) = delete;

  size_t size() const { return size_; }
  std::span<double> time() { return {time_, size_}; }
  std::span<std::complex<double>> bins() { return {bins_, size_ / 2 + 1}; }
  /// time() -> bins(), unnormalised.
  void forward();
  /// bins() -> time(), scaled by 1/size so that it undoes forward(). Destroys bins().
  void inverse();

 private:
  size_t size_;
  double* time_;
  std::complex<double>* bins_;
  std::shared_ptr<const Plans> plans_;
};

}  // namespace heft
