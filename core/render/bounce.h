#pragma once
/// A layer or a part as a recording: what was heard, to pitch, cut and drive what was driven before.

#include "core/render/sounds.h"
#include "core/session/edits/edit.h"
#include "core/sound/audio_file.h"

namespace heft {

struct Bounce {
  std::string fileName;  ///< "Kick bounced.wav"
  std::string bytes;     ///< a WAV of 32-bit floats at the session's rate
  /// Puts the file in the place of what was bounced; one step to undo. Takes the reference under which the file
  /// is known.
  std::function<Edit(const AssetRef&)> edit;
};

/// Of a part all layers, and its finish where that is held to hits; of one layer what is done to it alone, its
/// level staying where it is. Hits are bounced at full velocity and stand where they stood, to the bit. Notes
/// are bounced at the one that the part mostly plays, which becomes the recording's root. What a velocity takes
/// from the level is kept where all layers take alike. Where one-shots are written at a true peak the file has
/// that peak and its level makes up for it. Errors: BadUsage where there is nothing to bounce. As long as a
/// render of one sound takes.
Result<Bounce> bounced(const Session& session, const Assets& assets, int part, std::optional<int> layer,
                       StepCache& cache);

}  // namespace heft
