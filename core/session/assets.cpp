#include "core/session/assets.h"

#include <filesystem>

namespace heft {

AssetRef Assets::add(LoadedSound sound, const std::string& path) {
  AssetRef ref{sound.hash, std::filesystem::path(path).filename().string()};
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

void replaceAsset(Session& session, const std::string& hash, const AssetRef& by) {
  auto put = [&](AssetRef& ref) {
    if (ref.hash == hash) ref = by;
  };
  auto putAll = [&](std::vector<Layer>& layers) {
    for (Layer& l : layers) put(l.asset), put(l.bodyAsset);
  };
  putAll(session.kick.layers);
  putAll(session.bass.layers);
  for (Versions* versions : {&session.kick.versions, &session.bass.versions})
    for (PartVersion& v : versions->all) putAll(v.layers);
  put(session.backing.asset);
  for (AssetRef& r : session.references) put(r);
}

}  // namespace heft
