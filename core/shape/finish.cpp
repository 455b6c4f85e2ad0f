#include "core/shape/finish.h"

namespace heft {

void applyFinish(AudioBuffer& sound, const Finish& f) {
  if (!f.works()) return;
  applyEq(sound, f.eq);
  applyDrive(sound, f.drive);
  applyCompressor(sound, f.compressor);
  applySoftClip(sound, f.softClip);
  applyLimiter(sound, f.limiter);
  if (f.mono && sound.channelCount() > 1) {
    const auto mono = monoFold(sound);
    sound.channels = {std::vector<float>(mono.begin(), mono.end())};
  }
}

}  // namespace heft
