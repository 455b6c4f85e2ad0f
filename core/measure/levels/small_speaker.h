#pragma once
/// Perceived loudness of a bass sound on a small speaker.
///
/// Method: the loudness of heard_loudness.h within the sound's loudest second, each third-octave band less
/// such a speaker's attenuation (smallSpeakerDb).

#include <optional>

#include "core/sound/buffer.h"

namespace heft {

/// Loudness level in phon where a full-scale sine plays at `listeningDb` SPL (a moderate level by default); 0
/// where nothing passes the threshold; nothing for silence. Channels are folded.
std::optional<double> smallSpeakerPhon(const AudioBuffer& sound, double listeningDb = 75.0);

/// Below this a tone is lost in a room with people in it (common practice).
inline constexpr double kHeardPhon = 20.0;

}  // namespace heft
