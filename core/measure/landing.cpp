#include "core/measure/landing.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/measure/damped_tones.h"
#include "core/measure/rest.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kLongestSeconds = 4.0;
constexpr double kFallRate = 8000.0;

double cents(double fromHz, double toHz) { return 1200.0 * std::log2(toHz / fromHz); }

// The tone that continues a path which stood at `nextHz` a moment later: near in pitch, strong, and rather above.
const DampedTone* continuing(const ToneFit& fit, double nextHz, double stepSeconds) {
  const DampedTone* best = nullptr;
  double bestScore = -1e9;
  // A fall of four octaves in about 10 ms is the steepest that makes sense.
  const double reach = 300.0 + 480000.0 * stepSeconds;
  for (const DampedTone& tone : fit.tones) {
    const double away = cents(nextHz, tone.hz);
    if (away < -80.0 || away > reach) continue;
    const double score = dbFromPower(tone.energy / fit.tones.front().energy) - std::abs(away) / 100.0;
    if (score > bestScore) bestScore = score, best = &tone;
  }
  return best && bestScore > -40.0 ? best : nullptr;
}

// The sound at falling sample rates, so that a window of two periods always holds a few dozen samples.
class Octaves {
 public:
  explicit Octaves(Decimated base) {
    levels_.push_back(std::move(base));
    while (levels_.back().sampleRate > 900.0)
      levels_.push_back(decimated(std::span<const double>(levels_.back().samples), levels_.back().sampleRate,
                                  0.5 * levels_.back().sampleRate));
  }
  const Decimated& top() const { return levels_.front(); }
  /// The slowest level with at least 16 samples a period.
  const Decimated& forPitch(double hz) const {
    for (size_t i = levels_.size(); i-- > 1;)
      if (levels_[i].sampleRate >= 16.0 * hz) return levels_[i];
    return levels_.front();
  }

 private:
  std::vector<Decimated> levels_;
};

// Follows the fundamental from the rested part back to the onset, with windows of about two periods.
void trackFall(const Octaves& octaves, const RestedPart& rest, std::vector<PitchPoint>& path) {
  constexpr double kStep = 0.002;
  double hz = rest.points.front().hz;
  std::vector<PitchPoint> back;
  int misses = 0;
  for (double at = rest.points.front().seconds - kStep; at > 0.0 && misses < 3; at -= kStep) {
    const Decimated& source = octaves.forPitch(hz);
    const double length = std::clamp(1.8 / hz, 0.005, 0.08);
    if (0.5 * length - at > 0.35 * length) break;
    const auto first = static_cast<size_t>(std::max(0.0, at - 0.5 * length) * source.sampleRate);
    const auto count = static_cast<size_t>(length * source.sampleRate);
    if (first + count > source.samples.size()) continue;
    const auto fit = fitDampedTones(std::span<const double>(source.samples).subspan(first, count), source.sampleRate, 6, 1e-5);
    const DampedTone* tone = continuing(fit, hz, kStep);
    misses = tone ? 0 : misses + 1;
    if (!tone) continue;
    hz = tone->hz;
    back.push_back({at, hz, std::sqrt(tone->energy / static_cast<double>(count))});
  }
  std::reverse(back.begin(), back.end());
  path.insert(path.begin(), back.begin(), back.end());
}

void describeFall(Landing& landing, double onsetSeconds) {
  const double target = *landing.hz;
  landing.startHz = landing.path.front().hz;
  landing.fallMs = 0.0;
  for (const PitchPoint& point : landing.path)
    if (std::abs(cents(target, point.hz)) > 50.0 && point.amplitude > 0.0)
      landing.fallMs = std::max(0.0, (point.seconds - onsetSeconds) * 1000.0);
    else if (landing.fallMs > 0.0)
      break;
}

}  // namespace

Landing measureLanding(std::span<const double> mono, double sampleRate, double onsetSeconds,
                       const LandingOptions& options) {
  Landing out;
  const auto start = static_cast<size_t>(std::max(0.0, onsetSeconds) * sampleRate);
  if (start + 64 >= mono.size()) {
    out.reason = "too short to have a pitch";
    return out;
  }
  const size_t longest = static_cast<size_t>(kLongestSeconds * sampleRate);
  const auto part = mono.subspan(start, std::min(longest, mono.size() - start));
  std::vector<double> limited;
  std::span<const double> heard = part;
  if (options.lowHz > 20.0 || options.highHz < 400.0) {
    limited = bandLimited(part, sampleRate, options.lowHz > 20.0 ? 0.8 * options.lowHz : 0.0, 1.25 * options.highHz);
    heard = limited;
  }
  const Octaves octaves(decimated(heard, sampleRate, kFallRate));
  const auto rest = findRest(octaves.top(), options.lowHz, options.highHz);
  out.confidence = rest.confidence;
  if (!rest.hz) {
    out.reason = rest.reason;
    return out;
  }
  out.hz = rest.hz;
  out.path = rest.points;
  trackFall(octaves, rest, out.path);
  for (PitchPoint& point : out.path) point.seconds += onsetSeconds;
  describeFall(out, onsetSeconds);
  return out;
}

}  // namespace heft
