#include "core/measure/levels/standing_out.h"

#include <algorithm>
#include <cmath>

#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kHighestHz = 8000.0, kTopHz = 16000.0;

struct Peak {
  size_t at;
  double db;
};

// Local maxima 3 dB above everything within a sixth of an octave on both sides.
std::vector<Peak> peaksOf(const std::vector<double>& fine) {
  constexpr size_t kNear = 2, kAround = 4;
  constexpr double kRises = 3.0, kDeepest = 45.0;
  std::vector<Peak> out;
  const double most = fine.empty() ? 0.0 : *std::max_element(fine.begin(), fine.end());
  for (size_t i = kAround; i + kAround < fine.size(); ++i) {
    const auto near = std::max_element(fine.begin() + static_cast<ptrdiff_t>(i - kNear),
                                       fine.begin() + static_cast<ptrdiff_t>(i + kNear + 1));
    if (near - fine.begin() != static_cast<ptrdiff_t>(i) || fine[i] < most - kDeepest) continue;
    const double before = *std::min_element(fine.begin() + static_cast<ptrdiff_t>(i - kAround),
                                            fine.begin() + static_cast<ptrdiff_t>(i)),
                 after = *std::min_element(fine.begin() + static_cast<ptrdiff_t>(i + 1),
                                           fine.begin() + static_cast<ptrdiff_t>(i + kAround + 1));
    if (fine[i] - std::max(before, after) >= kRises) out.push_back({i, fine[i]});
  }
  return out;
}

// Above the line through its neighbours, least squares over octaves.
double overOthers(const std::vector<Peak>& peaks, const Peak& of) {
  constexpr size_t kFewest = 3;
  double n = 0.0, x = 0.0, y = 0.0, xx = 0.0, xy = 0.0;
  for (const Peak& p : peaks) {
    const double octaves = (static_cast<double>(p.at) - static_cast<double>(of.at)) / kFinePerOctave;
    if (p.at == of.at || std::abs(octaves) > 1.0) continue;
    n += 1.0, x += octaves, y += p.db, xx += octaves * octaves, xy += octaves * p.db;
  }
  if (n < static_cast<double>(kFewest)) return 0.0;
  const double spread = n * xx - x * x;
  const double slope = spread > 1e-6 ? (n * xy - x * y) / spread : 0.0;
  return of.db - (y - slope * x) / n;
}

double widthQ(const std::vector<double>& fine, size_t at) {
  constexpr double kDown = 3.0, kWidest = 1.5, kNarrowest = 12.0;
  size_t low = at, high = at;
  while (low > 0 && fine[low] > fine[at] - kDown) --low;
  while (high + 1 < fine.size() && fine[high] > fine[at] - kDown) ++high;
  return std::clamp(fineHz(at) / std::max(1e-3, fineHz(high) - fineHz(low)), kWidest, kNarrowest);
}

}  // namespace

double fineHz(size_t i) {
  return kFineLowHz * std::exp2(static_cast<double>(i) / kFinePerOctave);
}

std::vector<double> fineSpectrum(std::span<const double> x, double rate) {
  const size_t n = std::min(x.size(), static_cast<size_t>(rate)), in = static_cast<size_t>(0.005 * rate);
  RealFft fft(sharedSize(std::max(n, static_cast<size_t>(rate))));
  std::fill(fft.time().begin(), fft.time().end(), 0.0);
  const double last = 0.2 * static_cast<double>(n);
  for (size_t i = 0; i < n; ++i) {
    const double from = static_cast<double>(i) / static_cast<double>(std::max<size_t>(1, in)),
                 left = static_cast<double>(n - i) / std::max(1.0, last);
    fft.time()[i] = x[i] * raisedCosine(from) * raisedCosine(left);
  }
  fft.forward();
  const double step = rate / static_cast<double>(fft.size()), half = std::exp2(0.5 / kFinePerOctave),
               top = std::min(kTopHz, 0.45 * rate);
  std::vector<double> out;
  for (size_t i = 0; fineHz(i) < top; ++i) {
    // A band narrower than a line reads between two of them.
    const auto from = static_cast<size_t>(std::round(fineHz(i) / half / step)),
               to = std::max(from, static_cast<size_t>(std::round(fineHz(i) * half / step)));
    double power = 0.0;
    for (size_t k = from; k <= std::min(to, fft.bins().size() - 1); ++k) power += std::norm(fft.bins()[k]);
    out.push_back(dbFromPower(power / static_cast<double>(to - from + 1) * step / rate, -200.0));
  }
  return out;
}

std::vector<StandingOut> standingOut(const std::vector<double>& fine, double fromHz) {
  constexpr size_t kMost = 4;
  const auto peaks = peaksOf(fine);
  std::vector<StandingOut> out;
  for (const Peak& p : peaks) {
    const double hz = fineHz(p.at), over = overOthers(peaks, p);
    if (hz >= fromHz && hz <= kHighestHz && over >= kStandsOutDb) out.push_back({hz, over, widthQ(fine, p.at)});
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const StandingOut& a, const StandingOut& b) { return a.overDb > b.overDb; });
  out.resize(std::min(out.size(), kMost));
  std::sort(out.begin(), out.end(), [](const StandingOut& a, const StandingOut& b) { return a.hz < b.hz; });
  return out;
}

double standsOver(const std::vector<double>& fine, double hz, double fromHz) {
  if (hz < fromHz || fine.empty()) return 0.0;
  const auto middle = static_cast<ptrdiff_t>(std::lround(kFinePerOctave * std::log2(hz / kFineLowHz)));
  const auto peaks = peaksOf(fine);
  // The highest level within a 12th of an octave, whether a peak or not.
  Peak of{0, -300.0};
  for (ptrdiff_t i = std::max<ptrdiff_t>(0, middle - 2); i <= std::min(std::ssize(fine) - 1, middle + 2); ++i)
    if (fine[static_cast<size_t>(i)] > of.db) of = {static_cast<size_t>(i), fine[static_cast<size_t>(i)]};
  return overOthers(peaks, of);
}

}  // namespace heft
