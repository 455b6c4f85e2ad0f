#include "core/compare/kick_in_mix.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/compare/alike.h"
#include "core/compare/curves.h"
#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kLowFromHz = 30.0, kLowToHz = 140.0, kBodyFromHz = 40.0, kBodyToHz = 900.0;
constexpr double kTemplateSeconds = 0.09, kTemplateLead = 0.004;
using Kick = KickInMix;

// Power in windows of 2.5 ms.
std::vector<double> powerOf(const std::vector<double>& x, size_t hop) {
  std::vector<double> out(x.size() / hop, 0.0);
  for (size_t h = 0; h < out.size(); ++h)
    for (size_t i = h * hop; i < (h + 1) * hop; ++i) out[h] += x[i] * x[i] / static_cast<double>(hop);
  return out;
}

// By how much each rises over the least of the hops before it.
std::vector<double> risesOf(const std::vector<double>& power, size_t back) {
  std::vector<double> out(power.size(), 0.0);
  for (size_t i = 1; i + 1 < power.size(); ++i) {
    const auto at = power.begin() + static_cast<ptrdiff_t>(i);
    const double least = *std::min_element(at - static_cast<ptrdiff_t>(std::min(i, back)), at);
    out[i] = std::max(0.0, (at[-1] + at[0] + at[1]) / 3.0 - least);
  }
  return out;
}

double nearlyMost(std::vector<double> values) {
  if (values.empty()) return 0.0;
  const auto at = values.begin() + static_cast<ptrdiff_t>(0.995 * static_cast<double>(values.size() - 1));
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

// Every frequency as strong as its neighbours: a held bass is strong where its few tones are, and a kick, which
// falls through all of them, then stands out of it (the matched filter for coloured noise).
std::vector<double> whitened(const std::vector<double>& x, double rate) {
  constexpr double kAboutHz = 10.0, kLeastPower = 1e-3, kPower = 0.25;
  RealFft fft(sharedSize(x.size()));
  std::copy(x.begin(), x.end(), fft.time().begin());
  std::fill(fft.time().begin() + static_cast<ptrdiff_t>(x.size()), fft.time().end(), 0.0);
  fft.forward();
  const auto bins = fft.bins();
  std::vector<double> sums(bins.size() + 1, 0.0);
  for (size_t k = 0; k < bins.size(); ++k) sums[k + 1] = sums[k] + std::norm(bins[k]);
  const auto half = static_cast<size_t>(kAboutHz * static_cast<double>(fft.size()) / rate);
  std::vector<double> about(bins.size());
  for (size_t k = 0; k < bins.size(); ++k) {
    const size_t from = k - std::min(k, half), to = std::min(bins.size(), k + half + 1);
    about[k] = (sums[to] - sums[from]) / static_cast<double>(to - from);
  }
  const double most = *std::max_element(about.begin(), about.end());
  if (!(most > 0.0)) return x;
  for (size_t k = 0; k < bins.size(); ++k) bins[k] /= std::pow(about[k] + kLeastPower * most, kPower);
  fft.inverse();
  return {fft.time().begin(), fft.time().begin() + static_cast<ptrdiff_t>(x.size())};
}

struct LowRise {
  size_t at = 0;
  double score = 0.0;
};

// Rises of the low band, the strongest first; those with a strike above count more.
std::vector<LowRise> candidatesOf(const std::vector<double>& low, const std::vector<double>& strike,
                                  double rate) {
  constexpr double kHop = 0.0025, kLeast = 0.05;
  constexpr size_t kApart = 10, kMost = 112;
  const size_t hop = std::max<size_t>(1, framesIn(kHop, rate));
  const auto lowRise = risesOf(powerOf(low, hop), 12), high = risesOf(powerOf(strike, hop), 8);
  const double most = nearlyMost(lowRise), mostHigh = nearlyMost(high);
  std::vector<LowRise> out;
  if (!(most > 0.0)) return out;
  for (size_t i = 2; i + 8 < lowRise.size(); ++i) {
    const auto at = lowRise.begin() + static_cast<ptrdiff_t>(i);
    const auto first = at - static_cast<ptrdiff_t>(std::min(i, kApart));
    const auto last = std::min(lowRise.end(), at + kApart + 1);
    if (*at < kLeast * most || *at < *std::max_element(first, last)) continue;
    const auto above = high.begin() + static_cast<ptrdiff_t>(i);
    const double strikes = *std::max_element(above - static_cast<ptrdiff_t>(std::min<size_t>(i, 8)), above + 3);
    out.push_back({i * hop, *at / most * (0.2 + std::min(1.0, mostHigh > 0.0 ? strikes / mostHigh : 0.0))});
  }
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.score > b.score; });
  if (out.size() > kMost) out.resize(kMost);
  return out;
}

