#include "core/measure/landing.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/measure/follow.h"
#include "core/measure/rest.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kLongestLandingSeconds = 4.0;
constexpr double kFallRate = 8000.0;
constexpr double kRestsWithinCents = 60.0;
constexpr double kNoLanding = 0.4;  // the confidence of one that was looked for and is none

// Ends a third after nothing comes within 50 dB of the loudest moment any more: windows are laid over what
// sounds, and many files end in a second of silence or of a room's noise. A clean tail tells its note for a
// while longer.
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

// Moments at which the low band passes zero, with the largest excursion since the one before.
struct Crossing {
  double seconds, excursion;
};

std::vector<Crossing> crossingsOf(const std::vector<double>& x, double rate, double untilSeconds) {
  std::vector<Crossing> out;
  double excursion = 0.0;
  const auto count = std::min(x.size(), static_cast<size_t>(std::max(0.0, untilSeconds) * rate));
  for (size_t i = 1; i < count; ++i) {
    excursion = std::max(excursion, std::abs(x[i - 1]));
    if ((x[i - 1] < 0.0) == (x[i] < 0.0)) continue;
    out.push_back({(static_cast<double>(i - 1) + x[i - 1] / (x[i - 1] - x[i])) / rate, excursion});
    excursion = 0.0;
  }
  return out;
}

// How much of a cycle lies between a zero of the first one's kind and the next: even partials make the halves unequal,
// alike in all cycles.
double shareOfFirstHalves(const std::vector<Crossing>& zeros) {
  constexpr double kLeast = 0.2, kMost = 0.8;
  std::vector<double> shares;
  // Of the later ones: while the pitch falls halves are unequal by that.
  for (size_t k = zeros.size() / 4 * 2; k + 2 < zeros.size(); k += 2)
    shares.push_back((zeros[k + 1].seconds - zeros[k].seconds) / (zeros[k + 2].seconds - zeros[k].seconds));
  if (shares.empty()) return 0.5;
  return std::clamp(median(shares), kLeast, kMost);
}

// Pitch of each whole cycle from the onset to some cycles into the rest. In a tone that falls by octaves within
// a few cycles the moments of its zeros are all the pitch there is, and amplitude does not move them. Whole
// cycles rather than half ones, so that an offset or even harmonics do not matter. Read backwards from the
// rest; ends where a cycle does not follow from the one after it.
std::vector<PitchPoint> pitchByCycles(const Decimated& base, double untilSeconds, double restHz) {
  const auto low = bandLimited(base.samples, base.sampleRate, 0.0, std::min(1200.0, 17.0 * restHz));
  const auto zeros = crossingsOf(low, base.sampleRate, untilSeconds);
  std::vector<PitchPoint> back;
  double hz = restHz;
  for (size_t k = zeros.size(); k-- > 2;) {
    const double period = zeros[k].seconds - zeros[k - 2].seconds;
    // Ripple of the strike makes cycles of little excursion; the fall's own grow together.
    const double excursion = std::max(zeros[k].excursion, zeros[k - 1].excursion);
    if (std::min(zeros[k].excursion, zeros[k - 1].excursion) < 0.12 * excursion) break;
    const double step = centsBetween(hz, 1.0 / period);
    if (step < -150.0 || step > 1500.0 || centsBetween(restHz, 1.0 / period) > 5000.0) break;
    hz = 1.0 / period;
    back.push_back({0.5 * (zeros[k].seconds + zeros[k - 2].seconds), hz, excursion / std::numbers::sqrt2});
  }
  // The very first half cycle is all that shows of the steepest falls.
  if (zeros.size() > 2 && !back.empty() && zeros[1].seconds < back.back().seconds) {
    const double half = zeros[1].seconds - zeros[0].seconds, first = shareOfFirstHalves(zeros) / half;
    const double step = centsBetween(hz, first);
    if (step > 0.0 && step < 1500.0 && zeros[1].excursion > 0.12 * zeros[2].excursion)
      back.push_back(
          {0.5 * (zeros[0].seconds + zeros[1].seconds), first, zeros[1].excursion / std::numbers::sqrt2});
  }
  return {back.rbegin(), back.rend()};
}

// Cycles as long as they are still above the landing, the fitted windows from there on: windows that straddle
// the fall show its end too early.
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

