#pragma once
/// The demo scenario: Saltworks, a slow-burning instrumental in A minor at 122 BPM, with faults that give
/// every stage something to fix.

#include <string>

#include "core/session/assets.h"

namespace heft::demo {

struct Demo {
  Session session;
  Assets assets;
};

/// Makes the session and its sounds in memory, the same on every run.
Result<Demo> make();

/// Writes DIR/Saltworks.heft and its sounds as files in DIR/sounds. Returns the session's folder. Errors:
/// Unwritable.
Result<std::string> write(const std::string& folder);

}  // namespace heft::demo
