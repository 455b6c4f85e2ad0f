#pragma once
/// Standard MIDI Files 1.0 (RP-001), writing: one track, format 0.

#include <cstdint>
#include <string>

namespace heft {

/// Collects events in ascending time and gives the file's bytes.
class MidiTrackWriter {
 public:
  static constexpr int kTicksPerQuarter = 960;
  explicit MidiTrackWriter(double tempoBpm, int channel = 1);  ///< 40 to 240; 1 to 16
  /// Control change; `number` and `value` 0 to 127; `seconds` not before the last event's.
  void controller(double seconds, int number, int value);
  /// The whole file with its end-of-track event.
  std::string file() const;

 private:
  double ticksPerSecond_;
  int channel_;
  int64_t lastTick_ = 0;
  std::string events_;
};

}  // namespace heft