// The pitch at the onset: the first cycle is over before it can be measured, so the fall is drawn back from the
// first cycles, in cents above the landing: as a line where a third cycle lies on one, else as the exponential
// that a fall usually is. At most four octaves above the landing, and two above the first cycle.
double startOf(const Landing& landing, double onsetSeconds) {
  constexpr double kMostCents = 4800.0, kMostBeyond = 2400.0;
  const auto& path = landing.path;
  const double note = *landing.noteHz(), first = centsBetween(note, path.front().hz);
  if (path.size() < 2 || path[1].seconds <= path[0].seconds || first <= 0.0) return path.front().hz;
  const double step = path[1].seconds - path[0].seconds, back = path[0].seconds - onsetSeconds;
  const double second = centsBetween(note, path[1].hz);
  const double slope = (first - second) / step;
  if (slope <= 0.0 || back <= 0.0) return path.front().hz;
  double start = first + slope * back;
  if (second > 20.0) {
    const double ratio = second / first;  // per step
    bool line = false;
    if (path.size() > 2 && path[2].seconds > path[1].seconds) {
      const double on = path[2].seconds - path[1].seconds, third = centsBetween(note, path[2].hz);
      line = std::abs(second - slope * on - third) < std::abs(second * std::pow(ratio, on / step) - third);
    }
    if (!line) start = first * std::pow(ratio, -back / step);
  }
  start = std::min({start, first + kMostBeyond, std::max(first, kMostCents)});
  return note * std::exp2(start / 1200.0);
}

void describeFall(Landing& landing, double onsetSeconds) {
  const double target = *landing.noteHz();
  landing.startHz = startOf(landing, onsetSeconds);
  landing.fallMs = 0.0;
  for (const PitchPoint& point : landing.path)
    if (std::abs(centsBetween(target, point.hz)) > 50.0 && point.amplitude > 0.0)
      landing.fallMs = std::max(0.0, (point.seconds - onsetSeconds) * 1000.0);
    else if (landing.fallMs > 0.0)
      break;
}

constexpr double kFallenCents = 200.0, kArrivedCents = 30.0;

// How far what is still heard moves once the fast fall is over: from where the path first comes so near to the note.
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
  const size_t from = frameAt(rest.points.front().seconds - around), to = frameAt(rest.points.back().seconds + around);
  const std::span<const double> all(base.samples);
  return energyOf(all.subspan(from, to - from)) / std::max(1e-30, energyOf(all.subspan(from)));
}

// A tone that slides at a steady pace passes every note slowly enough to be taken for a landing. Once a landing is
// reached most of what is still heard stays there, and the path lies level; a slide goes on, or passes at its pace.
bool goesOnFrom(const std::vector<PitchPoint>& path, double note) {
  constexpr double kMostBeyond = 0.5, kPassing = 15.0;  // share, cents a period
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
  return beyond > kMostBeyond * (beyond + within) || std::abs(centsASecond) > kPassing * note;
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
  if (!landing.noteHz()) return "nothing claimed";
  return confidenceWord(landing.hz ? landing.confidence : landing.heardConfidence);
}

double pathHzAt(const std::vector<PitchPoint>& path, double seconds) {
  const auto after =
      std::find_if(path.begin(), path.end(), [&](const PitchPoint& p) { return p.seconds > seconds; });
  if (after == path.begin()) return after->hz;
  if (after == path.end()) return path.back().hz;
  const auto before = after - 1;
  const double u = (seconds - before->seconds) / (after->seconds - before->seconds);
  return before->hz * std::pow(after->hz / before->hz, u);
}

Landing measureLanding(std::span<const double> mono, double sampleRate, double onsetSeconds,
                       const LandingOptions& options) {
  Landing out;
  const auto start = static_cast<size_t>(std::max(0.0, onsetSeconds) * sampleRate);
  if (start + 64 >= mono.size()) {
    out.reason = "too short to have a pitch";
    return out;
  }
  const size_t longest = static_cast<size_t>(kLongestLandingSeconds * sampleRate);
  const auto part = mono.subspan(start, std::min(longest, mono.size() - start));
  std::vector<double> limited;
  std::span<const double> heard = part;
  if (options.lowHz > 20.0 || options.highHz < 400.0) {
    limited =
        bandLimited(part, sampleRate, options.lowHz > 20.0 ? 0.8 * options.lowHz : 0.0, 1.25 * options.highHz);
    heard = limited;
  }
  auto base = decimated(heard, sampleRate, std::max(kFallRate, 7.0 * options.highHz));
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
    if (slideOf(out.path, *rest.hz, kArrivedCents) > kRestsWithinCents || seenShare(base, rest) < kSeen)
      if (auto followed = followTone(base, options.lowHz, options.highHz); !followed.points.empty()) {
        out.heardHz = followed.heardHz;
        if (followed.confidence > rest.confidence && goesOnFrom(followed.points, *rest.hz)) {
          out.hz.reset();
          out.confidence = kNoLanding;
          out.reason = "its tone slides and rests nowhere";
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
  for (PitchPoint& point : out.path) point.seconds += onsetSeconds;
  if (options.byHand()) nameByHand(out, options);
  if (!out.noteHz() || out.path.empty()) return out;
  out.slideCents = slideOf(out.path, *out.noteHz());
  describeFall(out, onsetSeconds);
  return out;
}

}  // namespace heft
