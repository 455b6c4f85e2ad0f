#include "core/measure/pitch/landing.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/measure/pitch/fall.h"
#include "core/measure/pitch/follow.h"
#include "core/measure/pitch/rest.h"
#include "core/measure/pitch/steady_period.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kLongestLandingSeconds = 4.0;
constexpr double kFallRate = 9600.0;
constexpr double kRestsWithinCents = 60.0;
constexpr double kNoLanding = 0.4;  // the confidence of a candidate that is no landing

// At 48 kHz or a multiple of it: near a threshold the grid of another rate's samples would answer otherwise,
// and the same sound is measured at its file's rate and at the session's.
std::vector<double> atCommonRate(std::span<const double> x, double& sampleRate) {
  constexpr double kCommonRate = 48000.0;
  if (std::fmod(sampleRate, kCommonRate) == 0.0) return {x.begin(), x.end()};
  const std::vector<float> narrow(x.begin(), x.end());
  const double step = sampleRate / kCommonRate;
  const auto read = readAt(narrow, 0.0, step, static_cast<size_t>(static_cast<double>(x.size()) / step));
  sampleRate = kCommonRate;
  return {read.begin(), read.end()};
}

// Ends a third after the sound is last within 50 dB of its loudest moment: windows cover what sounds, and
// many files end in a second of silence or room noise. A clean tail shows its note a little longer.
void cutSilence(Decimated& base) {
  constexpr double kFloor = 1e-5, kBlockSeconds = 0.01, kLonger = 1.33, kLeastSeconds = 0.05;
  const auto block = std::max<size_t>(1, static_cast<size_t>(kBlockSeconds * base.sampleRate));
  const std::span<const double> all(base.samples);
  std::vector<double> energies;
  for (size_t at = 0; at + block <= all.size(); at += block)
    energies.push_back(energyOf(all.subspan(at, block)));
  if (energies.empty()) return;
  const double least = kFloor * *std::max_element(energies.begin(), energies.end());
  while (energies.size() > 1 && energies.back() < least) energies.pop_back();
  const double sounding = static_cast<double>(energies.size() * block);
  base.samples.resize(
      std::min(all.size(), static_cast<size_t>(kLonger * sounding + kLeastSeconds * base.sampleRate)));
}

// Cycles while they are above the landing, the fitted windows from there on: windows that straddle the fall
// show its end too early.
std::vector<PitchPoint> wholePath(const Decimated& base, const RestedPart& rest) {
  const auto cycles = pitchByCycles(base, rest.points.front().seconds + 5.0 / *rest.hz, *rest.hz);
  size_t falling = 0;
  while (falling < cycles.size() && centsBetween(*rest.hz, cycles[falling].hz) > 20.0) ++falling;
  std::vector<PitchPoint> path(cycles.begin(), cycles.begin() + static_cast<ptrdiff_t>(falling));
  const double joined = falling > 0 ? cycles[falling - 1].seconds + 0.5 / *rest.hz : 0.0;
  for (const PitchPoint& point : rest.points)
    if (point.seconds > joined) path.push_back(point);
  return path;
}

// `base` starts at the onset.
void describeFall(Landing& landing, const Decimated& base, double onsetSeconds) {
  const double target = *landing.noteHz();
  landing.startHz = startOfFall(base, landing.path, target, onsetSeconds);
  landing.fallMs = 0.0;
  for (const PitchPoint& point : landing.path) {
    if (std::abs(centsBetween(target, point.hz)) <= 50.0) break;
    landing.fallMs = std::max(0.0, (point.seconds - onsetSeconds) * 1000.0);
  }
}

constexpr double kFallenCents = 200.0, kArrivedCents = 30.0;

// Movement of the audible part once the fast fall is over: from where the path first gets that close to the
// note.
double slideOf(const std::vector<PitchPoint>& path, double note, double nearCents = kFallenCents) {
  constexpr double kHeard = 0.1;
  double loudest = 0.0, low = 1e9, high = -1e9;
  for (const PitchPoint& p : path) loudest = std::max(loudest, p.amplitude);
  bool fallen = false;
  for (const PitchPoint& p : path) {
    const double away = centsBetween(note, p.hz);
    fallen = fallen || std::abs(away) < nearCents;
    if (fallen && p.amplitude > kHeard * loudest) low = std::min(low, away), high = std::max(high, away);
  }
  return std::max(0.0, high - low);
}

// How much of a sound's energy from a claimed landing on the windows about it see.
double seenShare(const Decimated& base, const RestedPart& rest) {
  const double around = 1.5 / *rest.hz, last = static_cast<double>(base.samples.size());
  auto frameAt = [&](double seconds) {
    return static_cast<size_t>(std::clamp(seconds * base.sampleRate, 0.0, last));
  };
  const size_t from = frameAt(rest.points.front().seconds - around),
               to = frameAt(rest.points.back().seconds + around);
  const std::span<const double> all(base.samples);
  return energyOf(all.subspan(from, to - from)) / std::max(1e-30, energyOf(all.subspan(from)));
}

