#pragma once
/// Renders a layer or a part to a recording as heard, to pitch, cut or drive on top of earlier processing.

#include "core/render/sounds/sounds.h"
#include "core/session/edits/edit.h"
#include "core/sound/audio_file.h"

namespace heft {

struct Bounce {
  std::string fileName;  ///< "Kick bounced.wav"
  std::string bytes;     ///< a WAV of 32-bit floats at the session's rate
  /// Replaces the bounced layers by the file; one undo step. Takes the reference of the file.
  std::function<Edit(const AssetRef&)> edit;
};

/// A part: all layers, and its finish where that is applied hit by hit; one layer: its own processing only,
/// its level staying in place. Hits are bounced at full velocity and stay in place, to the bit. Lines are
/// bounced at their most played note, which becomes the recording's root. Velocity scaling is kept where all
/// layers scale alike. Where one-shots have a set true peak the file has that peak and its level compensates.
/// Errors: BadUsage where there is nothing to bounce. Cost: a render of one sound.
Result<Bounce> bounced(const Session& session, const Assets& assets, int part, std::optional<int> layer,
                       StepCache& cache);

}  // namespace heft
