// Tune and length: is each sound on a note of the track, what did it cost, is its tail as long as it should be.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

constexpr double kShortKickMs = 100.0;

std::string ms(double value) {
  return formatNumber(value, 0) + " ms";
}

// The note of the track that a landing is nearest to: the bass's main note in any octave, or the tonic.
int nearestRightNote(double midi, int bassMidi, const Key& key) {
  const int tonic = nearestOfClass(midi, key.tonic);
  if (bassMidi < 0) return tonic;
  const int bass = nearestOfClass(midi, bassMidi % 12);
  return std::abs(bass - midi) <= std::abs(tonic - midi) ? bass : tonic;
}

Remedy tuneTo(int midi, const NoteStyle& notes) {
  return {"Tune", "tune kick to " + noteName(midi, notes), [midi](const Session& s) {
            Session next = s;
            if (!next.kick.layers.empty()) setLanding(next.kick.layers.front(), midi);
            return next;
          }};
}

void addKickKey(const LedgerView& v, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  Finding f{.id = "kick-key", .stage = Stage::Tune, .target = "", .unit = "cents"};
  const Landing& landing = v.study.kick->landing;
  if (!landing.hz) {
    f.verdict = Verdict::Watch;
    f.sentence = "No landing note can be told for the kick";
    f.measured = landing.reason;
    f.target = "a tone that rests";
    out.push_back(f);
    return;
  }
  const double midi = midiFromHz(*landing.hz, track.notes.a4Hz);
  const int right = nearestRightNote(midi, noteUnderMostHits(v.session), track.key);
  f.value = (midi - right) * 100.0;
  f.verdict = judged(std::abs(f.value), v.limits.keyHolds, v.limits.keyWatch);
  // A short kick need not be exact.
  if (v.study.kick->tailMs < kShortKickMs && f.verdict == Verdict::Off) f.verdict = Verdict::Watch;
  const bool fine = f.verdict == Verdict::Holds;
  f.sentence =
      "Kick lands " + (fine ? "on " + noteName(right, track.notes) : distanceText(midi, right, track.notes));
  f.measured = hzText(*landing.hz) + ", " + pitchText(midi, track.notes);
  f.target = noteName(right, track.notes) + " within " + formatNumber(v.limits.keyHolds, 0) + " cents";
  if (!fine) f.remedy = tuneTo(right, track.notes);
  out.push_back(f);
}

void addStrain(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.readyKick || std::abs(v.study.readyKick->semitones) < 0.005) return;
  const double shift = v.study.readyKick->semitones;
  Finding f{.id = "kick-strain", .stage = Stage::Tune, .value = shift, .unit = "semitones"};
  f.verdict = judged(std::abs(shift), v.limits.strainHolds, v.limits.strainWatch);
  f.sentence = f.verdict == Verdict::Holds ? "The kick's shift is light"
               : f.verdict == Verdict::Watch
                   ? "The kick's shift begins to show"
                   : "The kick is shifted so far that it loses itself; another sample would bear less";
  f.measured = (shift > 0 ? "+" : "") + formatNumber(shift, 2) + " semitones";
  f.target =
      "up to " + formatNumber(v.limits.strainHolds, 0) + ", at most " + formatNumber(v.limits.strainWatch, 0);
  if (f.verdict == Verdict::Off)
    f.remedy = Remedy{"Take back", "take back the kick's shift", [](const Session& s) {
                        Session next = s;
                        if (!next.kick.layers.empty()) next.kick.layers.front().targetMidi.reset();
                        return next;
                      }};
  out.push_back(f);
}

