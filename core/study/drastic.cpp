#include "core/study/drastic.h"

#include <algorithm>
#include <cmath>

#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kMoreDb = 0.25, kMoreMs = 1.0, kMoreSemitones = 0.05;
constexpr double kBesideSixteenth = 0.9;  // a tail trimmed to a note value may end a little before it
constexpr double kNearlyOctave = 11.5;

// The line's shift where all of its notes moved alike, else 0.
int lineShift(const Part& before, const Part& after) {
  if (before.notes.empty() || before.notes.size() != after.notes.size()) return 0;
  const int by = after.notes.front().midi - before.notes.front().midi;
  for (size_t i = 0; i < before.notes.size(); ++i)
    if (after.notes[i].midi - before.notes[i].midi != by) return 0;
  return by;
}

// Whether a tail was trimmed or a built kick shortened. Varispeed shortens a sound too, but the question
// about its shift covers that.
bool isCut(const Part& before, const Part& after) {
  for (const Layer& l : before.layers) {
    const Layer* now = after.layer(l.id);
    if (!now) continue;
    const Recorded *was = l.recorded(), *is = now->recorded();
    if (was && is && was->length != is->length) return true;
    const KickVoice *built = l.kickVoice(), *rebuilt = now->kickVoice();
    if (built && rebuilt && !(built->length == rebuilt->length)) return true;
  }
  return false;
}

}  // namespace

Reach reachOf(const Session& session, const Study& study) {
  Reach out;
  if (session.ducksBass()) out.dipDb = std::max(0.0, -study.pair.dip.depthDb);
  for (const LayerFacts& l : study.pair.kick.layers)
    if (std::abs(l.semitones) > std::abs(out.kickShift)) out.kickShift = l.semitones;
  if (!study.pair.kick.sound) return out;
  out.kickTailMs = study.pair.kick.sound->tailMs;
  if (const auto hz = study.pair.kick.sound->landing.noteHz())
    out.kickMidi = midiFromHz(*hz, session.track.notes.a4Hz);
  return out;
}

std::string asksBefore(const Session& before, const Reach& now, const Session& after, const Reach& then) {
  std::vector<std::string> out;
  if (then.dipDb > kDeepestUnaskedDb + kMoreDb && then.dipDb > now.dipDb + kMoreDb)
    out.push_back("ducks the bass by " + formatNumber(std::min(then.dipDb, 120.0), 0) + " dB");
  const double sixteenth = TimeValue::note(1, 16).toMs(after.track.tempoBpm);
  if (isCut(before.kick(), after.kick()) && then.kickTailMs &&
      *then.kickTailMs < kBesideSixteenth * sixteenth &&
      (!now.kickTailMs || *then.kickTailMs < *now.kickTailMs - kMoreMs))
    out.push_back("cuts the kick to " + formatNumber(*then.kickTailMs, 0) + " ms, under a 1/16");
  const bool octave =
      now.kickMidi && then.kickMidi && std::abs(*then.kickMidi - *now.kickMidi) >= kNearlyOctave;
  if (octave)
    out.push_back("moves the kick by an octave");
  else if (std::abs(then.kickShift) > kFurthestUnaskedSemitones + kMoreSemitones &&
           std::abs(then.kickShift) > std::abs(now.kickShift) + kMoreSemitones)
    out.push_back("shifts the kick by " + formatNumber(then.kickShift, 1) + " st");
  if (std::abs(lineShift(before.bass(), after.bass())) >= 12) out.push_back("moves the bass line by an octave");
  return listed(out);
}

}  // namespace heft
