#pragma once
/// Standard MIDI Files 1.0 (RP-001): notes and pitch wheel, in and out.
///
/// A reader of our own, for outside data: it checks every length before following it, uses the readable part
/// of a broken file with a warning, and allocates nothing by a file's own claims.

#include <optional>
#include <string>
#include <vector>

#include "core/result.h"

namespace heft {

struct MidiNote {
  double startQuarters = 0.0, lengthQuarters = 0.0;
  int channel = 0;     ///< 0 to 15
  int note = 0;        ///< 0 to 127
  int velocity = 100;  ///< 1 to 127
  bool operator==(const MidiNote&) const = default;
};

struct MidiBend {
  double quarters = 0.0;
  double value = 0.0;  ///< -1 to 1
  bool operator==(const MidiBend&) const = default;
};

struct MidiTrack {
  std::string name;
  std::vector<MidiNote> notes;  ///< ascending by start
  std::vector<MidiBend> bends;
  std::optional<double> bendRange;  ///< semitones, where registered parameter 0 sets it
};

struct MidiMetre {
  int beatsPerBar = 4;
  int beatUnit = 4;  ///< 1, 2, 4, 8 or 16
};

struct MidiFile {
  std::vector<MidiTrack> tracks;   ///< those with notes or bends; a file with one track is split by channel
  std::optional<double> tempoBpm;  ///< the first
  std::optional<MidiMetre> metre;  ///< written, not read
  double endQuarters = 0.0;        ///< written: every track ends there, or with its last event if that is later
  std::vector<std::string> warnings;
};

/// Formats 0 to 2. Errors: Unreadable (no MIDI file, SMPTE time, larger than 16 MB).
Result<MidiFile> parseMidi(const std::string& bytes, const std::string& fileName);
Result<MidiFile> readMidi(const std::string& path);

/// Format 1, 960 ticks a quarter: a track with the tempo and the metre, then one per track, each on its own
/// channel, with its bend range before its bends. All end together.
std::string midiBytes(const MidiFile& file);

}  // namespace heft
