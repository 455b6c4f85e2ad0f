#pragma once
/// Kick and bass at the slow rate that alignment works at, and their meetings: from each hit of the kick to the
/// next.

#include <memory>
#include <span>

#include "core/align/align.h"
#include "core/render/render.h"

namespace heft {

/// No tail is judged for longer.
inline constexpr double kLongestTailSeconds = 2.0;
/// What a picture shows after a hit.
inline constexpr double kWaveSeconds = 0.4;
inline constexpr double kLeastLeadSeconds = 0.05;
/// Between these the bass stands in the kick's way.
inline constexpr double kBassFromHz = 20.0, kBassToHz = 150.0;

/// A lane folded to mono at a slow rate, from a lead before the loop's start to a stretch beyond its end.
struct SlowLane {
  std::vector<double> samples, low;  ///< all of it; what lies between kBassFromHz and kBassToHz
  double rate = 1.0, leadSeconds = 0.0;

  /// Where a moment of the loop lies; may be read from there to the end of the stretch.
  size_t at(double seconds) const;
  std::span<const double> from(const std::vector<double>& x, double seconds, double count) const;
};

/// The lane brought to about `slowRate`, with so much of the loop's end before its start.
std::shared_ptr<const SlowLane> slowLane(const Stem& lane, double rate, double slowRate, double leadSeconds,
                                         StepCache& cache);

/// From a hit to the next, kLongestTailSeconds at the most.
struct MeetingSpan {
  double atSeconds = 0.0, seconds = 0.0;
};
std::vector<MeetingSpan> meetingSpans(const std::vector<double>& eventFrames, const Stems& stems);
/// From each of the kick's hits.
std::vector<MeetingSpan> meetingSpans(const Stems& stems);

/// Whether what the ducking takes of the bass is left out.
enum class PairHeard { AsDucked, Plain };

struct PairLanes {
  /// Of the bass: where it stands, its phase turned, moved as well, and ducked as well. What is not done is the
  /// same lane.
  std::shared_ptr<const SlowLane> kick, placed, turned, moved, bass;
  std::vector<double> left;  ///< of the bass after the ducking, all through; empty: all of it

  /// Reads from the lanes, which must outlive it.
  Meeting meeting(const MeetingSpan& span, PairHeard heard) const;
};
PairLanes pairLanes(const Session& session, const Stems& stems, StepCache& cache);
/// Any lane of the loop, at the same rate and with the same lead as the pair's.
std::shared_ptr<const SlowLane> besidePair(const Session& session, const Stems& stems, const Stem& lane,
                                           StepCache& cache);

/// Kept by what they read, so that a hit whose stretch did not change costs nothing.
std::shared_ptr<const AlignCurve> curveAt(const PairLanes& lanes, const AlignQuestion& question,
                                          const MeetingSpan& span, PairHeard heard, StepCache& cache);
std::shared_ptr<const MeetingFigures> figuresAt(const PairLanes& lanes, const AlignQuestion& question,
                                                const MeetingSpan& span, PairHeard heard, StepCache& cache);

/// Adds what stands there, sample for sample.
void addSamples(KeyMaker& maker, std::span<const double> samples);

}  // namespace heft
