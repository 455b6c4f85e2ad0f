#pragma once
/// Automation: a value that changes along the track, as points with bends.

#include <string>
#include <vector>

#include "core/session/asset_ref.h"
#include "core/session/owner.h"

namespace heft {

struct Session;

struct AutomationPoint {
  double quarters = 0.0;
  double value = 0.0;  ///< in the value's own unit; of times, ms
  double bend = 0.0;   ///< of the way to the next point, -1 to 1: 1 moves early, -1 late
  Unknown unknown = {};
  bool operator==(const AutomationPoint&) const = default;
};
inline constexpr size_t kMostAutomationPoints = 8192;

struct Automation {
  Owner owner;
  std::string key;                           ///< of value_at.h
  std::string name = {};                     ///< as the window calls the value
  bool on = true;                            ///< off: the value itself sounds
  bool holds = false;                        ///< each point's value until the next: so flags and choices move
  std::vector<AutomationPoint> points = {};  ///< ascending; two at one moment are a step; none: does nothing
  Unknown unknown = {};
  bool operator==(const Automation&) const = default;

  bool works() const { return on && !points.empty(); }
  bool isOf(const Owner& of, const std::string& what) const { return owner == of && key == what; }
  /// The value there; before the first point its value, after the last one the last. `points` must not be
  /// empty.
  double at(double quarters) const;
  /// The same, but a step within `ahead` of it has been made already.
  double ahead(double quarters, double ahead) const;
};
inline constexpr size_t kMostAutomations = 64;

/// Whether a value can be automated: a number, a time, a switch or a choice of a layer, a part, a processor or
/// a ducking, the level of the backing, the amount of all duckings. Not what a lane has once: its pattern, its
/// alignment, the source, target and kind of a ducking (its amount is its switch). False where the value does
/// not exist.
bool canBeAutomated(const Session& session, const Owner& owner, const std::string& key);

/// The automation of a value; nothing where it has none.
const Automation* automationOf(const Session& session, const Owner& owner, const std::string& key);
/// The one that is heard, in that session; nothing where it is off, empty, or its value is gone.
const Automation* heardAutomation(const Session& session, const Owner& owner, const std::string& key);

}  // namespace heft
