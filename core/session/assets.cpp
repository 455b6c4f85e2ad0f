#include "core/session/assets.h"

#include <filesystem>

#include "core/theory/text.h"

namespace heft {

AssetRef Assets::add(LoadedSound sound, const std::string& path) {
  AssetRef ref{sound.hash, validUtf8(std::filesystem::path(path).filename().string())};
  byHash_.try_emplace(ref.hash, std::move(sound));
  return ref;
}

const LoadedSound* Assets::find(const AssetRef& ref) const {
  const auto at = byHash_.find(ref.hash);
  return at == byHash_.end() ? nullptr : &at->second;
}

Sound Assets::sound(const AssetRef& ref) const {
  const LoadedSound* found = find(ref);
  return found ? found->sound : nullptr;
}

Session withSoundInstead(Session s, int part, const AssetRef& sound, std::optional<int> layer) {
  if (!s.part(part)) return s;
  auto& layers = s.part(part)->layers;
  if (layers.empty()) layers.emplace_back();
  Layer* meant = layer ? s.part(part)->layer(*layer) : nullptr;
  Layer& l = meant ? *meant : layers.front();
  Recorded fresh;
  if (const Recorded* was = l.recorded()) fresh = *was;
  if (const KickVoice* was = l.kickVoice()) fresh.targetMidi = was->landingMidi, fresh.length = was->length;
  fresh.asset = sound;
  // Hand-set pitches of the former sound do not apply to this one.
  fresh.rootMidi.reset(), fresh.onsetMs.reset();
  fresh.band = {};
  l.what = fresh;
  l.name.clear();
  l.mute = false;
  return s;
}

void reloadAsset(Session& session, const AssetRef& fresh) {
  // A kept state stays as it was.
  const auto states = std::move(session.states);
  session.states.clear();
  eachAsset(session, [&](AssetRef& ref) {
    if (!ref.empty() && ref.from == fresh.from) ref = fresh;
  });
  session.states = states;
}

}  // namespace heft
