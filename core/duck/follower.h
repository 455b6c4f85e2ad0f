#pragma once
/// A level follower: gain reduction from the level of a sidechain.

#include <span>
#include <vector>

#include "core/theory/names.h"

namespace heft {

enum class LevelBy { Peak, Rms };
template <>
inline constexpr std::array kWordsOf<LevelBy> = {"peak", "rms"};

/// The level is the sample's own magnitude, or the root of its mean square over about 10 ms. The static curve
/// and the ballistics are those of core/shape/dynamics.h (Giannoulis, Massberg, Reiss, JAES 60(6), 2012):
/// attack and release are times to 1 - 1/e of the reduction in dB.
struct Follower {
  double thresholdDb = -24.0;  ///< dBFS, -80 to 0
  double ratio = 6.0;          ///< 1 to 100
  double kneeDb = 6.0;         ///< 0 to 40
  double attackMs = 2.0;       ///< 0 to 500
  double holdMs = 0.0;         ///< 0 to 2000: the release waits this long after the deepest moment
  double releaseMs = 36.0;     ///< 1 to 5000
  double lookaheadMs = 0.0;    ///< 0 to 50: lookahead
  LevelBy level = LevelBy::Peak;
  double deepestDb = 120.0;  ///< 0 to kSilentDepthDb: limit of the gain reduction
  bool operator==(const Follower&) const = default;
};
inline constexpr double kRmsSeconds = 0.010;

/// State of a follower.
struct FollowerState {
  double reductionDb = 0.0;  ///< >= 0
  double holdFrames = 0.0;   ///< rest of the hold
  double meanSquare = 0.0;
};

/// Reduction of the static curve in dB, >= 0, at a level in dBFS.
double followerReductionDb(const Follower& f, double levelDb);

/// The gain (an amplitude) for each frame of the sidechain, which already includes the lookahead. Continues
/// from the state and updates it; from rest silence gives 1. Gain reduction under 1e-5 dB is 1.
void followLevel(const Follower& f, std::span<const float> heard, double sampleRate, FollowerState& state,
                 std::span<float> gain);

/// Frames of the look-ahead.
size_t lookaheadFrames(const Follower& f, double sampleRate);

/// The threshold at which the follower ducks by `takesDb` at the loudest moment of `heard`, to 0.01 dB; -80
/// where none does. `heard` is a whole sound from rest.
double thresholdTaking(const Follower& f, std::span<const float> heard, double sampleRate, double takesDb);

}  // namespace heft
