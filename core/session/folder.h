#pragma once
/// A session on disk: a folder Name.heft/ with session.json and audio/.

#include <optional>
#include <string>

#include "core/session/assets.h"

namespace heft {

struct OpenedSession {
  Session session;
  Assets assets;
  std::string fileHash;               ///< of session.json when it was read
  bool savedHere = false;             ///< by this machine: only then are its sounds' source files checked
  std::vector<std::string> warnings;  ///< sentences on sounds that are missing or changed
};

/// An anonymous number of this machine; empty where it is unknown.
std::string thisMachine();

/// Size and time of a file; all zero where there is none.
SourceStamp stampOf(const std::string& path);

/// Writes missing sounds, then session.json as a whole (written beside, flushed, renamed): a crash at any
/// moment leaves the old session or the new one. Removes what earlier crashes left. Errors: Unwritable.
Result<void> saveSession(const std::string& folder, const Session& session, const Assets& assets);

/// Hash of session.json's bytes; empty where there is none. Shows whether another program wrote it.
std::string sessionFileHash(const std::string& folder);

struct SaveOutcome {
  bool changedOnDisk = false;  ///< nothing was written: another program wrote the session since
  std::string fileHash;        ///< of the written file
};
/// Likewise, but only if session.json is unchanged since it was last read or written (`expectedHash`; empty:
/// replaces whatever is there). Errors: Unwritable.
Result<SaveOutcome> saveUnlessChanged(const std::string& folder, const Session& session, const Assets& assets,
                                      const std::optional<std::string>& expectedHash);

/// Reads a folder, or its session.json by name. A missing sound leaves its place empty and a warning, and so
/// does a link: nothing outside the folder is read. Errors: Unreadable, Cancelled.
Result<OpenedSession> openSession(const std::string& folder, const std::stop_token& stop = {});

/// Writes these references' sounds into the folder's audio/ where they are missing. Errors: Unwritable.
Result<void> saveSounds(const std::string& folder, const std::vector<AssetRef>& refs, const Assets& assets);
/// A sound of the folder's audio/; a link is not followed. Errors: Unreadable, also where the file holds
/// another sound than the saved one; Cancelled.
/// `mostSeconds`: only its start.
Result<LoadedSound> storedSound(const std::string& folder, const AssetRef& ref,
                                const std::stop_token& stop = {}, std::optional<double> mostSeconds = {});
/// The folder of the user's own data; empty where the system names none.
std::string userFolder();

/// Every sound that a session refers to, once each.
std::vector<AssetRef> assetsOf(const Session& session);

/// Files that a session's sounds came from.
struct Sources {
  std::vector<std::string> present;  ///< paths of files that are there
  std::vector<std::string>
      changedSince;  ///< those among them with another size or time than when they were read
};
/// Checks them without reading. For sessions saved on this machine.
Sources sourcesOf(const Session& session, const Assets& assets);

}  // namespace heft
