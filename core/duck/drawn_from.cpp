#include "core/duck/drawn_from.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kStepMs = 0.25;
constexpr double kOffBy = 0.01, kBackAt = 0.94406;  // -0.5 dB
constexpr size_t kMostFitted = 24;

double averageAfter(std::span<const float> gain, std::span<const Trigger> triggers, double frames) {
  double sum = 0.0;
  for (const Trigger& t : triggers) {
    const auto at = static_cast<size_t>(std::llround(t.frame + frames));
    sum += gain[at % gain.size()];
  }
  return sum / static_cast<double>(triggers.size());
}

double shortestGap(std::span<const Trigger> triggers, double frames) {
  double gap = triggers.front().frame + frames - triggers.back().frame;
  for (size_t i = 1; i < triggers.size(); ++i) gap = std::min(gap, triggers[i].frame - triggers[i - 1].frame);
  return gap;
}

// Its start, its deepest point, the end of its hold and its return.
std::vector<size_t> cornersOf(const std::vector<double>& curve, size_t back) {
  constexpr double kThere = 0.0005;
  const double low = *std::min_element(curve.begin(), curve.end());
  auto deep = [&](double g) { return g <= low + kThere; };
  const auto first = std::find_if(curve.begin(), curve.end(), deep);
  const auto last = std::find_if(curve.rbegin(), curve.rend(), deep).base() - 1;
  const auto end = std::find_if(curve.begin() + static_cast<ptrdiff_t>(back), curve.end() - 1,
                                [](double g) { return g >= 1.0 - kThere; });
  std::vector<size_t> out{0, static_cast<size_t>(first - curve.begin()),
                          static_cast<size_t>(last - curve.begin()), static_cast<size_t>(end - curve.begin())};
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

// Where the points' curve has its largest error; points sit on whole steps.
size_t worstStep(const std::vector<double>& curve, const std::vector<size_t>& at, double& off) {
  size_t worst = 0;
  off = 0.0;
  for (size_t p = 0; p + 1 < at.size(); ++p)
    for (size_t i = at[p] + 1; i < at[p + 1]; ++i) {
      const double u = static_cast<double>(i - at[p]) / static_cast<double>(at[p + 1] - at[p]);
      const double drawn = curve[at[p]] + (curve[at[p + 1]] - curve[at[p]]) * raisedCosine(u);
      if (std::abs(drawn - curve[i]) > off) off = std::abs(drawn - curve[i]), worst = i;
    }
  return worst;
}

}  // namespace

std::optional<DrawnDip> drawnFrom(std::span<const float> gain, std::span<const Trigger> triggers, double rate) {
  if (gain.empty() || triggers.empty()) return std::nullopt;
  const double step = kStepMs / 1000.0 * rate;
  const auto most =
      static_cast<size_t>(std::max(2.0, shortestGap(triggers, static_cast<double>(gain.size())) / step));
  std::vector<double> curve;
  size_t back = 0;
  for (size_t i = 0; i < most; ++i) {
    curve.push_back(averageAfter(gain, triggers, static_cast<double>(i) * step));
    if (curve.back() < kBackAt) back = i;
  }
  if (back == 0) return std::nullopt;
  auto at = cornersOf(curve, back);
  curve.resize(at.back() + 1);
  if (at.back() + 1 < most) curve.back() = 1.0;
  const double low = *std::min_element(curve.begin(), curve.end());
  for (double off = 1.0; at.size() < kMostFitted;) {
    const size_t worst = worstStep(curve, at, off);
    if (off <= kOffBy) break;
    at.insert(std::upper_bound(at.begin(), at.end(), worst), worst);
  }
  DrawnDip out;
  out.depthDb = std::min(kSilentDepthDb, -dbFromAmplitude(low, -kSilentDepthDb));
  const double taken = 1.0 - gainAtDepth(out.depthDb), last = static_cast<double>(curve.size() - 1);
  out.lengthMs = last * kStepMs;
  for (const size_t i : at)
    out.points.push_back({static_cast<double>(i) / last, std::clamp((1.0 - curve[i]) / taken, 0.0, 1.0), 0.0});
  return out;
}

}  // namespace heft
