#include "core/sound/filter.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kPi = std::numbers::pi;

// 0 at a third of an octave beyond the edge, 1 at the edge and inside.
double slope(double octavesInside) {
  if (octavesInside >= 0.0) return 1.0;
  if (octavesInside <= -1.0 / 3.0) return 0.0;
  return 0.5 + 0.5 * std::cos(kPi * 3.0 * octavesInside);
}

// Weighted sums at four places at once: a single sum would wait for each addition.
void fourSums(std::span<const double> taps, const double* x, size_t apart, double* out) {
  const double *x1 = x + apart, *x2 = x1 + apart, *x3 = x2 + apart;
  double s0 = 0.0, s1 = 0.0, s2 = 0.0, s3 = 0.0;
  for (size_t k = 0; k < taps.size(); ++k)
    s0 += taps[k] * x[k], s1 += taps[k] * x1[k], s2 += taps[k] * x2[k], s3 += taps[k] * x3[k];
  out[0] = s0, out[1] = s1, out[2] = s2, out[3] = s3;
}

double sumAt(std::span<const double> taps, std::span<const double> x, ptrdiff_t from) {
  const ptrdiff_t first = std::max<ptrdiff_t>(0, from), end = std::min(std::ssize(x), from + std::ssize(taps));
  double sum = 0.0;
  for (ptrdiff_t k = first; k < end; ++k)
    sum += taps[static_cast<size_t>(k - from)] * x[static_cast<size_t>(k)];
  return sum;
}

}  // namespace

Decimated decimated(std::span<const double> signal, double sampleRate, double targetRate) {
  Decimated out;
  out.factor = std::max<size_t>(1, static_cast<size_t>(std::floor(sampleRate / targetRate)));
  out.sampleRate = sampleRate / static_cast<double>(out.factor);
  if (out.factor == 1) {
    out.samples.assign(signal.begin(), signal.end());
    return out;
  }
  // -6 dB at 0.5 of the new rate, transition from 0.4 to 0.6: aliases land above 0.4.
  const auto kernel = lowPassKernel(sampleRate, 0.5 * out.sampleRate, 0.2 * out.sampleRate);
  const auto half = static_cast<ptrdiff_t>(kernel.size() / 2);
  out.samples.resize((signal.size() + out.factor - 1) / out.factor);
  for (size_t i = 0; i < out.samples.size();) {
    const auto from = static_cast<ptrdiff_t>(i * out.factor) - half;
    const auto end = from + static_cast<ptrdiff_t>(3 * out.factor + kernel.size());
    if (from >= 0 && end <= std::ssize(signal) && i + 4 <= out.samples.size()) {
      fourSums(kernel, signal.data() + from, out.factor, &out.samples[i]);
      i += 4;
    } else {
      out.samples[i++] = sumAt(kernel, signal, from);
    }
  }
  return out;
}

Decimated decimated(std::span<const float> signal, double sampleRate, double targetRate) {
  const std::vector<double> wide(signal.begin(), signal.end());
  return decimated(std::span<const double>(wide), sampleRate, targetRate);
}

Biquad::Coefficients Biquad::lowPass(double sampleRate, double hz, double q) {
  const double w = 2.0 * kPi * hz / sampleRate, alpha = std::sin(w) / (2.0 * q), c = std::cos(w),
               a0 = 1.0 + alpha;
  return {(1 - c) / 2 / a0, (1 - c) / a0, (1 - c) / 2 / a0, -2 * c / a0, (1 - alpha) / a0};
}

Biquad::Coefficients Biquad::highPass(double sampleRate, double hz, double q) {
  const double w = 2.0 * kPi * hz / sampleRate, alpha = std::sin(w) / (2.0 * q), c = std::cos(w),
               a0 = 1.0 + alpha;
  return {(1 + c) / 2 / a0, -(1 + c) / a0, (1 + c) / 2 / a0, -2 * c / a0, (1 - alpha) / a0};
}

namespace {

// Cookbook shelves differ in the sign of the cosine's terms.
Biquad::Coefficients shelf(double sampleRate, double hz, double q, double gainDb, double side) {
  const double a = std::pow(10.0, gainDb / 40.0), w = 2.0 * kPi * hz / sampleRate, c = side * std::cos(w);
  const double beta = 2.0 * std::sqrt(a) * std::sin(w) / (2.0 * q);
  const double a0 = (a + 1) + (a - 1) * c + beta;
  return {a * ((a + 1) - (a - 1) * c + beta) / a0, side * 2 * a * ((a - 1) - (a + 1) * c) / a0,
          a * ((a + 1) - (a - 1) * c - beta) / a0, side * -2 * ((a - 1) + (a + 1) * c) / a0,
          ((a + 1) + (a - 1) * c - beta) / a0};
}

}  // namespace

Biquad::Coefficients Biquad::bell(double sampleRate, double hz, double q, double gainDb) {
  const double a = std::pow(10.0, gainDb / 40.0), w = 2.0 * kPi * hz / sampleRate, c = std::cos(w);
  const double alpha = std::sin(w) / (2.0 * q), a0 = 1.0 + alpha / a;
  return {(1 + alpha * a) / a0, -2 * c / a0, (1 - alpha * a) / a0, -2 * c / a0, (1 - alpha / a) / a0};
}

