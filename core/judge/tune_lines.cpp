// Tune: whether each sound is on a note of the track.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

constexpr double kShortKickMs = 100.0;

// The note of the track nearest to a landing: the bass's main note in any octave, or the tonic.
int nearestRightNote(double midi, std::optional<int> bassMidi, const Key& key) {
  const int tonic = nearestOfClass(midi, key.tonic);
  if (!bassMidi) return tonic;
  const int bass = nearestOfClass(midi, *bassMidi % 12);
  return std::abs(bass - midi) <= std::abs(tonic - midi) ? bass : tonic;
}

// A fifth is right as well where the kick was tuned to it (common practice).
int rightNote(double midi, std::optional<int> bassMidi, const Key& key, bool chosen) {
  const int right = nearestRightNote(midi, bassMidi, key), fifth = nearestOfClass(midi, (key.tonic + 7) % 12);
  return chosen && std::lround(midi) == fifth ? fifth : right;
}

Remedy tuneTo(const LedgerView& v, int midi) {
  const auto id = landingLayerId(v).value_or(v.session.kickLayer()->id);
  return remedyOf(
      "Tune to " + noteName(midi, v.session.track.notes),
      setLayerLanding("tune kick to " + noteName(midi, v.session.track.notes), v.session.kick().id, id, midi));
}

// Moves every layer, for sounds whose note is made by several.
Remedy shiftAll(const Part& kick, double semitones, const std::string& note) {
  return remedyOf("Shift to " + note, shiftLayers(kick, semitones), "shift all layers of the kick to " + note);
}

// The right note first, then the list's other proposals, smallest shift first.
std::vector<Remedy> tuneMoves(const LedgerView& v, double midi, int right) {
  std::vector<Remedy> out = {tuneTo(v, right)};
  for (const TuneTarget& t : tuneTargets(midi, noteUnderMostHits(v.session), v.session.track.key))
    if (t.midi != right && out.size() < 4 && t.kind != TargetKind::Scale &&
        std::abs(t.semitones) <= v.limits.strainWatch)
      out.push_back(tuneTo(v, t.midi));
  if (v.study.pair.kick.layers.size() > 1)
    out.push_back(shiftAll(v.session.kick(), right - midi, noteName(right, v.session.track.notes)));
  return out;
}

// For a kick too far from its note: where else it could go, or that it needs another file.
std::string nearerNote(const LedgerView& v, double midi, int right) {
  const NoteStyle& notes = v.session.track.notes;
  const TuneTarget near = easiestTarget(midi, v.session.track.key);
  if (near.midi == right || near.kind == TargetKind::Scale || std::abs(near.semitones) > v.limits.strainWatch)
    return noteName(right, notes) + ": too far to shift this kick; try one recorded nearer to it";
  return noteName(right, notes) + ", or " + noteName(near.midi, notes) + " (the " +
         (near.kind == TargetKind::Fifth ? "fifth" : "tonic") + "), " +
         formatNumber(std::abs(near.semitones), 1) + " st away";
}

// A note of the key chosen by hand is not a fault.
bool isChosen(const LedgerView& v, double midi) {
  const auto id = landingLayerId(v);
  const int nearest = static_cast<int>(std::lround(midi));
  for (const Layer& l : v.session.kick().layers)
    if (id && l.id == *id)
      if (const auto target = landingTarget(l))
        return v.session.track.key.contains(nearest) && std::abs(*target - nearest) < 0.005 &&
               std::abs(midi - nearest) * 100.0 <= v.limits.keyWatch;
  return false;
}

std::string slideText(const Landing& landing, const Track& track) {
  const double midi = midiFromHz(*landing.heardHz, track.notes.a4Hz);
  return "glides " + formatNumber(landing.slideCents, 0) + " cents around " +
         noteName(static_cast<int>(std::lround(midi)), track.notes);
}

// The only line of a sound without an audible note.
void addSilent(const char* part, Finding f, std::vector<Finding>& out) {
  f.verdict = Verdict::Watch;
  f.sentence = std::string("The ") + part + " file is silent";
  f.measured = "silence";
  f.target = "a sound";
  out.push_back(f);
}

