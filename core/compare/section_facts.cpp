#include "core/compare/section_facts.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <map>
#include <numbers>

#include "core/compare/curves.h"
#include "core/compare/dip_in_mix.h"
#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"
#include "core/sound/raised_cosine.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kShareBelowHz = 120.0, kLeastRegular = 0.75;

// Sums of squares of the low band from the start on.
std::vector<double> lowEnergies(const LowEndParts& low) {
  const auto x = bandLimited(low.mid, low.rate, 20.0, kShareBelowHz);
  std::vector<double> out(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) out[i + 1] = out[i] + x[i] * x[i];
  return out;
}

// Between two samples; round the end of a loop.
std::optional<double> energyBetween(const std::vector<double>& sums, double from, double to, bool wraps) {
  const auto n = static_cast<double>(sums.size() - 1);
  if (to > n && !wraps) return std::nullopt;
  auto upTo = [&](double at) {
    const double turns = std::floor(at / n);
    return turns * sums.back() + sums[static_cast<size_t>(at - turns * n)];
  };
  return upTo(to) - upTo(from);
}

std::optional<Told> betweenHits(const std::vector<double>& energy, const KickInMix& kick) {
  double sum = 0.0, count = 0.0;
  for (size_t i = 0; i + 1 < kick.hits.size(); ++i) {
    const auto from = static_cast<size_t>((kick.hits[i] + 0.001 * kick.lengthMs) * kick.rate),
               to = static_cast<size_t>(kick.hits[i + 1] * kick.rate);
    if (to <= from || to >= energy.size()) continue;
    sum += energy[to] - energy[from], count += static_cast<double>(to - from);
  }
  if (!(count > 0.0) || !(energy.back() > 0.0)) return std::nullopt;
  return Told{dbFromPower(sum / count / (energy.back() / static_cast<double>(energy.size() - 1))), kick.alike};
}

// The magnitude of the hits' sum at the frequency of a grid, the best from 50 to 250 steps a quarter minute.
Told regularityOf(const KickInMix& kick) {
  constexpr double kFrom = 4.0, kTo = 16.0, kStep = 0.002;  // sixteenths a second: 60 to 240 BPM
  double most = 0.0;
  for (double hz = kFrom; hz <= kTo; hz += kStep) {
    std::complex<double> sum;
    for (const double t : kick.hits) sum += std::polar(1.0, -2.0 * std::numbers::pi * hz * t);
    most = std::max(most, std::abs(sum) / static_cast<double>(kick.hits.size()));
  }
  return {most, kick.alike};
}

void addKick(SectionFacts& out, const SectionProfile& section) {
  const KickInMix& kick = *out.kick;
  out.regular = regularityOf(kick);
  const Landing& landing = kick.landing;
  const double sure = kick.alike * (landing.hz ? landing.confidence : landing.heardConfidence);
  constexpr double kClaimed = 0.5;
  if (const auto hz = landing.noteHz(); hz && sure >= kClaimed) {
    out.kickHz = Told{*hz, sure};
    out.kickLands = landing.hz.has_value();
    if (landing.startHz > 0.0) out.kickStartHz = Told{landing.startHz, 0.5 * out.kickHz->confidence};
  }
  out.kickMs = Told{kick.lengthMs, kick.alike};
  const auto energy = lowEnergies(section.low);
  out.kickToBassDb = kickToBass(section.low, kick.hits, kick.lengthMs);
  out.betweenDb = betweenHits(energy, kick);
  out.dip = findDip(section.low, kick);
}

// A moment of the bass.
struct BassFrame {
  double hz, db;
};

// Notes and their shares, of frames that are not far quieter than the rest.
std::vector<NoteInMix> notesAmong(const std::vector<BassFrame>& frames, double a4Hz) {
  constexpr double kLeastDb = -18.0, kTwentieth = 0.05;
  if (frames.empty()) return {};
  std::vector<double> levels;
  for (const BassFrame& f : frames) levels.push_back(f.db);
  const double loud = percentile(levels, 0.8);
  std::map<int, std::pair<double, double>> notes;  // count, summed cents
  double all = 0.0;
  for (const BassFrame& f : frames) {
    if (f.db < loud + kLeastDb) continue;
    const double midi = midiFromHz(f.hz, a4Hz);
    auto& [times, cents] = notes[static_cast<int>(std::lround(midi))];
    times += 1.0, cents += 100.0 * (midi - std::round(midi)), all += 1.0;
  }
  std::vector<NoteInMix> out;
  for (const auto& [midi, sums] : notes)
    if (sums.first >= kTwentieth * all) out.push_back({midi, sums.first / all, sums.second / sums.first});
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.share > b.share; });
  return out;
}

}  // namespace

