#pragma once
/// A destination of a sound, or the selected row: a part by its id, the backing, the references, the sum.

#include <QColor>
#include <QString>
#include <QStringList>

#include "core/session/edits/edit.h"
#include "engine/player/level_match.h"

namespace heft::app {

struct Place {
  int id = 1;
  auto operator<=>(const Place&) const = default;
  bool isPart() const { return id > kBackingLane; }
};
inline constexpr Place kBacking{kBackingLane}, kReferences{-1}, kSum{-2};

inline Place kickOf(const Session& s) {
  return {s.kick().id};
}
inline Place bassOf(const Session& s) {
  return {s.bass().id};
}
/// Nothing for a place that is not a part, or is missing.
inline const Part* partAt(const Session& s, Place place) {
  return place.isPart() ? s.part(place.id) : nullptr;
}
/// "Kick", "Clap", "Backing", "Sum", "Reference".
QString placeName(const Session& session, Place place);
/// "kick", "Clap", "backing", "reference".
QString placeWord(const Session& session, Place place);
/// The references by their files' names; those of one name with their folder beside it, else their number.
QStringList referenceNames(const Session& session);
QColor placeColour(const Session& session, Place place);
/// Colour of a part: red for kicks, teal for basses, ink for others.
QColor colourOf(const Part& part);

}  // namespace heft::app
