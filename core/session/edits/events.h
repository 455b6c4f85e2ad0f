#pragma once
/// Edits of single hits and notes, identified by their start in quarters: no two of a part start together.
/// They do nothing where none starts there. Velocities and times are clamped to their ranges.

#include <algorithm>
#include <cmath>

#include "core/session/edits/edit.h"
#include "core/session/pattern.h"

namespace heft {

/// The event of a list that starts there, to within kSameMoment; nullptr for none.
template <class Events>
auto* eventAt(Events& events, double startQuarters) {
  const auto there = std::find_if(events.begin(), events.end(), [&](const auto& e) {
    return std::abs(e.startQuarters - startQuarters) < kSameMoment;
  });
  return there == events.end() ? nullptr : &*there;
}

Edit placeHit(const Part& part, const Hit& hit);
/// `word`: the name of the edit, "move", or "place" while it is still being placed.
Edit moveHit(const Part& part, double from, double to, const std::string& word = "move");
Edit removeHit(const Part& part, double at);

Edit placeNote(const Part& part, const Note& note);
/// Moves a note in time and pitch.
Edit moveNote(const Part& part, double from, double to, int midi);
Edit lengthenNote(const Part& part, double at, double lengthQuarters, const std::string& word = "lengthen",
                  const std::string& mergeKey = "note");
Edit setNotePitch(const Part& part, double at, int midi, const std::string& mergeKey = {});
Edit toggleTie(const Part& part, double at);
Edit setDive(const Part& part, double at, const Dive& dive, const std::string& name = "dive",
             const std::string& mergeKey = {});
/// A dive over the note's second half; 0 semitones: none.
Edit diveBy(const Part& part, double at, double semitones);
Edit removeNote(const Part& part, double at);

/// Velocity of the hit or the note that starts there.
Edit setVelocity(const Part& part, double at, double velocity, const std::string& mergeKey = "velocity");
/// Whether a layer plays at the hit or the note that starts there.
Edit toggleLayerAt(const Part& part, double at, int layerId);

/// Points of the pitch wheel, by index. A point stays between its neighbours.
Edit placeWheelPoint(const Part& part, double at, double value);
Edit moveWheelPoint(const Part& part, double from, double to, double value, double loopQuarters);
Edit removeWheelPoint(const Part& part, double at);
Edit clearWheel(const Part& part);
Edit setWheelRange(const Part& part, double semitones);

}  // namespace heft
