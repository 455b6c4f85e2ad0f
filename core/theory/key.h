#pragma once
/// Keys and scales: a tonic and a mode.

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"

namespace heft {

enum class Mode { Major, Minor, Dorian, Phrygian, Lydian, Mixolydian, Locrian };
inline constexpr std::array kAllModes = {Mode::Major,  Mode::Minor,      Mode::Dorian, Mode::Phrygian,
                                         Mode::Lydian, Mode::Mixolydian, Mode::Locrian};

/// "minor", "dorian".
const char* modeName(Mode mode);

/// A key. The default is only a starting point for a new session.
struct Key {
  int tonic = 9;  ///< pitch class, C = 0 to B = 11
  Mode mode = Mode::Minor;
  bool operator==(const Key&) const = default;

  /// Seven pitch classes, tonic first.
  std::array<int, 7> scale() const;
  bool contains(int midi) const;
  /// Whether a note is the tonic, or the fifth above it, in any octave.
  bool isTonic(int midi) const;
  bool isFifth(int midi) const;
  /// Pitch class of the fifth above the tonic (diminished in locrian).
  int fifth() const { return scale()[4]; }
  /// Whether the key is written with flats (F major and the keys flatwards of it).
  bool prefersFlats() const;
  /// "A minor", "Bb dorian".
  std::string name() const;
};

/// Whole MIDI number nearest to `midi` whose pitch class is `pitchClass`.
int nearestOfClass(double midi, int pitchClass);
/// The nearest note of the key.
int nearestInKey(double midi, const Key& key);

/// The tonic in the octave that is heavy, Eb1 to D2 (39 to 73 Hz): what built sounds, keys and new bass notes
/// begin from where nothing else says.
int lowTonic(const Key& key);

/// Reads "A minor", "Am", "F# min", "Bb major", "C dorian", "E♭". BadUsage for anything else.
Result<Key> parseKey(std::string_view text);

}  // namespace heft
