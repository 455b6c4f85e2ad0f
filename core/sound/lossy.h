#pragma once
/// What a lossy file leaves of a sound: encoded and decoded through libsndfile.

#include <optional>
#include <string>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

enum class LossyCodec { Mp3, Vorbis, Opus };
inline constexpr double kLeastKbps = 32.0, kMostKbps = 320.0;
/// "MP3", "Vorbis", "Opus".
const char* lossyName(LossyCodec codec);
/// Whether this libsndfile can write it.
bool canEncode(LossyCodec codec);

struct LossyAsk {
  LossyCodec codec = LossyCodec::Mp3;
  double kbps = 128.0;  ///< kLeastKbps to kMostKbps, both channels together
  bool operator==(const LossyAsk&) const = default;
};
struct LossyRun {
  AudioBuffer sound;  ///< at the input's rate and length, two channels, in step with it
  double kbps = 0.0;  ///< of the file as encoded
  std::string bytes;  ///< that file
};

/// MP3 at a constant rate; Vorbis and Opus at the quality whose file comes nearest to the rate. Rates that a
/// codec does not know are converted. Errors: Unwritable where this libsndfile lacks it or it fails. Cost:
/// about 30 ms a second, for Vorbis and Opus some times that.
Result<LossyRun> throughCodec(const AudioBuffer& sound, const LossyAsk& ask);

/// "mp3:128", "vorbis:160", "opus:96". Errors: BadUsage, naming the text.
Result<LossyAsk> parseLossy(const std::string& text);

}  // namespace heft
