#include "core/measure/pitch/rest_partials.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/theory/note.h"

namespace heft::resting {
Comb combAt(const std::vector<Window>& windows, double hz) {
  Comb out;
  double weights = 0.0, sum = 0.0;
  for (int k = 2; k <= 6; ++k) {
    size_t seen = 0;
    for (const Window& w : windows) {
      const DampedTone* tone = toneNear(w, k * hz, 35.0, 35.0);
      if (!tone || !rests(*tone)) continue;
      ++seen;
      const double weight = std::sqrt(tone->energy) * (1.0 - std::abs(centsBetween(k * hz, tone->hz)) / 36.0);
      out.support += weight;
      weights += weight, sum += weight * centsBetween(hz, tone->hz / k);
    }
    out.partials += 2 * seen >= windows.size() ? 1 : 0;
  }
  out.hz = weights > 0.0 ? hz * std::exp2(sum / weights / 1200.0) : hz;
  return out;
}

// The strongest resting tone may be a second or third harmonic of the note: 2 or 3 where its fundamental sounds
// too, or where neighbours sound that only a missing fundamental can explain (2 f beside 3 f, and 4 f or 5 f);
// else 1.
int harmonicNumber(const std::vector<Window>& windows, double strongest, double lowHz) {
  for (int number : {2, 3}) {
    const double fundamental = strongest / number;
    if (fundamental < lowHz) continue;
    const double neighbour = number == 2 ? 3.0 * fundamental : 2.0 * fundamental;
    if (accompanies(windows, strongest, fundamental, 0.002)) return number;
    // Two tones alone, a root and its fifth, are 2 f and 3 f as well: a note without its fundamental has more.
    const bool more = accompanies(windows, strongest, 4.0 * fundamental, 0.001) ||
                      accompanies(windows, strongest, 5.0 * fundamental, 0.001);
    if (more && accompanies(windows, strongest, neighbour, 0.02)) return number;
  }
  return 1;
}

// A plucked string's body thumps below its fundamental and pulls it away; three partials that agree on another
// note within a third are then the better witness. Nothing where there is no such note.
std::optional<double> noteOfPartials(const std::vector<Window>& windows, double hz) {
  if (windows.size() < 10) return std::nullopt;
  const Comb here = combAt(windows, hz);
  Comb best = here;
  for (double c = -400.0; c <= 400.0; c += 10.0) {
    const Comb there = combAt(windows, hz * std::exp2(c / 1200.0));
    if (there.partials >= 3 && there.support > best.support) best = there;
  }
  if (best.support < 2.0 * here.support || best.partials < 3 || std::abs(centsBetween(hz, best.hz)) < 60.0)
    return std::nullopt;
  return combAt(windows, best.hz).hz;
}

bool isPartialOf(double fundamental, double hz) {
  return std::abs(centsBetween(2.0 * fundamental, hz)) < 60.0 ||
         std::abs(centsBetween(3.0 * fundamental, hz)) < 60.0;
}

// The lower of two tones that rest side by side through most of a sound, such as a root with its fifth. Nothing
// where there are no two, or where they move: noise is never explained so well for so long.
std::vector<PitchPoint> lowerOfTwo(const std::vector<Window>& windows, double windowFrames, double lowHz,
                                   double highHz) {
  constexpr double kExplained = 0.98, kLeastShare = 0.05, kStillCents = 25.0, kMostOfIt = 0.6;
  constexpr size_t kLeastWindows = 8;
  struct Pair {
    const Window* window;
    const DampedTone *lower, *upper;
  };
  std::vector<Pair> pairs;
  double all = 0.0;
  for (const Window& w : windows) {
    all += w.energy;
    if (w.fit.explained < kExplained) continue;
    std::vector<const DampedTone*> tones;
    for (const DampedTone& t : w.fit.tones)
      if (rests(t) && t.energy > kLeastShare * w.energy) tones.push_back(&t);
    std::sort(tones.begin(), tones.end(), [](auto* a, auto* b) { return a->hz < b->hz; });
    if (tones.size() == 2 && tones[0]->hz >= lowHz && tones[0]->hz <= highHz)
      pairs.push_back({&w, tones[0], tones[1]});
  }
  if (pairs.size() < kLeastWindows) return {};
  auto middle = [&](const DampedTone* Pair::*tone) {
    std::vector<double> hz;
    for (const Pair& p : pairs) hz.push_back((p.*tone)->hz);
    return median(hz);
  };
  const double lower = middle(&Pair::lower), upper = middle(&Pair::upper);
  std::vector<PitchPoint> out;
  double still = 0.0;
  for (const Pair& p : pairs) {
    if (std::abs(centsBetween(lower, p.lower->hz)) > kStillCents ||
        std::abs(centsBetween(upper, p.upper->hz)) > kStillCents)
      continue;
    still += p.window->energy;
    out.push_back({p.window->seconds, p.lower->hz, std::sqrt(p.lower->energy / windowFrames)});
  }
  return out.size() >= kLeastWindows && still > kMostOfIt * all ? out : std::vector<PitchPoint>();
}

}  // namespace heft::resting
