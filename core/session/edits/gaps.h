#pragma once
/// Edits of the bass line that leave room about the kick's hits. Times of the pattern alone: what a lane is
/// delayed by is left out.

#include "core/session/edits/edit.h"

namespace heft {

/// What starts within the gap after a hit starts at its end; its own end stays, or goes along where it would be
/// shorter than a 64th. Notes that begin with the hit count too.
Edit delayToGap(double gapMs);
/// What starts within the gap after a hit and goes on from a note that ends there is tied to it, so that
/// nothing is struck: the note before is drawn on to it where it ends within the gap before.
Edit tieOverGap(double gapMs);
/// What still sounds so long before a hit, and began before that, ends there.
Edit endBeforeHits(double gapMs);

/// How many notes each would change.
struct GapNotes {
  int within = 0;    ///< start within the gap after a hit
  int ringInto = 0;  ///< began before a hit and still sound the gap before it
};
GapNotes notesAboutHits(const Session& session, double gapMs);

}  // namespace heft
