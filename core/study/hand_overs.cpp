#include "core/study/hand_overs.h"

#include <cmath>

#include "core/measure/levels/levels.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kEdgeSeconds = 0.1, kNextStrikeSeconds = 0.03, kBesideSeconds = 0.012, kMeetsDb = -12.0,
                 kHeardSeconds = 0.01,  // anything shorter is part of a strike
    kSilentDb = -80.0;

struct Envelopes {
  std::vector<double> kick, bass, sum;
  double alike = 0.0;
};

double rootOf(const std::vector<double>& x, double rate, double from, double to) {
  double power = 0.0;
  size_t n = 0;
  for (auto i = static_cast<size_t>(std::max(0.0, from * rate));
       i < std::min(x.size(), static_cast<size_t>(to * rate)); ++i, ++n)
    power += x[i] * x[i];
  return n > 0 ? std::sqrt(power / static_cast<double>(n)) : 0.0;
}

// Both waves and their sum from kEdgeSeconds before the note on.
std::shared_ptr<const Envelopes> envelopesOf(const PairLanes& lanes, double noteSeconds, double overSeconds,
                                             StepCache& cache) {
  const double rate = lanes.kick->rate, count = 2.0 * kEdgeSeconds + overSeconds;
  const auto kick = lanes.kick->from(lanes.kick->low, noteSeconds - kEdgeSeconds, count),
             bass = lanes.bass->from(lanes.bass->low, noteSeconds - kEdgeSeconds, count);
  KeyMaker maker("hand-over 1");
  maker.add(rate).add(overSeconds);
  maker.add(kick).add(bass);
  return cache.get<Envelopes>(
      maker.key(),
      [&] {
        const size_t n = std::min(kick.size(), bass.size());
        std::vector<double> sum(n);
        double both = 0.0, k = 0.0, b = 0.0;
        for (size_t i = 0; i < n; ++i) {
          sum[i] = kick[i] + bass[i];
          const double t = static_cast<double>(i) / rate - kEdgeSeconds;
          if (t >= 0.0 && t <= overSeconds + kBesideSeconds)
            both += kick[i] * bass[i], k += kick[i] * kick[i], b += bass[i] * bass[i];
        }
        Envelopes out{analyticEnvelope(kick), analyticEnvelope(bass), analyticEnvelope(sum)};
        if (k > 0.0 && b > 0.0) out.alike = both / std::sqrt(k * b);
        return out;
      },
      [](const Envelopes& e) { return 24 * e.sum.size() + 128; });
}

}  // namespace

std::optional<HandOverFacts> handOverAt(const PairLanes& lanes, const MeetingSpan& span,
                                        const Crossing& crossing, const HandOver& set, StepCache& cache) {
  const double over = std::min(set.ms / 1000.0, span.seconds - crossing.afterSeconds - kNextStrikeSeconds);
  const double rate = lanes.kick->rate;
  if (over < kHeardSeconds) return std::nullopt;
  const auto e = envelopesOf(lanes, span.atSeconds + crossing.afterSeconds, over, cache);
  auto level = [&](const std::vector<double>& x, double from, double to) {
    return dbFromAmplitude(std::max(1e-9, rootOf(x, rate, kEdgeSeconds + from, kEdgeSeconds + to)));
  };
  const double kickBefore = level(e->kick, -kBesideSeconds, 0.0),
               bassAfter = level(e->bass, over, over + kBesideSeconds);
  if (bassAfter < kSilentDb || kickBefore < bassAfter + kMeetsDb) return std::nullopt;
  HandOverFacts out;
  out.afterMs = 1000.0 * crossing.afterSeconds, out.overMs = 1000.0 * over, out.alike = e->alike;
  for (double t = 0.0; t <= over; t += HandOverFacts::kStepMs / 1000.0) {
    const double is = level(e->sum, t - 0.5 * kHeardSeconds, t + 0.5 * kHeardSeconds);
    out.holeDb = std::min(out.holeDb, is - std::min(kickBefore, bassAfter));
    out.pileDb = std::max(out.pileDb, is - std::max(kickBefore, bassAfter));
  }
  const double loudest = dbFromAmplitude(std::max(1e-9, *std::max_element(e->sum.begin(), e->sum.end())));
  for (double t = -HandOverFacts::kLeadMs / 1000.0; t < over + HandOverFacts::kLeadMs / 1000.0;
       t += HandOverFacts::kStepMs / 1000.0) {
    auto shown = [&](const std::vector<double>& x) {
      return static_cast<float>(std::max(HandOverFacts::kFloorDb, level(x, t, t + 1.5 / rate) - loudest));
    };
    out.kickDb.push_back(shown(e->kick)), out.bassDb.push_back(shown(e->bass)),
        out.sumDb.push_back(shown(e->sum));
  }
  return out;
}

}  // namespace heft
