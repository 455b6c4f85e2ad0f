#pragma once
/// The second way of finding a landing that was tried (docs/measuring.md): demodulate at a first guess and fit
/// the unwrapped phase by a line and an exponential that dies away. For the study, and for tests as a second
/// estimator that shares nothing with the product.

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <optional>
#include <span>
#include <vector>

#include "core/sound/filter.h"

namespace heft {

/// Demodulated by `guessHz` and smoothed over `half` samples to either side; zero at the ends.
inline std::vector<std::complex<double>> demodulated(const std::vector<double>& x, double rate, double guessHz,
                                                     ptrdiff_t half) {
  const auto n = static_cast<ptrdiff_t>(x.size());
  std::vector<std::complex<double>> z(x.size());
  for (ptrdiff_t i = half; i + half < n; ++i) {
    std::complex<double> sum = 0;
    for (ptrdiff_t k = -half; k <= half; ++k) {
      const double window = 0.5 + 0.5 * std::cos(std::numbers::pi * k / (half + 1.0));
      sum += window * x[i + k] * std::polar(1.0, -2.0 * std::numbers::pi * guessHz * (i + k) / rate);
    }
    z[i] = sum;
  }
  return z;
}

/// Nothing where nothing can be measured.
inline std::optional<double> landingByPhase(std::span<const double> mono, double sampleRate, double guessHz) {
  const auto slow = decimated(mono, sampleRate, 1000.0);
  const double rate = slow.sampleRate;
  // Over one and a half periods DC and harmonics fall on or near the window's zeros.
  const auto half = static_cast<ptrdiff_t>(0.75 * rate / guessHz);
  const auto n = static_cast<ptrdiff_t>(slow.samples.size());
  const auto z = demodulated(slow.samples, rate, guessHz, half);
  double peak = 0.0;
  for (const auto& v : z) peak = std::max(peak, std::abs(v));
  if (peak <= 0.0) return std::nullopt;
  std::vector<double> t, phase, weight;
  double last = 0.0;
  for (ptrdiff_t i = half; i + half < n; ++i) {
    if (std::abs(z[i]) < 0.02 * peak) continue;
    double angle = std::arg(z[i]);
    if (!phase.empty()) angle = last + std::remainder(angle - last, 2.0 * std::numbers::pi);
    last = angle;
    t.push_back(i / rate), phase.push_back(angle), weight.push_back(std::norm(z[i]));
  }
  if (t.size() < 20) return std::nullopt;
  double bestError = 1e300, bestSlope = 0.0;
  for (double tau = 0.003; tau < 0.3 * (t.back() - t.front()) + 0.004; tau *= 1.25) {
    // Columns 1, t, exp(-t / tau): normal equations of three unknowns by Cramer's rule.
    double a[3][3] = {}, b[3] = {};
    for (size_t i = 0; i < t.size(); ++i) {
      const double c[3] = {1.0, t[i] - t[0], std::exp(-(t[i] - t[0]) / tau)};
      for (int r = 0; r < 3; ++r) {
        b[r] += weight[i] * c[r] * phase[i];
        for (int k = 0; k < 3; ++k) a[r][k] += weight[i] * c[r] * c[k];
      }
    }
    auto det = [](const double m[3][3]) {
      return m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) -
             m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0]) +
             m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]);
    };
    const double d = det(a);
    if (d == 0.0) continue;
    double s[3];
    for (int k = 0; k < 3; ++k) {
      double m[3][3];
      for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) m[r][c] = c == k ? b[r] : a[r][c];
      s[k] = det(m) / d;
    }
    double error = 0;
    for (size_t i = 0; i < t.size(); ++i)
      error += weight[i] *
               std::pow(phase[i] - s[0] - s[1] * (t[i] - t[0]) - s[2] * std::exp(-(t[i] - t[0]) / tau), 2);
    if (error < bestError) bestError = error, bestSlope = s[1];
  }
  return guessHz + bestSlope / (2.0 * std::numbers::pi);
}

}  // namespace heft
