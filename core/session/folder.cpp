#include "core/session/folder.h"

#include <algorithm>
#include <filesystem>
#include <map>
#include <set>

namespace heft {
namespace {

namespace fs = std::filesystem;

// Eight digits of the hash keep names apart; the rest is for people, without anything a file system might mind.
std::string storedName(const AssetRef& ref) {
  std::string name = ref.name.substr(ref.name.size() > 120 ? ref.name.size() - 120 : 0);
  for (char& c : name)
    if (c == '/' || c == '\\' || static_cast<unsigned char>(c) < 32) c = '_';
  return ref.hash.substr(0, 8) + "-" + name;
}

}  // namespace

std::vector<AssetRef> assetsOf(const Session& session) {
  std::vector<AssetRef> out;
  eachAsset(session, [&](const AssetRef& ref) {
    if (!ref.empty() &&
        std::none_of(out.begin(), out.end(), [&](const AssetRef& a) { return a.hash == ref.hash; }))
      out.push_back(ref);
  });
  return out;
}

Sources sourcesOf(const Session& session, const std::stop_token& stop) {
  std::map<std::string, std::set<std::string>> hashes;
  eachAsset(session, [&](const AssetRef& ref) {
    if (!ref.empty() && !ref.from.empty()) hashes[ref.from].insert(ref.hash);
  });
  Sources out;
  for (const auto& [path, known] : hashes) {
    if (stop.stop_requested()) break;
    const auto bytes = readBytes(path);
    if (!bytes) continue;
    out.present.push_back(path);
    if (!known.contains(contentHash(bytes->data(), bytes->size()))) out.writtenSince.push_back(path);
  }
  return out;
}

Result<void> saveSession(const std::string& folder, const Session& session, const Assets& assets) {
  std::error_code code;
  fs::create_directories(fs::path(folder) / "audio", code);
  if (code) return unwritable(folder, "the folder cannot be made: " + code.message());
  for (const AssetRef& ref : assetsOf(session)) {
    const LoadedSound* sound = assets.find(ref);
    const fs::path path = fs::path(folder) / "audio" / storedName(ref);
    if (!sound || (fs::exists(path, code) && fs::file_size(path, code) == sound->bytes->size())) continue;
    if (auto wrote = writeWhole(path.string(), *sound->bytes); !wrote) return Fail(wrote.error());
  }
  return writeWhole((fs::path(folder) / "session.json").string(), sessionToJson(session));
}

Result<OpenedSession> openSession(const std::string& folder, const std::stop_token& stop) {
  std::error_code code;
  fs::path base(folder);
  if (fs::is_regular_file(base, code) && base.filename() == "session.json") base = base.parent_path();
  if (!fs::is_directory(base, code)) return unreadable(folder, "is not a session folder");
  const fs::path file = base / "session.json";
  if (!fs::is_regular_file(file, code))
    return unreadable(folder, "holds no session.json; choose a folder that Heft saved");
  auto text = readBytes(file.string());
  if (!text) return Fail(text.error());
  auto session = sessionFromJson(*text, file.string());
  if (!session) return Fail(session.error());
  OpenedSession out;
  out.session = std::move(*session);
  for (const AssetRef& ref : assetsOf(out.session)) {
    auto sound = loadSound((base / "audio" / storedName(ref)).string(), stop);
    if (stop.stop_requested()) return cancelled();
    if (!sound)
      out.warnings.push_back(sound.error().sentence() + "; drop the sound on its part again");
    else if (sound->hash != ref.hash)
      out.warnings.push_back((base / "audio" / storedName(ref)).string() +
                             ": is not the sound that was saved; drop it on its part again");
    else
      out.assets.add(std::move(*sound), ref.name);
  }
  return out;
}

}  // namespace heft
