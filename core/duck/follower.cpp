#include "core/duck/follower.h"

#include <algorithm>
#include <cmath>

#include "core/shape/dynamics.h"
#include "core/sound/buffer.h"

namespace heft {
namespace {

constexpr double kLeastThresholdDb = -80.0;
constexpr double kLog2ToDb = 6.020599913279624;

double keptPerFrame(double seconds, double rate) {
  return seconds > 0.0 ? std::exp(-1.0 / (seconds * rate)) : 0.0;
}

// No gain reduction below this level.
double belowKneeDb(const Follower& f) {
  return f.thresholdDb - 0.5 * f.kneeDb;
}

float gainOf(double reductionDb) {
  return reductionDb < 1e-5 ? 1.0f : std::exp2(static_cast<float>(-reductionDb / kLog2ToDb));
}

}  // namespace

double followerReductionDb(const Follower& f, double levelDb) {
  const Compressor curve{.on = true, .thresholdDb = f.thresholdDb, .ratio = f.ratio, .kneeDb = f.kneeDb};
  return std::clamp(levelDb - compressedDb(curve, levelDb), 0.0, f.deepestDb);
}

void followLevel(const Follower& f, std::span<const float> heard, double rate, FollowerState& state,
                 std::span<float> gain) {
  const double attack = keptPerFrame(f.attackMs / 1000.0, rate),
               release = keptPerFrame(f.releaseMs / 1000.0, rate), mean = keptPerFrame(kRmsSeconds, rate),
               hold = f.holdMs / 1000.0 * rate;
  const bool rms = f.level == LevelBy::Rms;
  const double rest = std::pow(10.0, belowKneeDb(f) / 10.0);  // a power
  for (size_t i = 0; i < gain.size(); ++i) {
    const double square = static_cast<double>(heard[i]) * heard[i];
    state.meanSquare = mean * state.meanSquare + (1.0 - mean) * square;
    const double power = rms ? state.meanSquare : square;
    const double wanted =
        power > rest ? followerReductionDb(f, 0.5 * kLog2ToDb * std::log2(static_cast<float>(power))) : 0.0;
    if (wanted >= state.reductionDb) {
      state.reductionDb = attack * state.reductionDb + (1.0 - attack) * wanted;
      state.holdFrames = hold;
    } else if (state.holdFrames > 0.0) {
      state.holdFrames -= 1.0;
    } else {
      state.reductionDb = release * state.reductionDb + (1.0 - release) * wanted;
      if (state.reductionDb < 1e-6) state.reductionDb = 0.0;
    }
    gain[i] = gainOf(state.reductionDb);
  }
  if (state.meanSquare < 1e-20) state.meanSquare = 0.0;
}

size_t lookaheadFrames(const Follower& f, double rate) {
  return static_cast<size_t>(std::lround(f.lookaheadMs / 1000.0 * rate));
}

double thresholdTaking(const Follower& f, std::span<const float> heard, double rate, double takesDb) {
  std::vector<float> gain(heard.size());
  auto takes = [&](double threshold) {
    Follower with = f;
    with.thresholdDb = threshold;
    FollowerState rest;
    followLevel(with, heard, rate, rest, gain);
    const float least = gain.empty() ? 1.0f : *std::min_element(gain.begin(), gain.end());
    return -dbFromAmplitude(least, -300.0);
  };
  double low = kLeastThresholdDb, high = 0.0;
  if (takes(low) <= takesDb) return low;
  if (takes(high) >= takesDb) return high;
  // Gain reduction falls as the threshold rises.
  while (high - low > 0.01) {
    const double middle = 0.5 * (low + high);
    (takes(middle) > takesDb ? low : high) = middle;
  }
  return std::round(50.0 * (low + high)) / 100.0;
}

}  // namespace heft
