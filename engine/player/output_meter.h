#pragma once
/// Output level with true peak: ITU-R BS.1770-4, annex 2, asks for four times the rate. Fed by the device's
/// thread, read by another; neither waits.

#include <array>
#include <atomic>
#include <vector>

namespace heft {

class OutputMeter {
 public:
  OutputMeter();
  // Device thread.
  void feed(float left, float right);
  /// Once a block: publishes the levels so far.
  void publish();
  // Another thread.
  /// The highest between any two samples since the last call, as an amplitude; 0 for silence.
  float takePeak() { return peak_.exchange(0.0f); }

 private:
  static constexpr size_t kTaps = 12, kPhases = 4;
  std::array<std::array<float, kTaps>, kPhases> kernel_{};
  std::array<std::array<float, 2 * kTaps>, 2> past_{};  ///< each twice, so that a window never wraps
  size_t at_ = 0;
  float highest_ = 0.0f;
  std::atomic<float> peak_{0.0f};
};

}  // namespace heft
