#pragma once
/// The movement of the bass's gain: drawn anew by each trigger.

#include <span>
#include <string>
#include <vector>

namespace heft {

/// The end of the scale of depths: all the way down.
inline constexpr double kSilentDepthDb = 120.0;
/// An amplitude, 1 to 0.
double gainAtDepth(double depthDb);
/// The other way, to a tenth of a dB; from 40 dB down (under 0.01) all the way.
double depthAtGain(double gain);

/// The drawn way: down within the attack, held, back within the return. Both slopes are raised cosines of the
/// amplitude, so the curve has no corner that could click; a trigger during a return starts from where the gain
/// is.
struct DrawnDip {
  double depthDb = 0.0;   ///< how far down, 0 to kSilentDepthDb
  double attackMs = 2.0;  ///< at least 0.5
  double holdMs = 30.0;
  double returnMs = 80.0;  ///< at least 1
  bool operator==(const DrawnDip&) const = default;
};

/// The movement over a stretch of time, which can be read anywhere: what one block needs is not tied to the
/// others.
class DipPlan {
 public:
  /// `triggerFrames` ascending, within the stretch. `loopFrames` > 0: the stretch is a loop of that length in
  /// its steady state, so that what the last trigger began ends at the start; 0: the stretch starts at rest.
  DipPlan(const DrawnDip& dip, std::span<const double> triggerFrames, double sampleRate, size_t loopFrames);
  DipPlan() = default;

  /// Gain (an amplitude) at each frame from `first` on.
  void fill(size_t first, std::span<float> out) const;
  /// Whether the gain is 1 at each of `count` frames from `first` on.
  bool rests(size_t first, size_t count) const;
  /// A dip's beginning: when, and from what gain.
  struct Start {
    double frame, fromGain;
  };
  /// All that the gain from `first` on hangs on: those that reach into it, the one that it starts in among
  /// them.
  std::span<const Start> startsFor(size_t first, size_t count) const;

 private:
  double gainAt(const Start& start, double since) const;
  std::vector<Start> starts_;
  double low_ = 1.0, attack_ = 1.0, hold_ = 0.0, return_ = 1.0;
};

/// A whole curve at once.
std::vector<float> drawnGain(const DrawnDip& dip, std::span<const double> triggerFrames, double sampleRate,
                             size_t frames, bool wraps);

/// What a curve does, measured on it.
struct DipFacts {
  double depthDb = 0.0;  ///< its minimum, negative; not under -kSilentDepthDb
  double returnMs =
      0.0;        ///< longest time from a trigger until the gain is last below -0.5 dB before the next one
  int fired = 0;  ///< triggers after which it falls below -0.5 dB
};
DipFacts measureDip(std::span<const float> gain, std::span<const double> triggerFrames, double sampleRate);

/// Expression (MIDI 1.0): what a gain is written as unless another is asked for.
inline constexpr int kGainController = 11;

/// "time_s,gain_db" and a row each millisecond, plus the last frame.
std::string gainCsv(std::span<const float> gain, double sampleRate);
/// A Standard MIDI File (format 0, 960 ticks a quarter) with a controller (0 to 119; 11 by default) as 127
/// times the amplitude gain, a value whenever it changes, in ticks of that tempo.
std::string gainMidi(std::span<const float> gain, double sampleRate, double tempoBpm,
                     int controller = kGainController);

}  // namespace heft
