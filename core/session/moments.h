#pragma once
/// The session at a moment: what sections choose, and automation, put into plain values.

#include <map>
#include <memory>
#include <vector>

#include "core/session/session.h"
#include "core/session/table.h"

namespace heft {

/// Whether a section mutes a part.
bool mutesBySection(const Session& session);
/// The session with the hits and notes left out that start in a section that mutes their part, as if they had
/// not been placed. Everything that renders and measures reads this one.
Session asPlayed(const Session& session);

/// An automated value goes through this many steps between its lowest and its highest point (of frequencies:
/// equal ratios), so that sounds of equal values are made once. So it is off by at most 1/128 of its span.
inline constexpr int kAutomationSteps = 64;
/// An automation in steps. The automation must outlive it.
class SteppedValue {
 public:
  SteppedValue(const Automation& automation, const Range& range);
  /// The step nearest to the automation's value there, within the range.
  /// A step within `ahead` quarters has been made already.
  double at(double quarters, double ahead = 0.0) const;

 private:
  const Automation* automation_;
  Range range_;
  double least_ = 0.0, most_ = 0.0;
};

/// A part's sounds along the track: each hit or phrase has its section's version, and automated values of
/// layers, contour and processors as they are at its start. The part's level is not among them: it moves while
/// sounds ring (automation_lanes.h). One thread.
class PartMoments {
 public:
  /// `part`: as it is to sound, such as with some layers muted. Both must outlive this.
  PartMoments(const Session& session, const Part& part);
  bool change() const { return !automations_.empty() || versions_; }
  /// Without hits and notes where something changes. Valid as long as this.
  const Part& at(double quarters);

 private:
  Session bare_;
  const Session& session_;
  const Part& part_;
  std::vector<const Automation*> automations_;
  bool versions_ = false;
  std::map<std::pair<size_t, std::vector<double>>, Part> made_;
};

/// The states that an object goes through, and which it is in at each tick of the track.
struct StatesAlong {
  std::vector<Session> states;   ///< bare: with what was asked for alone
  std::vector<uint32_t> atTick;  ///< index in states
};
inline constexpr size_t kAutomationTickFrames = 1024;
/// Ticks of a track, one beyond its end.
size_t ticksOf(const Track& track);
/// A tick's moment, quarters; from a loop's last whole tick on that of its start, so that its end meets it.
double tickQuarters(size_t tick, const Track& track);
/// The states of a session that holds only what these automations are of. Nothing where there are none.
StatesAlong statesAlong(const Session& bare, const std::vector<const Automation*>& automations);

}  // namespace heft
