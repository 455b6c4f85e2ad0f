#pragma once
/// Edits of the bass line that leave room around the kick's hits. Pattern times only: lane delays are
/// ignored.

#include "core/session/edits/edit.h"

namespace heft {

/// Moves notes that start within the gap after a hit to its end; their own end stays, or moves along where
/// the note would be shorter than a 64th. Includes notes on the hit.
Edit delayToGap(double gapMs);
/// Ties a note that starts within the gap after a hit to the note before it, so nothing strikes: that note is
/// extended to it if it ends within the gap before.
Edit tieOverGap(double gapMs);
/// Ends notes that still sound that long before a hit and began before that.
Edit endBeforeHits(double gapMs);

/// How many notes each would change.
struct GapNotes {
  int within = 0;    ///< start within the gap after a hit
  int ringInto = 0;  ///< began before a hit and still sound the gap before it
};
GapNotes notesAboutHits(const Session& session, double gapMs);

}  // namespace heft