// A tone that slides at a steady rate passes every note slowly enough to be mistaken for a landing. After a
// landing most of what is still audible stays there, and the path is level; a slide continues, or passes at
// its rate, or does half of both.
bool goesOnFrom(const std::vector<PitchPoint>& path, double note) {
  constexpr double kMostBeyond = 0.5, kPassing = 15.0;  // share, cents a period
  constexpr double kSomeBeyond = 0.35, kSlowly = 5.0;
  bool reached = false;
  double within = 0.0, beyond = 0.0;
  double t1 = 0.0, c1 = 0.0, t2 = 0.0, tc = 0.0;
  for (size_t i = 0; i + 1 < path.size(); ++i) {
    const double away = centsBetween(note, path[i].hz);
    reached = reached || std::abs(away) < kArrivedCents;
    if (!reached) continue;
    const double weight = path[i].amplitude * (path[i + 1].seconds - path[i].seconds);
    if (std::abs(away) >= kRestsWithinCents) {
      beyond += weight;
      continue;
    }
    const double t = path[i].seconds;
    within += weight, t1 += weight * t, c1 += weight * away, t2 += weight * t * t, tc += weight * t * away;
  }
  const double spread = within * t2 - t1 * t1;
  const double centsASecond = spread > 1e-9 * within * t2 ? (within * tc - t1 * c1) / spread : 0.0;
  const double share = beyond / std::max(1e-30, beyond + within), pace = std::abs(centsASecond) / note;
  return share > kMostBeyond || pace > kPassing || (share > kSomeBeyond && pace > kSlowly);
}

// Reached only when the sound is as good as over: another pitch is heard far more, by amplitude and time.
bool isHardlyHeard(const std::vector<PitchPoint>& path, double note, double heardHz) {
  constexpr double kLeastShare = 0.5;
  double there = 0.0, most = 0.0;
  for (size_t i = 0; i + 1 < path.size(); ++i) {
    const double weight = path[i].amplitude * (path[i + 1].seconds - path[i].seconds);
    if (std::abs(centsBetween(note, path[i].hz)) < kRestsWithinCents) there += weight;
    if (std::abs(centsBetween(heardHz, path[i].hz)) < kRestsWithinCents) most += weight;
  }
  return there < kLeastShare * most;
}

// Where single tones give no note, or a partial as the note, the period decides; also for the centre of a
// vibrato. A rest that the period confirms is the finer figure.
void byItsPeriod(Landing& landing, const Decimated& base, const LandingOptions& options) {
  constexpr double kClaimed = 0.6, kWaversCents = 10.0, kMiddleCents = 90.0, kPartialCents = 45.0;
  constexpr double kSurer = 0.8, kOver = 1.9;
  const auto found = steadyPeriod(base, options.lowHz, options.highHz);
  if (!found || found->confidence < kClaimed) return;
  if (landing.hz) {
    const double away = std::abs(centsBetween(found->hz, *landing.hz)), ratio = *landing.hz / found->hz;
    const double number = std::round(ratio);
    const bool partial = number >= 2.0 && std::abs(1200.0 * std::log2(ratio / number)) < kPartialCents;
    const bool over = ratio > kOver && found->confidence > std::max(kSurer, landing.confidence);
    const bool middle = found->wavers && away > kWaversCents && away < kMiddleCents;
    if (!partial && !over && !middle) return;
  }
  landing.hz = landing.heardHz = found->hz;
  landing.confidence = landing.heardConfidence = found->confidence;
  landing.path = found->points;
  landing.reason.clear();
}

void nameByHand(Landing& landing, const LandingOptions& options) {
  constexpr double kBeside = 0.01;  // seconds past an end of the path that still mean that end
  if (options.atHz) {
    landing.hz = options.atHz;
  } else if (landing.path.empty()) {
    return;
  } else {
    const double at = *options.atMs / 1000.0;
    const double first = landing.path.front().seconds, last = landing.path.back().seconds;
    if (at < first - kBeside || at > last + kBeside) {
      landing.hz.reset();
      landing.heardHz.reset();
      landing.confidence = landing.heardConfidence = 0.0;
      landing.reason = "the moment named by hand is not on its path, which goes from " +
                       fixedNumber(1000.0 * first, 0) + " to " + fixedNumber(1000.0 * last, 0) + " ms";
      return;
    }
    landing.hz = pathHzAt(landing.path, at);
  }
  landing.confidence = 1.0;
  landing.reason.clear();
}

}  // namespace

const char* confidenceWord(double confidence) {
  return confidence > 0.85 ? "sure" : confidence > 0.65 ? "fairly sure" : "unsure";
}

