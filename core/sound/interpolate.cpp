#include "core/sound/interpolate.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/fir.h"

namespace heft {
namespace {

constexpr int kHalfTaps = 32;
constexpr int kPhases = 512;
constexpr double kBeta = 9.0;

double besselI0(double x) {
  double sum = 1.0, term = 1.0;
  for (int k = 1; k < 40; ++k) sum += term *= (x / (2.0 * k)) * (x / (2.0 * k));
  return sum;
}

// The right half of the kernel, kPhases values a zero crossing; read with linear interpolation between them.
const std::vector<float>& kernel() {
  static const std::vector<float> table = [] {
    std::vector<float> t(static_cast<size_t>(kHalfTaps * kPhases + 2), 0.0f);
    for (int i = 0; i < kHalfTaps * kPhases; ++i) {
      const double x = static_cast<double>(i) / kPhases;
      // Cut at 0.95 of Nyquist: the window's transition then ends just above it.
      const double arg = std::numbers::pi * 0.95 * x;
      const double sinc = i == 0 ? 0.95 : 0.95 * std::sin(arg) / arg;
      const double r = x / kHalfTaps;
      t[static_cast<size_t>(i)] =
          static_cast<float>(sinc * besselI0(kBeta * std::sqrt(1.0 - r * r)) / besselI0(kBeta));
    }
    return t;
  }();
  return table;
}

// The kernel `width` times as wide as one row of taps per phase: reading is then a plain product of two runs.
struct Rows {
  ptrdiff_t half = 0;  ///< taps to either side
  std::vector<float> taps;
};

Rows rowsOf(double width) {
  Rows out;
  out.half = static_cast<ptrdiff_t>(std::ceil(kHalfTaps * width));
  const ptrdiff_t count = 2 * out.half;
  out.taps.assign(static_cast<size_t>((kPhases + 1) * count), 0.0f);
  for (ptrdiff_t phase = 0; phase <= kPhases; ++phase)
    for (ptrdiff_t tap = 0; tap < count; ++tap) {
      const double steps = static_cast<double>(std::abs((tap - out.half + 1) * kPhases - phase)) / width;
      const auto at = static_cast<size_t>(steps);
      if (at >= static_cast<size_t>(kHalfTaps * kPhases)) continue;
      const auto part = static_cast<float>(steps - static_cast<double>(at));
      const float value = kernel()[at] + part * (kernel()[at + 1] - kernel()[at]);
      out.taps[static_cast<size_t>(phase * count + tap)] = value / static_cast<float>(width);
    }
  return out;
}

// For reading no faster than the sound.
const Rows& plainRows() {
  static const Rows rows = rowsOf(1.0);
  return rows;
}

// Only where all taps are inside `x`.
float readInside(const Rows& rows, const float* x, double position) {
  const double whole = std::floor(position), phase = (position - whole) * kPhases;
  const auto row = static_cast<ptrdiff_t>(phase);
  const auto part = static_cast<float>(phase - static_cast<double>(row));
  const ptrdiff_t count = 2 * rows.half;
  const float* from = x + static_cast<ptrdiff_t>(whole) - rows.half + 1;
  const float *a = rows.taps.data() + row * count, *b = a + count;
  float sum = 0.0f;
  for (ptrdiff_t i = 0; i < count; ++i) sum += from[i] * (a[i] + part * (b[i] - a[i]));
  return sum;
}

// At the sound's own speed every value has the same fraction between two samples: one set of taps serves all.
// For those out[i], at `start` + i, whose taps are all inside `x`.
void delayInside(std::span<const float> x, double start, std::span<float> out, size_t from, size_t to) {
  const double whole = std::floor(start), phase = (start - whole) * kPhases;
  const auto row = static_cast<ptrdiff_t>(phase);
  const auto part = static_cast<float>(phase - static_cast<double>(row));
  float taps[2 * kHalfTaps];
  for (ptrdiff_t i = 0; i < 2 * kHalfTaps; ++i) {
    const float a = plainRows().taps[static_cast<size_t>(row * 2 * kHalfTaps + i)];
    taps[i] = a + part * (plainRows().taps[static_cast<size_t>((row + 1) * 2 * kHalfTaps + i)] - a);
  }
  const ptrdiff_t first = static_cast<ptrdiff_t>(whole) - kHalfTaps + 1 + static_cast<ptrdiff_t>(from);
  filterFir64(x.data() + first, taps, out.data() + from, to - from);
}

float readOne(std::span<const float> x, double position, double width) {
  const auto& table = kernel();
  const double reach = kHalfTaps * width;
  const auto first = std::max<ptrdiff_t>(0, static_cast<ptrdiff_t>(std::ceil(position - reach)));
  const auto last = std::min<ptrdiff_t>(static_cast<ptrdiff_t>(x.size()) - 1,
                                        static_cast<ptrdiff_t>(std::floor(position + reach)));
  const double scale = kPhases / width;
  float sum = 0.0f;
  for (ptrdiff_t i = first; i <= last; ++i) {
    const auto at = static_cast<float>(std::abs(static_cast<double>(i) - position) * scale);
    const auto index = static_cast<size_t>(at);
    const float part = at - static_cast<float>(index);
    sum += x[static_cast<size_t>(i)] * (table[index] + part * (table[index + 1] - table[index]));
  }
  return sum / static_cast<float>(width);
}

}  // namespace

double turnBetween(double before, double at, double after) {
  const double bend = before - 2.0 * at + after;
  return std::abs(bend) > 1e-12 ? std::clamp(0.5 * (before - after) / bend, -0.5, 0.5) : 0.0;
}

std::vector<float> readAt(std::span<const float> x, double start, double step, size_t count) {
  std::vector<float> out(count, 0.0f);
  const double width = std::max(1.0, step);
  // Rows are worth making where more values are read than there are phases.
  const bool byRows = width == 1.0 || count > 4 * kPhases;
  const Rows wide = byRows && width > 1.0 ? rowsOf(width) : Rows{};
  const Rows& rows = width > 1.0 ? wide : plainRows();
  const auto first = static_cast<double>(rows.half), last = static_cast<double>(x.size()) - first - 1.0;
  auto at = [&](size_t i) { return start + static_cast<double>(i) * step; };
  auto isInside = [&](size_t i) { return byRows && at(i) >= first && at(i) < last; };
  size_t from = 0, to = count;
  for (; from < to && !isInside(from); ++from) out[from] = readOne(x, at(from), width);
  for (; to > from && !isInside(to - 1); --to) out[to - 1] = readOne(x, at(to - 1), width);
  if (step == 1.0 && from < to)
    delayInside(x, start, out, from, to);
  else
    for (size_t i = from; i < to; ++i) out[i] = readInside(rows, x.data(), at(i));
  return out;
}

std::vector<float> readAlong(std::span<const float> x, std::span<const double> positions) {
  std::vector<float> out(positions.size(), 0.0f);
  double width = 1.0;
  for (size_t i = 1; i < positions.size(); ++i) width = std::max(width, positions[i] - positions[i - 1]);
  width = std::min(width, 64.0);
  const Rows wide = width > 1.0 ? rowsOf(width) : Rows{};
  const Rows& rows = width > 1.0 ? wide : plainRows();
  const auto first = static_cast<double>(rows.half), last = static_cast<double>(x.size()) - first - 1.0;
  for (size_t i = 0; i < positions.size(); ++i)
    out[i] = positions[i] >= first && positions[i] < last ? readInside(rows, x.data(), positions[i])
                                                          : readOne(x, positions[i], width);
  return out;
}

AudioBuffer playedFaster(const AudioBuffer& in, double speed) {
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  const auto frames = static_cast<size_t>(std::ceil(static_cast<double>(in.frames()) / speed));
  for (const auto& channel : in.channels)
    out.channels.push_back(speed == 1.0 ? channel : readAt(channel, 0.0, speed, frames));
  return out;
}

AudioBuffer fractionLater(const AudioBuffer& in, double samples, size_t extra) {
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  for (const auto& channel : in.channels) {
    if (samples == 0.0) {
      out.channels.push_back(channel);
      out.channels.back().resize(in.frames() + extra, 0.0f);
    } else {
      out.channels.push_back(readAt(channel, -samples, 1.0, in.frames() + extra));
    }
  }
  return out;
}

}  // namespace heft
