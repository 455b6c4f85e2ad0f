#include "core/duck/detector.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/levels.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kHopSeconds = 0.001, kWindowSeconds = 0.008;
constexpr size_t kLookBack = 25;

// Six poles of Butterworth, running forward only: a zero-phase filter would ring before the hit and fire early.
std::vector<double> cutAbove(std::vector<double> x, double rate, double hz) {
  for (double q : {0.5176, 0.7071, 1.9319}) {
    Biquad section(Biquad::lowPass(rate, hz, q));
    for (double& v : x) v = section.process(v);
  }
  return x;
}

std::vector<double> cutBelow(std::vector<double> x, double rate, double hz) {
  for (double q : {0.5412, 1.3066}) {
    Biquad section(Biquad::highPass(rate, hz, q));
    for (double& v : x) v = section.process(v);
  }
  return x;
}

// Power of `x` in windows centred on each millisecond.
std::vector<double> powerTrack(const std::vector<double>& x, double rate, double windowSeconds) {
  std::vector<double> running(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) running[i + 1] = running[i] + x[i] * x[i];
  const auto count = static_cast<size_t>(static_cast<double>(x.size()) / rate / kHopSeconds) + 1;
  std::vector<double> out(count);
  for (size_t k = 0; k < count; ++k) {
    const double centre = static_cast<double>(k) * kHopSeconds * rate, half = 0.5 * windowSeconds * rate;
    const auto first = static_cast<size_t>(std::clamp(centre - half, 0.0, static_cast<double>(x.size())));
    const auto last = static_cast<size_t>(std::clamp(centre + half, 0.0, static_cast<double>(x.size())));
    out[k] = std::max(0.0, running[last] - running[first]) / std::max(1.0, 2.0 * half);
  }
  return out;
}

struct Candidate {
  size_t index;          ///< milliseconds
  double strengthDb;     ///< its level within the next moments
  double shareDb = 0.0;  ///< how much of the low drums' band is under the cut meanwhile
};

constexpr size_t kMeanwhile = 40;  // milliseconds
constexpr double kSameDrumDb = 6.0, kWellUnderDb = 10.0, kNearlyDb = 3.0;

bool isWeak(const Candidate& c, double strongest) {
  return c.strengthDb < strongest - kWellUnderDb;
}

std::vector<Candidate> risesOf(const std::vector<double>& power, double threshold, size_t gap) {
  std::vector<Candidate> out;
  size_t blockedUntil = 0;
  for (size_t k = 0; k < power.size(); ++k) {
    if (k < blockedUntil || power[k] < threshold) continue;
    const auto begin = power.begin() + static_cast<ptrdiff_t>(k > kLookBack ? k - kLookBack : 0),
               now = power.begin() + static_cast<ptrdiff_t>(k);
    const double floor = k < kLookBack ? 0.0 : *std::min_element(begin, now);
    const double reached =
        *std::max_element(now, power.begin() + static_cast<ptrdiff_t>(std::min(power.size(), k + kMeanwhile)));
    // A beating tail rises too, but not by 9 dB.
    if (power[k] < 4.0 * floor || reached < 8.0 * floor) continue;
    out.push_back({k, dbFromPower(reached)});
    blockedUntil = k + gap;
  }
  return out;
}

void tellShares(std::vector<Candidate>& candidates, const std::vector<double>& power,
                const std::vector<double>& wide) {
  for (Candidate& c : candidates) {
    double low = 0.0, all = 1e-30;
    for (size_t k = c.index; k < std::min({power.size(), wide.size(), c.index + kMeanwhile}); ++k)
      low += power[k], all += wide[k];
    c.shareDb = dbFromPower(low / all);
  }
}

double leastShare(const std::vector<Candidate>& candidates, double strongest) {
  std::vector<double> shares;
  for (const Candidate& c : candidates)
    if (!isWeak(c, strongest)) shares.push_back(c.shareDb);
  return shares.empty() ? -1e9 : median(shares) - kSameDrumDb;
}

// A hit well below the strongest is another drum, or the same drum struck softly. The spectrum decides: a
// soft hit has no more energy above the cut than a full one.
HitVerdict verdictOn(const Candidate& c, double strongest, double least) {
  if (isWeak(c, strongest)) {
    if (c.shareDb < least) return HitVerdict::OtherDrum;
    return c.shareDb < least + kNearlyDb ? HitVerdict::Doubtful : HitVerdict::Hit;
  }
  return c.shareDb < least ? HitVerdict::Doubtful : HitVerdict::Hit;
}

