#include "core/compare/dip_in_mix.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "core/compare/bass_tone.h"
#include "core/compare/curves.h"
#include "core/sound/buffer.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kSettledSeconds = 0.08, kSteadySeconds = 0.06;
constexpr std::array kWindows{0.030, 0.022, 0.020};  // of the fundamental and two overtones, s
// Of a tone in its window: with fewer it beats with its own mirror image.
constexpr double kLeastPeriods = 1.4;

// Semitones between two tones, in any octave.
double apart(double aHz, double bHz) {
  const double semitones = std::fmod(std::abs(12.0 * std::log2(aHz / bHz)), 12.0);
  return std::min(semitones, 12.0 - semitones);
}

// The sound after one hit without the kick: from kLeadSeconds before it. Empty where too few hits have another
// note.
std::vector<double> withoutKick(const std::vector<double>& x, const std::vector<BassAfter>& hits, size_t which,
                                double lengthMs, double rate) {
  constexpr double kOther = 0.6, kFade = 0.02;
  constexpr size_t kFewest = 5;
  const size_t lead = framesIn(KickInMix::kLeadSeconds, rate), count = framesIn(KickInMix::kSoundSeconds, rate);
  const auto fits = [&](const BassAfter& h) { return h.at >= lead && h.at - lead + count <= x.size(); };
  if (!fits(hits[which])) return {};
  std::vector<double> kick(count, 0.0);
  size_t others = 0;
  for (const BassAfter& h : hits) {
    if (!fits(h) || !h.tone || apart(h.tone->hz, hits[which].tone->hz) <= kOther) continue;
    for (size_t i = 0; i < count; ++i) kick[i] += x[h.at - lead + i];
    ++others;
  }
  if (others < kFewest) return {};
  const size_t end = std::min(count, lead + framesIn(0.001 * lengthMs, rate)), fade = framesIn(kFade, rate),
               start = lead - framesIn(0.006, rate);
  for (size_t i = 0; i < count; ++i) {
    const double past = i < end ? 0.0 : static_cast<double>(i - end) / static_cast<double>(fade);
    kick[i] *= i < start ? 0.0 : 1.0 - raisedCosine(past);
  }
  std::vector<double> out(x.begin() + static_cast<ptrdiff_t>(hits[which].at - lead),
                          x.begin() + static_cast<ptrdiff_t>(hits[which].at - lead + count));
  double product = 0.0, own = 0.0;
  for (size_t i = lead; i < end; ++i) product += out[i] * kick[i], own += kick[i] * kick[i];
  if (!(own > 0.0)) return {};
  for (size_t i = 0; i < count; ++i) out[i] -= product / own * kick[i];
  return out;
}

// Amplitude of a tone over time in dB, a value each DipInMix::kStepMs from the hit on.
std::vector<double> levelAt(const std::vector<double>& x, double hz, double window, size_t room, double rate) {
  const size_t lead = framesIn(KickInMix::kLeadSeconds, rate), half = framesIn(0.5 * window, rate);
  const auto taper = hannWindow(2 * half + 1);
  std::vector<double> out;
  for (double ms = 0.0;; ms += DipInMix::kStepMs) {
    const size_t at = lead + framesIn(0.001 * ms, rate);
    if (at + half >= x.size() || at - lead > room) return out;
    out.push_back(dbFromAmplitude(std::abs(toneAt(x, rate, hz, static_cast<double>(at) / rate, taper))));
  }
}

// The highest stretch of 60 ms after it has settled.
struct Steady {
  double db = -1e9, spreadDb = 1e9;
};
Steady steadyOf(const std::vector<double>& db) {
  const auto from = static_cast<size_t>(1000.0 * kSettledSeconds / DipInMix::kStepMs),
             count = static_cast<size_t>(1000.0 * kSteadySeconds / DipInMix::kStepMs);
  Steady out;
  for (size_t i = from; i + count <= db.size(); ++i) {
    const auto first = db.begin() + static_cast<ptrdiff_t>(i), last = first + static_cast<ptrdiff_t>(count);
    const double mean = std::accumulate(first, last, 0.0) / static_cast<double>(count);
    if (mean <= out.db) continue;
    double squares = 0.0;
    for (auto at = first; at != last; ++at) squares += std::pow(*at - mean, 2);
    out = {mean, std::sqrt(squares / static_cast<double>(count))};
  }
  return out;
}

// Re its steady level; empty where it has none.
std::vector<double> reSteady(std::vector<double> db) {
  constexpr double kUneven = 1.5;
  const Steady steady = steadyOf(db);
  if (steady.spreadDb > kUneven) return {};
  for (double& v : db) v -= steady.db;
  return db;
}

std::vector<double> overFive(const std::vector<double>& db) {
  std::vector<double> out = db;
  for (size_t i = 2; i + 2 < db.size(); ++i)
    out[i] = (db[i - 2] + db[i - 1] + db[i] + db[i + 1] + db[i + 2]) / 5.0;
  return out;
}

struct Agreed {
  std::vector<double> db;  // the median over hits
  double spreadDb = 1e9;   // mean distance between the quarters of hits, over the dip
  size_t hits = 0;
};

