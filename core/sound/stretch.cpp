#include "core/sound/stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>

namespace heft {

AudioBuffer pitchedKeepingLength(const AudioBuffer& in, double speed) {
  using RubberBand::RubberBandStretcher;
  if (speed == 1.0 || in.frames() == 0) return in;
  // Silence before and behind, so that nothing is lost in its first and last windows.
  const auto pad = static_cast<size_t>(0.1 * in.sampleRate);
  const size_t channels = in.channelCount(), frames = in.frames() + 2 * pad;
  std::vector<std::vector<float>> padded(channels, std::vector<float>(frames, 0.0f));
  for (size_t c = 0; c < channels; ++c)
    std::copy(in.channels[c].begin(), in.channels[c].end(), padded[c].begin() + static_cast<ptrdiff_t>(pad));
  RubberBandStretcher stretcher(
      static_cast<size_t>(std::lround(in.sampleRate)), channels,
      RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionEngineFiner |
          RubberBandStretcher::OptionThreadingNever | RubberBandStretcher::OptionChannelsTogether,
      1.0, std::clamp(speed, 1.0 / 32.0, 32.0));
  stretcher.setMaxProcessSize(frames);
  stretcher.setExpectedInputDuration(frames);
  std::vector<const float*> from;
  for (const auto& c : padded) from.push_back(c.data());
  stretcher.study(from.data(), frames, true);
  stretcher.process(from.data(), frames, true);
  std::vector<std::vector<float>> out(channels);
  for (int left; (left = stretcher.available()) > 0;) {
    std::vector<float*> to;
    const size_t had = out[0].size();
    for (auto& c : out) c.resize(had + static_cast<size_t>(left)), to.push_back(c.data() + had);
    const size_t got = stretcher.retrieve(to.data(), static_cast<size_t>(left));
    for (auto& c : out) c.resize(had + got);
    if (got == 0) break;
  }
  AudioBuffer result(in.sampleRate, channels, in.frames());
  for (size_t c = 0; c < channels; ++c)
    for (size_t i = 0; i < in.frames() && i + pad < out[c].size(); ++i) result.channels[c][i] = out[c][i + pad];
  return result;
}

}  // namespace heft