void addKickKey(const LedgerView& v, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  Finding f{.id = "kick-key", .stage = Stage::Tune, .target = "", .unit = "cents"};
  if (!v.study.pair.kick.sound->onsetSeconds) return addSilent("kick", f, out);
  const Landing& landing = v.study.pair.kick.sound->landing;
  const auto hz = landing.noteHz();
  if (!hz) {
    f.verdict = Verdict::Watch;
    f.sentence = "No clear pitch in the kick. Set its landing in Tune, or judge by ear";
    f.measured = landing.reason;
    f.target = "a steady tone";
    out.push_back(f);
    return;
  }
  f.ofANote = true;
  const double midi = midiFromHz(*hz, track.notes.a4Hz);
  // The ear resolves a short or gliding sound less finely, so it need not be exact.
  const bool shortKick = v.study.pair.kick.sound->tailMs < kShortKickMs, chosen = isChosen(v, midi);
  const int right = rightNote(midi, noteUnderMostHits(v.session), track.key, chosen);
  f.value = (midi - right) * 100.0;
  const bool loose = shortKick || landing.slides();
  const double holds = loose ? v.limits.looseHolds : v.limits.keyHolds;
  f.verdict = judged(std::abs(f.value), holds, loose ? v.limits.looseWatch : v.limits.keyWatch);
  if ((shortKick || chosen) && f.verdict == Verdict::Off) f.verdict = Verdict::Watch;
  const bool fine = f.verdict == Verdict::Holds;
  const std::string where =
      fine ? "on " + noteName(right, track.notes) : distanceText(midi, right, track.notes);
  f.sentence = landing.slides() ? "Kick sounds " + where : "Kick lands " + where;
  if (chosen && !fine && std::lround(midi) != right)
    f.sentence = "Kick lands on " + noteName(static_cast<int>(std::lround(midi)), track.notes) + ", in " +
                 track.key.name() + " but not the bass note";
  f.measured = hzText(*hz) + ", " + pitchText(midi, track.notes);
  f.target = noteName(right, track.notes) + " within " + formatNumber(holds, 0) + " cents";
  if (!fine) f.options = tuneMoves(v, midi, right);
  if (!fine && std::abs(midi - right) > v.limits.strainWatch) f.target = nearerNote(v, midi, right);
  out.push_back(f);
}

// Of kicks that their section's version or automation changes: each against the bass note under it.
void addKickAlong(const LedgerView& v, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  struct Landed {
    double midi = 0.0;
    int right = 0;
  };
  const auto landedAt = [&](size_t i) -> std::optional<Landed> {
    const HitFacts& h = v.study.pair.hits[i];
    const auto hz = h.kickSound ? h.kickSound->landing.noteHz() : std::nullopt;
    if (!hz) return std::nullopt;
    const double midi = midiFromHz(*hz, track.notes.a4Hz);
    const auto under = h.noteMidi ? h.noteMidi : noteUnderMostHits(v.session);
    return Landed{midi, rightNote(midi, under, track.key, true)};  // chosen with the version or the curve
  };
  Finding f{.id = "kick-key-hits", .stage = Stage::Tune, .unit = "cents"};
  size_t judgedOnes = 0;
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const auto landed = landedAt(i);
    if (!landed) return std::nullopt;
    ++judgedOnes;
    const double cents = 100.0 * (landed->midi - landed->right);
    const bool loose = v.study.pair.hits[i].kickSound->landing.slides();
    return HitLine{0,
                   judged(std::abs(cents), loose ? v.limits.looseHolds : v.limits.keyHolds,
                          loose ? v.limits.looseWatch : v.limits.keyWatch),
                   cents};
  });
  if (judgedOnes == 0) return;
  f.ofANote = true;
  const auto worst = std::max_element(f.hits.begin(), f.hits.end(), [](const HitLine& a, const HitLine& b) {
    return std::abs(a.value) < std::abs(b.value);
  });
  f.target = "each within " + formatNumber(v.limits.keyHolds, 0) + " cents of its note";
  if (f.verdict == Verdict::Holds || worst == f.hits.end()) {
    f.sentence = "Kick lands on its notes where sections or automation change it";
    f.measured = std::to_string(judgedOnes) + (judgedOnes == 1 ? " such hit" : " such hits");
  } else {
    // Somebody chose that version, or drew that curve.
    f.verdict = Verdict::Watch;
    f.hit = worst->hit, f.value = worst->value;
    const auto landed = *landedAt(static_cast<size_t>(worst->hit));
    f.sentence = "Kick lands off its note " + atHits(v, f);
    f.measured = distanceText(landed.midi, landed.right, track.notes) + " at " + hitName(v, worst->hit);
  }
  out.push_back(f);
}

void addSlide(const LedgerView& v, std::vector<Finding>& out) {
  const Landing& landing = v.study.pair.kick.sound->landing;
  if (!landing.slides()) return;
  Finding f{.id = "kick-slide", .stage = Stage::Tune, .value = landing.slideCents, .unit = "cents"};
  f.verdict = judged(f.value, v.limits.slideHolds, v.limits.slideWatch);
  // A sound too short to have a note may glide freely.
  if (f.verdict == Verdict::Off) f.verdict = Verdict::Watch;
  if (v.study.pair.kick.sound->tailMs < kShortKickMs) f.verdict = Verdict::Holds;
  const bool brief = v.study.pair.kick.sound->tailMs < kShortKickMs;
  f.sentence = brief ? "Kick is too short for its glide to be heard as one"
                     : "Kick " + slideText(landing, v.session.track) + " and never settles";
  f.measured = formatNumber(f.value, 0) + " cents glide while audible";
  f.target = brief ? "kicks under " + formatNumber(kShortKickMs, 0) + " ms may glide"
                   : "settles within " + formatNumber(v.limits.slideHolds, 0) + " cents";
  const auto id = landingLayerId(v).value_or(v.session.kickLayer()->id);
  if (f.verdict != Verdict::Holds)
    f.options = {remedyOf("Straighten tail", putValue("straighten the kick's tail", {v.session.kick().id, id},
                                                      "recorded.flatten", 1.0))};
  out.push_back(f);
}

