#pragma once
/// Moves of lanes' levels, which add up where they follow each other.

#include <optional>
#include <string>
#include <vector>

#include "core/session/edits/edit.h"

namespace heft {

/// Level change of each lane after its finish, so that its tone stays.
struct LaneLevels {
  struct Lane {
    std::optional<int> part;  ///< nothing: the backing
    std::string word;         ///< as edits call it
    double byDb = 0.0;
    bool operator==(const Lane&) const = default;
  };
  std::vector<Lane> lanes;  ///< of all the session's parts, also those that stay; empty: none moves
  bool operator==(const LaneLevels&) const = default;

  LaneLevels operator+(const LaneLevels& more) const;
  bool isNone() const;
  /// "lower kick by 5 dB, raise bass by 3 dB", grouping equal moves; "" without any.
  std::string words() const;
};

/// One lane; nothing: the backing. Moves no lane if no part has that id.
LaneLevels laneBy(const Session& session, std::optional<int> part, double byDb);
LaneLevels allLanesBy(const Session& session, double byDb);

/// Clamped to each level's range. Named by its words.
Edit moveLevels(const LaneLevels& levels);

}  // namespace heft
