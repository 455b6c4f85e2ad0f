// Layers that get into each other's way, and a bass whose notes start anywhere.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::vector<Layer>& layersOf(Session& s, bool bass) {
  return bass ? s.bass.layers : s.kick.layers;
}

Remedy onLayer(const std::string& label, const std::string& name, bool bass, int id,
               std::function<void(Layer&)> change) {
  return {label, name, [=](const Session& s) {
            Session next = s;
            for (Layer& l : layersOf(next, bass))
              if (l.id == id) change(l);
            return next;
          }};
}

// The two strikes nearest in level that are a few ms apart: together they are one, far apart two hits.
void addStrikes(const LedgerView& v, bool bass, std::vector<Finding>& out) {
  const auto& layers = bass ? v.study.bassLayers : v.study.kickLayers;
  const LayerFacts *first = nullptr, *second = nullptr;
  double nearest = v.limits.strikesHold;
  for (const LayerFacts& a : layers)
    for (const LayerFacts& b : layers) {
      const double apart = b.strikeMs - a.strikeMs, level = std::abs(a.strikeDb - b.strikeDb);
      if (apart < v.limits.strikesApartMs || apart > v.limits.strikesFarMs) continue;
      if (std::max(a.strikeDb, b.strikeDb) < -60.0 || level >= nearest) continue;
      first = &a, second = &b, nearest = level;
    }
  if (!first) return;
  const std::string part = bass ? "bass" : "kick";
  const double apart = second->strikeMs - first->strikeMs;
  Finding f{.id = part + "-strikes", .stage = Stage::Sounds, .value = apart, .unit = "ms"};
  f.verdict = nearest < v.limits.strikesOff ? Verdict::Off : Verdict::Watch;
  f.sentence =
      "Two strikes of the " + part + " are " + formatNumber(apart, 1) + " ms apart and smear each other";
  f.measured =
      first->title + ", then " + second->title + ", " + formatNumber(nearest, 0) + " dB apart in level";
  f.target = "together within " + formatNumber(v.limits.strikesApartMs, 1) + " ms, or one " +
             formatNumber(v.limits.strikesHold, 0) + " dB under the other";
  f.remedy = onLayer("Meet", "bring strikes together", bass, second->id,
                     [apart](Layer& l) { l.offsetMs = std::clamp(l.offsetMs - apart, -200.0, 200.0); });
  out.push_back(f);
}

void addLowTails(const LedgerView& v, bool bass, std::vector<Finding>& out) {
  auto layers = bass ? v.study.bassLayers : v.study.kickLayers;
  if (layers.size() < 2) return;
  std::stable_sort(layers.begin(), layers.end(),
                   [](const LayerFacts& a, const LayerFacts& b) { return a.lowTailDb > b.lowTailDb; });
  const double under = layers[0].lowTailDb - layers[1].lowTailDb;
  const std::string part = bass ? "bass" : "kick";
  Finding f{.id = part + "-low-tails", .stage = Stage::Sounds, .value = under, .unit = "dB"};
  f.verdict = judged(-under, -v.limits.tailsHold, -v.limits.tailsOff);
  if (layers[0].lowTailDb < -60.0) return;
  f.sentence = f.verdict == Verdict::Holds
                   ? "One layer of the " + part + " carries its low end"
                   : "Two low tails in the " + part + ": " + layers[0].title + " and " + layers[1].title;
  f.measured = "the second " + formatNumber(std::min(under, 120.0), 0) + " dB under the first, below 120 Hz";
  f.target = "at least " + formatNumber(v.limits.tailsHold, 0) + " dB under";
  if (f.verdict != Verdict::Holds)
    f.remedy = onLayer("Cut", "cut lows of " + layers[1].title, bass, layers[1].id, [](Layer& l) {
      l.shape.eq.on = true;
      l.shape.eq.lowCut = {true, std::max(150.0, l.shape.eq.lowCut.on ? l.shape.eq.lowCut.hz : 0.0), 48};
    });
  out.push_back(f);
}

// What a free-running start costs: the spread of the pair's level over the hits.
void addFreePhase(const LedgerView& v, std::vector<Finding>& out) {
  const Layer* free = nullptr;
  for (const Layer* l : heardLayers(v.session.bass.layers))
    if (l->bassVoice && l->bassVoice->freePhase && !free) free = l;
  if (!free) return;
  double low = 1e9, high = -1e9;
  for (const HitFacts& h : v.study.hits)
    if (h.curve.overlap) low = std::min(low, h.levelDb), high = std::max(high, h.levelDb);
  const double spread = high > low ? high - low : 0.0;
  Finding f{.id = "free-phase", .stage = Stage::Align, .value = spread, .unit = "dB"};
  f.verdict = judged(spread, v.limits.spreadHolds, v.limits.spreadWatch);
  f.sentence = f.verdict == Verdict::Holds
                   ? "The bass runs free and the hits stay alike"
                   : "The bass starts anywhere: from hit to hit the pair's level spreads over " +
                         fixedNumber(spread, 1) + " dB";
  f.measured = fixedNumber(spread, 1) + " dB from the best hit to the worst";
  f.target = "within " + fixedNumber(v.limits.spreadHolds, 1) + " dB";
  if (f.verdict != Verdict::Holds)
    f.remedy = onLayer("Fix", "start every note at the same phase", true, free->id,
                       [](Layer& l) { l.bassVoice->freePhase = false; });
  out.push_back(f);
}

}  // namespace

void addLayerLines(const LedgerView& v, std::vector<Finding>& out) {
  for (bool bass : {false, true}) {
    addStrikes(v, bass, out);
    addLowTails(v, bass, out);
  }
  addFreePhase(v, out);
}

}  // namespace heft
