#pragma once
/// A gain and its triggers as files for other programs.

#include <span>
#include <string>

#include "core/duck/gain_curve.h"
#include "core/sound/buffer.h"

namespace heft {

/// "time_s,gain_db" and a row each millisecond, plus the last frame.
std::string gainCsv(std::span<const float> gain, double sampleRate);
/// The gain itself as a one-channel signal, 0 to 1, for a control input.
AudioBuffer gainSignal(std::span<const float> gain, double sampleRate);
/// "time_s,velocity" and a row each trigger.
std::string triggersCsv(std::span<const Trigger> triggers, double sampleRate);
/// A Standard MIDI File of notes on C1 (36), a sixty-fourth long or to the next, at that tempo.
std::string triggersMidi(std::span<const Trigger> triggers, double sampleRate, double tempoBpm);

/// Expression (MIDI 1.0): the default controller for a gain.
/// The highest controller that has a second one for 14 bits (MIDI 1.0).
inline constexpr int kHighestFineController = 31;
inline constexpr int kGainController = 11;
struct GainMidiOptions {
  int controller = kGainController;  ///< 0 to 119; 0 to 31 where it has 14 bits
  int channel = 1;                   ///< 1 to 16
  bool fine =
      false;  ///< 14 bits: the high seven on the controller, the low seven on the one 32 above (MIDI 1.0)
};
struct GainMidi {
  std::string bytes;
  int values = 0;  ///< that were written
  double errorDb =
      0.0;  ///< largest difference between the gain and the value in force, where either is above -40 dB
};
/// Format 0, 960 ticks a quarter: the amplitude gain times 127 (16383), written where the value in force is
/// off by more than 0.1 dB and a nearer value exists. With 14 bits the error stays below 0.2 dB down to -40
/// dB; with 7 it does down to -15 dB, below that a step is larger.
GainMidi gainMidi(std::span<const float> gain, double sampleRate, double tempoBpm,
                  const GainMidiOptions& options = {});

}  // namespace heft
