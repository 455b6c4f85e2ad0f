#include "core/measure/levels/heard_loudness.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/equal_loudness.h"
#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kHeardWindow = 0.2, kHeardHopSeconds = 0.05;

constexpr double kTonesBelowHz = 285.0;

// Below that frequency, each hill of the spectrum from one valley to the next: a tone's lobe stays whole, at
// its own frequency, which no fixed band resolves for a low one over 200 ms. Above it, third octaves.
std::vector<HeardBands::Band> bandsOf(RealFft& fft, double weight, double sampleRate) {
  constexpr int kLowest = -5, kHighest = 11;  // 315 Hz, 12.5 kHz
  constexpr double kLowestHz = 20.0;
  std::vector<HeardBands::Band> out;
  const auto bins = fft.bins();
  const double stepHz = sampleRate / static_cast<double>(fft.size());
  // A full-scale sine has half a power.
  const double scale = 4.0 / (static_cast<double>(fft.size()) * weight);
  HeardBands::Band hill;
  const auto first = static_cast<size_t>(std::ceil(kLowestHz / stepHz)),
             last = std::min(bins.size() - 2, static_cast<size_t>(kTonesBelowHz / stepHz));
  for (size_t k = first; k <= last; ++k) {
    const double power = std::norm(bins[k]) * scale;
    hill.hz += power * static_cast<double>(k) * stepHz, hill.power += power;
    const bool valley =
        std::norm(bins[k]) <= std::norm(bins[k - 1]) && std::norm(bins[k]) < std::norm(bins[k + 1]);
    if ((valley || k == last) && hill.power > 0.0) {
      out.push_back({hill.hz / hill.power, hill.power});
      hill = {};
    }
  }
  for (int band = kLowest; band <= kHighest; ++band) {
    const double mid = 1000.0 * std::pow(10.0, 0.1 * band), edge = std::pow(10.0, 0.05);
    if (mid > 0.45 * sampleRate) break;
    double power = 0.0;
    for (auto k = static_cast<size_t>(std::ceil(mid / edge / stepHz));
         k < bins.size() && static_cast<double>(k) * stepHz < mid * edge; ++k)
      power += std::norm(bins[k]) * scale;
    out.push_back({mid, power});
  }
  return out;
}

// Bands up to `highHz` that the ear takes as one, and the frequency that stands for them.
struct Group {
  double highHz, asHz;
};
constexpr Group kGroups[] = {{90.0, 50.0}, {180.0, 125.0}, {285.0, 224.0}};

double sonesOf(double phon) {
  return phon > 0.0 ? std::exp2((phon - 40.0) / 10.0) : 0.0;
}

// For one such group: its parts at their loudness at the group's frequency, added in power.
double phonOfGroup(const Group& group, std::span<const HeardBands::Band> parts, double addedDb) {
  double power = 0.0, moment = 0.0;
  for (const auto& part : parts) power += part.power, moment += part.power * part.hz;
  if (!(power > 1e-20)) return 0.0;
  const double about = phonOf(moment / power, 10.0 * std::log10(power) + addedDb);
  if (about <= 0.0) return 0.0;
  double there = 0.0;
  for (const auto& part : parts)
    there +=
        part.power * std::pow(10.0, 0.1 * (levelForPhon(group.asHz, about) - levelForPhon(part.hz, about)));
  return phonOf(group.asHz, 10.0 * std::log10(there) + addedDb);
}

double phonOfWindow(const std::vector<HeardBands::Band>& bands, double addedDb) {
  double sones = 0.0;
  size_t at = 0;
  for (const Group& group : kGroups) {
    const size_t first = at;
    while (at < bands.size() && bands[at].hz < group.highHz) ++at;
    sones += sonesOf(phonOfGroup(group, std::span(bands).subspan(first, at - first), addedDb));
  }
  for (; at < bands.size(); ++at)
    sones += sonesOf(phonOf(bands[at].hz, 10.0 * std::log10(std::max(1e-20, bands[at].power)) + addedDb));
  return sones > 0.0 ? std::max(0.0, 40.0 + 10.0 * std::log2(sones)) : 0.0;
}

}  // namespace