// Of hits in step, weighted by their strength; from kLeadSeconds before them.
std::vector<double> averageOf(const std::vector<double>& x, const std::vector<Matched>& hits, double rate) {
  const size_t lead = framesIn(Kick::kLeadSeconds, rate), count = framesIn(Kick::kSoundSeconds, rate);
  std::vector<double> out(count, 0.0);
  double weights = 0.0;
  for (const Matched& hit : hits) {
    if (hit.at < lead || hit.at - lead + count > x.size()) continue;
    const double weight = std::min(hit.strength, 2.0);
    for (size_t i = 0; i < count; ++i) out[i] += weight * x[hit.at - lead + i];
    weights += weight * weight;
  }
  if (weights > 0.0)
    for (double& v : out) v /= weights;
  return out;
}

// Where an average starts, re its lead: its envelope last under a quarter of its peak.
ptrdiff_t onsetOf(const std::vector<double>& average, double rate) {
  constexpr double kFrom = 0.02, kTo = 0.14, kSmooth = 0.004, kQuarter = 0.25;
  auto envelope = analyticEnvelope(average);
  const size_t half = std::max<size_t>(1, framesIn(0.5 * kSmooth, rate));
  std::vector<double> smooth(envelope.size(), 0.0);
  for (size_t i = half; i + half < envelope.size(); ++i)
    for (size_t k = i - half; k <= i + half; ++k) smooth[i] += envelope[k] / static_cast<double>(2 * half + 1);
  const auto first = smooth.begin() + static_cast<ptrdiff_t>(framesIn(kFrom, rate));
  auto at = std::max_element(first, smooth.begin() + static_cast<ptrdiff_t>(framesIn(kTo, rate)));
  const double least = kQuarter * *at;
  while (at != smooth.begin() && *at > least) --at;
  const auto lead = static_cast<ptrdiff_t>(framesIn(Kick::kLeadSeconds, rate));
  return std::max(at - smooth.begin() - lead, static_cast<ptrdiff_t>(framesIn(kTemplateLead, rate)) - lead);
}

std::vector<double> templateOf(const std::vector<double>& average, ptrdiff_t onset, double rate) {
  const size_t lead = framesIn(kTemplateLead, rate), count = framesIn(kTemplateSeconds, rate),
               fade = framesIn(0.02, rate);
  const auto from =
      static_cast<size_t>(static_cast<ptrdiff_t>(framesIn(Kick::kLeadSeconds, rate)) + onset) - lead;
  std::vector<double> out(average.begin() + static_cast<ptrdiff_t>(from),
                          average.begin() + static_cast<ptrdiff_t>(from + count));
  for (size_t i = 0; i < lead; ++i) out[i] *= static_cast<double>(i) / static_cast<double>(lead);
  for (size_t i = 0; i < fade; ++i) out[count - 1 - i] *= static_cast<double>(i) / static_cast<double>(fade);
  return out;
}

// Every place in the section that is like the average of these.
std::vector<Matched> searchedFor(const MatchedFilter& section, const std::vector<double>& body,
                                 std::vector<Matched> hits, double rate) {
  constexpr int kTurns = 3;
  constexpr size_t kFewest = 4;
  constexpr double kLeastStrength = 0.22, kLeastAlike = 0.55, kLeastBoth = 0.2, kLeastOfTypical = 0.32,
                   kApartSeconds = 0.09;
  for (int turn = 0; turn < kTurns && hits.size() >= kFewest; ++turn) {
    const auto average = averageOf(body, hits, rate);
    const auto pattern = templateOf(average, onsetOf(average, rate), rate);
    hits = section.matches(pattern, kLeastStrength, kLeastAlike, framesIn(kApartSeconds, rate));
    std::erase_if(hits, [](const Matched& m) { return m.strength * m.alike < kLeastBoth; });
    for (Matched& m : hits) m.at += framesIn(kTemplateLead, rate);
  }
  // What is far weaker than the hits is another sound that is a little alike.
  std::vector<double> both;
  for (const Matched& m : hits) both.push_back(m.strength * m.alike);
  const double least = kLeastOfTypical * median(std::move(both));
  std::erase_if(hits, [&](const Matched& m) { return m.strength * m.alike < least; });
  return hits;
}

