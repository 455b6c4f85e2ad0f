#pragma once
/// Ducks the bass: all of it or only the band below a crossover.

#include <complex>
#include <span>
#include <vector>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"
#include "core/theory/names.h"

namespace heft {

/// All of the target; the band below a crossover; a bell at a note; several bands with their own shares.
enum class DuckBandKind { All, Below, Bell, Several };
template <>
inline constexpr std::array kWordsOf<DuckBandKind> = {"all", "below", "bell", "several"};
/// The band from the previous step up to `belowHz` gets that share of the movement.
struct BandStep {
  double belowHz = 120.0;
  double share = 1.0;  ///< 0 to 1
  bool operator==(const BandStep&) const = default;
};
inline constexpr size_t kMostBandSteps = 8;

/// The linear-phase low part of a signal, latency compensated: x - low + low is exactly x, so the crossover
/// sums flat and leaves every phase as it was. -6 dB at `hz`, transition one octave wide about it. Made once
/// for signals of about `frames`; of() may be called by several threads at once.
class LowPart {
 public:
  LowPart(double sampleRate, double hz, size_t frames);
  /// Frames on either side that one frame's low part depends on.
  static size_t reach(double sampleRate, double hz);
  /// As long as `x`, of any length. `wraps`: the signal is a loop.
  std::vector<float> of(std::span<const float> x, bool wraps) const;
  /// Drops the reach at both ends of `x`, which must be longer than both: for a stretch cut out of a longer
  /// one.
  std::vector<float> inside(std::span<const float> x) const;
  size_t bytes() const { return response_.size() * sizeof(response_[0]); }

 private:
  size_t taps_ = 0, size_ = 0;
  std::vector<std::complex<double>> response_;
};

/// The band of a signal within a bell: the Cookbook's band-pass with 0 dB at its centre, where it shifts no
/// phase. x + (gain - 1) * part is a bell of that gain there. `octaves`: between its -3 dB points.
Biquad::Coefficients bellSection(double sampleRate, double hz, double octaves);

/// Where a movement acts, in Hz.
struct ActingBand {
  DuckBandKind kind = DuckBandKind::All;  ///< All, Bell or Several: a crossover is one band of several
  std::vector<BandStep> steps = {};       ///< Several: ascending
  double aboveShare = 0.0;                ///< Several: over the last of them
  double bellHz = 50.0, octaves = 1.0;    ///< Bell
  bool operator==(const ActingBand&) const = default;
};

/// A channel with the gain in that band: x * gain, x + (gain - 1) * bell, or x with each of several bands
/// lowered by its share of the movement. Exactly x where the gain is 1. `gain` has a value for every frame.
/// `wraps`: the signal is a loop (a bell always starts at rest).
AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, const ActingBand& band, bool wraps);

/// One channel of several bands: `lows[k]` is the band below the k-th crossover.
void lowerInBands(std::span<float> x, std::span<const std::vector<float>* const> lows, const ActingBand& band,
                  std::span<const float> gain);

}  // namespace heft
