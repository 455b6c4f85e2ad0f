#pragma once
/// What of a bass sound a small speaker leaves, and how loud that is heard.
///
/// Method: the loudness of heard_loudness.h within the second in which the sound is loudest, each third-octave band
/// less what such a speaker attenuates (smallSpeakerDb).

#include <optional>

#include "core/sound/buffer.h"

namespace heft {

/// Loudness level in phon where a full-scale sine plays at `listeningDb` SPL (a moderate level by default); 0
/// where nothing passes the threshold; nothing for silence. Channels are folded.
std::optional<double> smallSpeakerPhon(const AudioBuffer& sound, double listeningDb = 75.0);

/// Under it a tone is lost in a room with people in it (common practice).
inline constexpr double kHeardPhon = 20.0;

}  // namespace heft