void addBassKey(const LedgerView& v, std::vector<Finding>& out) {
  const auto& track = v.session.track;
  const Layer* layer = v.session.bassLayer();
  if (!layer || !v.study.bass) return;
  Finding f{.id = "bass-key", .stage = Stage::Tune, .unit = "cents"};
  const Landing& landing = v.study.bass->landing;
  if (!landing.hz) {
    f.verdict = layer->rootMidi ? Verdict::Holds : Verdict::Watch;
    f.sentence = layer->rootMidi ? "Bass plays from its typed root"
                                 : "No note can be told for the bass sound, so it is played as it is";
    f.measured = landing.reason;
    f.target = "type its root note in Tune";
    out.push_back(f);
  } else {
    const double midi = midiFromHz(*landing.hz, track.notes.a4Hz);
    f.value = (midi - v.study.bassRootMidi.value_or(midi)) * 100.0;
    f.verdict = judged(std::abs(f.value), v.limits.keyHolds, v.limits.keyWatch);
    const std::string cents = formatNumber(std::abs(f.value), 0) + " cents";
    f.sentence = f.verdict == Verdict::Holds
                     ? "Bass lands on its notes"
                     : "Bass sounds " + cents + (f.value < 0 ? " under" : " over") + " its notes";
    f.measured = "its sound lands on " + pitchText(midi, track.notes);
    f.target = "played from " + pitchText(v.study.bassRootMidi.value_or(midi), track.notes);
    if (f.verdict != Verdict::Holds)
      f.remedy = Remedy{"Tune", "play bass from its measured note", [](const Session& s) {
                          Session next = s;
                          if (!next.bass.layers.empty()) next.bass.layers.front().rootMidi.reset();
                          return next;
                        }};
    out.push_back(f);
  }
  std::vector<int> strangers;
  for (const Note& n : v.session.bass.notes)
    if (!track.key.contains(n.midi) && n.startQuarters < track.loopQuarters()) strangers.push_back(n.midi);
  if (strangers.empty()) return;
  Finding s{.id = "bass-scale",
            .stage = Stage::Tune,
            .verdict = Verdict::Watch,
            .value = static_cast<double>(strangers.size()),
            .unit = "notes"};
  s.sentence = strangers.size() == 1
                   ? "Bass note " + noteName(strangers[0], track.notes) + " lies outside " + track.key.name()
                   : std::to_string(strangers.size()) + " bass notes lie outside " + track.key.name();
  s.measured = noteName(strangers[0], track.notes) + (strangers.size() > 1 ? " and others" : "");
  s.target = "notes of " + track.key.name();
  out.push_back(s);
}

Remedy trimTo(const TimeValue& length) {
  return {"Trim", "trim kick to " + length.text(), [length](const Session& s) {
            Session next = s;
            if (!next.kick.layers.empty()) setLength(next.kick.layers.front(), length);
            return next;
          }};
}

void addTailLength(const LedgerView& v, std::vector<Finding>& out) {
  const double target = v.session.kick.tailTarget.toMs(v.session.track.tempoBpm), tail = v.study.kick->tailMs;
  if (!(target > 0.0)) return;
  const std::string name =
      v.session.kick.tailTarget == TimeValue::note(1, 16) ? "the sixteenth" : v.session.kick.tailTarget.text();
  Finding f{.id = "kick-tail", .stage = Stage::Sounds, .value = tail, .unit = "ms"};
  f.verdict = judged(tail / target, v.limits.tailHolds, v.limits.tailWatch);
  f.sentence =
      f.verdict == Verdict::Holds ? "Kick fits " + name : "Tail outlasts " + name + " by " + ms(tail - target);
  f.measured = ms(tail) + " to -40 dB";
  f.target = name == "the sixteenth" ? "1/16 is " + ms(target) : ms(target);
  if (f.verdict != Verdict::Holds) f.remedy = trimTo(v.session.kick.tailTarget);
  out.push_back(f);
}

void addTailOverNote(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.hits)
    if (h.nextNoteGapMs && (!worst || h.tailAtNextNoteDb > worst->tailAtNextNoteDb)) worst = &h;
  if (!worst) return;
  Finding f{.id = "kick-over-note", .stage = Stage::Sounds, .value = worst->tailAtNextNoteDb, .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(worst->tailAtNextNoteDb, v.limits.overHolds, v.limits.overWatch);
  const std::string at = std::to_string(f.hit + 1);
  f.sentence = f.verdict == Verdict::Holds
                   ? "Kick is gone before the next bass note"
                   : "After hit " + at + " the kick still sounds when the next bass note starts";
  f.measured = f.value <= -119 ? "silent by then"
                               : formatNumber(f.value, 0) + " dB re its peak, " + ms(*worst->nextNoteGapMs) +
                                     " after hit " + at;
  f.target = "below " + formatNumber(v.limits.overHolds, 0) + " dB";
  if (f.verdict != Verdict::Holds) {
    // The gap in whole sixteenths, at least one: what the pattern leaves for the kick.
    const double sixteenth = 15000.0 / v.session.track.tempoBpm;
    const int count = std::max(1, static_cast<int>(*worst->nextNoteGapMs / sixteenth + 0.01));
    TimeValue length = TimeValue::note(count, 16);
    if (count * sixteenth > *worst->nextNoteGapMs + 1.0)
      length = TimeValue::milliseconds(std::max(20.0, *worst->nextNoteGapMs));
    f.remedy =
        trimTo(length.toMs(v.session.track.tempoBpm) < v.session.kick.tailTarget.toMs(v.session.track.tempoBpm)
                   ? length
                   : v.session.kick.tailTarget);
  }
  out.push_back(f);
}

}  // namespace

void addTuneLines(const LedgerView& view, std::vector<Finding>& out) {
  if (view.study.kick) {
    addKickKey(view, out);
    addStrain(view, out);
  }
  addBassKey(view, out);
}

void addTailLines(const LedgerView& view, std::vector<Finding>& out) {
  if (!view.study.kick || !view.study.kick->onsetSeconds) return;
  addTailLength(view, out);
  addTailOverNote(view, out);
}

}  // namespace heft
