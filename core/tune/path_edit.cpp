#include "core/tune/path_edit.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/interpolate.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kShortestGlide = 0.008, kFlattenIn = 0.025, kMostDrift = 2.0, kMostSlide = 12.0,
                 kMostApart = 0.2, kLook = 0.04, kSlow = 0.2;

double driftAt(const std::vector<DriftPoint>& drift, double seconds) {
  if (drift.empty() || seconds < drift.front().seconds - kMostApart) return 0.0;
  const auto after =
      std::find_if(drift.begin(), drift.end(), [&](const auto& p) { return p.seconds > seconds; });
  if (after == drift.begin()) return after->semitones;
  if (after == drift.end()) return drift.back().semitones;
  const auto before = after - 1;
  const double u = (seconds - before->seconds) / (after->seconds - before->seconds);
  return before->semitones + u * (after->semitones - before->semitones);
}

}  // namespace

std::vector<DriftPoint> driftOf(const SoundFacts& facts) {
  std::vector<DriftPoint> raw, out;
  const auto note = facts.landing.noteHz();
  if (!note || !facts.onsetSeconds) return out;
  const bool moving = facts.landing.slides() || facts.band.byHand();
  double loudest = 0.0;
  for (const PitchPoint& p : facts.landing.path) loudest = std::max(loudest, p.amplitude);
  // Skips windows with another tone or near silence.
  for (const PitchPoint& p : facts.landing.path) {
    const double away = 12.0 * std::log2(p.hz / *note);
    // A glide drifts from where it first comes near its note, however far it goes after that.
    const double most = moving && !raw.empty() ? kMostSlide : kMostDrift;
    if (p.seconds > *facts.onsetSeconds && std::abs(away) < most && p.amplitude > 1e-3 * loudest)
      raw.push_back({p.seconds, away});
  }
  if (moving) return raw;
  const auto slow = std::find_if(raw.begin(), raw.end(), [&](const DriftPoint& p) {
    const auto later = std::find_if(raw.begin(), raw.end(),
                                    [&](const DriftPoint& q) { return q.seconds > p.seconds + kLook; });
    return later != raw.end() && std::abs(later->semitones - p.semitones) < kSlow;
  });
  raw.erase(raw.begin(), slow);
  for (size_t i = 0; i < raw.size(); ++i) {
    const size_t from = i > 0 ? i - 1 : 0, to = std::min(raw.size() - 1, i + 1);
    double sum = 0.0;
    for (size_t k = from; k <= to; ++k) sum += raw[k].semitones;
    out.push_back({raw[i].seconds, sum / static_cast<double>(to - from + 1)});
  }
  return out;
}

AudioBuffer pathEdited(const AudioBuffer& in, const SoundFacts& facts, const PathEdit& edit) {
  if (!edit.works() || in.frames() == 0) return in;
  const double onset = facts.onsetSeconds.value_or(0.0), strike = edit.strikeMs / 1000.0,
               glide = std::max(kShortestGlide, strike);
  const auto drift = edit.flatten > 0.0 ? driftOf(facts) : std::vector<DriftPoint>();
  const double fallen = drift.empty() ? onset : drift.front().seconds - kFlattenIn;
  std::vector<double> positions;
  double at = 0.0;
  // Bounded: read at half speed at least.
  while (at < static_cast<double>(in.frames()) && positions.size() < 5 * in.frames()) {
    positions.push_back(at);
    const double t = at / in.sampleRate;
    double shift = t < onset ? 0.0 : edit.strikeSemitones * (1.0 - raisedCosine((t - onset - strike) / glide));
    if (!drift.empty()) shift -= edit.flatten * raisedCosine((t - fallen) / kFlattenIn) * driftAt(drift, t);
    at += std::exp2(shift / 12.0);
  }
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  for (const auto& channel : in.channels) out.channels.push_back(readAlong(channel, positions));
  if (const double peak = peakOf(out); peak > 1.0 && peakOf(in) <= 1.0)
    for (auto& channel : out.channels)
      for (float& x : channel) x = static_cast<float>(x * 0.99999 / peak);
  return out;
}

}  // namespace heft
