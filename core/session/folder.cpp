#include "core/session/folder.h"

#include <sys/stat.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <map>
#include <random>

namespace heft {
namespace {

namespace fs = std::filesystem;

std::string shortHash(const AssetRef& ref) {
  return ref.hash.substr(0, 8) + "-";
}

// Eight digits of the hash keep names apart; the rest is for people, without anything a file system might mind.
std::string storedName(const AssetRef& ref) {
  std::string name = ref.name.substr(ref.name.size() > 120 ? ref.name.size() - 120 : 0);
  for (char& c : name)
    if (c == '/' || c == '\\' || static_cast<unsigned char>(c) < 32) c = '_';
  return shortHash(ref) + name;
}

// By its name, else by the digits alone: names that were not UTF-8 have other bytes in session.json than on
// disk.
fs::path storedPath(const fs::path& audio, const AssetRef& ref) {
  const fs::path path = audio / storedName(ref);
  std::error_code code;
  if (fs::exists(fs::symlink_status(path, code))) return path;
  for (fs::directory_iterator at(audio, code), end; !code && at != end; at.increment(code))
    if (at->path().filename().string().starts_with(shortHash(ref))) return at->path();
  return path;
}

// Whether a file that is no link holds just these bytes.
bool holds(const fs::path& path, const std::string& bytes) {
  if (stampOf(path.string()).bytes != bytes.size()) return false;
  const auto there = readBytes(path.string(), kMostBytes, Links::Refused);
  return there && *there == bytes;
}

// Where the system has no id: one of ours, made once and kept with the user's data.
Result<std::string> ownNumber() {
  const std::string own = userFolder();
  if (own.empty()) return unreadable({}, "no folder for data");
  const fs::path path = fs::path(own) / "machine";
  if (auto known = readBytes(path.string(), 256); known && !known->empty()) return known;
  std::random_device random;
  std::string number;
  for (int i = 0; i < 4; ++i) number += std::to_string(random());
  std::error_code code;
  fs::create_directories(path.parent_path(), code);
  if (auto wrote = writeWhole(path.string(), number); !wrote) return Fail(wrote.error());
  return number;
}

bool isLink(const fs::path& path) {
  std::error_code code;
  return fs::is_symlink(fs::symlink_status(path, code));
}

void sweep(const fs::path& folder) {
  sweepUnfinished(folder.string());
  if (!isLink(folder / "audio")) sweepUnfinished((folder / "audio").string());
}

}  // namespace

std::string userFolder() {
  const char* data = std::getenv("XDG_DATA_HOME");
  const char* home = std::getenv("HOME");
  if (data && *data) return (fs::path(data) / "heft").string();
  return home && *home ? (fs::path(home) / ".local/share/heft").string() : std::string();
}

Result<LoadedSound> storedSound(const std::string& folder, const AssetRef& ref, const std::stop_token& stop,
                                std::optional<double> mostSeconds) {
  const fs::path audio = fs::path(folder) / "audio";
  if (isLink(audio)) return unreadable(audio.string(), "is a symbolic link; use the real folder");
  const fs::path path = storedPath(audio, ref);
  auto bytes = readBytes(path.string(), kMostBytes, Links::Refused);
  if (!bytes) return Fail(bytes.error());
  if (contentHash(bytes->data(), bytes->size()) != ref.hash)
    return unreadable(path.string(),
                      "has changed since it was saved; drop the original sound on its part again");
  return decodeSound(std::move(*bytes), path.string(), stop, mostSeconds);
}

Result<void> saveSounds(const std::string& folder, const std::vector<AssetRef>& refs, const Assets& assets) {
  const fs::path audio = fs::path(folder) / "audio";
  auto made = MadeFolder::at(audio.string());
  if (!made) return Fail(made.error());
  if (isLink(audio)) return unwritable(folder, "its audio folder is a link; save elsewhere");
  for (const AssetRef& ref : refs) {
    const LoadedSound* sound = assets.find(ref);
    const fs::path path = audio / storedName(ref);
    if (!sound || holds(path, *sound->bytes)) continue;
    if (auto wrote = writeWhole(path.string(), *sound->bytes); !wrote) return Fail(wrote.error());
  }
  made->keep();
  return {};
}

// Of a sound that is a reference and nothing else, its start.
std::optional<double> secondsUsed(const Session& session, const AssetRef& ref) {
  Session others = session;
  others.references.clear();
  const auto rest = assetsOf(others);
  const bool elsewhere =
      std::any_of(rest.begin(), rest.end(), [&](const AssetRef& a) { return a.hash == ref.hash; });
  return elsewhere ? std::nullopt : std::optional(kMostReferenceSeconds);
}

std::vector<AssetRef> assetsOf(const Session& session) {
  std::vector<AssetRef> out;
  eachAsset(session, [&](const AssetRef& ref) {
    if (!ref.empty() &&
        std::none_of(out.begin(), out.end(), [&](const AssetRef& a) { return a.hash == ref.hash; }))
      out.push_back(ref);
  });
  return out;
}

std::string thisMachine() {
  auto id = readBytes("/etc/machine-id", 256);
  if (!id || id->empty()) id = ownNumber();
  if (!id || id->empty()) return {};
  // Not the id itself, because a session may be passed on.
  const std::string salted = "heft session " + *id;
  return contentHash(salted.data(), salted.size());
}

SourceStamp stampOf(const std::string& path) {
  struct stat info {};
  if (stat(path.c_str(), &info) != 0 || !S_ISREG(info.st_mode)) return {};
  return {static_cast<uint64_t>(info.st_size),
          static_cast<int64_t>(info.st_mtim.tv_sec) * 1'000'000'000 + info.st_mtim.tv_nsec};
}

Sources sourcesOf(const Session& session, const Assets& assets) {
  std::map<std::string, bool> changed;
  eachAsset(session, [&](const AssetRef& ref) {
    if (ref.empty() || ref.from.empty()) return;
    const SourceStamp now = stampOf(ref.from);
    if (now == SourceStamp()) return;
    const LoadedSound* sound = assets.find(ref);
    // Older sessions store no time: then the size alone decides.
    const bool same = ref.stamp.changedNs ? now == ref.stamp : !sound || now.bytes == sound->bytes->size();
    changed[ref.from] = changed[ref.from] || !same;
  });
  Sources out;
  for (const auto& [path, other] : changed) {
    out.present.push_back(path);
    if (other) out.changedSince.push_back(path);
  }
  return out;
}

std::string sessionFileHash(const std::string& folder) {
  const auto bytes = readBytes((fs::path(folder) / "session.json").string());
  return bytes ? contentHash(bytes->data(), bytes->size()) : std::string();
}

Result<SaveOutcome> saveUnlessChanged(const std::string& folder, const Session& session, const Assets& assets,
                                      const std::optional<std::string>& expectedHash) {
  if (expectedHash && sessionFileHash(folder) != *expectedHash) return SaveOutcome{true, {}};
  if (auto wrote = saveSession(folder, session, assets); !wrote) return Fail(wrote.error());
  return SaveOutcome{false, sessionFileHash(folder)};
}

Result<void> saveSession(const std::string& folder, const Session& session, const Assets& assets) {
  auto made = MadeFolder::at(folder);
  if (!made) return Fail(made.error());
  sweep(folder);
  if (auto wrote = saveSounds(folder, assetsOf(session), assets); !wrote) return wrote;
  Session marked = session;
  marked.savedOn = thisMachine();
  auto wrote = writeWhole((fs::path(folder) / "session.json").string(), sessionToJson(marked));
  if (wrote) made->keep();
  return wrote;
}

Result<OpenedSession> openSession(const std::string& folder, const std::stop_token& stop) {
  std::error_code code;
  fs::path base(folder);
  if (fs::is_regular_file(base, code) && base.filename() == "session.json") base = base.parent_path();
  if (!fs::is_directory(base, code)) return unreadable(folder, "is not a session folder");
  const fs::path file = base / "session.json";
  if (!fs::is_regular_file(file, code))
    return unreadable(folder, "holds no session.json; choose a folder that Heft saved");
  sweep(base);
  auto text = readBytes(file.string(), kMostBytes, Links::Refused);
  if (!text) return Fail(text.error());
  auto session = sessionFromJson(*text, file.string());
  if (!session) return Fail(session.error());
  OpenedSession out;
  out.fileHash = contentHash(text->data(), text->size());
  out.session = std::move(*session);
  out.savedHere = !out.session.savedOn.empty() && out.session.savedOn == thisMachine();
  for (const AssetRef& ref : assetsOf(out.session)) {
    auto sound = storedSound(base.string(), ref, stop, secondsUsed(out.session, ref));
    if (stop.stop_requested()) return cancelled();
    if (sound)
      out.assets.add(std::move(*sound), ref.name);
    else
      out.warnings.push_back(sound.error().sentence() + (sound.error().reason.ends_with("again")
                                                             ? ""
                                                             : "; drop the sound on its part again"));
  }
  return out;
}

}  // namespace heft
