#pragma once
/// How well kick and bass are in phase, and the delay and polarity of the bass that align them best.
///
/// Figure: both parts band-limited with zero phase; level of their sum over the region where both sound before
/// any move (25 ms RMS above -40 dB of each one's own maximum) re the amplitude sum of the two (square roots of
/// their energies): 0 dB is perfectly in phase. The region stays the same for every delay.
///
/// Method: with K the kick under the region's mask, the sum's energy at delay d is E(K) + E(bass at d) + 2
/// C(d), where C correlates K with the bass. All three are band-limited functions of d, so they are computed at
/// the samples of a slow rate and read between them.

#include <complex>
#include <optional>
#include <span>
#include <vector>

#include "core/align/rotation.h"

namespace heft {

struct AlignQuestion {
  double lowHz = 20.0, highHz = 150.0;  ///< 10 <= lowHz < highHz <= 1000
  double maxDelayMs = 20.0;             ///< 0 to 200
  bool operator==(const AlignQuestion&) const = default;
};

/// One meeting of kick and bass: equal rates, starting at the same moment.
struct Meeting {
  std::span<const double> kick, bass;
  /// The bass's gain at each sample after ducking, an amplitude; empty: 1. It does not move with the bass.
  std::span<const double> left = {};
  /// The bass before its phase shift: it sets the region, so that no phase shift wins by leaving it; empty:
  /// the bass itself.
  std::span<const double> unturned = {};
};

/// Figures over a grid of delays for one meeting or for several.
struct AlignCurve {
  double firstMs = 0.0, stepMs = 0.0;
  /// One value per delay, over the region, in a common unit: the sum of the two energies, the square of the sum
  /// of their roots (what perfect phase would give), and the correlation.
  std::vector<double> energies, inPhase, cross;
  bool overlap = false;  ///< false: they never sound together, and the figures mean nothing

  size_t size() const { return cross.size(); }
  double delayMs(size_t i) const { return firstMs + stepMs * static_cast<double>(i); }
  /// Level of the sum re the amplitude sum in dB, 0 to -120.
  double levelDb(size_t i, bool invert) const;
  /// The grid's index nearest to a delay.
  size_t indexOf(double ms) const;
  double levelAt(double ms, bool invert) const { return levelDb(indexOf(ms), invert); }
};

/// A curve of one meeting a third as large, without loss: its energies are the kick's plus the bass's, and its
/// correlation was read between samples in single precision.
struct SmallCurve {
  double firstMs = 0.0, stepMs = 0.0, kickEnergy = 0.0;
  std::vector<float> bassEnergy, cross;
  bool overlap = false;
  AlignCurve whole() const;
  /// Of AlignCurve.
  double levelAt(double ms, bool invert) const;
};

/// The curve of one meeting on a grid of 0.02 ms: a thousandth of a period of 50 Hz.
AlignCurve alignCurve(const Meeting& meeting, double sampleRate, const AlignQuestion& question);
SmallCurve smallCurve(const Meeting& meeting, double sampleRate, const AlignQuestion& question);
/// The correlation of kick and bass within 0.4 s either way as a spectrum: it gives the sum's energy for any
/// phase rotation of the bass without touching samples. Its delays give the `cross` of the meeting's curve.
struct CrossSpectrum {
  double stepHz = 1.0, firstHz = 0.0;
  std::vector<std::complex<double>> bins;  ///< scaled so that `cross` is twice the real part of their sum
  size_t size() const { return bins.size(); }
  double hz(size_t i) const { return firstHz + stepHz * static_cast<double>(i); }
};
CrossSpectrum crossSpectrum(const Meeting& meeting, double sampleRate, const AlignQuestion& question);
/// Both for a meeting, brought to the band once.
struct MeetingFigures {
  AlignCurve curve;
  CrossSpectrum cross;
};
MeetingFigures meetingFigures(const Meeting& meeting, double sampleRate, const AlignQuestion& question);
/// For several meetings at equal rates and questions: adds bins.
CrossSpectrum sumOf(const std::vector<CrossSpectrum>& spectra);

/// Adds one more to a sum of several on one grid; one without overlap adds nothing.
void addTo(AlignCurve& sum, const AlignCurve& curve);
void addTo(AlignCurve& sum, const SmallCurve& curve);
/// Energy-weighted sum of several; meetings without overlap add nothing.
AlignCurve combined(const std::vector<AlignCurve>& curves);

struct AlignAnswer {
  double delayMs = 0.0;  ///< of the bass, positive = later
  bool invert = false;
  double beforeDb = 0.0, afterDb = 0.0;
  bool overlap = false;
  Rotation rotation = {};
  bool operator==(const AlignAnswer&) const = default;
};

/// How far the delay may move either way while the level stays within `withinDb`.
struct AlignHold {
  double earlierMs = 0.0, laterMs = 0.0;
};
AlignHold holdOf(const AlignCurve& curve, double delayMs, bool invert, double withinDb);

/// What may be moved.
struct AlignFreedom {
  bool delay = true, polarity = true;
  int stages = 0;  ///< of the rotation, 0 to 2; used by solveAlignment() only
};

/// An answer this close to the best is as good, in decibels.
inline constexpr double kCloseEnoughDb = 0.25;

/// Best delay and polarity. Within kCloseEnoughDb of the best the smallest delay wins; never worse than doing
/// nothing.
AlignAnswer bestAlignment(const AlignCurve& curve, const AlignFreedom& freedom = {});

}  // namespace heft
