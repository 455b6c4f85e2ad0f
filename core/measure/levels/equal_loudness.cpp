#include "core/measure/levels/equal_loudness.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

struct LevelRow {
  double hz, exponent, transferDb, thresholdDb;
};

constexpr std::array<LevelRow, 29> kTable = {
    {{20, 0.532, -31.6, 78.5},    {25, 0.506, -27.2, 68.7},  {31.5, 0.480, -23.0, 59.5},
     {40, 0.455, -19.1, 51.1},    {50, 0.432, -15.9, 44.0},  {63, 0.409, -13.0, 37.5},
     {80, 0.387, -10.3, 31.5},    {100, 0.367, -8.1, 26.5},  {125, 0.349, -6.2, 22.1},
     {160, 0.330, -4.5, 17.9},    {200, 0.315, -3.1, 14.4},  {250, 0.301, -2.0, 11.4},
     {315, 0.288, -1.1, 8.6},     {400, 0.276, -0.4, 6.2},   {500, 0.267, 0.0, 4.4},
     {630, 0.259, 0.3, 3.0},      {800, 0.253, 0.5, 2.2},    {1000, 0.250, 0.0, 2.4},
     {1250, 0.246, -2.7, 3.5},    {1600, 0.244, -4.1, 1.7},  {2000, 0.243, -1.0, -1.3},
     {2500, 0.243, 1.7, -4.2},    {3150, 0.243, 2.5, -6.0},  {4000, 0.242, 1.2, -5.4},
     {5000, 0.242, -2.1, -1.5},   {6300, 0.245, -7.1, 6.0},  {8000, 0.254, -11.2, 12.6},
     {10000, 0.271, -10.7, 13.9}, {12500, 0.301, -3.1, 12.3}}};

LevelRow rowAt(double hz) {
  if (hz <= kTable.front().hz) return kTable.front();
  for (size_t i = 1; i < kTable.size(); ++i) {
    const LevelRow &a = kTable[i - 1], &b = kTable[i];
    if (hz > b.hz) continue;
    const double u = std::log(hz / a.hz) / std::log(b.hz / a.hz);
    auto between = [&](double x, double y) { return x + u * (y - x); };
    return {hz, between(a.exponent, b.exponent), between(a.transferDb, b.transferDb),
            between(a.thresholdDb, b.thresholdDb)};
  }
  return kTable.back();
}

// The standard's (0.4 * 10^((level + transfer) / 10 - 9))^exponent with a single exponential: the inner loop
// of every note's loudness.
double levelTerm(const LevelRow& r, double levelDb) {
  static const double kOffset = std::log(0.4);
  return std::exp(r.exponent * (kOffset + std::numbers::ln10 * ((levelDb + r.transferDb) / 10.0 - 9.0)));
}

double thresholdTerm(const LevelRow& r) {
  return levelTerm(r, r.thresholdDb);
}

}  // namespace

double levelForPhon(double hz, double phon) {
  const LevelRow r = rowAt(hz);
  const double a = 4.47e-3 * (std::pow(10.0, 0.025 * phon) - 1.15) + thresholdTerm(r);
  return 10.0 / r.exponent * std::log10(a) - r.transferDb + 94.0;
}

double phonOf(double hz, double levelDb) {
  const LevelRow r = rowAt(hz);
  if (levelDb <= r.thresholdDb) return 0.0;
  const double b = levelTerm(r, levelDb) - thresholdTerm(r) + 0.005135;
  return b <= 0.0 ? 0.0 : std::max(0.0, 40.0 * std::log10(b) + 94.0);
}

double hearingThresholdDb(double hz) {
  return rowAt(hz).thresholdDb;
}

double smallSpeakerDb(double hz) {
  const double ratio = 200.0 / hz;
  return -10.0 * std::log10(1.0 + std::pow(ratio, 8.0));
}

std::vector<PartialHeard> heardOnSmallSpeaker(double rootHz, std::span<const std::optional<double>> partialDb,
                                              double listeningDb) {
  std::vector<PartialHeard> out;
  for (size_t k = 0; k < partialDb.size(); ++k) {
    PartialHeard p{static_cast<int>(k + 1), rootHz * static_cast<double>(k + 1)};
    if (partialDb[k]) p.phon = phonOf(p.hz, listeningDb + *partialDb[k] + smallSpeakerDb(p.hz));
    p.audible = p.phon && *p.phon > 20.0;
    out.push_back(p);
  }
  return out;
}

bool isHeavyRoot(double hz) {
  return hz >= 38.0 && hz <= 53.0;
}

}  // namespace heft
