#include "app/document/places.h"

#include "app/theme/theme.h"

namespace heft::app {

QString placeName(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part                ? QString::fromStdString(part->title())
         : place == kBacking ? "Backing"
         : place == kSum     ? "Sum"
                             : "Reference";
}

QString placeWord(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part                ? QString::fromStdString(partWord(*part))
         : place == kBacking ? "backing"
         : place == kSum     ? "sum"
                             : "reference";
}

QColor colourOf(const Part& part) {
  const Theme& t = theme();
  return part.is() == PartRole::Kick ? t.kick : part.is() == PartRole::Bass ? t.bass : withAlpha(t.ink, 0.75);
}

QColor placeColour(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part ? colourOf(*part) : theme().ink;
}

}  // namespace heft::app
