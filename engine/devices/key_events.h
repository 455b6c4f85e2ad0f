#pragma once
/// A keyboard that plays from a list of events: for trying things out and for tests.

#include "engine/devices/midi_input.h"

namespace heft {

/// An event and its time in seconds after the start.
struct TimedKeyEvent {
  double seconds = 0.0;  ///< 0 to 3600
  KeyEvent event;
  bool operator==(const TimedKeyEvent&) const = default;
};

/// Reads events from text, one on each line, in any order: `0.50 press 33 0.8` (seconds, MIDI number,
/// velocity above 0 to 1), `0.75 release 33`, `0.60 wheel -0.5` (-1 to 1), `0.70 controller 21 0.4` (0 to
/// 119, 0 to 1), `2 gone`. # starts a comment. At most 10,000 events. Errors: Unreadable, naming file and
/// line.
Result<std::vector<TimedKeyEvent>> parseKeyEvents(const std::string& text, const std::string& fileName);

/// Plays a file's events, each at its time, on a thread of its own once begin() was called; begin() again
/// starts over. Errors: Unreadable.
Result<std::unique_ptr<MidiInput>> openKeyEvents(const std::string& path, KeyListener listener);

}  // namespace heft
