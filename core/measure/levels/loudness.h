#pragma once
/// Loudness and true peak after ITU-R BS.1770-4, loudness range after EBU Tech 3342, through libebur128.

#include <optional>
#include <stop_token>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

struct Loudness {
  std::optional<double> integratedLufs;  ///< nothing below the gate or under 400 ms
  double truePeakDbtp = -200.0;
  /// Loudness range by EBU Tech 3342, LU; nothing under 10 s, where it means nothing.
  std::optional<double> rangeLu = {};
};

/// A mono buffer is judged as played on two speakers. More than two channels: the first two are left and right,
/// the rest as libebur128 takes them. `withTruePeak` costs two to ten times the loudness, the more of the sound
/// is near its peak; without it the peak is the sample peak.
/// Errors: Unreadable, Cancelled.
Result<Loudness> measureLoudness(const AudioBuffer& buffer, bool withTruePeak = true,
                                 const std::stop_token& stop = {});

/// The same method's true peak alone, as an amplitude; nothing where the rate cannot be measured.
std::optional<double> truePeakOf(const AudioBuffer& buffer);

/// By how many dB a sound has to be raised for that true peak; its sample peak where the rate cannot be
/// measured. Nothing of silence.
std::optional<double> gainToPeakDb(const AudioBuffer& buffer, double peakDb);

}  // namespace heft
