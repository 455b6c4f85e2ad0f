#include "core/sound/elementwise.h"

#include <cmath>
#include <numbers>

// Built so that the compiler takes the C library's functions of several values at once (core/CMakeLists.txt).

namespace heft {
namespace {

constexpr double kLeast = 1e-30;

[[gnu::always_inline]] inline void dbOf(const float* in, double floorDb, double* out, size_t count) {
  for (size_t i = 0; i < count; ++i) {
    const double x = in[i], db = 20.0 * std::log10(x > kLeast ? x : kLeast);
    out[i] = db > floorDb ? db : floorDb;
  }
}
[[gnu::always_inline]] inline void amplitudesOf(double* x, size_t count) {
  for (size_t i = 0; i < count; ++i) x[i] = std::exp(x[i] * (std::numbers::ln10 / 20.0));
}
[[gnu::always_inline]] inline float peakIn(const float* x, size_t count) {
  float most = 0.0f;
  for (size_t i = 0; i < count; ++i) most = std::abs(x[i]) > most ? std::abs(x[i]) : most;
  return most;
}
// In two runs: of one the compiler makes a function that gives both, which there is for one value only.
[[gnu::always_inline]] inline void wavesOf(const double* turns, double* sines, double* cosines, size_t count) {
  constexpr double kTurn = 2.0 * std::numbers::pi;
  for (size_t i = 0; i < count; ++i) sines[i] = std::sin(kTurn * turns[i]);
  for (size_t i = 0; i < count; ++i) cosines[i] = std::cos(kTurn * turns[i]);
}

#if defined(__x86_64__)
[[gnu::target("avx2")]] void dbByFours(const float* in, double floorDb, double* out, size_t count) {
  dbOf(in, floorDb, out, count);
}
[[gnu::target("avx2")]] void amplitudesByFours(double* x, size_t count) {
  amplitudesOf(x, count);
}
[[gnu::target("avx2")]] void wavesByFours(const double* turns, double* sines, double* cosines, size_t count) {
  wavesOf(turns, sines, cosines, count);
}
bool hasFours() {
  static const bool has = __builtin_cpu_supports("avx2");
  return has;
}
#else
constexpr auto *dbByFours = dbOf, *amplitudesByFours = amplitudesOf, *wavesByFours = wavesOf;
constexpr bool hasFours() {
  return false;
}
#endif

}  // namespace

void dbFromAmplitudes(std::span<const float> amplitudes, double floorDb, std::span<double> db) {
  (hasFours() ? dbByFours : dbOf)(amplitudes.data(), floorDb, db.data(), amplitudes.size());
}

void amplitudesFromDb(std::span<double> values) {
  (hasFours() ? amplitudesByFours : amplitudesOf)(values.data(), values.size());
}

float peakOf(std::span<const float> samples) {
  return peakIn(samples.data(), samples.size());
}

void sinesAndCosines(std::span<const double> turns, std::span<double> sines, std::span<double> cosines) {
  (hasFours() ? wavesByFours : wavesOf)(turns.data(), sines.data(), cosines.data(), turns.size());
}

}  // namespace heft
