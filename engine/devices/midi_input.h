#pragma once
/// MIDI keyboards, through RtMidi; key_events.h has a simulated one.

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/result.h"

namespace heft {

/// A keyboard's voice message, or its disconnection.
struct KeyEvent {
  enum class Kind { Press, Release, Wheel, Controller, Gone };
  Kind kind = Kind::Press;
  int midi = 0;        ///< 0 to 127; a controller's number, 0 to 119
  double value = 0.0;  ///< a press's velocity and a controller's place, 0 to 1; the wheel's place, -1 to 1
  int channel = 1;     ///< 1 to 16
  bool operator==(const KeyEvent&) const = default;
};

/// The event of a voice message's bytes; nothing for any other message or for channel mode messages
/// (controllers 120 to 127). A press with velocity 0 is a release.
std::optional<KeyEvent> keyEventOf(const std::vector<unsigned char>& message);

/// Called on a thread of the input's own.
using KeyListener = std::function<void(const KeyEvent&)>;

class MidiInput {
 public:
  virtual ~MidiInput() = default;
  virtual std::string name() const = 0;
  /// Starts a simulated keyboard; a real one has a player.
  virtual void begin(double inSeconds) { static_cast<void>(inSeconds); }
};

/// Names of all ports, over all systems that RtMidi knows (ALSA, JACK).
std::vector<std::string> midiPorts();

/// Listens to a port by name, and reports once that it disappeared, on a thread of its system's. Errors:
/// Unreadable where it does not exist or cannot be opened.
Result<std::unique_ptr<MidiInput>> openMidiPort(const std::string& port, KeyListener listener);

}  // namespace heft
