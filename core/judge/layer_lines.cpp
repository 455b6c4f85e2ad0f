// Layers that mask each other, and a bass whose notes start at any phase.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

Remedy lineUp(const Part& part, int id, double laterMs) {
  const Layer* l = part.layer(id);
  return remedyOf("Align layers",
                  putValue("align strikes", {part.id, id}, "offset_ms", (l ? l->offsetMs : 0.0) + laterMs));
}

// The two strikes closest in level that are a few ms apart: closer they are one, farther apart two hits.
void addStrikes(const LedgerView& v, const PairPart& p, std::vector<Finding>& out) {
  const LayerFacts *first = nullptr, *second = nullptr;
  double nearest = v.limits.strikesHold;
  for (const LayerFacts& a : p.layers)
    for (const LayerFacts& b : p.layers) {
      const double apart = b.strikeMs - a.strikeMs, level = std::abs(a.strikeDb - b.strikeDb);
      if (apart < v.limits.strikesApartMs || apart > v.limits.strikesFarMs) continue;
      if (a.otherSide == b.id && b.otherSide == a.id) continue;  // one strike and its tail
      if (std::max(a.strikeDb, b.strikeDb) < -60.0 || level >= nearest) continue;
      first = &a, second = &b, nearest = level;
    }
  if (!first) return;
  const std::string& part = p.part.role;
  const double apart = second->strikeMs - first->strikeMs;
  Finding f{.id = part + "-strikes", .stage = Stage::Sounds, .value = apart, .unit = "ms"};
  f.verdict = nearest < v.limits.strikesOff ? Verdict::Off : Verdict::Watch;
  f.sentence =
      "Two strikes of the " + part + " are " + formatNumber(apart, 1) + " ms apart and smear each other";
  f.measured =
      first->title + ", then " + second->title + ", " + formatNumber(nearest, 0) + " dB apart in level";
  f.target = "together within " + formatNumber(v.limits.strikesApartMs, 1) + " ms, or one " +
             formatNumber(v.limits.strikesHold, 0) + " dB under the other";
  f.options = {lineUp(p.part, second->id, -apart), lineUp(p.part, first->id, apart)};
  out.push_back(f);
}

void addLowTails(const LedgerView& v, const PairPart& p, std::vector<Finding>& out) {
  auto layers = p.layers;
  if (layers.size() < 2) return;
  constexpr double kCutBelowHz = 150.0;
  std::stable_sort(layers.begin(), layers.end(),
                   [](const LayerFacts& a, const LayerFacts& b) { return a.lowTailDb > b.lowTailDb; });
  const double under = layers[0].lowTailDb - layers[1].lowTailDb;
  const std::string& part = p.part.role;
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
      f.options.push_back(remedyOf("Cut lows", cutLayerLows("cut lows of " + layers[i].title, p.part.id,
                                                            layers[i].id, kCutBelowHz, 48)));
  out.push_back(f);
}

// Cost of a free-running start: the spread of the pair's level over the hits.
void addFreePhase(const LedgerView& v, std::vector<Finding>& out) {
  const Layer* free = nullptr;
  for (const Layer* l : heardLayers(v.session.bass().layers))
    if (l->bassVoice() && l->bassVoice()->freePhase && !free) free = l;
  if (!free) return;
  double low = 1e9, high = -1e9;
  for (const HitFacts& h : v.study.pair.hits)
    if (h.meets()) low = std::min(low, h.levelDb), high = std::max(high, h.levelDb);
  const double spread = high > low ? high - low : 0.0;
  Finding f{.id = "free-phase", .stage = Stage::Align, .value = spread, .unit = "dB"};
  f.verdict = judged(spread, v.limits.spreadHolds, v.limits.spreadWatch);
  f.sentence = f.verdict == Verdict::Holds ? "Free-running phase, hits still match"
                                           : "Free-running start: from hit to hit the pair's level varies by " +
                                                 fixedNumber(spread, 1) + " dB";
  f.measured = fixedNumber(spread, 1) + " dB from the best hit to the worst";
  f.target = "within " + fixedNumber(v.limits.spreadHolds, 1) + " dB";
  if (f.verdict != Verdict::Holds)
    f.options = {remedyOf("Lock start phase",
                          putValue("start every note at the same phase", {v.session.bass().id, free->id},
                                   "built_bass.free_phase", false))};
  out.push_back(f);
}

// Common practice: the strike bypasses the drive.
void addDrivenStrike(const LedgerView& v, std::vector<Finding>& out) {
  const LayerFacts* worst = nullptr;
  for (const LayerFacts& l : v.study.pair.kick.layers)
    if (l.strikeLossDb > v.limits.strikeLossHolds && (!worst || l.strikeLossDb > worst->strikeLossDb))
      worst = &l;
  if (!worst) return;
  Finding f{.id = "strike-driven", .stage = Stage::Sounds, .value = worst->strikeLossDb, .unit = "dB"};
  f.verdict = judged(f.value, v.limits.strikeLossHolds, v.limits.strikeLossWatch);
  f.sentence = "The drive of " + worst->title + " flattens its strike";
  f.measured = "strike " + plainDb(f.value) + " lower against the body than without drive";
  f.target = "at most " + formatNumber(v.limits.strikeLossHolds, 0) + " dB lower";
  const Owner layer{v.session.kick().id, worst->id};
  f.options = {remedyOf("Keep strike clean",
                        putValue("bypass drive for strike", layer, "built_kick.strike.through_drive", false)),
               remedyOf("Raise strike", raiseStrike(*layer.part, worst->id, worst->strikeLossDb)),
               remedyOf("Ease drive", easeDrive(*layer.part, worst->id))};
  out.push_back(f);
}

