#include "core/compare/ceiling.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/shape/dynamics.h"
#include "core/shape/true_peak.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kLostBelowHz = 120.0;

AudioBuffer raisedBy(AudioBuffer sound, double gainDb) {
  const auto gain = static_cast<float>(amplitudeFromDb(gainDb));
  for (auto& channel : sound.channels)
    for (float& x : channel) x *= gain;
  return sound;
}

// Sums of squares of the low band, both channels; a loop's ends meet.
std::vector<double> lowEnergyOf(const AudioBuffer& sound, bool wraps) {
  std::vector<double> out(sound.frames() + 1, 0.0);
  for (const auto& channel : sound.channels) {
    std::vector<double> x(channel.begin(), channel.end());
    const size_t pad = wraps ? x.size() : 0;
    if (pad) x.insert(x.end(), channel.begin(), channel.end());
    x = bandLimited(x, sound.sampleRate, 20.0, kLostBelowHz);
    double sum = 0.0;
    for (size_t i = 0; i < sound.frames(); ++i)
      sum += std::pow(x[wraps && i < pad / 2 ? i + pad : i], 2), out[i + 1] += sum;
  }
  return out;
}

double energyBetween(const std::vector<double>& sums, size_t from, size_t count, bool wraps) {
  const size_t n = sums.size() - 1, to = from + count;
  if (to <= n) return sums[to] - sums[from];
  return sums[n] - sums[from] + (wraps ? sums[to - n] : 0.0);
}

// The gain that each millisecond needs to stay under a level.
std::vector<double> neededGains(std::vector<double> peaks, double most) {
  for (double& v : peaks) v = v > most ? most / v : 1.0;
  return peaks;
}

// Down within a lookahead of 2 ms, up by the release; the second turn of a loop.
std::vector<double> followed(const std::vector<double>& needed, double releaseMs) {
  const double up = 1.0 - std::exp(-1.0 / releaseMs);
  const size_t n = needed.size();
  std::vector<double> out(n, 1.0);
  double gain = 1.0;
  for (size_t i = 0; i < 2 * n; ++i) {
    const double target = std::min({needed[i % n], needed[(i + 1) % n], needed[(i + 2) % n]});
    gain = std::min(target, gain + (1.0 - gain) * up);
    out[i % n] = gain;
  }
  return out;
}

}  // namespace

AudioBuffer raisedAndLimited(const AudioBuffer& sum, bool wraps, const CeilingAsk& ask, double gainDb) {
  const Limiter limiter{true, ask.ceilingDb, ask.releaseMs};
  // A loop is limited as it goes on: its middle turn of three.
  AudioBuffer out = raisedBy(wraps ? repeated(sum, 3) : sum, gainDb);
  applyLimiter(out, limiter);
  return wraps ? framesOf(out, sum.frames(), sum.frames()) : out;
}

std::optional<CeilingFacts> underCeiling(const AudioBuffer& sum, bool wraps, const CeilingAsk& ask,
                                         const std::vector<double>& hits, double bodyMs) {
  const auto loudness = measureLoudness(wraps ? repeatedForTheGate(sum) : sum, false);
  if (!loudness || !loudness->integratedLufs || sum.frames() == 0) return std::nullopt;
  CeilingFacts out;
  out.gainDb = ask.lufs - *loudness->integratedLufs;
  out.limited = raisedAndLimited(sum, wraps, ask, out.gainDb);
  const AudioBuffer raised = raisedBy(sum, out.gainDb);
  const auto peaks = truePeaks(raised, 0.0f);
  const double rate = sum.sampleRate, step = 0.001 * CeilingFacts::kStepMs * rate;
  for (double at = 0.0; at < static_cast<double>(sum.frames()); at += step) {
    const auto from = static_cast<size_t>(at), to = std::min(sum.frames(), static_cast<size_t>(at + step) + 1);
    float peak = 0.0f, taken = 0.0f;
    for (size_t i = from; i < to; ++i) {
      peak = std::max(peak, peaks[i]);
      float in = 0.0f, left = 0.0f;
      for (size_t c = 0; c < raised.channelCount(); ++c)
        if (std::abs(raised.channels[c][i]) > in)
          in = std::abs(raised.channels[c][i]), left = std::abs(out.limited.channels[c][i]);
      if (in > 1e-4f && left > 0.0f) taken = std::max(taken, 20.0f * std::log10(in / left));
    }
    out.peakDb.push_back(static_cast<float>(dbFromAmplitude(peak, -120.0)));
    out.takenDb.push_back(taken);
  }
  const auto before = lowEnergyOf(raised, wraps), after = lowEnergyOf(out.limited, wraps);
  if (before.back() > 0.0) out.lostDb = std::min(0.0, dbFromPower(after.back() / before.back()));
  const auto body = std::min(sum.frames(), static_cast<size_t>(std::max(1.0, 0.001 * bodyMs * rate)));
  for (const double t : hits) {
    const auto at = static_cast<size_t>(std::max(0.0, t) * rate);
    if (at >= sum.frames()) continue;
    CeilingHit hit{t};
    for (size_t i = static_cast<size_t>(static_cast<double>(at) / step);
         i < out.takenDb.size() && static_cast<double>(i) * step < static_cast<double>(at + body); ++i)
      hit.takenDb = std::max(hit.takenDb, static_cast<double>(out.takenDb[i]));
    const double was = energyBetween(before, at, body, wraps), is = energyBetween(after, at, body, wraps);
    if (was > 0.0) hit.lostDb = std::min(0.0, dbFromPower(is / was));
    out.hits.push_back(hit);
  }
  if (const auto peak = truePeakOf(wraps ? repeated(out.limited, 2) : out.limited))
    out.truePeakDbtp = dbFromAmplitude(*peak);
  return out;
}

std::vector<double> lowSquares(std::span<const double> slow, double rate, size_t about) {
  const auto x = bandLimited(slow, rate, 20.0, kLostBelowHz);
  std::vector<double> out;
  for (size_t i = about; i + about < x.size(); ++i) out.push_back(x[i] * x[i]);
  return out;
}

std::optional<CeilingLoss> estimatedLoss(const CeilingParts& loop, const CeilingAsk& ask, double gainDb,
                                         const std::vector<double>& hits) {
  const auto& energy = loop.lowEnergy;
  if (hits.empty() || energy.empty() || loop.peaks.empty()) return std::nullopt;
  const auto needed = neededGains(loop.peaks, amplitudeFromDb(ask.ceilingDb - gainDb));
  const auto gains = followed(needed, ask.releaseMs);
  CeilingLoss out{ask.lufs, gainDb};
  const auto body = static_cast<size_t>(0.001 * CeilingLoss::kBodyMs * loop.lowRate);
  for (const double t : hits) {
    double was = 0.0, is = 0.0;
    for (size_t k = 0; k < body; ++k) {
      const size_t at = (static_cast<size_t>(std::max(0.0, t) * loop.lowRate) + k) % energy.size();
      const auto step = static_cast<size_t>(1000.0 * static_cast<double>(at) / loop.lowRate);
      const double gain = gains[std::min(step, gains.size() - 1)];
      was += energy[at], is += energy[at] * gain * gain;
    }
    out.lostDb.push_back(was > 0.0 ? std::min(0.0, dbFromPower(is / was)) : 0.0);
  }
  out.worst = static_cast<size_t>(std::min_element(out.lostDb.begin(), out.lostDb.end()) - out.lostDb.begin());
  out.medianDb = median(out.lostDb);
  return out;
}

}  // namespace heft
