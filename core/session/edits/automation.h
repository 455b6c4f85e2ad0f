#pragma once
/// Edits of automation. Values are held to the range of what they automate; times are held to the track.

#include <optional>

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// Which automation.
struct AutomationOf {
  Owner owner;
  std::string key;
  std::string name = {};  ///< as the window calls the value
};

/// One with a point at the track's start, at the present value (where there is none, halfway in its range), or
/// the existing one turned on. Does nothing where the value cannot be automated or there are kMostAutomations.
Edit automate(const AutomationOf& of);
/// Adds a point, or moves the one at that moment; makes the automation where there is none yet.
Edit placeAutomationPoint(const AutomationOf& of, double quarters, double value);
/// Between its neighbours.
Edit moveAutomationPoint(const AutomationOf& of, size_t index, double quarters, double value,
                         const std::string& mergeKey = {});
Edit bendAutomation(const AutomationOf& of, size_t index, double bend, const std::string& mergeKey = {});
/// The last point stays as long as the automation does.
Edit removeAutomationPoint(const AutomationOf& of, size_t index);
/// A stretch at one value, with steps at both ends: the level of the drop.
Edit setAutomationOver(const AutomationOf& of, double fromQuarters, double toQuarters, double value,
                       const std::string& mergeKey = {});
/// What was played or drawn, in place of the points from its first moment to its last.
Edit insertAutomation(const AutomationOf& of, const std::vector<AutomationPoint>& played);
/// The same, the value and its automation put back to what they were before it was turned.
Edit recordAutomation(const AutomationOf& of, const Value& before, const std::optional<Automation>& was,
                      const std::vector<AutomationPoint>& played);
Edit switchAutomation(const AutomationOf& of, bool on);
Edit removeAutomation(const AutomationOf& of);

/// Share of a value's range within which thinned points stay: 1/500, well under what is heard.
inline constexpr double kThinnedShare = 0.002;
/// Played points without those that straight lines replace (thinned.h).
std::vector<AutomationPoint> thinnedFor(const Session& session, const AutomationOf& of,
                                        const std::vector<AutomationPoint>& played);

/// Sets a value; where it is automated, the whole curve moves with it, by ratio for frequencies; of a switch or
/// a choice, the points that have the former value.
void putAlong(Session& session, const Owner& owner, const std::string& key, const Value& value);

/// What a section chooses.
Edit muteInSection(int section, int part, bool mute);
/// By name; empty: the present one.
Edit versionInSection(int section, int part, const std::string& version);
Edit duckAmountInSection(int section, int duck, double amount, const std::string& mergeKey = {});

}  // namespace heft
