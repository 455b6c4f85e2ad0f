#include "core/render/lanes/stem.h"

#include <algorithm>

namespace heft {

StepKey Stem::key() const {
  KeyMaker maker("stem 1");
  maker.add(frames_).add(channels_);
  for (const StepKey& k : keys_) maker.add(k);
  return maker.key();
}

std::vector<float> Stem::wrapped(size_t channel, int64_t first, size_t count) const {
  std::vector<float> out(count, 0.0f);
  if (frames_ == 0) return out;
  const auto n = static_cast<int64_t>(frames_);
  auto from = static_cast<size_t>(((first % n) + n) % n);
  for (size_t i = 0; i < count;) {
    const auto& c = blocks_[from / kBlockFrames]->channels;
    const auto& samples = c[c.size() == 1 ? 0 : channel];
    const size_t within = from % kBlockFrames, run = std::min(count - i, samples.size() - within);
    std::copy_n(samples.begin() + static_cast<ptrdiff_t>(within), run, out.begin() + static_cast<ptrdiff_t>(i));
    i += run;
    from = (from + run) % frames_;
  }
  return out;
}

std::vector<float> Stem::loudest(int64_t first, size_t count) const {
  auto out = wrapped(0, first, count);
  for (size_t c = 1; c < channels_; ++c) {
    const auto other = wrapped(c, first, count);
    for (size_t i = 0; i < count; ++i)
      if (std::abs(other[i]) > std::abs(out[i])) out[i] = other[i];
  }
  return out;
}

float Stem::peak(int64_t first, size_t count) const {
  float most = 0.0f;
  for (size_t c = 0; c < channels_ && frames_ > 0; ++c)
    for (const float x : wrapped(c, first, count)) most = std::max(most, std::abs(x));
  return most;
}

size_t Stem::drawnChannel(int64_t first, size_t count) const {
  if (channels_ < 2) return 0;
  auto peakOf = [&](size_t channel) {
    float most = 0.0f;
    for (const float x : wrapped(channel, first, count)) most = std::max(most, std::abs(x));
    return most;
  };
  return drawnOf(peakOf(0), peakOf(1));
}

AudioBuffer Stem::toBuffer(double sampleRate) const {
  AudioBuffer out;
  out.sampleRate = sampleRate;
  for (size_t c = 0; c < channels_; ++c) out.channels.push_back(wrapped(c, 0, frames_));
  return out;
}

}  // namespace heft