// Near misses: below the threshold, or within the gap after a trigger.
std::vector<std::pair<Candidate, HitVerdict>> nearlyFound(const std::vector<Candidate>& found,
                                                          const std::vector<double>& power, double threshold,
                                                          size_t gap) {
  constexpr double kUnder = 0.0631;  // 12 dB
  constexpr size_t kSame = 25;       // milliseconds
  std::vector<std::pair<Candidate, HitVerdict>> out;
  for (const Candidate& c : risesOf(power, kUnder * threshold, kLookBack)) {
    const bool same = std::any_of(found.begin(), found.end(), [&](const Candidate& f) {
      return c.index + kSame > f.index && c.index < f.index + kSame;
    });
    const bool soon = std::any_of(found.begin(), found.end(), [&](const Candidate& f) {
      return c.index >= f.index && c.index < f.index + gap;
    });
    if (!same && (soon || power[c.index] < threshold))
      out.emplace_back(c, soon ? HitVerdict::TooSoon : HitVerdict::UnderThreshold);
  }
  return out;
}

bool isBusyBetween(const std::vector<float>& levelDb) {
  constexpr float kSoundsDb = -60.0f, kBusyDb = -18.0f;
  const auto sounds = [](float db) { return db > kSoundsDb; };
  const auto first = std::find_if(levelDb.begin(), levelDb.end(), sounds);
  const auto last = std::find_if(levelDb.rbegin(), levelDb.rend(), sounds).base();
  if (first >= last) return false;
  return 3 * std::count_if(first, last, [](float db) { return db > kBusyDb; }) > last - first;
}

std::vector<double> foldedBetween(const AudioBuffer& audio, size_t first, size_t end) {
  std::vector<double> out(end - first, 0.0);
  for (const auto& channel : audio.channels)
    for (size_t i = first; i < end; ++i)
      out[i - first] += channel[i] / static_cast<double>(audio.channelCount());
  return out;
}

// The start of the hit in the whole signal: first sample near `about` over a tenth of the loudest one just
// after it and three times over what came just before.
double refined(const AudioBuffer& audio, double about) {
  const double rate = audio.sampleRate;
  const auto start = static_cast<size_t>(std::max(0.0, (about - 0.030) * rate));
  const auto end = std::max(start, std::min(audio.frames(), static_cast<size_t>((about + 0.012) * rate)));
  const std::vector<double> x = foldedBetween(audio, start, end);
  const size_t first = 0, last = x.size();
  const auto block = std::max<size_t>(1, static_cast<size_t>(0.0005 * rate));
  std::vector<double> level;
  for (size_t at = first; at + block <= last; at += block) {
    double peak = 0.0;
    for (size_t i = at; i < at + block; ++i) peak = std::max(peak, std::abs(x[i]));
    level.push_back(peak);
  }
  if (level.empty()) return about;
  // Steepest rise of the peak of the coming 4 ms over that of the past 4 ms.
  double steepest = 0.0;
  size_t best = 0;
  constexpr size_t kSpan = 8;
  for (size_t i = 0; i < level.size(); ++i) {
    double before = 0.0, after = 0.0;
    for (size_t k = i > kSpan ? i - kSpan : 0; k < i; ++k) before = std::max(before, level[k]);
    for (size_t k = i; k < std::min(level.size(), i + kSpan); ++k) after = std::max(after, level[k]);
    const double rise = after - before;
    if (rise > steepest + 1e-12) steepest = rise, best = i;
  }
  double before = 0.0;
  for (size_t k = best > kSpan ? best - kSpan : 0; k < best; ++k) before = std::max(before, level[k]);
  // The rise shows up to a span early; the hit starts with the first block above the floor.
  while (best + 1 < level.size() && level[best] < before + 0.1 * steepest) ++best;
  size_t sample = first + best * block;
  while (sample < last && std::abs(x[sample]) < before + 0.03 * steepest) ++sample;
  return static_cast<double>(start + sample) / rate;
}

}  // namespace