double meanPowerDb(const std::vector<double>& x, double fromSeconds, double toSeconds, double rate) {
  const size_t from = framesIn(Kick::kLeadSeconds + fromSeconds, rate),
               to = std::min(x.size(), framesIn(Kick::kLeadSeconds + toSeconds, rate));
  double sum = 0.0;
  for (size_t i = from; i < to; ++i) sum += x[i] * x[i];
  return dbFromPower(sum / static_cast<double>(std::max<size_t>(1, to - from)));
}

double typicalAlike(const std::vector<Matched>& hits) {
  std::vector<double> all;
  for (const Matched& m : hits) all.push_back(m.alike);
  return median(std::move(all));
}

struct Found {
  std::vector<Matched> hits;
  std::vector<double> sound;
  double powerDb = -300.0, alike = 0.0;
};

// Power below 140 Hz that these hits bring a second; nothing where they do not come out of silence or do not
// decay.
std::optional<Found> judgedHits(const std::vector<double>& x, std::vector<Matched> hits, double rate) {
  constexpr double kOutOfDb = -5.0, kDecayDb = -4.0;
  Found out{std::move(hits), {}, 0.0, 0.0};
  out.sound = averageOf(x, out.hits, rate);
  const auto low = bandLimited(out.sound, rate, kLowFromHz, kLowToHz);
  const double attack = meanPowerDb(low, 0.0, 0.06, rate);
  if (meanPowerDb(low, -0.05, -0.015, rate) - attack > kOutOfDb) return std::nullopt;
  if (meanPowerDb(low, 0.14, 0.22, rate) - attack > kDecayDb) return std::nullopt;
  double squares = 0.0;
  for (const Matched& m : out.hits) squares += std::pow(std::min(2.0, m.strength), 2);
  out.powerDb = attack + dbFromPower(squares * rate / static_cast<double>(x.size()));
  out.alike = typicalAlike(out.hits);
  return out;
}

// Until what the hits have in common is less than half of what sounds there.
double lengthMsOf(const std::vector<double>& x, const Found& found, double rate) {
  constexpr double kFrom = 20.0, kTo = 130.0, kSmooth = 0.02;
  const auto low = bandLimited(x, rate, kFrom, kTo);
  const auto kick = averageOf(low, found.hits, rate);
  const size_t lead = framesIn(Kick::kLeadSeconds, rate);
  std::vector<double> ours(kick.size()), all(kick.size(), 0.0);
  for (size_t i = 0; i < kick.size(); ++i) ours[i] = kick[i] * kick[i];
  double weights = 0.0;
  for (const Matched& m : found.hits) {
    if (m.at < lead || m.at - lead + all.size() > low.size()) continue;
    for (size_t i = 0; i < all.size(); ++i) all[i] += std::pow(low[m.at - lead + i], 2);
    weights += std::pow(std::min(2.0, m.strength), 2);
  }
  for (double& v : all) v /= weights;
  const auto fromHit = [&](const std::vector<double>& power) {
    const auto smooth = movingMean(power, framesIn(0.5 * kSmooth, rate));
    return std::vector<double>(smooth.begin() + static_cast<ptrdiff_t>(lead), smooth.end());
  };
  return kickLengthMs(fromHit(ours), fromHit(all), rate);
}

