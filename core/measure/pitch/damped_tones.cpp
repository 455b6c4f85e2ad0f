#include "core/measure/pitch/damped_tones.h"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace heft {
namespace {

constexpr double kTwoPi = 2.0 * std::numbers::pi;
constexpr double kOffsetHz = 8.0;

// Poles of the strongest subspace, each conjugate pair once (imaginary part >= 0).
std::vector<std::complex<double>> polesOf(std::span<const double> x, int mostPoles, double floor) {
  const auto n = static_cast<Eigen::Index>(x.size());
  const Eigen::Index width = std::min<Eigen::Index>(n / 2, mostPoles > 4 ? 24 : 12);
  const Eigen::Index rows = n - width + 1;
  Eigen::MatrixXd covariance(width, width);
  // Entry (i, j) is a lagged product over a window that slides by one: each diagonal is a running sum.
  for (Eigen::Index lag = 0; lag < width; ++lag) {
    double sum = 0.0;
    for (Eigen::Index r = 0; r < rows; ++r) sum += x[r] * x[r + lag];
    covariance(0, lag) = covariance(lag, 0) = sum;
    for (Eigen::Index i = 1; i + lag < width; ++i) {
      sum += x[rows + i - 1] * x[rows + i - 1 + lag] - x[i - 1] * x[i - 1 + lag];
      covariance(i, i + lag) = covariance(i + lag, i) = sum;
    }
  }
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(covariance);
  if (solver.info() != Eigen::Success) return {};
  const auto& values = solver.eigenvalues();  // ascending
  Eigen::Index order = 0;
  while (order < std::min<Eigen::Index>(mostPoles, width - 2) &&
         values(width - 1 - order) > floor * values(width - 1))
    ++order;
  if (order == 0) return {};
  const Eigen::MatrixXd space = solver.eigenvectors().rightCols(order);
  const Eigen::MatrixXd top = space.topRows(width - 1), bottom = space.bottomRows(width - 1);
  const Eigen::MatrixXd rotation =
      top.transpose().lazyProduct(top).eval().ldlt().solve(top.transpose().lazyProduct(bottom).eval());
  const Eigen::EigenSolver<Eigen::MatrixXd> roots(rotation, false);
  if (roots.info() != Eigen::Success) return {};
  std::vector<std::complex<double>> poles;
  for (Eigen::Index i = 0; i < order; ++i) {
    const std::complex<double> z = roots.eigenvalues()(i);
    if (z.imag() >= 0.0 && std::abs(z) > 0.2 && std::abs(z) < 2.0) poles.push_back(z);
  }
  return poles;
}

// Two real columns per complex pole, one per real pole.
Eigen::MatrixXd basisOf(const std::vector<std::complex<double>>& poles, Eigen::Index n) {
  Eigen::Index columns = 0;
  for (const auto& z : poles) columns += z.imag() > 0.0 ? 2 : 1;
  Eigen::MatrixXd basis(n, columns);
  Eigen::Index column = 0;
  for (const auto& z : poles) {
    std::complex<double> power = 1.0;
    const bool pair = z.imag() > 0.0;
    for (Eigen::Index i = 0; i < n; ++i, power *= z) {
      basis(i, column) = power.real();
      if (pair) basis(i, column + 1) = power.imag();
    }
    column += pair ? 2 : 1;
  }
  return basis;
}

}  // namespace

ToneFit fitDampedTones(std::span<const double> samples, double sampleRate, int mostPoles, double floor) {
  ToneFit fit;
  if (samples.size() < 8) return fit;
  const auto n = static_cast<Eigen::Index>(samples.size());
  const Eigen::Map<const Eigen::VectorXd> x(samples.data(), n);
  const double total = x.squaredNorm();
  if (!(total > 0.0) || !std::isfinite(total)) return fit;
  const auto poles = polesOf(samples, mostPoles, floor);
  if (poles.empty()) return fit;
  const Eigen::MatrixXd basis = basisOf(poles, n);
  const Eigen::VectorXd weights =
      basis.transpose().lazyProduct(basis).eval().ldlt().solve(basis.transpose().lazyProduct(x).eval());
  fit.explained = std::clamp(1.0 - (x - basis.lazyProduct(weights)).squaredNorm() / total, 0.0, 1.0);
  if (!std::isfinite(fit.explained)) return {};
  Eigen::Index column = 0;
  for (const auto& z : poles) {
    const bool pair = z.imag() > 0.0;
    if (pair) {
      DampedTone tone;
      tone.hz = std::arg(z) * sampleRate / kTwoPi;
      tone.damping = std::log(std::abs(z)) * sampleRate;
      tone.amplitude = std::hypot(weights(column), weights(column + 1));
      tone.energy = basis.middleCols(column, 2).lazyProduct(weights.segment(column, 2)).squaredNorm();
      if (tone.hz >= kOffsetHz && std::isfinite(tone.energy)) fit.tones.push_back(tone);
    }
    column += pair ? 2 : 1;
  }
  std::sort(fit.tones.begin(), fit.tones.end(),
            [](const DampedTone& a, const DampedTone& b) { return a.energy > b.energy; });
  return fit;
}

}  // namespace heft
