#include "core/measure/levels/loudness.h"

#include <ebur128.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <vector>

namespace heft {

namespace {

struct Destroy {
  void operator()(ebur128_state* s) const { ebur128_destroy(&s); }
};
using State = std::unique_ptr<ebur128_state, Destroy>;

State stateFor(const AudioBuffer& buffer, int modes) {
  return State(ebur128_init(static_cast<unsigned>(buffer.channelCount()),
                            static_cast<unsigned long>(std::lround(buffer.sampleRate)), modes));
}

// Hands over `count` frames from `at` on; beyond the end, silence.
bool feed(ebur128_state* state, const AudioBuffer& buffer, size_t at, size_t count) {
  const size_t channels = buffer.channelCount();
  std::vector<float> piece(count * channels, 0.0f);
  for (size_t c = 0; c < channels; ++c)
    for (size_t i = 0; i < count && at + i < buffer.frames(); ++i)
      piece[i * channels + c] = buffer.channels[c][at + i];
  return ebur128_add_frames_float(state, piece.data(), count) == EBUR128_SUCCESS;
}

}  // namespace

// Between samples a signal is at most the sum of the interpolator's taps, well under kMostOver times the
// samples about it. So only stretches within that of the largest sample are oversampled, with their
// surroundings and separated by silence: the same peak for a fraction of the cost.
std::optional<double> truePeakOf(const AudioBuffer& buffer) {
  constexpr double kMostOver = 2.5;
  constexpr size_t kStretch = 256, kAround = 64;
  const double least = peakOf(buffer) / kMostOver;
  const State state = stateFor(buffer, EBUR128_MODE_TRUE_PEAK);
  if (!state) return std::nullopt;
  const size_t stretches = (buffer.frames() + kStretch - 1) / kStretch;
  std::vector<char> loud(stretches, 0);
  for (const auto& channel : buffer.channels)
    for (size_t i = 0; i < channel.size(); ++i)
      if (std::abs(channel[i]) >= least) loud[i / kStretch] = 1;
  for (size_t k = 0; k < stretches; ++k) {
    if (!loud[k]) continue;
    size_t end = k;
    while (end + 1 < stretches && loud[end + 1]) ++end;
    const size_t first = k * kStretch - std::min(k * kStretch, kAround);
    if (!feed(state.get(), buffer, first, (end + 1) * kStretch + kAround - first)) return std::nullopt;
    if (!feed(state.get(), buffer, buffer.frames(), kAround)) return std::nullopt;
    k = end;
  }
  double peak = peakOf(buffer);
  for (unsigned c = 0; c < buffer.channelCount(); ++c)
    if (double value = 0.0; ebur128_true_peak(state.get(), c, &value) == EBUR128_SUCCESS)
      peak = std::max(peak, value);
  return peak;
}

Result<Loudness> measureLoudness(const AudioBuffer& buffer, bool withTruePeak, const std::stop_token& stop) {
  constexpr double kRangeFrom = 10.0;
  const bool ranges = buffer.seconds() >= kRangeFrom;
  const State state = stateFor(buffer, ranges ? EBUR128_MODE_I | EBUR128_MODE_LRA : EBUR128_MODE_I);
  if (!state) return unreadable({}, "loudness cannot be measured at this sample rate or channel count");
  if (buffer.channelCount() == 1) ebur128_set_channel(state.get(), 0, EBUR128_DUAL_MONO);
  constexpr size_t kStep = 16384;
  for (size_t at = 0; at < buffer.frames(); at += kStep) {
    if (stop.stop_requested()) return cancelled();
    if (!feed(state.get(), buffer, at, std::min(kStep, buffer.frames() - at)))
      return unreadable({}, "loudness could not be measured");
  }
  Loudness out;
  double lufs = 0.0;
  if (ebur128_loudness_global(state.get(), &lufs) == EBUR128_SUCCESS && std::isfinite(lufs))
    out.integratedLufs = lufs;
  if (double range = 0.0; ranges && out.integratedLufs &&
                          ebur128_loudness_range(state.get(), &range) == EBUR128_SUCCESS &&
                          std::isfinite(range))
    out.rangeLu = range;
  const auto peak = withTruePeak ? truePeakOf(buffer) : std::optional<double>(peakOf(buffer));
  if (!peak) return unreadable({}, "the true peak could not be measured");
  out.truePeakDbtp = dbFromAmplitude(*peak);
  return out;
}

std::optional<double> gainToPeakDb(const AudioBuffer& buffer, double peakDb) {
  const double peak = truePeakOf(buffer).value_or(peakOf(buffer));
  return peak > 0.0 ? std::optional(peakDb - dbFromAmplitude(peak)) : std::nullopt;
}

}  // namespace heft
