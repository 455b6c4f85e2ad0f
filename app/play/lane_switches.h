#pragma once
/// Which lanes one listens to. Not in the session.

#include <set>

#include "core/session/session.h"
#include "engine/player/level_match.h"

namespace heft::app {

class LaneSwitches {
 public:
  bool isSolo(int lane) const { return solo_.contains(lane); }
  bool isMuted(int lane) const { return muted_.contains(lane); }
  /// Muted, or another is soloed.
  bool isSilenced(int lane) const { return isMuted(lane) || (!solo_.empty() && !isSolo(lane)); }
  void setSolo(int lane, bool on) { put(solo_, lane, on); }
  void setMuted(int lane, bool on) { put(muted_, lane, on); }

  /// Lanes of that session that are not heard, and every muted one.
  SilencedLanes silencedOf(const Session& session) const {
    SilencedLanes out = muted_;
    if (isSilenced(kBackingLane)) out.insert(kBackingLane);
    for (const Part& part : session.parts)
      if (isSilenced(part.id)) out.insert(part.id);
    return out;
  }

 private:
  static void put(std::set<int>& lanes, int lane, bool on) {
    if (on)
      lanes.insert(lane);
    else
      lanes.erase(lane);
  }
  std::set<int> solo_, muted_;
};

}  // namespace heft::app