std::vector<Remedy> ontoItsNotes(const Part& bass, int layer, double offSemitones) {
  const Edit back = putValue("take back the bass's shift", {bass.id, layer}, "semitones", 0.0);
  return {remedyOf("Tune bass", playFromMeasured(bass)),
          remedyOf("Tune bass", allOf(back.name, {playFromMeasured(bass), back})),
          remedyOf("Tune bass", shiftFirstLayer(bass, -offSemitones), "shift bass onto its notes")};
}

// The bass's sound as heard against the note that it is to play.
void addBassPitch(const LedgerView& v, const Layer& layer, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  Finding f{.id = "bass-key", .stage = Stage::Tune, .unit = "cents"};
  if (!v.study.pair.bass.sound->onsetSeconds) return addSilent("bass", f, out);
  const auto hz = v.study.pair.bass.sound->landing.noteHz();
  const int played = *v.study.pair.bass.noteMidi;
  if (!hz) {
    const bool typed = layer.recorded() && layer.recorded()->rootMidi;
    f.verdict = typed ? Verdict::Holds : Verdict::Watch;
    f.sentence = typed ? "Bass plays from its typed root" : "No clear pitch in the bass: it plays untransposed";
    f.measured = v.study.pair.bass.sound->landing.reason;
    f.target = "type its root note in Tune";
    out.push_back(f);
    return;
  }
  f.ofANote = true;
  const double midi = midiFromHz(*hz, track.notes.a4Hz);
  f.value = (midi - played) * 100.0;
  f.verdict = judged(std::abs(f.value), v.limits.keyHolds, v.limits.keyWatch);
  f.measured = "sounds on " + pitchText(midi, track.notes);
  f.target = "played on " + noteName(played, track.notes);
  f.sentence = f.verdict == Verdict::Holds ? "Bass lands on its notes"
               : layer.recorded() && !layer.recorded()->followNotes
                   ? "Bass stays on " + pitchText(midi, track.notes) + " whatever its notes say"
                   : "Bass sounds " + distanceText(midi, played, track.notes) + " where it plays that";
  if (f.verdict != Verdict::Holds) f.options = ontoItsNotes(v.session.bass(), layer.id, midi - played);
  out.push_back(f);
}

void addStrangers(const LedgerView& v, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  std::vector<int> strangers;
  for (const Note& n : v.session.bass().notes)
    if (!track.key.contains(n.midi) && n.startQuarters < track.loopQuarters()) strangers.push_back(n.midi);
  if (strangers.empty()) return;
  Finding s{.id = "bass-scale",
            .stage = Stage::Tune,
            .verdict = Verdict::Watch,
            .value = static_cast<double>(strangers.size()),
            .unit = "notes"};
  s.sentence = strangers.size() == 1
                   ? "Bass note " + noteName(strangers[0], track.notes) + " is outside " + track.key.name()
                   : std::to_string(strangers.size()) + " bass notes are outside " + track.key.name();
  s.measured = noteName(strangers[0], track.notes) + (strangers.size() > 1 ? " and others" : "");
  s.target = "notes of " + track.key.name() + "; judge passing notes by ear";
  out.push_back(s);
}

void addMuted(const Part& part, std::vector<Finding>& out) {
  Finding f{.id = part.role + "-muted", .stage = Stage::Sounds, .verdict = Verdict::Watch, .unit = ""};
  f.sentence = "The " + part.role + " is muted: nothing to check";
  f.measured = "no audible layer";
  f.target = "at least one layer";
  f.options = {remedyOf("Unmute " + part.role, unmutePart(part))};
  out.push_back(f);
}

}  // namespace

void addMutedLines(const LedgerView& view, std::vector<Finding>& out) {
  for (const PairPart& p : pairIn(view))
    if (p.muted) addMuted(p.part, out);
}

void addTuneLines(const LedgerView& view, std::vector<Finding>& out) {
  if (view.study.pair.kick.sound && !view.study.pair.kick.muted &&
      !isOfAPiece(view.session.kick(), view.study.pair.kick.source)) {
    addKickKey(view, out);
    addKickAlong(view, out);
    addSlide(view, out);
  }
  const Layer* bass = view.session.bassLayer();
  if (!bass || !view.study.pair.bass.sound || view.study.pair.bass.muted) return;
  if (isOfAPiece(view.session.bass(), view.study.pair.bass.source)) return;
  if (view.study.pair.bass.noteMidi) addBassPitch(view, *bass, out);
  addStrangers(view, out);
}

}  // namespace heft
