#include "core/measure/pitch/rest_windows.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/theory/note.h"

namespace heft::resting {
namespace {

constexpr double kFastestDecay = -160.0;  // 1/s: -40 dB in 29 ms
constexpr double kFastestRise = 25.0;
// High tones die away faster: in as many periods as one of 400 Hz at that rate.
constexpr double kDecayPerHz = 0.4;

}  // namespace

double fastestDecay(double hz) {
  return std::min(kFastestDecay, -kDecayPerHz * hz);
}

bool rests(const DampedTone& tone) {
  return tone.damping > fastestDecay(tone.hz) && tone.damping < kFastestRise;
}

std::vector<Window> windowsOf(std::span<const double> x, double rate, const WindowPlan& plan) {
  std::vector<Window> windows;
  const auto length = std::min(x.size(), std::max<size_t>(12, static_cast<size_t>(plan.lengthSeconds * rate)));
  const auto hop = std::max<size_t>(1, static_cast<size_t>(plan.hopSeconds * rate));
  double loudest = 0.0;
  for (size_t at = 0; at + length <= x.size(); at += hop)
    loudest = std::max(loudest, energyOf(x.subspan(at, length)));
  for (size_t at = 0; at + length <= x.size(); at += hop) {
    const auto part = x.subspan(at, length);
    Window w;
    w.energy = energyOf(part);
    if (w.energy < 1e-5 * loudest || w.energy <= 0.0) continue;
    double moment = 0.0;
    for (size_t i = 0; i < length; ++i) moment += static_cast<double>(i) * part[i] * part[i];
    w.seconds = (static_cast<double>(at) + moment / w.energy) / rate;
    w.fit = fitDampedTones(part, rate, plan.mostPoles, plan.floor);
    if (!w.fit.tones.empty()) windows.push_back(std::move(w));
  }
  return windows;
}

// The strongest few notes, on a cents scale, among the resting tones in range that any window found.
std::vector<double> likelyNotes(const std::vector<Window>& windows, double lowHz, double highHz) {
  constexpr double kBinCents = 8.0;
  if (!(lowHz < highHz)) return {};
  const auto bins = static_cast<ptrdiff_t>(centsBetween(lowHz, highHz) / kBinCents) + 1;
  std::vector<double> density(static_cast<size_t>(bins), 0.0);
  for (const Window& w : windows)
    for (const DampedTone& tone : w.fit.tones) {
      if (tone.hz < lowHz || tone.hz > highHz || tone.energy < 0.003 * w.energy || !rests(tone)) continue;
      const double weight = std::sqrt(tone.energy) * std::min(50.0, 1.0 / (1.0 - w.fit.explained + 0.01));
      const double at = centsBetween(lowHz, tone.hz) / kBinCents;
      const auto first = static_cast<ptrdiff_t>(at) - 4;
      for (ptrdiff_t b = std::max<ptrdiff_t>(0, first); b < std::min(bins, first + 10); ++b)
        density[static_cast<size_t>(b)] +=
            weight * std::exp(-0.5 * std::pow((static_cast<double>(b) - at) / 1.8, 2));
    }
  std::vector<double> notes;
  double strongest = 0.0;
  while (notes.size() < 5) {
    const auto top = std::max_element(density.begin(), density.end());
    if (top == density.end() || *top <= 0.05 * strongest || *top <= 0.0) break;
    strongest = std::max(strongest, *top);
    const auto at = top - density.begin();
    notes.push_back(lowHz * std::exp2(static_cast<double>(at) * kBinCents / 1200.0));
    for (ptrdiff_t b = std::max<ptrdiff_t>(0, at - 14); b < std::min(bins, at + 15); ++b)
      density[static_cast<size_t>(b)] = 0;
  }
  return notes;
}

// The windows by which 70, 90 and 98 % of the energy has passed: after the longest falls, this is where the
// landing sounds.
std::vector<const Window*> lateWindows(const std::vector<Window>& windows) {
  double total = 0.0, passed = 0.0;
  for (const Window& w : windows) total += w.energy;
  std::vector<const Window*> late;
  constexpr double kShares[] = {0.7, 0.9, 0.98};
  for (const Window& w : windows) {
    passed += w.energy;
    while (late.size() < 3 && passed >= kShares[late.size()] * total) late.push_back(&w);
  }
  return late;
}

const DampedTone* toneNear(const Window& w, double hz, double below, double above) {
  const DampedTone* best = nullptr;
  for (const DampedTone& tone : w.fit.tones) {
    const double away = centsBetween(hz, tone.hz);
    if (away > -below && away < above && (!best || tone.energy > best->energy)) best = &tone;
  }
  return best;
}

// Whether a resting tone near `hz` accompanies the one near `strongest`, at least `share` of its energy, in
// most of the windows in which that rests. A fall that sweeps past does so in a few windows only.
bool accompanies(const std::vector<Window>& windows, double strongest, double hz, double share) {
  int together = 0, alone = 0;
  for (const Window& w : windows) {
    const DampedTone* tone = toneNear(w, strongest, 50.0, 50.0);
    if (!tone || !rests(*tone) || w.fit.explained < 0.9) continue;
    const DampedTone* other = toneNear(w, hz, 40.0, 40.0);
    if (other && rests(*other) && other->energy > share * tone->energy)
      ++together;
    else
      ++alone;
  }
  return together >= 3 && together > 2 * alone;
}

}  // namespace heft::resting
