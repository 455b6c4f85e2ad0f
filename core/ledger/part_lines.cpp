// Parts beside kick and bass: whether what has a note has one of the key's.

#include <cmath>
#include <set>

#include "core/ledger/lines.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

int nearestInKey(double midi, const Key& key) {
  int best = static_cast<int>(std::lround(midi));
  for (int away = 0; away < 12; ++away)
    for (const int way : {-1, 1}) {
      const int note = static_cast<int>(std::lround(midi)) + way * away;
      if (key.contains(note) && (!key.contains(best) || std::abs(note - midi) < std::abs(best - midi)))
        best = note;
    }
  return best;
}

void addPartKey(const LedgerView& v, const PartFacts& of, std::vector<Finding>& out) {
  const Part* part = v.session.part(of.part);
  const auto hz = of.facts ? of.facts->landing.noteHz() : std::nullopt;
  if (!part || !hz) return;
  const Track& track = v.session.track;
  const double midi = midiFromHz(*hz, track.notes.a4Hz);
  const int right = nearestInKey(midi, track.key);
  Finding f{.id = "part-" + std::to_string(of.part) + "-key", .stage = Stage::Tune, .unit = "cents"};
  f.value = (midi - right) * 100.0;
  // A drum over the pair is a matter of taste: never out.
  f.verdict = judged(std::abs(f.value), v.limits.looseHolds, v.limits.looseWatch);
  if (f.verdict == Verdict::Off) f.verdict = Verdict::Watch;
  const bool fine = f.verdict == Verdict::Holds;
  f.sentence = part->title() + (of.facts->landing.slides() ? " is heard " : " lands ") +
               (fine ? "on " + noteName(right, track.notes) : distanceText(midi, right, track.notes)) +
               ", a note of " + track.key.name();
  f.measured = hzText(*hz) + ", " + pitchText(midi, track.notes);
  f.target = "a note of the key within " + formatNumber(v.limits.looseHolds, 0) + " cents";
  if (!fine) {
    const int easiest = easiestTarget(midi, track.key).midi;
    for (const int to : std::set<int>{easiest, right}) {
      const Edit edit = tunePart(*part, to);
      f.options.push_back({"Tune", "tune " + partWord(*part) + " to " + noteName(to, track.notes),
                           [edit](const Session& s) { return edit.applied(s); }});
    }
  }
  out.push_back(f);
}

}  // namespace

void addPartLines(const LedgerView& view, std::vector<Finding>& out) {
  for (const PartFacts& of : view.study.others) addPartKey(view, of, out);
}

}  // namespace heft