Landing landingOf(const std::vector<double>& sound, double lengthMs, double rate) {
  constexpr double kBefore = 0.005, kFade = 0.01, kAfter = 0.1;
  const size_t from = framesIn(Kick::kLeadSeconds - kBefore, rate),
               to = std::min(sound.size(), framesIn(Kick::kLeadSeconds + 0.001 * lengthMs, rate)),
               fade = std::min(framesIn(kFade, rate), to - from);
  std::vector<double> cut(sound.begin() + static_cast<ptrdiff_t>(from),
                          sound.begin() + static_cast<ptrdiff_t>(to));
  for (size_t i = 0; i < fade; ++i)
    cut[cut.size() - 1 - i] *= static_cast<double>(i) / static_cast<double>(fade);
  for (size_t i = 0; i < framesIn(kBefore, rate) && i < cut.size(); ++i)
    cut[i] *= static_cast<double>(i) / static_cast<double>(framesIn(kBefore, rate));
  cut.resize(cut.size() + framesIn(kAfter, rate), 0.0);
  double most = 0.0;
  for (const double v : cut) most = std::max(most, std::abs(v));
  if (most > 0.0)
    for (double& v : cut) v *= 0.9 / most;
  return measureLanding(cut, rate, kBefore);
}

}  // namespace

double kickLengthMs(const std::vector<double>& kick, const std::vector<double>& all, double rate) {
  constexpr double kPeakWithin = 0.1, kQuietest = 0.01, kHalf = 0.5;
  const auto within = std::min(kick.size(), framesIn(kPeakWithin, rate));
  auto at = std::max_element(kick.begin(), kick.begin() + static_cast<ptrdiff_t>(within));
  if (at == kick.end()) return 0.0;
  const double least = kQuietest * *at;
  while (at != kick.end() && *at > least && *at > kHalf * all[static_cast<size_t>(at - kick.begin())]) ++at;
  return 1000.0 * static_cast<double>(at - kick.begin()) / rate;
}

std::optional<KickInMix> findKick(const LowEndParts& low, const std::stop_token& stop) {
  constexpr double kLeastSeconds = 2.0, kNearDb = 1.5, kLeastAlike = 0.7, kAround = 0.1;
  constexpr size_t kFewest = 4, kMostGroups = 8;
  const double rate = low.rate;
  if (static_cast<double>(low.mid.size()) < kLeastSeconds * rate) return std::nullopt;
  // A section starts on a hit: silence before it, and after its end, lets that be compared like any other.
  const size_t before = framesIn(kAround, rate), after = framesIn(Kick::kSoundSeconds, rate);
  std::vector<double> x(before, 0.0);
  x.insert(x.end(), low.mid.begin(), low.mid.end());
  x.resize(x.size() + after, 0.0);
  const auto body = whitened(bandLimited(x, rate, kBodyFromHz, kBodyToHz), rate);
  const auto candidates =
      candidatesOf(bandLimited(x, rate, 35.0, 150.0), bandLimited(x, rate, 400.0, 1200.0), rate);
  std::vector<size_t> places;
  for (const LowRise& c : candidates) places.push_back(c.at);
  const MatchedFilter section(body);
  std::vector<Found> all;
  size_t tried = 0;
  for (const auto& group : alikeGroups(body, places, rate)) {
    if (stop.stop_requested()) return std::nullopt;
    if (group.size() < kFewest || ++tried > kMostGroups) break;
    auto hits = searchedFor(section, body, group, rate);
    if (hits.size() < kFewest) continue;
    if (auto found = judgedHits(x, std::move(hits), rate)) all.push_back(std::move(*found));
  }
  if (all.empty()) return std::nullopt;
  // One kick is found several times, from groups that start at different moments of it: the purest counts.
  double most = -300.0;
  for (const Found& f : all) most = std::max(most, f.powerDb);
  const Found* best = nullptr;
  for (const Found& f : all)
    if (f.powerDb > most - kNearDb && (!best || f.alike > best->alike)) best = &f;
  if (best->alike < kLeastAlike) return std::nullopt;
  KickInMix out;
  for (const Matched& m : best->hits) {
    out.hits.push_back((static_cast<double>(m.at) - static_cast<double>(before)) / rate);
    out.strengths.push_back(m.strength);
  }
  out.alike = best->alike, out.sound = best->sound, out.rate = rate;
  out.lengthMs = lengthMsOf(x, *best, rate);
  out.landing = landingOf(out.sound, out.lengthMs, rate);
  return out;
}

}  // namespace heft