std::string confidenceWords(const Landing& landing) {
  if (!landing.noteHz()) return "no note";
  return confidenceWord(landing.hz ? landing.confidence : landing.heardConfidence);
}

std::optional<double> pathHzAt(const std::vector<PitchPoint>& path, double seconds) {
  if (path.empty()) return std::nullopt;
  const auto after =
      std::find_if(path.begin(), path.end(), [&](const PitchPoint& p) { return p.seconds > seconds; });
  if (after == path.begin()) return after->hz;
  if (after == path.end()) return path.back().hz;
  const auto before = after - 1;
  const double u = (seconds - before->seconds) / (after->seconds - before->seconds);
  return before->hz * std::pow(after->hz / before->hz, u);
}

Landing keptUntil(Landing landing, double seconds, const LandingOptions& options) {
  constexpr size_t kLeastPoints = 3;
  const auto end = std::find_if(landing.path.begin(), landing.path.end(),
                                [&](const PitchPoint& p) { return p.seconds > seconds; });
  const auto left = static_cast<size_t>(end - landing.path.begin());
  if (left == landing.path.size()) return landing;
  landing.path.erase(end, landing.path.end());
  if (left < kLeastPoints || options.byHand()) return landing;
  const auto isThere = [&](const PitchPoint& p) {
    return std::abs(centsBetween(*landing.hz, p.hz)) < kRestsWithinCents;
  };
  if (landing.hz && std::any_of(landing.path.begin(), landing.path.end(), isThere)) return landing;
  if (landing.hz) landing.reason = "cut off before the pitch settles";
  landing.hz.reset();
  landing.confidence = std::min(landing.confidence, kNoLanding);
  landing.heardHz = heardMost(landing.path);
  landing.slideCents = slideOf(landing.path, *landing.heardHz);
  return landing;
}

Landing measureLanding(std::span<const double> mono, double sampleRate, double onsetSeconds,
                       const LandingOptions& options) {
  Landing out;
  if (!(options.lowHz < options.highHz)) {
    out.reason = "its note is above the search range";
    return out;
  }
  const auto start = static_cast<size_t>(std::max(0.0, onsetSeconds) * sampleRate);
  if (start + 64 >= mono.size()) {
    out.reason = "too short to have a pitch";
    return out;
  }
  const size_t longest = static_cast<size_t>(kLongestLandingSeconds * sampleRate);
  auto heard = atCommonRate(mono.subspan(start, std::min(longest, mono.size() - start)), sampleRate);
  if (options.lowHz > 20.0 || options.highHz < 400.0)
    heard =
        bandLimited(heard, sampleRate, options.lowHz > 20.0 ? 0.8 * options.lowHz : 0.0, 1.25 * options.highHz);
  auto base = decimated(std::span<const double>(heard), sampleRate, std::max(kFallRate, 7.0 * options.highHz));
  cutSilence(base);
  const auto rest = findRest(base, options.lowHz, options.highHz);
  out.confidence = rest.confidence;
  if (rest.hz) {
    out.hz = rest.hz;
    out.path = wholePath(base, rest);
    out.heardHz = heardMost(out.path);
    out.heardConfidence = rest.confidence;
    // The windows about a landing do not see all of a tone that moves on from it.
    constexpr double kSeen = 0.85;
    const bool elsewhere = std::abs(centsBetween(*rest.hz, out.heardHz.value_or(*rest.hz))) > kRestsWithinCents;
    if (elsewhere || slideOf(out.path, *rest.hz, kArrivedCents) > kRestsWithinCents ||
        seenShare(base, rest) < kSeen)
      if (auto followed = followTone(base, options.lowHz, options.highHz); !followed.points.empty()) {
        out.heardHz = followed.heardHz;
        const bool left = followed.confidence > rest.confidence && goesOnFrom(followed.points, *rest.hz);
        if (left || isHardlyHeard(followed.points, *rest.hz, followed.heardHz)) {
          out.hz.reset();
          out.confidence = kNoLanding;
          out.reason = "the pitch glides and never settles";
          out.heardConfidence = followed.confidence;
          out.path = std::move(followed.points);
        }
      }
  } else {
    out.reason = rest.reason;
    FollowedTone followed = followTone(base, options.lowHz, options.highHz);
    out.heardConfidence = followed.confidence;
    if (!followed.points.empty()) out.heardHz = followed.heardHz, out.path = std::move(followed.points);
  }
  byItsPeriod(out, base, options);
  for (PitchPoint& point : out.path) point.seconds += onsetSeconds;
  if (options.byHand()) nameByHand(out, options);
  if (!out.noteHz() || out.path.empty()) return out;
  out.slideCents = slideOf(out.path, *out.noteHz());
  describeFall(out, base, onsetSeconds);
  return out;
}

}  // namespace heft