namespace {

// From the first to the last sample within 20 dB of the largest: excludes an end that is cut off.
std::span<const double> soundingPart(std::span<const double> x) {
  constexpr double kFloor = 0.1;
  double largest = 0.0;
  for (const double v : x) largest = std::max(largest, std::abs(v));
  if (!(largest > 0.0)) return {};
  auto sounds = [&](double v) { return std::abs(v) >= kFloor * largest; };
  const auto first = std::find_if(x.begin(), x.end(), sounds);
  const auto last = std::find_if(x.rbegin(), x.rend(), sounds).base();
  return x.subspan(static_cast<size_t>(first - x.begin()), static_cast<size_t>(last - first));
}

}  // namespace

HeardBands heardBands(std::span<const double> mono, double sampleRate) {
  HeardBands out;
  const auto x = soundingPart(mono);
  if (x.empty()) return out;
  const auto whole = static_cast<size_t>(kHeardWindow * sampleRate);
  const size_t length = std::min(whole, x.size()),
               hop = std::max<size_t>(1, static_cast<size_t>(kHeardHopSeconds * sampleRate));
  RealFft fft(sharedSize(2 * whole));
  const auto taper = hannWindow(length);
  double weight = energyOf(std::span<const double>(taper));
  // Hearing integrates over 200 ms: a shorter sound gets proportionally less.
  weight *= static_cast<double>(whole) / static_cast<double>(length);
  for (size_t at = 0; at + length <= x.size(); at += hop) {
    std::fill(fft.time().begin(), fft.time().end(), 0.0);
    for (size_t i = 0; i < length; ++i) fft.time()[i] = taper[i] * x[at + i];
    fft.forward();
    out.windows.push_back(bandsOf(fft, weight, sampleRate));
  }
  return out;
}

double HeardBands::phon(double listeningDb, double gainDb) const {
  double out = 0.0;
  for (const auto& bands : windows) out = std::max(out, phonOfWindow(bands, listeningDb + gainDb));
  return out;
}

std::optional<double> HeardBands::gainTo(double wanted, double listeningDb, double mostDb) const {
  auto sounds = [](const std::vector<Band>& bands) {
    return std::any_of(bands.begin(), bands.end(), [](const Band& b) { return b.power > 1e-12; });
  };
  if (std::none_of(windows.begin(), windows.end(), sounds)) return std::nullopt;
  const auto over = [&](double gainDb) { return phon(listeningDb, gainDb) - wanted; };
  double low = -mostDb, high = mostDb, lowBy = over(low), highBy = over(high);
  if (lowBy >= 0.0) return low;
  if (highBy <= 0.0) return high;
  // Loudness rises almost linearly with gain: regula falsi, with the Illinois rule for the end that stays
  // (Dowell and Jarratt, BIT 11, 1971).
  constexpr double kCloseDb = 1e-4;
  constexpr int kMostSteps = 60;
  double at = 0.0, by = over(0.0);
  for (int i = 0; i < kMostSteps && std::abs(by) > kCloseDb && high - low > kCloseDb; ++i) {
    const bool wasBelow = by < 0.0;
    (wasBelow ? low : high) = at, (wasBelow ? lowBy : highBy) = by;
    at = (low * highBy - high * lowBy) / (highBy - lowBy);
    by = over(at);
    if ((by < 0.0) == wasBelow) (wasBelow ? highBy : lowBy) *= 0.5;
  }
  return at;
}

size_t HeardBands::bytes() const {
  size_t out = sizeof *this;
  for (const auto& bands : windows) out += bands.size() * sizeof(Band) + sizeof bands;
  return out;
}

}  // namespace heft
