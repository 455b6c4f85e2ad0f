#pragma once
/// The ducking gain: redrawn by each trigger.

#include <span>
#include <string>
#include <vector>

#include "core/sound/span.h"

namespace heft {

/// The end of the depth scale: silence.
inline constexpr double kSilentDepthDb = 120.0;
/// An amplitude, 1 to 0.
double gainAtDepth(double depthDb);
/// The inverse, to a tenth of a dB; from 40 dB down (under 0.01) silence.
double depthAtGain(double gain);

/// A point of a drawn curve: the share of its depth at a share of its length.
struct DipPoint {
  double at = 0.0;     ///< 0 to 1; the first is at 0
  double taken = 0.0;  ///< 0 to 1, of the amplitude that the full depth removes
  double bend = 0.0;   ///< share of the time to the next point: 1 moves early, -1 late
  bool operator==(const DipPoint&) const = default;
};
inline constexpr size_t kMostDipPoints = 64;

/// The drawn curve: down within the attack, held, back within the return. Both slopes are raised cosines of
/// the amplitude, so no corner can click; a trigger during a return starts from the present gain. Points are
/// joined by the same slopes, bent in time where a point says so; the four times are the points at 0, attack,
/// attack + hold and the end with reductions 0, 1, 1 and 0. The last point's reduction holds until the next
/// trigger.
struct DrawnDip {
  double depthDb = 0.0;   ///< how far down, 0 to kSilentDepthDb
  double attackMs = 2.0;  ///< at least 0.5
  double holdMs = 30.0;
  double returnMs = 80.0;             ///< at least 1
  std::vector<DipPoint> points = {};  ///< ascending; at least two, else the four dimensions
  double lengthMs = 0.0;              ///< of all points together, at least 1
  bool toNext = false;                ///< lasts until the next trigger, regardless of its length
  bool anew = false;             ///< starts fresh at each trigger: for a target that is silent between its hits
  double velocityToDepth = 0.0;  ///< 0 to 1: how much less a soft trigger ducks
  bool operator==(const DrawnDip&) const = default;

  bool hasPoints() const { return points.size() >= 2; }
  /// From the trigger to the end.
  double wholeMs() const { return hasPoints() ? lengthMs : attackMs + holdMs + returnMs; }
};

/// The four dimensions as points, or the points: the same curve either way.
std::vector<DipPoint> pointsOf(const DrawnDip& dip);

struct Trigger {
  double frame = 0.0;
  double velocity = 1.0;  ///< 0 to 1
  bool operator==(const Trigger&) const = default;
};

/// The gain over a stretch of time, readable anywhere: a block needs none of the others.
class DipPlan {
 public:
  /// `triggers` ascending, within the span. A loop is in its steady state, so the last trigger's curve wraps to
  /// the start; else the span starts at rest.
  DipPlan(const DrawnDip& dip, std::span<const Trigger> triggers, double sampleRate, const Span& over);
  DipPlan() = default;

  /// Gain (an amplitude) at each frame from `first` on.
  void fill(size_t first, std::span<float> out) const;
  /// Whether the gain is 1 at each of `count` frames from `first` on.
  bool rests(size_t first, size_t count) const;
  /// Start of a dip: when, from what gain, how deep and how long, in frames.
  struct Start {
    double frame, fromGain, low, length;
  };
  /// Every start that the gain from `first` on depends on, including the one still active there.
  std::span<const Start> startsFor(size_t first, size_t count) const;

 private:
  double gainAt(const Start& start, double since) const;
  double throughPoints(const Start& start, double since) const;
  double reachOf(const Start& start) const;
  Start startOf(const Trigger& trigger, double at, double gap) const;
  DrawnDip dip_;
  std::vector<Start> starts_;
  double low_ = 1.0, attack_ = 1.0, hold_ = 0.0, return_ = 1.0, least_ = 1.0;
};

/// A whole curve at once.
std::vector<float> drawnGain(const DrawnDip& dip, std::span<const Trigger> triggers, double sampleRate,
                             size_t frames, bool wraps);

/// Scales the gain reduction by an amount; exactly the gain at 1.
inline float atShare(float gain, double share) {
  return share == 1.0 ? gain : static_cast<float>(1.0 - share * (1.0 - gain));
}

/// One trigger's curve, until the next trigger.
struct TriggerFacts {
  double depthDb = 0.0;     ///< its minimum there, negative; not under -kSilentDepthDb
  double under3DbMs = 0.0;  ///< how long the gain is below -3 dB in total
  double returnMs = 0.0;    ///< from the trigger until it is last below -0.5 dB; lookahead of the next trigger
                            ///< counts as the next one's
  bool fired() const { return returnMs > 0.0; }
  bool operator==(const TriggerFacts&) const = default;
};

/// Figures of a curve, measured on it.
struct DipFacts {
  double depthDb = 0.0;  ///< its minimum, negative; not under -kSilentDepthDb
  double returnMs =
      0.0;        ///< longest time from a trigger until the gain is last below -0.5 dB before the next one
  int fired = 0;  ///< triggers after which it falls below -0.5 dB
  std::vector<TriggerFacts> each = {};  ///< of every trigger
};
/// `loops`: the last trigger's curve wraps to the start.
DipFacts measureDip(std::span<const float> gain, std::span<const Trigger> triggers, double sampleRate,
                    bool loops = false);

}  // namespace heft