struct Boost {
  double hz, gainDb;
};

void addBoostsIn(const Eq& eq, double least, std::vector<Boost>& out) {
  constexpr double kBoostsBelowHz = 150.0;
  if (!eq.on) return;
  for (const EqBand& b : eq.bands)
    if (b.on && eq.amount * b.gainDb >= least && b.hz <= kBoostsBelowHz && b.kind != EqBand::Kind::Notch &&
        b.kind != EqBand::Kind::HighShelf)
      out.push_back({b.hz, eq.amount * b.gainDb});
}

void addBoostsIn(const Chain& chain, double least, std::vector<Boost>& out) {
  if (!chain.on) return;
  for (const Processor& p : chain.list)
    if (const Eq* eq = p.as<Eq>()) addBoostsIn(*eq, least, out);
}

std::vector<Boost> boostsOf(const Part& part, double least) {
  std::vector<Boost> out;
  for (const Layer* l : heardLayers(part.layers)) addBoostsIn(l->chain, least, out);
  addBoostsIn(part.finish, least, out);
  return out;
}

void addBothBoosted(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kNearSemitones = 4.0;
  const auto ofKick = boostsOf(v.session.kick(), v.limits.boost),
             ofBass = boostsOf(v.session.bass(), v.limits.boost);
  for (const Boost& k : ofKick)
    for (const Boost& b : ofBass) {
      if (std::abs(12.0 * std::log2(k.hz / b.hz)) > kNearSemitones) continue;
      Finding f{.id = "both-boosted",
                .stage = Stage::Sounds,
                .verdict = Verdict::Watch,
                .value = b.gainDb,
                .unit = "dB"};
      f.sentence = "Kick and bass are both boosted near " + hzText(k.hz);
      f.measured = "kick " + signedDb(k.gainDb) + ", bass " + signedDb(b.gainDb);
      f.target = "one of the two";
      f.options = {remedyOf("Remove boost", takeBackBoosts(v.session.bass(), b.hz))};
      out.push_back(f);
      return;
    }
}

// A layer without lows that alone makes the kick's peak, where the sum is raised into a limiter or clips.
void addLayerPeak(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kOverDb = 6.0, kUnderTailDb = 12.0, kClipDb = 4.0, kLowerDb = -2.0;
  const auto& layers = v.study.pair.kick.layers;
  const bool matters = v.study.ceiling || v.study.sum.truePeakDbtp > v.limits.peakHolds;
  if (layers.size() < 2 || !matters) return;
  const auto most = std::max_element(layers.begin(), layers.end(),
                                     [](const auto& a, const auto& b) { return a.peakDb < b.peakDb; });
  double others = kNothingDb, tail = kNothingDb;
  for (const LayerFacts& l : layers) {
    tail = std::max(tail, l.lowTailDb);
    if (l.id != most->id) others = std::max(others, l.peakDb);
  }
  const Part& kick = v.session.kick();
  const Layer* layer = kick.layer(most->id);
  if (!layer || most->peakDb - others < kOverDb || most->lowTailDb > tail - kUnderTailDb) return;
  Finding f{.id = "kick-layer-peak",
            .stage = Stage::Sounds,
            .verdict = Verdict::Watch,
            .value = most->peakDb - others,
            .unit = "dB"};
  f.sentence = most->title + " alone makes the kick's peak";
  f.measured = plainDb(most->peakDb - others) + " over its other layers";
  f.target = "less than " + formatNumber(kOverDb, 0) + " dB over them";
  const Owner of{.part = kick.id, .layer = layer->id};
  // Its level comes after its chain.
  if (auto clip = clipping("Clip " + most->title, of, layer->chain, most->peakDb - layer->levelDb, kClipDb))
    f.options.push_back(std::move(*clip));
  f.options.push_back(
      remedyOf("Lower " + most->title + " 2 dB",
               putValue("lower " + most->title + " by 2 dB", of, "level_db", layer->levelDb + kLowerDb)));
  out.push_back(f);
}

}  // namespace

void addLayerLines(const LedgerView& v, std::vector<Finding>& out) {
  for (const PairPart& p : pairIn(v)) {
    addStrikes(v, p, out);
    addLowTails(v, p, out);
  }
  addDrivenStrike(v, out);
  addBothBoosted(v, out);
  addFreePhase(v, out);
  addLayerPeak(v, out);
}

}  // namespace heft
