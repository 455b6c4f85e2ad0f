#include "core/align/solver.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace heft {
namespace {

constexpr double kTwoPi = 6.283185307179586;
constexpr double kCoarseMs = 0.4;
constexpr std::array kWidths = {0.3, 0.5, 0.8, 1.2, 2.0, 3.0};
constexpr double kLeastHz = 25.0, kMostHz = 400.0, kLeastQ = 0.25, kMostQ = 4.0;

using Spectrum = std::vector<std::complex<double>>;

// Effect of one stage on the correlation: the bass is rotated, so its conjugate counts.
Spectrum turnedBy(const Spectrum& cross, const CrossSpectrum& at, const AllPass& stage, double rate) {
  Rotation one;
  one.stages[0] = stage, one.stages[0].on = true;
  const auto c = rotationSections(one, rate).front();
  Spectrum out(cross.size());
  for (size_t i = 0; i < cross.size(); ++i) {
    const auto z = std::polar(1.0, -kTwoPi * at.hz(i) / rate);
    out[i] = cross[i] * std::conj((c.b0 + z * (c.b1 + z * c.b2)) / (1.0 + z * (c.a1 + z * c.a2)));
  }
  return out;
}

double crossAt(const Spectrum& cross, const CrossSpectrum& at, double delayMs) {
  const double turn = kTwoPi * delayMs / 1000.0;
  const auto step = std::polar(1.0, turn * at.stepHz);
  auto now = std::polar(1.0, turn * at.firstHz);
  double sum = 0.0;
  for (const auto& bin : cross) {
    sum += bin.real() * now.real() - bin.imag() * now.imag();
    now *= step;
  }
  return 2.0 * sum;
}

struct Candidate {
  double level = -120.0, delayMs = 0.0;
  bool invert = false;
  std::vector<AllPass> stages = {};
};

// One search: the pair's data, and what may move.
class Search {
 public:
  Search(const AlignMatter& matter, const AlignFreedom& freedom) : m_(matter), freedom_(freedom) {
    if (freedom.delay)
      for (double ms = m_.curve.firstMs; ms <= -m_.curve.firstMs + 1e-9; ms += kCoarseMs) delays_.push_back(ms);
    delays_.push_back(0.0);
  }

  double levelAt(const Spectrum& cross, double delayMs, bool invert) const {
    return levelWith(crossAt(cross, m_.cross, delayMs), delayMs, invert);
  }

  // Over delays and polarities; among equals the smaller delay wins.
  Candidate best(const Spectrum& cross) const {
    Candidate out;
    for (const double ms : delays_) {
      const double both = crossAt(cross, m_.cross, ms);
      for (const bool invert : {false, true}) {
        if (invert && !freedom_.polarity) continue;
        const double level = levelWith(both, ms, invert);
        if (level > out.level + 1e-9) out = {level, ms, invert};
      }
    }
    return out;
  }

  Spectrum turned(const std::vector<AllPass>& stages) const {
    Spectrum out = m_.cross.bins;
    for (const AllPass& s : stages) out = turnedBy(out, m_.cross, s, m_.sampleRate);
    return out;
  }

  Candidate with(std::vector<AllPass> stages) const {
    Candidate out = best(turned(stages));
    out.stages = std::move(stages);
    return out;
  }

  // One stage more at the best place of the grid.
  Candidate oneMore(const Candidate& from) const {
    const Spectrum before = turned(from.stages);
    Candidate out = from;
    for (double hz = kLeastHz; hz <= kMostHz; hz *= std::exp2(1.0 / 6.0))
      for (const double q : kWidths) {
        const AllPass stage{true, hz, q};
        Candidate c = best(turnedBy(before, m_.cross, stage, m_.sampleRate));
        if (c.level <= out.level) continue;
        c.stages = from.stages;
        c.stages.push_back(stage);
        out = std::move(c);
      }
    return out;
  }

  // Frequencies, widths and the delay by steps that shrink.
  Candidate refined(Candidate c) const {
    auto take = [&](std::vector<AllPass> stages, double delayMs) {
      const double level = levelAt(turned(stages), delayMs, c.invert);
      if (level > c.level) c = {level, delayMs, c.invert, std::move(stages)};
    };
    double octaves = 1.0 / 12.0, ms = 0.5 * kCoarseMs;
    for (int round = 0; round < 7; ++round, octaves *= 0.5, ms *= 0.5)
      for (int pass = 0; pass < 2; ++pass) {
        for (size_t i = 0; i < c.stages.size(); ++i)
          for (const double way : {-1.0, 1.0}) {
            auto moved = c.stages;
            moved[i].hz = std::clamp(moved[i].hz * std::exp2(way * octaves), kLeastHz, kMostHz);
            take(moved, c.delayMs);
            auto wider = c.stages;
            wider[i].q = std::clamp(wider[i].q * std::exp2(3.0 * way * octaves), kLeastQ, kMostQ);
            take(wider, c.delayMs);
          }
        if (freedom_.delay)
          for (const double way : {-1.0, 1.0})
            take(c.stages, std::clamp(c.delayMs + way * ms, m_.curve.firstMs, -m_.curve.firstMs));
      }
    return c;
  }

 private:
  double levelWith(double cross, double delayMs, bool invert) const {
    const size_t i = m_.curve.indexOf(delayMs);
    const double sum = m_.curve.energies[i] + (invert ? -1.0 : 1.0) * 2.0 * cross;
    return m_.curve.inPhase[i] > 0.0
               ? std::min(0.0, dbFromPower(std::max(0.0, sum) / m_.curve.inPhase[i], -120.0))
               : 0.0;
  }

  const AlignMatter& m_;
  AlignFreedom freedom_;
  std::vector<double> delays_;
};

Rotation rotationOf(const std::vector<AllPass>& stages) {
  Rotation out;
  for (size_t i = 0; i < stages.size(); ++i) out.stages[i] = stages[i];
  return out;
}

}  // namespace

double levelOf(const AlignMatter& matter, double delayMs, bool invert, const Rotation& rotation) {
  const Search search(matter, {false, false, 0});
  std::vector<AllPass> stages;
  for (const AllPass& s : rotation.stages)
    if (rotation.on && s.on) stages.push_back(s);
  return search.levelAt(search.turned(stages), delayMs, invert);
}

AlignAnswer solveAlignment(const AlignMatter& matter, const AlignFreedom& freedom,
                           const std::function<bool(double)>& progress) {
  AlignAnswer out = bestAlignment(matter.curve, freedom);
  if (!out.overlap || freedom.stages == 0) return out;
  const Search search(matter, freedom);
  Candidate now = search.with({});
  for (int stage = 0; stage < freedom.stages; ++stage) {
    Candidate more = search.refined(search.oneMore(now));
    const double least = std::max(now.level, out.afterDb);
    if (more.level > least + kCloseEnoughDb) {
      out.delayMs = more.delayMs, out.invert = more.invert, out.afterDb = more.level;
      out.rotation = rotationOf(more.stages);
    }
    if (more.level > now.level) now = std::move(more);
    if (progress && !progress(static_cast<double>(stage + 1) / freedom.stages)) break;
  }
  if (std::abs(out.delayMs) < 1e-9) out.delayMs = 0.0;
  return out;
}

}  // namespace heft
