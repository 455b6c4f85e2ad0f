#pragma once
/// A session on disk: a folder Name.heft/ with session.json and audio/.

#include <string>

#include "core/session/assets.h"

namespace heft {

struct OpenedSession {
  Session session;
  Assets assets;
  std::vector<std::string> warnings;  ///< sounds that are missing or not what they were, in sentences
};

/// Writes the sounds that are not there yet, then session.json whole (written beside, flushed, renamed): a
/// crash at any moment leaves the old session or the new one. Errors: Unwritable.
Result<void> saveSession(const std::string& folder, const Session& session, const Assets& assets);

/// Reads a folder, or its session.json by name. A sound that is missing leaves its place empty and a warning.
/// Errors: Unreadable, Cancelled.
Result<OpenedSession> openSession(const std::string& folder, const std::stop_token& stop = {});

/// Every sound that a session refers to, once each.
std::vector<AssetRef> assetsOf(const Session& session);

/// Files that a session's sounds came from.
struct Sources {
  std::vector<std::string> present;       ///< paths that can be read
  std::vector<std::string> writtenSince;  ///< those among them that hold something else by now
};
/// Reads them all.
Sources sourcesOf(const Session& session, const std::stop_token& stop = {});

}  // namespace heft