Biquad::Coefficients Biquad::lowShelf(double sampleRate, double hz, double q, double gainDb) {
  return shelf(sampleRate, hz, q, gainDb, 1.0);
}

Biquad::Coefficients Biquad::highShelf(double sampleRate, double hz, double q, double gainDb) {
  return shelf(sampleRate, hz, q, gainDb, -1.0);
}

Biquad::Coefficients Biquad::notch(double sampleRate, double hz, double q) {
  const double w = 2.0 * kPi * hz / sampleRate, alpha = std::sin(w) / (2.0 * q), c = std::cos(w),
               a0 = 1.0 + alpha;
  return {1 / a0, -2 * c / a0, 1 / a0, -2 * c / a0, (1 - alpha) / a0};
}

Biquad::Coefficients Biquad::allPass(double sampleRate, double hz, double q) {
  const double w = 2.0 * kPi * hz / sampleRate, alpha = std::sin(w) / (2.0 * q), c = std::cos(w),
               a0 = 1.0 + alpha;
  return {(1 - alpha) / a0, -2 * c / a0, 1.0, -2 * c / a0, (1 - alpha) / a0};
}

double Biquad::responseDb(const Coefficients& f, double sampleRate, double hz) {
  const auto z = std::polar(1.0, -2.0 * kPi * hz / sampleRate);
  return 20.0 * std::log10(std::abs((f.b0 + z * (f.b1 + z * f.b2)) / (1.0 + z * (f.a1 + z * f.a2))));
}

double bandGain(double hz, double lowHz, double highHz) {
  if (lowHz > 0.0) {
    if (hz <= 0.0) return 0.0;
    const double low = slope(std::log2(hz / lowHz));
    if (low < 1.0) return low;
  }
  return hz <= 0.0 ? 1.0 : slope(std::log2(highHz / hz));
}

std::vector<double> bandLimited(std::span<const double> signal, double sampleRate, double lowHz,
                                double highHz) {
  if (signal.empty()) return {};
  // Room at the end for the response's wrap-around: eight periods of the lower edge, at least 50 ms.
  const double padSeconds = std::min(0.5, std::max(0.05, lowHz > 0.0 ? 8.0 / lowHz : 0.05));
  RealFft fft(sharedSize(signal.size() + static_cast<size_t>(2.0 * padSeconds * sampleRate)));
  std::copy(signal.begin(), signal.end(), fft.time().begin());
  fft.forward();
  const double step = sampleRate / static_cast<double>(fft.size());
  auto bins = fft.bins();
  for (size_t k = 0; k < bins.size(); ++k) bins[k] *= bandGain(static_cast<double>(k) * step, lowHz, highHz);
  fft.inverse();
  const auto time = fft.time();
  return {time.begin(), time.begin() + static_cast<ptrdiff_t>(signal.size())};
}

std::vector<double> quarterBehind(std::span<const double> signal) {
  RealFft fft(sharedSize(2 * std::max<size_t>(1, signal.size())));
  std::copy(signal.begin(), signal.end(), fft.time().begin());
  fft.forward();
  for (auto& bin : fft.bins()) bin *= std::complex<double>(0.0, -1.0);
  fft.bins()[0] = 0.0;
  if (fft.size() % 2 == 0) fft.bins().back() = 0.0;
  fft.inverse();
  return {fft.time().begin(), fft.time().begin() + static_cast<ptrdiff_t>(signal.size())};
}

std::vector<double> analyticEnvelope(std::span<const double> signal) {
  auto out = quarterBehind(signal);
  for (size_t i = 0; i < out.size(); ++i) out[i] = std::hypot(signal[i], out[i]);
  return out;
}

size_t lowPassReach(double sampleRate, double transitionHz) {
  // A Blackman window's transition is about 5.5 / N of the sample rate wide.
  return static_cast<size_t>(std::ceil(5.5 * sampleRate / transitionHz / 2.0));
}

std::vector<double> lowPassKernel(double sampleRate, double cutHz, double transitionHz) {
  const auto half = static_cast<ptrdiff_t>(lowPassReach(sampleRate, transitionHz));
  std::vector<double> kernel(static_cast<size_t>(2 * half + 1));
  double sum = 0.0;
  for (ptrdiff_t i = -half; i <= half; ++i) {
    const double x = 2.0 * cutHz / sampleRate * static_cast<double>(i);
    const double sinc = i == 0 ? 1.0 : std::sin(kPi * x) / (kPi * x);
    const double phase = kPi * static_cast<double>(i) / static_cast<double>(half + 1);
    const double window = 0.42 + 0.5 * std::cos(phase) + 0.08 * std::cos(2.0 * phase);
    sum += kernel[static_cast<size_t>(i + half)] = sinc * window;
  }
  for (double& tap : kernel) tap /= sum;
  return kernel;
}

}  // namespace heft
