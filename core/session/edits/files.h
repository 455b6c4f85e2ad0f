#pragma once
/// Edits that use a file's sound somewhere. The first sound that plays sets the session's rate, where that is
/// 44.1 to 192 kHz; all others are converted.

#include "core/session/edits/parts.h"

namespace heft {

/// Whether no part has a sound yet and there is no backing.
bool isWithoutSounds(const Session& session);

Edit addReference(const Reference& reference);
/// From its first moment.
Edit placeBacking(const AssetRef& sound, double rate);
Edit placePartSound(const Part& part, const AssetRef& sound, const SoundPlace& where, double rate);
/// Reloads a file that changed on disk, wherever its sound is used, in all versions too.
Edit reloadSound(const AssetRef& sound, const std::string& fileName);

}  // namespace heft
