#include "core/measure/loudness.h"

#include <ebur128.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <vector>

namespace heft {

Result<Loudness> measureLoudness(const AudioBuffer& buffer, bool withTruePeak) {
  struct Destroy {
    void operator()(ebur128_state* s) const { ebur128_destroy(&s); }
  };
  const auto channels = static_cast<unsigned>(buffer.channelCount());
  const std::unique_ptr<ebur128_state, Destroy> state(
      ebur128_init(channels, static_cast<unsigned long>(std::lround(buffer.sampleRate)),
                   EBUR128_MODE_I | (withTruePeak ? EBUR128_MODE_TRUE_PEAK : EBUR128_MODE_SAMPLE_PEAK)));
  if (!state) return unreadable({}, "loudness cannot be measured at this sample rate or channel count");
  if (channels == 1) ebur128_set_channel(state.get(), 0, EBUR128_DUAL_MONO);
  constexpr size_t kStep = 16384;
  std::vector<float> piece(kStep * channels);
  for (size_t at = 0; at < buffer.frames(); at += kStep) {
    const size_t count = std::min(kStep, buffer.frames() - at);
    for (size_t c = 0; c < channels; ++c)
      for (size_t i = 0; i < count; ++i) piece[i * channels + c] = buffer.channels[c][at + i];
    if (ebur128_add_frames_float(state.get(), piece.data(), count) != EBUR128_SUCCESS)
      return unreadable({}, "loudness could not be measured");
  }
  Loudness out;
  double lufs = 0.0;
  if (ebur128_loudness_global(state.get(), &lufs) == EBUR128_SUCCESS && std::isfinite(lufs))
    out.integratedLufs = lufs;
  double peak = 0.0;
  for (unsigned c = 0; c < channels; ++c) {
    double value = 0.0;
    const int code =
        withTruePeak ? ebur128_true_peak(state.get(), c, &value) : ebur128_sample_peak(state.get(), c, &value);
    if (code == EBUR128_SUCCESS) peak = std::max(peak, value);
  }
  out.truePeakDbtp = dbFromAmplitude(peak);
  return out;
}

}  // namespace heft
