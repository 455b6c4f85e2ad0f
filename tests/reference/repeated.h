#pragma once
/// A loop's patterns written out over a song.

#include "core/session/session.h"

namespace heft::reference {

/// Makes the session a song of `times` of its loop.
inline void repeatAsSong(Session& s, int times) {
  const double loop = s.track.loopQuarters();
  s.track.song = true, s.track.loopBeats *= times;
  for (Part& part : s.parts) {
    const Part once = part;
    part.hits.clear(), part.notes.clear();
    for (int i = 0; i < times; ++i) {
      for (Hit h : once.hits) h.startQuarters += loop * i, part.hits.push_back(h);
      for (Note n : once.notes) n.startQuarters += loop * i, part.notes.push_back(n);
    }
  }
}

}  // namespace heft::reference
