#pragma once
/// Parts of patterns: a stretch of time in one lane or several, taken out, put elsewhere, moved. All positions
/// in quarters.

#include <set>

#include "core/session/pattern.h"

namespace heft {

/// What starts from `from` to before `to`, and the wheel of parts that play notes there.
struct PatternRange {
  double from = 0.0, to = 0.0;
  std::set<int> parts = {};  ///< by id; empty: all
  bool operator==(const PatternRange&) const = default;

  double length() const { return to - from; }
  bool holds(double quarters) const;
  bool has(int part) const { return parts.empty() || parts.contains(part); }
};

/// What was taken from a range, counted from its start, part by part.
struct PatternClip {
  struct OfPart {
    int part = 0;
    std::vector<Hit> hits;
    std::vector<Note> notes;
    std::vector<WheelPoint> wheel;
  };
  PatternRange range;
  std::vector<OfPart> parts;
};

PatternClip clipOf(const Session& session, const PatternRange& range);
/// Without what lies in the range; the wheel rests there.
Session cleared(Session session, const PatternRange& range);
/// The clip at another place, in place of what starts there; what would reach beyond the loop's end is left
/// out. Ids of layers that rest are kept.
Session pasted(Session session, const PatternClip& clip, double at);
/// The range's events later by `quarters`, as far as the loop goes; those that they come upon make room. Gives
/// the range that they are in now.
Session moved(Session session, const PatternRange& range, double quarters, PatternRange* now = nullptr);
/// The range's notes, higher by `semitones`.
Session transposed(Session session, const PatternRange& range, int semitones);
/// Starts in the range towards the grid's lines by `strength`, 0 to 1.
Session quantised(Session session, const PatternRange& range, double strength);
/// Velocities in the range, more by `by`.
Session louder(Session session, const PatternRange& range, double by);
/// What lies in `from` to `to` again at `at`, in place of what starts there.
Session copied(Session session, double from, double to, double at);

/// The curve with as few points as keep it within `tolerance` of where it was (Ramer 1972, Douglas and Peucker
/// 1973, by value only). At worst quadratic in the points, of which a session holds at most 20,000.
std::vector<WheelPoint> thinned(const std::vector<WheelPoint>& curve, double tolerance = 0.002);

}  // namespace heft
