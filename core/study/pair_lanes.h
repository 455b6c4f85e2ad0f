#pragma once
/// Kick and bass at alignment's low rate, and their meetings: from each kick hit to the next.

#include <memory>
#include <span>

#include "core/align/align.h"
#include "core/render/lanes/render.h"

namespace heft {

/// The longest tail that is judged.
inline constexpr double kLongestTailSeconds = 2.0;
/// The stretch that a picture shows after a hit.
inline constexpr double kWaveSeconds = 0.4;
inline constexpr double kLeastLeadSeconds = 0.05;
/// The band in which the bass masks the kick.
inline constexpr double kBassFromHz = 20.0, kBassToHz = 150.0;

/// Samples of a long lane in stretches that overlap, so that any short part of it is in one of them. Stretches
/// that an edit did not touch are shared with the lane before it.
struct SlowSamples {
  std::vector<std::shared_ptr<const std::vector<double>>> stretches;
  size_t apart = 1;  ///< samples from one stretch's start to the next's
  size_t count = 0;  ///< of all

  bool empty() const { return count == 0; }
  /// Clipped to what there is; at most kLongestReadSeconds of a lane.
  std::span<const double> from(size_t first, size_t wanted) const;
};
inline constexpr double kLongestReadSeconds = 4.0;

/// A lane folded to mono at a slow rate, from a lead before the loop's start to a stretch beyond its end.
struct SlowLane {
  SlowSamples samples, low;  ///< all of it; the band from kBassFromHz to kBassToHz
  double rate = 1.0, leadSeconds = 0.0;
  std::vector<StepKey> keys;  ///< of the stretches

  /// Frame of a moment of the loop; readable from there to the end of the stretch.
  size_t at(double seconds) const;
  std::span<const double> from(const SlowSamples& x, double seconds, double count) const;
};

/// The lane at about `slowRate`, preceded by that much of the loop's end. Up to 44 s its band is made in one
/// piece; of longer ones in stretches of 16 s, each with 0.8 s about it: within 0.001 dB of the whole (a test).
std::shared_ptr<const SlowLane> slowLane(const Signal& lane, double rate, double slowRate, double leadSeconds,
                                         StepCache& cache);

/// From a hit to the next, at most kLongestTailSeconds.
struct MeetingSpan {
  double atSeconds = 0.0, seconds = 0.0;
};
std::vector<MeetingSpan> meetingSpans(const std::vector<double>& eventFrames, const Stems& stems);
/// From each of the kick's hits.
std::vector<MeetingSpan> meetingSpans(const Stems& stems);

/// Whether to ignore the ducking's gain reduction.
enum class PairHeard { AsDucked, Plain };

struct PairLanes {
  /// The bass in place; phase-shifted; delayed as well; ducked as well. A step that does nothing shares the
  /// lane before it.
  std::shared_ptr<const SlowLane> kick, placed, turned, moved, bass;
  SlowSamples left;  ///< of the bass after the ducking, all through; empty: all of it

  /// Reads from the lanes, which must outlive it.
  Meeting meeting(const MeetingSpan& span, PairHeard heard) const;
};
/// The bass in place, phase-shifted, and delayed as well.
struct PairSignals {
  Signal turned, moved;
};
PairSignals pairSignals(const Session& session, const Stems& stems, StepCache& cache);
/// What pairLanes() and besidePair() read of a block, measured while its sound is there.
void measurePairBlock(const Session& session, const Stems& stems, const PairSignals& pair, size_t b,
                      StepCache& cache);
PairLanes pairLanes(const Session& session, const Stems& stems, StepCache& cache);
/// Any lane of the loop, at the same rate and with the same lead as the pair's.
std::shared_ptr<const SlowLane> besidePair(const Session& session, const Stems& stems, const Signal& lane,
                                           StepCache& cache);

/// Cached by their inputs, so a hit whose stretch did not change costs nothing.
std::shared_ptr<const SmallCurve> curveAt(const PairLanes& lanes, const AlignQuestion& question,
                                          const MeetingSpan& span, PairHeard heard, StepCache& cache);
/// bestAlignment() of that curve, as heard.
AlignAnswer ownMoveAt(const PairLanes& lanes, const AlignQuestion& question, const MeetingSpan& span,
                      StepCache& cache);
std::shared_ptr<const MeetingFigures> figuresAt(const PairLanes& lanes, const AlignQuestion& question,
                                                const MeetingSpan& span, PairHeard heard, StepCache& cache);

}  // namespace heft
