#pragma once
/// A whole track as the shelf of references keeps it: its level over time, its beat, its key, and the stretches
/// with and without low end.

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/theory/key.h"

namespace heft {

/// Quarter notes of a steady tempo; `firstBeat` starts a bar of four.
struct BeatGrid {
  double bpm = 120.0, firstBeatSeconds = 0.0;
  double confidence = 0.0;  ///< 0 to 1: the part of its low hits that fall on its sixteenths
  double secondsPerBar() const { return 240.0 / bpm; }
  /// Bars since the first beat, from 0; negative before it.
  double barAt(double seconds) const { return (seconds - firstBeatSeconds) / secondsPerBar(); }
};

/// A stretch whose low end is either there or not.
struct Stretch {
  std::string name;  ///< "intro", "break", "outro" without low end; "drop" with it
  double fromSeconds = 0.0, toSeconds = 0.0;
  double lowDb = -120.0;  ///< mean level below 120 Hz, dBFS
};

struct TrackProfile {
  double seconds = 0.0;
  std::optional<double> integratedLufs;
  std::vector<float> peak;       ///< largest magnitude of each step
  std::vector<float> lowDb;      ///< level below 120 Hz of each step, dBFS; floor -120
  std::optional<BeatGrid> grid;  ///< nothing without a steady beat
  std::optional<Key> key;        ///< nothing where it cannot be told
  double keyConfidence = 0.0;
  static constexpr double kStepSeconds = 0.1;
};

/// The stretches of a track, in order, without gaps. Low end is there from 9 dB below the level of its loudest
/// eight bars (16 s without a grid) on, for two bars (4 s) and more; edges are at bars where a grid is known.
std::vector<Stretch> stretchesOf(const TrackProfile& track);

/// The eight bars (16 s without a grid) with the most low end, whole bars of the grid; the whole of a shorter
/// track.
Stretch mostLowEnd(const TrackProfile& track);

/// Silence has neither grid nor key. Errors: a rate that cannot be measured, Cancelled. Key and tempo are those
/// of the minute with the most low end. Cost: about as much as its loudness (libebur128) and a second.
Result<TrackProfile> profileTrack(const AudioBuffer& track, const std::stop_token& stop = {});

/// As bytes for keeping, and back; nothing where they are not a profile of this version.
std::string packed(const TrackProfile& track);
std::optional<TrackProfile> unpackedTrack(const std::string& bytes);
inline constexpr int kTrackMeasuring = 1;  ///< raised where figures change

}  // namespace heft
