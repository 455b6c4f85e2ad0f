#pragma once
/// Notes, frequencies, cents and MIDI numbers, converted into each other.
/// Equal temperament after ISO 16:1975 (A4 = 440 Hz unless said); note numbers after MIDI 1.0 (A4 = 69).

#include <optional>
#include <string>
#include <string_view>

#include "core/result.h"
#include "core/theory/names.h"

namespace heft {

/// How middle C (MIDI 60) is written. Makers differ; scientific pitch writes C4.
enum class OctaveNaming { MiddleC3 = 3, MiddleC4 = 4, MiddleC5 = 5 };
template <>
inline constexpr std::array kWordsOf<OctaveNaming> = {"C3", "C4", "C5"};
template <>
inline constexpr int kFirstOf<OctaveNaming> = 3;

/// Note spelling, and tuning in Hz.
struct NoteStyle {
  OctaveNaming octaves = OctaveNaming::MiddleC4;
  double a4Hz = 440.0;  ///< 380 to 480
  bool flats = false;   ///< Bb rather than A#
  bool operator==(const NoteStyle&) const = default;
};

/// Frequency of a MIDI note number, which may be fractional (0.01 = 1 cent).
double hzFromMidi(double midi, double a4Hz = 440.0);
/// MIDI note number of a frequency in Hz (> 0).
double midiFromHz(double hz, double a4Hz = 440.0);
/// Distance in cents from `fromHz` up to `toHz`.
double centsBetween(double fromHz, double toHz);

/// "F#1", "Bb2": a whole MIDI note number (-24 to 151) in words.
std::string noteName(int midi, const NoteStyle& style = {});
/// The letter part alone: "F#".
std::string pitchClassName(int pitchClass, bool flats = false);
/// "F#1 +12 ct"; whole notes without the cents. Cents are rounded to one.
std::string pitchText(double midi, const NoteStyle& style = {});
/// "46.25 Hz", at least four significant figures.
std::string hzText(double hz);

/// Reads a pitch class such as "F#", "Bb", "E♭" at the start of `text` (any case of the letter) and removes it.
/// Returns 0 to 11, or nothing. `letterShift` gets +1 or -1 where the accidental leaves the octave (B#, Cb).
std::optional<int> takePitchClass(std::string_view& text, int* letterShift = nullptr);

/// Reads "F#1", "F#1 +12 ct" (space optional), "Bb2", "46.2" or "46.2 Hz".
/// Returns a MIDI number (may be fractional); errors: BadUsage, naming the text. Range 8 Hz to 20 kHz.
Result<double> parsePitch(std::string_view text, const NoteStyle& style = {});

/// Two frequencies or notes, "30 to 200 Hz", "A0 to G3", "40-120": Hz, the first below the second. BadUsage,
/// naming the text.
struct HzRange {
  double lowHz, highHz;
};
Result<HzRange> parseHzRange(std::string_view text, const NoteStyle& style = {});

}  // namespace heft
