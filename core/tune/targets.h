#pragma once
/// Where a sound could land: one list for Tune, kits, the library and the Ledger, each with its shift and a
/// plain reason.

#include <optional>
#include <string>
#include <vector>

#include "core/theory/key.h"
#include "core/theory/note.h"

namespace heft {

/// Why a note is proposed.
enum class TargetKind { BassNote, BassOctave, Tonic, Fifth, Scale };

struct TuneTarget {
  int midi = 33;
  TargetKind kind = TargetKind::Tonic;
  std::string why;  ///< "the bass's note", "octave above", "tonic, up", "fifth, down", "note of A minor, up"
  double semitones = 0;  ///< from the landing to the target
};

/// The bass's note and the octave above it; tonic, fifth and the key's note with the least strain, up and
/// down. The bass's note first, then by shift, the least first; no note twice, all from 0 to 127.
/// `landingMidi`: measured, may be fractional. `bassMidi`: the bass's note under most hits; nothing without a
/// bass.
std::vector<TuneTarget> tuneTargets(double landingMidi, std::optional<int> bassMidi, const Key& key);

/// The target with the smallest shift: tonic or fifth where that is within two semitones (common practice:
/// these suit everything over them), else the nearest note of the key.
TuneTarget easiestTarget(double landingMidi, const Key& key);

/// "on A1", "58 cents under A1", "3 semitones and 12 cents over A1".
std::string distanceText(double midi, int targetMidi, const NoteStyle& style);

}  // namespace heft
