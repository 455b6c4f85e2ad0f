#include "core/judge/balance.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {
namespace {

constexpr size_t kLanes = 3;                  // kick, bass, everything else
constexpr size_t kParts = kBands.size() + 1;  // the low bands, and all above them
using LanePower = std::array<double, kParts>;

// The weighting's second stage, a high-pass of second order at 38.1 Hz with a Q of a half; above 250 Hz it is
// level.
double weightAt(double hz) {
  constexpr double kCornerHz = 38.13547;
  const double x = hz / kCornerHz, gain = x * x / (1.0 + x * x);
  return gain * gain;
}

double weightOf(size_t part) {
  return part < kBands.size() ? weightAt(std::sqrt(kBands[part].lowHz * kBands[part].highHz)) : 1.0;
}

LanePower partsOf(const LowEnd& low) {
  LanePower out{};
  out.back() = low.totalPower;
  for (size_t b = 0; b < kBands.size(); ++b) out[b] = low.bandPower[b], out.back() -= low.bandPower[b];
  out.back() = std::max(0.0, out.back());
  return out;
}

struct PairMove {
  double kickDb = 0.0, bassDb = 0.0;
};

struct Levels {
  std::array<LanePower, kLanes> lanes;
  std::vector<BandSpan> spans;  ///< one a low band
  double sumLufs = 0.0;

  // Sum of the squared distances, in dB, of the bands outside the references' spans and their tolerance.
  double outside(const PairMove& move, double allowedDb) const {
    const std::array<double, kLanes> gains = {std::pow(10.0, move.kickDb / 10.0),
                                              std::pow(10.0, move.bassDb / 10.0), 1.0};
    LanePower now{};
    double loud = 0.0, was = 0.0;
    for (size_t part = 0; part < kParts; ++part)
      for (size_t lane = 0; lane < kLanes; ++lane) {
        now[part] += gains[lane] * lanes[lane][part];
        loud += weightOf(part) * gains[lane] * lanes[lane][part];
        was += weightOf(part) * lanes[lane][part];
      }
    const double lufs = sumLufs + dbFromPower(loud / std::max(1e-30, was));
    double sum = 0.0;
    for (size_t b = 0; b < kBands.size(); ++b) {
      const double level = dbFromPower(now[b]) - lufs;
      sum += std::pow(std::max(0.0, std::abs(spans[b].beyondDb(level)) - allowedDb), 2);
    }
    return sum;
  }
};

std::optional<Levels> levelsOf(const Study& study) {
  if (!study.hasBacking || !study.sum.integratedLufs) return std::nullopt;
  Levels out;
  out.sumLufs = *study.sum.integratedLufs;
  out.lanes = {partsOf(study.pair.kick.low), partsOf(study.pair.bass.low), partsOf(study.sum.low)};
  for (size_t part = 0; part < kParts; ++part)
    out.lanes[2][part] = std::max(0.0, out.lanes[2][part] - out.lanes[0][part] - out.lanes[1][part]);
  const auto references = study.presentReferences();
  for (size_t b = 0; b < kBands.size(); ++b) {
    const auto span = spanOf(references, kBands[b]);
    if (!span) return std::nullopt;
    out.spans.push_back(*span);
  }
  return out;
}

}  // namespace

std::optional<LaneLevels> balanceToReferences(const Session& session, const Study& study,
                                              const Limits& limits) {
  constexpr double kDownDb = -12.0, kUpDb = 9.0, kStepDb = 0.5;
  constexpr double kMoveCost = 0.02, kHelps = 0.8;  // squared dB each, of the present excess
  constexpr double kAimedAt = 0.6;                  // margin inside the tolerance, since levels are estimates
  const auto levels = levelsOf(study);
  if (!levels) return std::nullopt;
  const double allowed = kAimedAt * limits.bandHolds;
  const double now = levels->outside({}, allowed);
  PairMove best;
  double least = now;
  for (double kick = kDownDb; kick <= kUpDb; kick += kStepDb)
    for (double bass = kDownDb; bass <= kUpDb; bass += kStepDb) {
      const PairMove move{kick, bass};
      const double cost = levels->outside(move, allowed) + kMoveCost * (kick * kick + bass * bass);
      if (cost < least) least = cost, best = move;
    }
  if (least >= kHelps * now) return std::nullopt;
  return laneBy(session, session.kick().id, best.kickDb) + laneBy(session, session.bass().id, best.bassDb);
}

}  // namespace heft
