#include "core/export/one_shots.h"

#include <cmath>
#include <set>

#include "core/measure/levels/loudness.h"
#include "core/session/edits/edit.h"
#include "core/session/versions.h"

namespace heft {
namespace {

void scale(AudioBuffer& sound, double gain) {
  if (gain == 1.0) return;
  for (auto& channel : sound.channels)
    for (float& x : channel) x = static_cast<float>(x * gain);
}

// Raises or lowers it to that true peak; silence stays.
void scaleToPeak(AudioBuffer& sound, double peakDb) {
  if (const auto gainDb = gainToPeakDb(sound, peakDb)) scale(sound, amplitudeFromDb(*gainDb));
}

// A part's level and the polarity of its lane.
double gainOf(const Part& part) {
  return amplitudeFromDb(part.levelDb) * (part.align.invert ? -1.0 : 1.0);
}

std::optional<OneShot> hitShot(const Part& part, const Track& track, const SoundSteps& steps) {
  const auto ready = steps.kick(part, track);
  if (!ready || ready->sound.frames() == 0) return std::nullopt;
  OneShot out{partWord(part), part.title() + ", one-shot", ready->sound, {}};
  scale(out.sound, gainOf(part));
  const auto facts = steps.kickFacts(part, track);
  if (!facts || !facts->landing.noteHz()) return out;
  const double midi = midiFromHz(*facts->landing.noteHz(), track.notes.a4Hz);
  out.name += " " + noteName(static_cast<int>(std::lround(midi)), track.notes);
  out.what += ", lands on " + pitchText(midi, track.notes);
  out.root = RootNote{midi};
  return out;
}

std::optional<OneShot> noteShot(const Part& part, const Track& track, const SoundSteps& steps,
                                std::optional<double> midi) {
  const double note = std::round(midi.value_or(33.0));
  const Keyed made = steps.bassNote(part, track, note);
  if (!made.sound || made.sound->frames() == 0) return std::nullopt;
  OneShot out{partWord(part), part.title() + ", one-shot", *made.sound, {}};
  scale(out.sound, gainOf(part));
  if (!midi) return out;
  const std::string name = noteName(static_cast<int>(note), track.notes);
  out.name += " " + name, out.what += ", root " + name;
  out.root = RootNote{note};
  return out;
}

// The note at which a line is exported: a recording's root, for a built voice the note under most kick hits.
// hits.
std::optional<double> rootOf(const Part& part, const Session& s, const SoundSteps& steps) {
  const Layer* first = part.firstLayer();
  if (!first) return std::nullopt;
  if (!first->isBuilt()) return steps.bassRoot(*first, s.track);
  if (&part == &s.bass()) return noteUnderMostHits(s).value_or(lowTonic(s.track.key));
  return part.notes.empty() ? lowTonic(s.track.key) : part.notes.front().midi;
}

std::vector<OneShot> shotsOf(const Part& part, const Session& s, const SoundSteps& steps) {
  std::vector<OneShot> out;
  if (part.layers.empty()) return out;
  auto take = [&](std::optional<OneShot> shot) {
    if (shot) out.push_back(std::move(*shot));
  };
  if (!part.playsNotes()) {
    take(hitShot(part, s.track, steps));
  } else if (s.exports.everyNote && !part.notes.empty()) {
    std::set<int> used;
    for (const Note& n : part.notes) used.insert(n.midi);
    for (const int midi : used) take(noteShot(part, s.track, steps, midi));
  } else {
    take(noteShot(part, s.track, steps, rootOf(part, s, steps)));
  }
  return out;
}

bool isWanted(const Part& part, const ExportList& list) {
  return part.is() == PartRole::Kick   ? list.kickOneShot
         : part.is() == PartRole::Bass ? list.bassOneShot
                                       : list.partOneShots;
}

}  // namespace

Result<void> eachOneShot(const Session& s, const Assets& assets, StepCache& cache,
                         const std::function<Result<void>(const OneShot&)>& each) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  for (size_t i = 0; i < s.parts.size(); ++i) {
    if (!isWanted(s.parts[i], s.exports)) continue;
    const size_t versions = s.exports.versions ? versionCount(s.parts[i]) : 1;
    for (size_t v = 0; v < versions; ++v) {
      Session there = s;
      if (s.exports.versions) switchVersion(there.parts[i], v);
      for (OneShot& shot : shotsOf(there.parts[i], there, steps)) {
        if (s.exports.oneShotPeakDb) scaleToPeak(shot.sound, *s.exports.oneShotPeakDb);
        if (versions > 1) {
          shot.name += ", " + versionName(s.parts[i], v);
          shot.what += ", version " + versionName(s.parts[i], v);
        }
        if (auto done = each(shot); !done) return done;
      }
    }
  }
  return {};
}

}  // namespace heft
