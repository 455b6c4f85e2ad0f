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
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kShareBelowHz = 120.0;

// Sums of squares of the low band from the start on.
std::vector<double> lowEnergies(const LowEndParts& low) {
  const auto x = bandLimited(low.mid, low.rate, 20.0, kShareBelowHz);
  std::vector<double> out(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) out[i + 1] = out[i] + x[i] * x[i];
  return out;
}

// Of hits whose next one leaves as long a stretch between.
std::optional<Told> kickToBass(const std::vector<double>& energy, const KickInMix& kick) {
  constexpr size_t kFewest = 4;
  const double body = 0.001 * kick.lengthMs * kick.rate;
  std::vector<double> all;
  for (size_t i = 0; i < kick.hits.size(); ++i) {
    const double from = kick.hits[i] * kick.rate;
    const double next = i + 1 < kick.hits.size() ? kick.hits[i + 1] * kick.rate : 1e18;
    if (from + 2.0 * body > std::min(next, static_cast<double>(energy.size() - 1))) continue;
    auto between = [&](double a, double b) {
      return energy[static_cast<size_t>(b)] - energy[static_cast<size_t>(a)];
    };
    const double ours = between(from, from + body), after = between(from + body, from + 2.0 * body);
    if (ours > 0.0 && after > 1e-6 * ours) all.push_back(dbFromPower(ours / after));
  }
  if (all.size() < kFewest) return std::nullopt;
  const double middle = median(all);
  for (double& v : all) v = std::abs(v - middle);
  constexpr double kSpread = 6.0;
  return Told{middle, std::clamp(1.0 - median(all) / kSpread, 0.0, 1.0)};
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
  out.kickToBassDb = kickToBass(energy, kick);
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
    for (size_t i = 0; i < count; ++i)
      fft.time()[i] =
          low.mid[from + i] *
          (0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(count)));
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
    const double a = std::log(power(best - 1) + 1e-30), b = std::log(power(best) + 1e-30),
                 c = std::log(power(best + 1) + 1e-30);
    const double bend = a - 2.0 * b + c;
    const double off = bend < 0.0 ? std::clamp(0.5 * (a - c) / bend, -0.5, 0.5) : 0.0;
    frames.push_back({(static_cast<double>(best) + off) * step, dbFromPower(power(best))});
  }
  return notesAmong(frames, a4Hz);
}

SectionFacts factsOf(const SectionProfile& section, double a4Hz, const std::stop_token& stop) {
  SectionFacts out;
  const ProgrammeFacts& f = section.facts;
  out.lufs = f.integratedLufs;
  if (!f.integratedLufs) return out;
  out.plr = f.truePeakDbtp - *f.integratedLufs;
  out.lowCrestDb = f.low.crestLowDb;
  double low = 0.0;
  for (size_t b = 0; b < 4; ++b) low += f.low.bandPower[b];  // 20 to 120 Hz
  if (f.low.totalPower > 0.0 && low > 0.0) out.shareBelow120Db = dbFromPower(low / f.low.totalPower);
  out.monoBelowHz = section.width.monoBelowHz();
  out.kick = findKick(section.low, stop);
  out.bassNotes = bassNotesOf(section.low, out.kick, a4Hz);
  if (out.kick) addKick(out, section);
  return out;
}

}  // namespace heft
