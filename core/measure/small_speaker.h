#pragma once
/// What of a bass sound a small speaker leaves, and how loud that is heard.
///
/// Method: power in third-octave bands (IEC 61260-1:2014, base ten) of the second in which the sound is loudest,
/// less what such a speaker takes away (smallSpeakerDb), each band heard as a tone of its mid-frequency (ISO
/// 226:2003); loudness adds up in sones (a doubling every 10 phon, Stevens 1936).

#include <optional>

#include "core/sound/buffer.h"

namespace heft {

/// Loudness level in phon where a full-scale sine plays at `listeningDb` SPL (a moderate level by default); 0
/// where nothing passes the threshold; nothing for silence. Channels are folded.
std::optional<double> smallSpeakerPhon(const AudioBuffer& sound, double listeningDb = 75.0);

/// Under it a tone is lost in a room with people in it (common practice).
inline constexpr double kHeardPhon = 20.0;

}  // namespace heft
