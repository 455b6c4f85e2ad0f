#pragma once
/// By how much the levels of kick, bass and backing move: what remedies do to levels, and in which words.

#include <string>

#include "core/session/session.h"

namespace heft {

/// dB each.
struct LaneLevels {
  double kickDb = 0.0, bassDb = 0.0, backingDb = 0.0;

  bool operator==(const LaneLevels&) const = default;
  LaneLevels operator+(const LaneLevels& more) const;
  bool areAlike() const;  ///< all lanes by as much: then parts beside the pair move too
  bool isNone() const { return *this == LaneLevels{}; }
  std::string words()
      const;  ///< "lower kick by 5 dB, raise bass by 3 dB"; "lower all lanes by 2 dB"; "" without any
};

/// Each part's level moved after its finish, so that it keeps its tone. Within what each value may be.
Session withLevelsMoved(Session session, const LaneLevels& by);

}  // namespace heft
