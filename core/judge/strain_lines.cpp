// Side effects of shifts: distance from the recording, and a strike that is shifted too.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

// Strain of a layer, as a share of what such a sound tolerates.
double strainIn(const LayerFacts& l, const Part& of, const Limits& limits) {
  return std::abs(l.semitones) /
         (of.playsNotes() || l.isPlainLow() ? limits.lowStrainWatch : limits.strainWatch);
}

const LayerFacts* mostStrained(const PairPart& p, const Limits& limits) {
  const LayerFacts* out = nullptr;
  for (const LayerFacts& l : p.layers)
    if (std::abs(l.semitones) >= 0.005 &&
        (!out || strainIn(l, p.part, limits) > strainIn(*out, p.part, limits)))
      out = &l;
  return out;
}

std::string shiftText(double semitones) {
  return (semitones > 0 ? "+" : "") + formatNumber(semitones, 2) + " semitones";
}

Edit tuneAnew(const std::string& name, int part, int layer, int midi) {
  return allOf(name,
               {putValue(name, {part, layer}, "semitones", 0.0), setLayerLanding(name, part, layer, midi)});
}

// Notes that shift the layer less, then no target at all.
std::vector<Remedy> gentlerMoves(const LedgerView& v, const LayerFacts& worst) {
  std::vector<Remedy> out;
  const int kick = v.session.kick().id;
  const auto hz = v.study.pair.kick.sound ? v.study.pair.kick.sound->landing.noteHz() : std::nullopt;
  if (hz) {
    const double recorded = midiFromHz(*hz, v.session.track.notes.a4Hz) - worst.semitones;
    auto targets = tuneTargets(recorded, noteUnderMostHits(v.session), v.session.track.key);
    std::stable_sort(targets.begin(), targets.end(), [](const TuneTarget& a, const TuneTarget& b) {
      return std::abs(a.semitones) < std::abs(b.semitones);
    });
    for (const TuneTarget& t : targets)
      if (std::abs(t.semitones) < std::abs(worst.semitones) && out.size() < 3)
        out.push_back(remedyOf(
            "Tune to " + noteName(t.midi, v.session.track.notes),
            tuneAnew("tune kick to " + noteName(t.midi, v.session.track.notes), kick, worst.id, t.midi)));
  }
  out.push_back(remedyOf("Reset shift", takeBackShift("reset kick shift", kick, worst.id)));
  return out;
}

// An octave up or down, the line keeps its note names and gets closer to the recording.
Remedy octaveMove(const Session& s, bool up) {
  const PatternRange line{0.0, s.track.loopQuarters(), {s.bass().id}};
  return remedyOf(up ? "Bass octave up" : "Bass octave down", transposeRange(line, up ? 12 : -12, {}),
                  std::string("play the bass line an octave ") + (up ? "higher" : "lower"));
}

void addStrain(const LedgerView& v, const PairPart& p, std::vector<Finding>& out) {
  const LayerFacts* worst = mostStrained(p, v.limits);
  if (!worst) return;
  const bool bass = p.part.playsNotes();
  const bool low = bass || worst->isPlainLow();
  const double holds = low ? v.limits.lowStrainHolds : v.limits.strainHolds,
               watch = low ? v.limits.lowStrainWatch : v.limits.strainWatch;
  Finding f{
      .id = p.part.role + "-strain", .stage = Stage::Tune, .value = worst->semitones, .unit = "semitones"};
  // A shift of one to two semitones is common practice: a price, not a fault in itself.
  f.isPrice = true;
  // An octave is one regardless of cents.
  constexpr double kBesideLow = 0.5;
  f.verdict = judged(std::abs(worst->semitones) - (low ? kBesideLow : 0.0), holds, watch);
  const std::string what = bass ? "The bass line shifts its sound" : "The kick's shift takes " + worst->title;
  f.sentence =
      f.verdict == Verdict::Holds   ? (bass ? "The bass stays close to its root" : "The kick shift is small")
      : f.verdict == Verdict::Watch ? what + " close to its limit"
                                    : what + " too far to keep its character; try a sample nearer the note";
  f.measured = shiftText(worst->semitones) + (low && !bass ? ", a plain low layer" : "");
  f.target = "up to " + formatNumber(holds, 0) + ", at most " + formatNumber(watch, 0);
  if (f.verdict == Verdict::Off && !bass) f.options = gentlerMoves(v, *worst);
  if (f.verdict != Verdict::Holds && bass) f.options = {octaveMove(v.session, worst->semitones < 0.0)};
  out.push_back(f);
}

// Common practice: the strike is left alone where the body moves down.
void addStrikeAlong(const LedgerView& v, std::vector<Finding>& out) {
  for (const LayerFacts& l : v.study.pair.kick.layers) {
    if (!l.pitchesStrike || l.isPlainLow() || l.semitones > -v.limits.strainWatch) continue;
    Finding f{.id = "strike-along",
              .stage = Stage::Tune,
              .verdict = Verdict::Watch,
              .value = l.semitones,
              .unit = "semitones"};
    f.sentence = "The strike of " + l.title + " is pitched down with its body";
    f.measured = shiftText(l.semitones);
    f.target = "strike untouched, or moved less than " + formatNumber(v.limits.strainWatch, 0) + " semitones";
    f.options = {remedyOf("Keep strike", putValue("split the strike from the body", {v.session.kick().id, l.id},
                                                  "recorded.method", std::string(nameOf(TuneMethod::Split))))};
    out.push_back(f);
    return;
  }
}

}  // namespace

void addStrainLines(const LedgerView& view, std::vector<Finding>& out) {
  const auto [kick, bass] = pairIn(view);
  addStrain(view, kick, out);
  addStrikeAlong(view, out);
  addStrain(view, bass, out);
}

}  // namespace heft