std::vector<NoteInMix> bassNotesOf(const LowEndParts& low, const std::optional<KickInMix>& kick, double a4Hz) {
  constexpr double kWindow = 0.186, kHop = 0.05, kFromHz = 27.0, kToHz = 135.0;
  const auto count = static_cast<size_t>(kWindow * low.rate);
  if (low.mid.size() < count) return {};
  const auto taper = hannWindow(count);
  RealFft fft(4096);
  std::vector<BassFrame> frames;
  const double step = low.rate / static_cast<double>(fft.size());
  for (double t = 0.0; t + kWindow < static_cast<double>(low.mid.size()) / low.rate; t += kHop) {
    const bool struck = kick && std::any_of(kick->hits.begin(), kick->hits.end(), [&](double h) {
                          return t < h + 0.001 * kick->lengthMs && t + 0.75 * kWindow > h;
                        });
    if (struck) continue;
    const auto from = static_cast<size_t>(t * low.rate);
    std::fill(fft.time().begin(), fft.time().end(), 0.0);
    for (size_t i = 0; i < count; ++i) fft.time()[i] = low.mid[from + i] * taper[i];
    fft.forward();
    const auto bins = fft.bins();
    auto power = [&](size_t k) { return std::norm(bins[k]); };
    size_t best = 0;
    for (auto k = static_cast<size_t>(kFromHz / step); static_cast<double>(k) * step < kToHz; ++k)
      if (power(k) >= power(k - 1) && power(k) > power(k + 1) && (!best || power(k) > power(best))) best = k;
    if (!best || !(power(best) > 0.0)) continue;
    // A fundamental within 15 dB under its second harmonic is the note.
    if (const size_t half = best / 2; static_cast<double>(half) * step > kFromHz) {
      size_t near = half;
      for (size_t k = half - 2; k <= half + 2; ++k)
        if (power(k) > power(near)) near = k;
      const bool peak = power(near) >= power(near - 3) && power(near) >= power(near + 3);
      if (peak && power(near) > 0.03 * power(best)) best = near;
    }
    auto db = [&](size_t k) { return dbFromPower(power(k)); };
    const double off = turnBetween(db(best - 1), db(best), db(best + 1));
    frames.push_back({(static_cast<double>(best) + off) * step, dbFromPower(power(best))});
  }
  return notesAmong(frames, a4Hz);
}

std::optional<Told> swingOf(const std::vector<double>& hits, double bpm) {
  constexpr size_t kFewest = 6, kFewestLate = 3;
  constexpr double kEarliest = 0.75, kLatest = 1.6, kSpread = 0.1;
  if (hits.size() < kFewest || !(bpm > 0.0)) return std::nullopt;
  const double step = 15.0 / bpm, pair = 2.0 * step;
  // Most hits stand on eighths: their phase.
  std::complex<double> sum;
  for (const double t : hits) sum += std::polar(1.0, 2.0 * std::numbers::pi * t / pair);
  const double eighths = std::arg(sum) / (2.0 * std::numbers::pi) * pair;
  std::vector<double> early, late;
  for (const double t : hits) {
    const double at = std::fmod(std::fmod(t - eighths, pair) + 1.5 * pair, pair) - 0.5 * pair;  // -step to step
    const double after = at < -0.4 * step ? at + pair : at;
    (after / step >= kEarliest && after / step <= kLatest ? late : early).push_back(after / step);
  }
  if (late.size() < kFewestLate || early.size() < kFewestLate) return std::nullopt;
  const double middle = median(late), on = median(early);
  std::vector<double> off;
  for (const double v : late) off.push_back(std::abs(v - middle));
  const double spread = median(off);
  if (spread > kSpread) return std::nullopt;
  return Told{std::clamp(3.0 * (middle - on - 1.0), 0.0, 1.5), 1.0 - spread / kSpread};
}

std::optional<Told> kickToBass(const LowEndParts& low, const std::vector<double>& hits, double bodyMs) {
  constexpr size_t kFewest = 4;
  constexpr double kSpread = 6.0;
  const auto sums = lowEnergies(low);
  const double body = 0.001 * bodyMs * low.rate, all = static_cast<double>(low.mid.size());
  if (!(body >= 1.0) || 2.0 * body > all) return std::nullopt;
  std::vector<double> each;
  for (size_t i = 0; i < hits.size(); ++i) {
    const double from = hits[i] * low.rate;
    const double next = i + 1 < hits.size() ? hits[i + 1] * low.rate
                        : low.wraps         ? all + hits.front() * low.rate
                                            : all;
    if (from < 0.0 || from + 2.0 * body > next) continue;
    const auto ours = energyBetween(sums, from, from + body, low.wraps),
               after = energyBetween(sums, from + body, from + 2.0 * body, low.wraps);
    if (ours && after && *ours > 0.0 && *after > 1e-6 * *ours) each.push_back(dbFromPower(*ours / *after));
  }
  if (each.size() < kFewest) return std::nullopt;
  const double middle = median(each);
  for (double& v : each) v = std::abs(v - middle);
  return Told{middle, std::clamp(1.0 - median(each) / kSpread, 0.0, 1.0)};
}

SectionFacts plainFactsOf(const SectionProfile& section) {
  SectionFacts out;
  const ProgrammeFacts& f = section.facts;
  out.lufs = f.integratedLufs;
  if (!f.integratedLufs) return out;
  out.plr = f.truePeakDbtp - *f.integratedLufs;
  out.lowCrestDb = f.low.crestLowDb;
  double low = 0.0;
  for (size_t b = 0; b < kBands.size(); ++b)
    if (kBands[b].highHz <= kShareBelowHz) low += f.low.bandPower[b];
  if (f.low.totalPower > 0.0 && low > 0.0) out.shareBelow120Db = dbFromPower(low / f.low.totalPower);
  out.monoBelowHz = section.width.monoBelowHz();
  return out;
}

SectionFacts factsOf(const SectionProfile& section, double a4Hz, const std::stop_token& stop) {
  SectionFacts out = plainFactsOf(section);
  if (!out.lufs) return out;
  out.kick = findKick(section.low, stop);
  // A programmed kick stands on one grid; what does not is the bass, taken for one.
  if (out.kick && regularityOf(*out.kick).value < kLeastRegular) out.kick.reset();
  out.bassNotes = bassNotesOf(section.low, out.kick, a4Hz);
  if (out.kick) addKick(out, section);
  return out;
}

}  // namespace heft
