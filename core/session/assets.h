#pragma once
/// The sounds that sessions use, immutable and shared, found by content hash.

#include <map>
#include <string>

#include "core/session/session.h"
#include "core/sound/audio_file.h"

namespace heft {

/// A value: copying it shares the sounds.
class Assets {
 public:
  /// Takes a sound in; the reference carries the file's name without its folder.
  AssetRef add(LoadedSound sound, const std::string& path);
  /// The sound, or nothing.
  const LoadedSound* find(const AssetRef& ref) const;
  Sound sound(const AssetRef& ref) const;

 private:
  std::map<std::string, LoadedSound> byHash_;
};

/// Puts another sound in every place of the one with this hash: layers and bodies in all versions, backing,
/// references.
void replaceAsset(Session& session, const std::string& hash, const AssetRef& by);

}  // namespace heft
