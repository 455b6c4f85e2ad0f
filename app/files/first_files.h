#pragma once
/// Which of several files is the kick, the bass and the rest of the track.

#include <QStringList>
#include <vector>

#include "app/document/places.h"

namespace heft::app {

struct PlacedFile {
  Place place;
  QString path;
};

/// By names (library/search.h), then: the largest of the others is the backing, the rest go to kick and bass
/// if these are free. Each free place gets one; the remainder is in `over`.
struct PlacedFiles {
  std::vector<PlacedFile> placed;
  QStringList over;
};
PlacedFiles placesOf(const Session& session, const QStringList& paths);

}  // namespace heft::app
