#pragma once
/// Fits a short stretch of sound by a sum of exponentially damped tones.
///
/// Method: the signal-subspace form of the matrix pencil (Hua and Sarkar, IEEE Trans. ASSP 38(5), 1990; ESPRIT,
/// Roy and Kailath 1989). The Hankel matrix's covariance is decomposed, the strongest eigenvectors span the
/// tones, and the rotation from the subspace's top rows to its bottom rows has the poles as eigenvalues.
/// Amplitudes follow by least squares. On a clean tone it is exact to rounding from little more than one
/// period.

#include <span>
#include <vector>

namespace heft {

/// amplitude * exp(damping * t) * cos(2 pi hz t + phase), t in seconds from the stretch's first sample.
struct DampedTone {
  double hz = 0.0;
  double damping = 0.0;    ///< 1/s, negative where it dies away
  double amplitude = 0.0;  ///< at t = 0
  double energy = 0.0;     ///< sum of squares over the stretch
};

struct ToneFit {
  std::vector<DampedTone> tones;  ///< strongest first; without slow offsets (below 8 Hz)
  double explained = 0.0;         ///< 0 to 1: share of the stretch's energy that the whole model holds
};

/// `samples`: at least 8, else an empty fit. `mostPoles`: 2 per tone, 1 per offset; 2 to 24. Eigenvalues
/// below `floor` times the largest count as noise.
ToneFit fitDampedTones(std::span<const double> samples, double sampleRate, int mostPoles, double floor = 1e-7);

}  // namespace heft
