#pragma once
/// Ranges of patterns: a stretch of time in one or several lanes, cut, pasted, moved. All positions in
/// quarters.

#include <set>

#include "core/session/pattern.h"

namespace heft {

/// Events that start from `from` to before `to`, and the wheels of line parts there.
struct PatternRange {
  double from = 0.0, to = 0.0;
  std::set<int> parts = {};  ///< by id; empty: all
  bool operator==(const PatternRange&) const = default;

  double length() const { return to - from; }
  bool holds(double quarters) const;
  bool has(int part) const { return parts.empty() || parts.contains(part); }
};

/// A copied range, counted from its start, by part.
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
/// Removes the range's events; centres the wheel there.
Session cleared(Session session, const PatternRange& range);
/// Pastes the clip at another position and replaces events that start there; cuts what would pass the loop's
/// end. Muted layers' ids are kept.
Session pasted(Session session, const PatternClip& clip, double at);
/// Moves the range's events later by `quarters`, as far as the loop allows, replacing events there. Returns
/// their new range.
Session moved(Session session, const PatternRange& range, double quarters, PatternRange* now = nullptr);
/// Transposes the range's notes by `semitones`.
Session transposed(Session session, const PatternRange& range, int semitones);
/// Quantises starts in the range by `strength`, 0 to 1.
Session quantised(Session session, const PatternRange& range, double strength);
/// Raises velocities in the range by `by`.
Session louder(Session session, const PatternRange& range, double by);
/// Repeats `from` to `to` at `at`, replacing events that start there.
Session copied(Session session, double from, double to, double at);

}  // namespace heft
