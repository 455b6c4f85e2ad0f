// Layers that get into each other's way, and a bass whose notes start anywhere.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

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
  f.options = {onLayer("Line up", "line strikes up", bass, second->id,
                       [apart](Layer& l) { l.offsetMs = std::clamp(l.offsetMs - apart, -200.0, 200.0); }),
               onLayer("Line up", "line strikes up", bass, first->id,
                       [apart](Layer& l) { l.offsetMs = std::clamp(l.offsetMs + apart, -200.0, 200.0); })};
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
    for (size_t i : {size_t{1}, size_t{0}})
      f.options.push_back(onLayer("Cut lows", "cut lows of " + layers[i].title, bass, layers[i].id, [](Layer& l) {
        l.shape.eq.on = true;
        l.shape.eq.lowCut = {true, std::max(150.0, l.shape.eq.lowCut.on ? l.shape.eq.lowCut.hz : 0.0), 48};
      }));
  out.push_back(f);
}

// What a free-running start costs: the spread of the pair's level over the hits.
void addFreePhase(const LedgerView& v, std::vector<Finding>& out) {
  const Layer* free = nullptr;
  for (const Layer* l : heardLayers(v.session.bass().layers))
    if (l->bassVoice() && l->bassVoice()->freePhase && !free) free = l;
  if (!free) return;
  double low = 1e9, high = -1e9;
  for (const HitFacts& h : v.study.hits)
    if (h.curve.overlap) low = std::min(low, h.levelDb), high = std::max(high, h.levelDb);
  const double spread = high > low ? high - low : 0.0;
  Finding f{.id = "free-phase", .stage = Stage::Align, .value = spread, .unit = "dB"};
  f.verdict = judged(spread, v.limits.spreadHolds, v.limits.spreadWatch);
  f.sentence = f.verdict == Verdict::Holds
                   ? "Free-running phase, hits still match"
                   : "The bass starts anywhere: from hit to hit the pair's level spreads over " +
                         fixedNumber(spread, 1) + " dB";
  f.measured = fixedNumber(spread, 1) + " dB from the best hit to the worst";
  f.target = "within " + fixedNumber(v.limits.spreadHolds, 1) + " dB";
  if (f.verdict != Verdict::Holds)
    f.options = {onLayer("Lock start", "start every note at the same phase", true, free->id,
                         [](Layer& l) { l.bassVoice()->freePhase = false; })};
  out.push_back(f);
}

// Common practice: the strike goes past the drive.
void addDrivenStrike(const LedgerView& v, std::vector<Finding>& out) {
  const LayerFacts* worst = nullptr;
  for (const LayerFacts& l : v.study.kickLayers)
    if (l.strikeLossDb > v.limits.strikeLossHolds && (!worst || l.strikeLossDb > worst->strikeLossDb)) worst = &l;
  if (!worst) return;
  Finding f{.id = "strike-driven", .stage = Stage::Sounds, .value = worst->strikeLossDb, .unit = "dB"};
  f.verdict = judged(f.value, v.limits.strikeLossHolds, v.limits.strikeLossWatch);
  f.sentence = "The drive of " + worst->title + " flattens its strike";
  f.measured = "strike " + plainDb(f.value) + " lower against the body than without drive";
  f.target = "at most " + formatNumber(v.limits.strikeLossHolds, 0) + " dB lower";
  f.options = {onLayer("Spare strike", "take the strike past the drive", false, worst->id,
                       [](Layer& l) {
                         if (l.kickVoice()) l.kickVoice()->strike.throughDrive = false;
                       }),
               onLayer("Raise strike", "raise the strike", false, worst->id,
                       [by = worst->strikeLossDb](Layer& l) {
                         StrikeSustain& x = l.shape.strikeSustain;
                         x.strikeDb = std::clamp((x.on ? x.strikeDb : 0.0) + by, -40.0, 24.0), x.on = true;
                       }),
               onLayer("Ease drive", "halve the drive", false, worst->id, [](Layer& l) {
                 (l.kickVoice() ? l.kickVoice()->drive : l.shape.drive).driveDb *= 0.5;
               })};
  out.push_back(f);
}

struct Boost {
  bool bass;
  double hz, gainDb;
};

void addBoostsOf(const Eq& eq, bool bass, double least, std::vector<Boost>& out) {
  constexpr double kBoostsBelowHz = 150.0;
  if (!eq.on) return;
  for (const EqBand& b : eq.bands)
    if (b.on && b.gainDb >= least && b.hz <= kBoostsBelowHz && b.kind != EqBand::Kind::Notch &&
        b.kind != EqBand::Kind::HighShelf)
      out.push_back({bass, b.hz, b.gainDb});
}

void takeBack(Eq& eq, double hz) {
  for (EqBand& b : eq.bands)
    if (b.hz == hz && b.gainDb > 0.0) b.gainDb = 0.0;
}

void addBothBoosted(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kNearSemitones = 4.0;
  std::vector<Boost> boosts;
  for (bool bass : {false, true}) {
    for (const Layer* l : heardLayers(bass ? v.session.bass().layers : v.session.kick().layers))
      addBoostsOf(l->shape.eq, bass, v.limits.boost, boosts);
    const Finish& finish = bass ? v.session.bass().finish : v.session.kick().finish;
    if (finish.on) addBoostsOf(finish.eq, bass, v.limits.boost, boosts);
  }
  for (const Boost& k : boosts)
    for (const Boost& b : boosts) {
      if (k.bass || !b.bass || std::abs(12.0 * std::log2(k.hz / b.hz)) > kNearSemitones) continue;
      Finding f{.id = "both-boosted", .stage = Stage::Sounds, .verdict = Verdict::Watch, .value = b.gainDb,
                .unit = "dB"};
      f.sentence = "Kick and bass are both boosted near " + hzText(k.hz);
      f.measured = "kick " + signedDb(k.gainDb) + ", bass " + signedDb(b.gainDb);
      f.target = "one of the two";
      f.options = {{"Take back", "take back the bass's boost", [hz = b.hz](const Session& s) {
                      Session next = s;
                      for (Layer& l : next.bass().layers) takeBack(l.shape.eq, hz);
                      takeBack(next.bass().finish.eq, hz);
                      return next;
                    }}};
      out.push_back(f);
      return;
    }
}

}  // namespace

void addLayerLines(const LedgerView& v, std::vector<Finding>& out) {
  for (bool bass : {false, true}) {
    addStrikes(v, bass, out);
    addLowTails(v, bass, out);
  }
  addDrivenStrike(v, out);
  addBothBoosted(v, out);
  addFreePhase(v, out);
}

}  // namespace heft
