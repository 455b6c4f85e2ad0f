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

void reloadAsset(Session& session, const AssetRef& fresh) {
  eachAsset(session, [&](AssetRef& ref) {
    if (!ref.empty() && ref.from == fresh.from) ref = fresh;
  });
}

}  // namespace heft