HeardBand listenTo(const AudioBuffer& audio, const DetectorOptions& options) {
  constexpr double kDrumsBand = 4.5;  // times the cut: what low drums fill
  HeardBand out;
  const auto mono = monoFold(audio);
  if (mono.empty()) return out;
  auto slow =
      decimated(std::span<const double>(mono), audio.sampleRate, std::max(2000.0, 12.0 * options.highCutHz));
  if (options.lowCutHz) slow.samples = cutBelow(std::move(slow.samples), slow.sampleRate, *options.lowCutHz);
  const double highest = 0.45 * slow.sampleRate;
  auto powerBelow = [&](double hz) {
    return powerTrack(cutAbove(slow.samples, slow.sampleRate, std::min(highest, hz)), slow.sampleRate,
                      kWindowSeconds);
  };
  out.power = powerBelow(options.highCutHz);
  out.wide = powerBelow(kDrumsBand * options.highCutHz);
  return out;
}

HitSearch searchHits(const AudioBuffer& audio, const DetectorOptions& options) {
  return searchHits(audio, listenTo(audio, options), options);
}

HitSearch searchHits(const AudioBuffer& audio, const HeardBand& band, const DetectorOptions& options) {
  HitSearch out;
  const auto& power = band.power;
  if (power.empty()) return out;
  const double loudest = *std::max_element(power.begin(), power.end());
  if (!(loudest > 1e-10)) return out;
  out.loudestDb = dbFromPower(loudest);
  for (const double p : power)
    out.levelDb.push_back(static_cast<float>(std::max(-100.0, dbFromPower(p / loudest))));
  out.isBusy = isBusyBetween(out.levelDb);
  const double threshold = loudest * std::pow(10.0, options.thresholdDb / 10.0);
  const auto gap = static_cast<size_t>(options.shortestGapMs / 1000.0 / kHopSeconds);
  auto candidates = risesOf(power, threshold, gap);
  tellShares(candidates, power, band.wide);
  double strongest = -1e9;
  for (const Candidate& c : candidates) strongest = std::max(strongest, c.strengthDb);
  const double least = leastShare(candidates, strongest);
  auto take = [&](const Candidate& c, HitVerdict verdict) {
    const double at = refined(audio, static_cast<double>(c.index) * kHopSeconds);
    out.all.push_back({at, c.strengthDb - strongest, c.shareDb - least - kSameDrumDb, verdict});
  };
  double last = -1e9;
  for (const Candidate& c : candidates) {
    take(c, verdictOn(c, strongest, least));
    if (!out.all.back().fires()) continue;
    if (out.all.back().seconds - last <= 0.5 * options.shortestGapMs / 1000.0)
      out.all.pop_back();
    else
      last = out.all.back().seconds;
  }
  // One that turns out to be the start of another is merged with it.
  constexpr double kSameSeconds = 0.005;
  for (const auto& [c, verdict] : nearlyFound(candidates, power, threshold, gap)) {
    take(c, verdict);
    if (std::any_of(out.all.begin(), out.all.end() - 1, [&](const FoundHit& h) {
          return std::abs(h.seconds - out.all.back().seconds) < kSameSeconds;
        }))
      out.all.pop_back();
  }
  std::stable_sort(out.all.begin(), out.all.end(),
                   [](const FoundHit& a, const FoundHit& b) { return a.seconds < b.seconds; });
  return out;
}

std::vector<double> findHits(const AudioBuffer& audio, const DetectorOptions& options) {
  std::vector<double> out;
  for (const FoundHit& hit : searchHits(audio, options).all)
    if (hit.fires()) out.push_back(hit.seconds);
  return out;
}

std::optional<double> firstBeatSeconds(const AudioBuffer& audio) {
  constexpr double kLongest = 30.0, kNear = 0.25;
  AudioBuffer start;
  start.sampleRate = audio.sampleRate;
  const auto frames = std::min(audio.frames(), static_cast<size_t>(kLongest * audio.sampleRate));
  for (const auto& channel : audio.channels)
    start.channels.emplace_back(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(frames));
  const auto onset = findOnset(monoFold(start), start.sampleRate);
  if (!onset) return std::nullopt;
  const auto hits = findHits(start);
  // A beat at the music's own start is that start; one long after it counts by itself.
  if (hits.empty() || hits.front() < *onset + kNear) return onset;
  return hits.front();
}

}  // namespace heft
