#pragma once
/// Filters. Zero-phase band limiting and linear-phase kernels for measurements and crossovers; second-order
/// sections after the Audio EQ Cookbook (R. Bristow-Johnson, W3C note) for sample-by-sample processing.

#include <array>
#include <span>
#include <vector>

namespace heft {

/// One second-order section, transposed direct form II.
class Biquad {
 public:
  struct Coefficients {
    double b0 = 1, b1 = 0, b2 = 0, a1 = 0, a2 = 0;
  };
  /// Cookbook low-pass and high-pass. 0 < hz < sampleRate / 2, q > 0.
  static Coefficients lowPass(double sampleRate, double hz, double q);
  static Coefficients highPass(double sampleRate, double hz, double q);
  /// Cookbook peaking EQ, shelves (q rather than slope) and notch. gainDb -48 to 48.
  static Coefficients bell(double sampleRate, double hz, double q, double gainDb);
  static Coefficients lowShelf(double sampleRate, double hz, double q, double gainDb);
  static Coefficients highShelf(double sampleRate, double hz, double q, double gainDb);
  static Coefficients notch(double sampleRate, double hz, double q);
  /// Cookbook all-pass: its phase falls through -180 degrees at `hz`.
  static Coefficients allPass(double sampleRate, double hz, double q);
  /// Magnitude in dB of a section at a frequency.
  static double responseDb(const Coefficients& c, double sampleRate, double hz);

  Biquad() = default;
  explicit Biquad(const Coefficients& c) : c_(c) {}
  double process(double x) {
    const double y = c_.b0 * x + z1_;
    z1_ = c_.b1 * x - c_.a1 * y + z2_;
    z2_ = c_.b2 * x - c_.a2 * y;
    return y;
  }
  void reset() { z1_ = z2_ = 0.0; }
  /// Its state, to continue from.
  std::array<double, 2> state() const { return {z1_, z2_}; }
  void goOnFrom(double z1, double z2) { z1_ = z1, z2_ = z2; }

 private:
  Coefficients c_;
  double z1_ = 0.0, z2_ = 0.0;
};

/// Through the sections in order; each continues from its state.
void filterBy(std::span<Biquad> sections, std::span<float> samples);

/// Magnitude 0..1 of the band limit used everywhere: flat from `lowHz` to `highHz`, raised-cosine slopes of a
/// third of an octave outside. lowHz <= 0 leaves the bottom open.
double bandGain(double hz, double lowHz, double highHz);

/// `signal` limited to a band with zero phase (through one FFT with padding at the end). Same length.
std::vector<double> bandLimited(std::span<const double> signal, double sampleRate, double lowHz, double highHz);

/// The signal a quarter of a period late at every frequency (its Hilbert transform). Same length; silence
/// beyond its ends.
std::vector<double> quarterBehind(std::span<const double> signal);
/// The envelope of a signal without offset: the magnitude of its analytic signal. Same length; silence beyond
/// its ends.
std::vector<double> analyticEnvelope(std::span<const double> signal);

/// Odd-length linear-phase low-pass (Blackman-windowed sinc), unity at 0 Hz, -6 dB at `cutHz`: that many taps
/// on either side of its middle.
size_t lowPassReach(double sampleRate, double transitionHz);
std::vector<double> lowPassKernel(double sampleRate, double cutHz, double transitionHz);

/// `signal` low-passed and decimated by a whole factor with zero phase (kernel centred on each output sample).
struct Decimated {
  std::vector<double> samples;
  double sampleRate = 0.0;  ///< Hz after decimation
  size_t factor = 1;
};
/// Keeps 0 to about 0.4 of the new rate (aliases below -74 dB). The new rate is the lowest whole division of
/// `sampleRate` that is >= `targetRate`.
Decimated decimated(std::span<const double> signal, double sampleRate, double targetRate);
Decimated decimated(std::span<const float> signal, double sampleRate, double targetRate);

}  // namespace heft
