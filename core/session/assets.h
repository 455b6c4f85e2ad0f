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
  /// Adds a sound; the reference carries the file's name without its folder, as UTF-8.
  AssetRef add(LoadedSound sound, const std::string& path);
  /// The sound, or nothing.
  const LoadedSound* find(const AssetRef& ref) const;
  Sound sound(const AssetRef& ref) const;
  /// Forgets a sound that nothing refers to.
  void drop(const std::string& hash) { byHash_.erase(hash); }

 private:
  std::map<std::string, LoadedSound> byHash_;
};

/// Every sound reference of the session: layers and bodies of all chains in all versions, triggers, backing,
/// references.
template <class S, class Do>
void eachAsset(S& session, Do each) {
  auto bodies = [&](auto& chain) {
    for (auto& processor : chain.list)
      if (auto* body = processor.template as<Body>()) each(body->asset);
  };
  auto all = [&](auto& sound) {
    for (auto& l : sound.layers) {
      if (auto* recorded = l.recorded()) each(recorded->asset);
      bodies(l.chain);
    }
    bodies(sound.finish);
  };
  for (auto& part : session.parts) {
    all(part);
    for (auto& v : part.versions.all) all(v);
  }
  bodies(session.sum.finish);
  for (auto& duck : session.ducks) each(duck.source.asset);
  each(session.backing.asset);
  for (auto& r : session.references) each(r.asset);
  for (auto& state : session.states)
    for (auto& ref : state.sounds) each(ref);
}

/// The session with another sound as a part's first layer, fitted like the present one: target note, method,
/// length, shape and level stay, and with them the moves of later stages. A built layer passes on its note
/// and length.
Session withSoundInstead(Session session, int part, const AssetRef& sound, std::optional<int> layer = {});

/// Replaces a sound everywhere it is used, matched by the file it came from.
void reloadAsset(Session& session, const AssetRef& fresh);

}  // namespace heft
