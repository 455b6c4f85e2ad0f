#pragma once
/// Patterns as MIDI: reads a file's track and writes one.

#include "core/session/session.h"
#include "core/sound/midi_reader.h"

namespace heft {

/// Every note of the track as a hit, within the loop.
std::vector<Hit> hitsFrom(const MidiTrack& track, double loopQuarters);

/// The track's line for the bass, one voice at a time: a note that starts while another sounds ends it, tied
/// where they overlap. The wheel comes with its range.
struct BassLine {
  std::vector<Note> notes;
  std::vector<WheelPoint> wheel;
  std::optional<double> wheelRange;
};
BassLine lineFrom(const MidiTrack& track, double loopQuarters);

/// A track for kick and bass and for every other part that plays something, each on a channel of its own: hits
/// on C1 (36), notes with their wheel; at the session's tempo. Dives are written as movements of the wheel;
/// tied notes overlap by a sixty-fourth.
MidiFile midiOf(const Session& session);

}  // namespace heft
