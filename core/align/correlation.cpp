#include "core/align/correlation.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kLongestSeconds = 2.0;
constexpr double kFloor = 1e-4;  // of the power that a bin has at most

}  // namespace

Correlation::Correlation(const std::vector<Meeting>& meetings, double sampleRate) {
  size_t longest = 0;
  for (const Meeting& m : meetings) longest = std::max({longest, m.kick.size(), m.bass.size()});
  longest = std::min(longest, static_cast<size_t>(kLongestSeconds * sampleRate));
  if (longest == 0) return;
  // Padded with as much silence, so that nothing wraps around.
  RealFft first(sharedSize(2 * longest)), second(first.size());
  stepHz_ = sampleRate / static_cast<double>(first.size());
  const size_t bins = first.bins().size();
  cross_.assign(bins, 0.0), first_.assign(bins, 0.0), second_.assign(bins, 0.0);
  for (const Meeting& m : meetings) {
    std::fill(first.time().begin(), first.time().end(), 0.0);
    std::fill(second.time().begin(), second.time().end(), 0.0);
    std::copy_n(m.kick.begin(), std::min(longest, m.kick.size()), first.time().begin());
    for (size_t i = 0; i < std::min(longest, m.bass.size()); ++i)
      second.time()[i] = m.bass[i] * (i < m.left.size() ? m.left[i] : 1.0);
    first.forward(), second.forward();
    for (size_t k = 0; k < bins; ++k) {
      cross_[k] += std::conj(first.bins()[k]) * second.bins()[k];
      first_[k] += std::norm(first.bins()[k]), second_[k] += std::norm(second.bins()[k]);
    }
  }
  mostFirst_ = *std::max_element(first_.begin(), first_.end());
  mostSecond_ = *std::max_element(second_.begin(), second_.end());
}

std::optional<double> Correlation::at(double hz, double octaves, double delayMs, bool invert) const {
  if (cross_.empty()) return std::nullopt;
  const double half = std::exp2(0.5 * octaves);
  const auto from = static_cast<size_t>(std::max(0.0, std::round(hz / half / stepHz_))),
             to = static_cast<size_t>(std::max(0.0, std::round(hz * half / stepHz_)));
  if (to >= cross_.size()) return std::nullopt;
  std::complex<double> cross = 0.0;
  double first = 0.0, second = 0.0;
  for (size_t k = from; k <= to; ++k) {
    const double turn = -2.0 * std::numbers::pi * stepHz_ * static_cast<double>(k) * delayMs / 1000.0;
    cross += cross_[k] * std::polar(1.0, turn);
    first += first_[k], second += second_[k];
  }
  const auto bins = static_cast<double>(to - from + 1);
  if (first <= kFloor * mostFirst_ * bins || second <= kFloor * mostSecond_ * bins) return std::nullopt;
  return (invert ? -1.0 : 1.0) * cross.real() / std::sqrt(first * second);
}

}  // namespace heft
