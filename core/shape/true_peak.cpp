#include "core/shape/true_peak.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

// Between samples a signal is at most a few times its samples.
constexpr float kMostBetween = 4.0f;
constexpr size_t kPhases = 4;
constexpr double kHoldSeconds = 0.0005;
// A moving gain makes new peaks out of full-band noise; the second and third pass have little left to do.
constexpr size_t kPasses = 3;

using Taps = std::array<float, 2 * kTruePeakReach>;
struct Phase {
  Taps sharp, standard;
};

double sinc(double x) {
  const double angle = std::numbers::pi * x;
  return std::abs(angle) < 1e-12 ? 1.0 : std::sin(angle) / angle;
}

// Sinc at a quarter, a half and three quarters of a sample: under a Kaiser window (beta 6), which is sharp, and
// under a Hann window of six samples to a side, as meters after the standard have it. They differ near half the
// rate.
std::array<Phase, kPhases - 1> phases() {
  constexpr double kBeta = 6.0, kHannReach = 6.0;
  std::array<Phase, kPhases - 1> out;
  for (size_t p = 1; p < kPhases; ++p)
    for (size_t k = 0; k < 2 * kTruePeakReach; ++k) {
      const double x = static_cast<double>(k) - (kTruePeakReach - 1.0) - static_cast<double>(p) / kPhases;
      const double u = x / kTruePeakReach;
      const double kaiser = std::abs(u) < 1.0 ? std::cyl_bessel_i(0.0, kBeta * std::sqrt(1.0 - u * u)) /
                                                    std::cyl_bessel_i(0.0, kBeta)
                                              : 0.0;
      const double hann =
          std::abs(x) < kHannReach ? 0.5 + 0.5 * std::cos(std::numbers::pi * x / kHannReach) : 0.0;
      out[p - 1].sharp[k] = static_cast<float>(kaiser * sinc(x));
      out[p - 1].standard[k] = static_cast<float>(hann * sinc(x));
    }
  return out;
}

// The peaks at the three points after frame `i`, assigned to both frames about them by distance.
void readAfter(const std::vector<float>& x, size_t i, std::vector<float>& peaks) {
  static const std::array<Phase, kPhases - 1> kTaps = phases();
  const auto first = static_cast<ptrdiff_t>(i) - static_cast<ptrdiff_t>(kTruePeakReach - 1);
  for (size_t p = 1; p < kPhases; ++p) {
    const auto& [sharp, standard] = kTaps[p - 1];
    float sum = 0.0f, other = 0.0f;
    const size_t from = first < 0 ? static_cast<size_t>(-first) : 0,
                 to = std::min(sharp.size(),
                               x.size() - static_cast<size_t>(std::max<ptrdiff_t>(0, first)) + from);
    for (size_t k = from; k < to; ++k) {
      const float sample = x[static_cast<size_t>(first + static_cast<ptrdiff_t>(k))];
      sum += sharp[k] * sample, other += standard[k] * sample;
    }
    sum = std::max(std::abs(sum), std::abs(other));
    if (p <= kPhases / 2) peaks[i] = std::max(peaks[i], sum);
    if (p >= kPhases / 2 && i + 1 < peaks.size()) peaks[i + 1] = std::max(peaks[i + 1], sum);
  }
}

// The least of `x` within `reach` of each frame.
std::vector<double> leastAbout(const std::vector<double>& x, size_t reach) {
  std::vector<double> out(x.size());
  for (size_t i = 0; i < x.size(); ++i)
    out[i] = *std::min_element(x.begin() + static_cast<ptrdiff_t>(i > reach ? i - reach : 0),
                               x.begin() + static_cast<ptrdiff_t>(std::min(x.size(), i + reach + 1)));
  return out;
}

// Whether anything had to be lowered.
bool lowerOnce(AudioBuffer& sound, double ceiling) {
  const auto peaks = truePeaks(sound, static_cast<float>(ceiling));
  if (std::all_of(peaks.begin(), peaks.end(), [&](float p) { return p <= ceiling; })) return false;
  std::vector<double> need(peaks.size());
  for (size_t i = 0; i < need.size(); ++i) need[i] = std::min(1.0, ceiling / std::max(1e-9, double{peaks[i]}));
  const auto reach = static_cast<size_t>(std::lround(kHoldSeconds * sound.sampleRate));
  const auto held = leastAbout(need, reach);
  // The mean of values that are all low enough is low enough.
  double sum = 0.0;
  const auto wide = static_cast<ptrdiff_t>(reach), size = static_cast<ptrdiff_t>(held.size());
  // There is silence before and after the sound, so the gain may already be down there.
  const double front = held.front(), back = held.back();
  auto read = [&](ptrdiff_t i) { return i < 0 ? front : i >= size ? back : held[static_cast<size_t>(i)]; };
  for (ptrdiff_t i = -wide; i <= wide; ++i) sum += read(i);
  std::vector<float> gain(need.size());
  for (ptrdiff_t i = 0; i < size; ++i) {
    const double mean = sum / static_cast<double>(2 * wide + 1);
    gain[static_cast<size_t>(i)] =
        mean > 1.0 - 1e-9 ? 1.0f : static_cast<float>(std::min(mean, need[static_cast<size_t>(i)]));
    sum += read(i + wide + 1) - read(i - wide);
  }
  for (auto& channel : sound.channels)
    for (size_t i = 0; i < channel.size(); ++i) channel[i] *= gain[i];
  return true;
}

}  // namespace

std::vector<float> truePeaks(const AudioBuffer& sound, float least) {
  std::vector<float> out(sound.frames(), 0.0f);
  for (const auto& x : sound.channels) {
    for (size_t i = 0; i < x.size(); ++i) out[i] = std::max(out[i], std::abs(x[i]));
    // Only near samples loud enough to come close.
    size_t until = 0;
    for (size_t i = 0; i < x.size(); ++i) {
      if (kMostBetween * std::abs(x[i]) < least) continue;
      const size_t from = std::max(until, i > kTruePeakReach ? i - kTruePeakReach : 0);
      until = std::min(x.size(), i + kTruePeakReach + 1);
      for (size_t k = from; k < until; ++k) readAfter(x, k, out);
    }
  }
  return out;
}

size_t truePeakHoldReach(double sampleRate) {
  return kPasses * (2 * static_cast<size_t>(std::lround(kHoldSeconds * sampleRate)) + kTruePeakReach);
}

void holdTruePeak(AudioBuffer& sound, double ceiling) {
  for (size_t pass = 0; pass < kPasses && lowerOnce(sound, ceiling); ++pass) {
  }
}

}  // namespace heft
