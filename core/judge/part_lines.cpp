// Parts beside kick and bass: whether their notes are in the key, and whether lines sound on their notes.

#include <cmath>
#include <set>

#include "core/judge/lines.h"
#include "core/judge/part_tuning.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

// A line must sound on its notes; beside the bass that is at most a watch, being a matter of taste.
void addPartNotes(const LedgerView& v, const Part& part, const PartFacts& of, Finding f,
                  std::vector<Finding>& out) {
  const Track& track = v.session.track;
  const Layer& first = part.layers.front();
  const auto hz = of.sound->landing.noteHz();
  if (!hz) {
    const bool typed = first.recorded() && first.recorded()->rootMidi;
    f.verdict = typed ? Verdict::Holds : Verdict::Watch;
    f.sentence = typed ? part.title() + " plays from its typed root"
                       : "No clear pitch in " + part.title() + ": it plays untransposed";
    f.measured = of.sound->landing.reason;
    f.target = "type its root note in Sounds";
    out.push_back(f);
    return;
  }
  f.ofANote = true;
  const double midi = midiFromHz(*hz, track.notes.a4Hz), played = *of.noteMidi;
  f.value = (midi - played) * 100.0;
  f.verdict = std::abs(f.value) <= v.limits.looseHolds ? Verdict::Holds : Verdict::Watch;
  f.sentence =
      f.verdict == Verdict::Holds
          ? part.title() + " lands on its notes"
          : part.title() + " sounds " + distanceText(midi, *of.noteMidi, track.notes) + " where it plays that";
  f.measured = "sounds on " + pitchText(midi, track.notes);
  f.target = "played on " + noteName(*of.noteMidi, track.notes);
  if (f.verdict != Verdict::Holds)
    for (const Edit& edit : {playFromMeasured(part), shiftFirstLayer(part, played - midi)})
      f.options.push_back(remedyOf("Tune to " + noteName(*of.noteMidi, track.notes), edit));
  out.push_back(f);
}

void addPartKey(const LedgerView& v, const PartFacts& of, std::vector<Finding>& out) {
  const Part* part = v.session.part(of.part);
  if (!part || part->layers.empty() || !of.sound || !of.sound->onsetSeconds) return;
  Finding f{.id = partKeyLineId(of.part), .stage = Stage::Tune, .unit = "cents"};
  if (of.noteMidi) return addPartNotes(v, *part, of, std::move(f), out);
  const auto hz = of.sound->landing.noteHz();
  if (!hz) return;
  f.ofANote = true;
  const Track& track = v.session.track;
  const double midi = midiFromHz(*hz, track.notes.a4Hz);
  const int right = nearestInKey(midi, track.key);
  f.value = (midi - right) * 100.0;
  // A drum above the pair is a matter of taste: never out.
  f.verdict = judged(std::abs(f.value), v.limits.looseHolds, v.limits.looseWatch);
  if (f.verdict == Verdict::Off) f.verdict = Verdict::Watch;
  const bool fine = f.verdict == Verdict::Holds;
  f.sentence = part->title() + (of.sound->landing.slides() ? " is heard " : " lands ") +
               (fine ? "on " + noteName(right, track.notes) : distanceText(midi, right, track.notes)) +
               ", a note of " + track.key.name();
  f.measured = hzText(*hz) + ", " + pitchText(midi, track.notes);
  f.target = "a note of the key within " + formatNumber(v.limits.looseHolds, 0) + " cents";
  if (!fine) {
    const int easiest = easiestTarget(midi, track.key).midi;
    for (const int to : std::set<int>{easiest, right}) {
      f.options.push_back(
          remedyOf("Tune to " + noteName(to, track.notes), tunePart(*part, midi, to, track.notes)));
      if (of.noteLayer)
        f.options.push_back(
            remedyOf("Tune to " + noteName(to, track.notes), tuneLayer(*part, *of.noteLayer, to, track.notes)));
    }
  }
  out.push_back(f);
}

}  // namespace

void addPartLines(const LedgerView& view, std::vector<Finding>& out) {
  for (const PartFacts& of : view.study.others) addPartKey(view, of, out);
}

}  // namespace heft
