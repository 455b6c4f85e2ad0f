#pragma once
/// The key and the tempo of a musical loop or a whole track, by Queen Mary's DSP library: its chromagram
/// against Krumhansl's and Temperley's key profiles, and the bass, which starts on the tonic more often than
/// not; its beat tracker. docs/measuring.md lists its hit rates.

#include <optional>
#include <stop_token>
#include <vector>

#include "core/sound/buffer.h"
#include "core/theory/key.h"

namespace heft {

struct KeyGuess {
  Key key;                ///< major or minor
  double strength = 0.0;  ///< of all that speaks for it, -1 to 1
};

/// A modulation from one key to another.
struct KeyChange {
  Key before, after;
  double seconds = 0.0;  ///< from its start; a few seconds off
};

struct KeyFacts {
  std::vector<KeyGuess> ranked;     ///< all 24, likeliest first, over the whole
  double confidence = 0.0;          ///< 0 to 1, from how far the first is ahead of the second
  std::optional<KeyChange> change;  ///< of 20 s and more; a key a fifth away cannot be distinguished from
                                    ///< chords
};

/// Empty for silence, for less than a second, for sounds without prominent tones and for a single note. A short
/// loop is analysed several times over. Cost: a thirtieth of the sound's length.
/// Nothing where `stop` was requested, within some milliseconds.
std::optional<KeyFacts> findKey(const AudioBuffer& sound, double a4Hz = 440.0,
                                const std::stop_token& stop = {});

struct TempoFacts {
  double bpm = 120.0;       ///< 40 to 240
  double confidence = 0.0;  ///< 0 to 1: the part of its beats that are evenly apart
};

/// Nothing for less than two seconds or without beats. Under 16 s it is read as a loop (loop_tempo.h).
std::optional<TempoFacts> findTempo(const AudioBuffer& sound);

}  // namespace heft