Agreed agreedOf(const std::vector<std::vector<double>>& all) {
  constexpr double kFromMs = 20.0, kToMs = 160.0;
  Agreed out;
  out.hits = all.size();
  double spread = 0.0, counted = 0.0;
  for (size_t i = 0;; ++i) {
    std::vector<double> column;
    for (const auto& db : all)
      if (i < db.size()) column.push_back(db[i]);
    if (2 * column.size() < all.size() || column.empty()) break;
    const double ms = static_cast<double>(i) * DipInMix::kStepMs;
    if (ms >= kFromMs && ms <= kToMs)
      spread += percentile(column, 0.75) - percentile(column, 0.25), counted += 1.0;
    out.db.push_back(median(std::move(column)));
  }
  if (counted > 0.0) out.spreadDb = spread / counted;
  return out;
}

// Those whose bass cannot take its own start for a dip. Of two notes of one pitch, one in five is in phase by
// chance.
std::vector<size_t> hitsToFollow(const LowEndParts& low, const KickInMix& kick,
                                 const std::vector<BassAfter>& hits) {
  constexpr size_t kLeastPercent = 50, kMany = 16;
  constexpr double kQuickMs = 18.0;
  std::vector<size_t> tones, through;
  for (size_t i = 0; i < hits.size(); ++i) {
    if (hits[i].tone) tones.push_back(i);
    if (hits[i].goesOn) through.push_back(i);
  }
  if (100 * through.size() >= kLeastPercent * tones.size()) return through.size() < kMany ? tones : through;
  const auto rise = riseMsWithoutKick(low, kick, hits);
  return rise && *rise <= kQuickMs ? tones : std::vector<size_t>{};
}

}  // namespace

std::optional<DipInMix> findDip(const LowEndParts& low, const KickInMix& kick, const std::stop_token& stop) {
  constexpr double kFewestShare = 0.2, kMostSpread = 4.0, kRests = 22.0, kFromMs = 20.0, kToMs = 160.0,
                   kBack = 0.5, kFlat = 1.5, kQuieter = 30.0;
  constexpr size_t kFewest = 8;
  constexpr ptrdiff_t kSettles = 80;  // 160 ms
  const auto hits = bassAfterHits(low, kick);
  std::array<std::vector<std::vector<double>>, kWindows.size()> levels;
  for (const size_t i : hitsToFollow(low, kick, hits)) {
    if (stop.stop_requested()) return std::nullopt;
    const auto bass = withoutKick(low.mid, hits, i, kick.lengthMs, low.rate);
    if (bass.empty()) continue;
    double loudest = -1e9;
    for (size_t h = 0; h < kWindows.size(); ++h) {
      if (hits[i].tone->hz * static_cast<double>(h + 1) * kWindows[h] < kLeastPeriods) continue;
      const auto db =
          levelAt(bass, hits[i].tone->hz * static_cast<double>(h + 1), kWindows[h], hits[i].room, low.rate);
      const double most = db.empty() ? -1e9 : *std::max_element(db.begin(), db.end());
      loudest = std::max(loudest, most);
      if (most < loudest - kQuieter) continue;
      if (auto steady = reSteady(db); !steady.empty()) levels[h].push_back(std::move(steady));
    }
  }
  Agreed best;
  const auto fewest =
      std::max<size_t>(kFewest, static_cast<size_t>(kFewestShare * static_cast<double>(hits.size())));
  for (const auto& each : levels)
    if (each.size() >= fewest)
      if (Agreed agreed = agreedOf(each); agreed.spreadDb < best.spreadDb) best = std::move(agreed);
  if (best.spreadDb > kMostSpread) return std::nullopt;
  // Each hit's highest stretch is high by chance too: the hits' own median says what is steady.
  const double steady = steadyOf(best.db).db;
  for (double& v : best.db) v -= steady;
  best.db = overFive(best.db);
  const auto first = static_cast<size_t>(kFromMs / DipInMix::kStepMs),
             last = std::min(best.db.size(), static_cast<size_t>(kToMs / DipInMix::kStepMs));
  if (last <= first) return std::nullopt;
  const auto deepest = std::min_element(best.db.begin() + static_cast<ptrdiff_t>(first),
                                        best.db.begin() + static_cast<ptrdiff_t>(last));
  if (*deepest < -kRests) return std::nullopt;
  DipInMix out;
  const double sure = kick.alike * std::clamp(1.0 - best.spreadDb / (2.0 * kMostSpread), 0.0, 1.0);
  out.depthDb = {std::max(0.0, -*deepest), sure};
  auto back = deepest;
  while (back != best.db.end() && *back < -kBack) ++back;
  // A curve that falls again before it is steady came back at no one moment.
  const auto settles = std::max(back, std::min(best.db.end(), best.db.begin() + kSettles));
  const bool once = std::all_of(back, settles, [&](double db) { return db > -2.0 * kBack; });
  if (out.depthDb.value > kFlat && back != best.db.end() && once)
    out.backMs = Told{static_cast<double>(back - best.db.begin()) * DipInMix::kStepMs, sure};
  out.db = std::move(best.db);
  return out;
}

}  // namespace heft
