#include "core/sound/buffer.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {

double median(std::vector<double> values) {
  if (values.empty()) return 0.0;
  std::sort(values.begin(), values.end());
  const size_t half = values.size() / 2;
  return values.size() % 2 ? values[half] : 0.5 * (values[half - 1] + values[half]);
}

const std::vector<float>& louderChannel(const AudioBuffer& buffer) {
  const auto quieter = [](const std::vector<float>& a, const std::vector<float>& b) {
    return energyOf(std::span<const float>(a)) < energyOf(std::span<const float>(b));
  };
  return *std::max_element(buffer.channels.begin(), buffer.channels.end(), quieter);
}

double energyOf(std::span<const double> samples) {
  double sum = 0.0;
  for (double x : samples) sum += x * x;
  return sum;
}

double energyOf(std::span<const float> samples) {
  double sum = 0.0;
  for (double x : samples) sum += x * x;
  return sum;
}

std::vector<double> monoFold(const AudioBuffer& buffer) {
  const size_t frames = buffer.frames();
  std::vector<double> mean(frames, 0.0);
  if (buffer.channels.empty()) return mean;
  for (const auto& channel : buffer.channels)
    for (size_t i = 0; i < frames; ++i) mean[i] += channel[i];
  const double scale = 1.0 / static_cast<double>(buffer.channelCount());
  for (double& x : mean) x *= scale;
  if (buffer.channelCount() == 1) return mean;

  double strongest = -1.0, total = 0.0;
  size_t which = 0;
  for (size_t c = 0; c < buffer.channelCount(); ++c) {
    const double energy = energyOf(std::span<const float>(buffer.channels[c]));
    total += energy;
    if (energy > strongest) strongest = energy, which = c;
  }
  if (energyOf(mean) * static_cast<double>(buffer.channelCount()) < 0.1 * total)
    return {buffer.channels[which].begin(), buffer.channels[which].end()};
  return mean;
}

AudioBuffer stereoOf(const AudioBuffer& buffer) {
  AudioBuffer out;
  out.sampleRate = buffer.sampleRate;
  if (buffer.channelCount() == 2) {
    out.channels = buffer.channels;
  } else if (buffer.channelCount() == 1) {
    out.channels = {buffer.channels[0], buffer.channels[0]};
  } else {
    const auto mono = monoFold(buffer);
    const std::vector<float> folded(mono.begin(), mono.end());
    out.channels = {folded, folded};
  }
  return out;
}

double peakOf(const AudioBuffer& buffer) {
  double peak = 0.0;
  for (const auto& channel : buffer.channels)
    for (float x : channel) peak = std::max(peak, std::abs(static_cast<double>(x)));
  return peak;
}

double dbFromAmplitude(double amplitude, double floorDb) {
  return amplitude > 0.0 ? std::max(floorDb, 20.0 * std::log10(amplitude)) : floorDb;
}

double dbFromPower(double power, double floorDb) {
  return power > 0.0 ? std::max(floorDb, 10.0 * std::log10(power)) : floorDb;
}

double amplitudeFromDb(double db) {
  // Half the time of a power of ten.
  return std::exp(db * (std::numbers::ln10 / 20.0));
}

AudioBuffer repeated(const AudioBuffer& buffer, int times) {
  AudioBuffer out = buffer;
  for (int i = 1; i < times; ++i)
    for (size_t c = 0; c < buffer.channelCount(); ++c)
      out.channels[c].insert(out.channels[c].end(), buffer.channels[c].begin(), buffer.channels[c].end());
  return out;
}

AudioBuffer framesOf(const AudioBuffer& buffer, size_t from, size_t count) {
  AudioBuffer out(buffer.sampleRate, 0, 0);
  for (const auto& channel : buffer.channels)
    out.channels.emplace_back(channel.begin() + static_cast<ptrdiff_t>(from),
                              channel.begin() + static_cast<ptrdiff_t>(from + count));
  return out;
}

}  // namespace heft
