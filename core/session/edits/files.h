#pragma once
/// Edits that put a file's sound somewhere. The first sound that plays gives the session its rate, where that
/// is 44.1 to 192 kHz: every other one is converted.

#include "core/session/edits/parts.h"

namespace heft {

/// Whether no part has a sound yet, and no backing is there.
bool isWithoutSounds(const Session& session);

Edit addReference(const AssetRef& sound);
/// From its first moment.
Edit placeBacking(const AssetRef& sound, double rate);
Edit placePartSound(const Part& part, const AssetRef& sound, const SoundPlace& where, double rate);
/// A file that was written again, in every place of the sound that came from it, in all versions too.
Edit reloadSound(const AssetRef& sound, const std::string& fileName);

}  // namespace heft
