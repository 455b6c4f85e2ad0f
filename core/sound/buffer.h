#pragma once
/// Audio in memory.

#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace heft {

/// Samples per channel, full scale 1.0. Every channel has the same number of frames.
struct AudioBuffer {
  double sampleRate = 48000.0;               ///< Hz, 1000 to 768000
  std::vector<std::vector<float>> channels;  ///< [channel][frame]

  AudioBuffer() = default;
  AudioBuffer(double rate, size_t channelCount, size_t frameCount)
      : sampleRate(rate), channels(channelCount, std::vector<float>(frameCount, 0.0f)) {}

  size_t frames() const { return channels.empty() ? 0 : channels.front().size(); }
  size_t channelCount() const { return channels.size(); }
  double seconds() const { return static_cast<double>(frames()) / sampleRate; }
  bool operator==(const AudioBuffer&) const = default;
};

/// A finished sound; never changed once shared.
using Sound = std::shared_ptr<const AudioBuffer>;

/// Mean of all channels. Where they cancel (the mean holds less than a tenth of their power) the strongest
/// channel alone, so that a pair in opposite polarity still has a pitch.
std::vector<double> monoFold(const AudioBuffer& buffer);
/// Two channels: mono doubled, stereo unchanged, more channels folded to mono.
AudioBuffer stereoOf(const AudioBuffer& buffer);
/// One after the other, that many times.
AudioBuffer repeated(const AudioBuffer& buffer, int times);
/// `count` frames from `from` on, which are there.
AudioBuffer framesOf(const AudioBuffer& buffer, size_t from, size_t count);

/// Largest absolute sample over all channels; 0 for silence.
double peakOf(const AudioBuffer& buffer);
/// The channel with more energy: a sound may be on one side only. Needs a channel.
const std::vector<float>& louderChannel(const AudioBuffer& buffer);
/// Sum of squares.
double energyOf(std::span<const double> samples);
double energyOf(std::span<const float> samples);
/// The median; for an even number the mean of the middle two; 0 for none.
double median(std::vector<double> values);

/// 20 log10, with -inf kept at `floorDb`.
double dbFromAmplitude(double amplitude, double floorDb = -200.0);
/// 10 log10, with -inf kept at `floorDb`.
double dbFromPower(double power, double floorDb = -200.0);
double amplitudeFromDb(double db);

}  // namespace heft
