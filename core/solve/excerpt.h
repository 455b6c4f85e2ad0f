#pragma once
/// A few bars of a long track as a loop of their own: what fixes are tried on, since trying one on a whole song
/// renders and measures all of it.

#include "core/judge/ledger.h"

namespace heft {

/// Bars of an excerpt. A track up to twice as long is tried as a whole.
inline constexpr int kExcerptBars = 8;

struct Excerpt {
  Session session;            ///< a loop; events from its first bar on, the rest left out
  double fromQuarters = 0.0;  ///< of the track
  double toQuarters = 0.0;
};

/// Whether fixes of that track are tried on an excerpt: a song, or a loop of more than 2 * kExcerptBars.
bool needsExcerpt(const Track& track);

/// The bars with the most hits that lines find out of range, of equals those with the most events; at bars.
/// Backing and triggers from files start where they are there. Pure.
Excerpt excerptOf(const Session& session, const std::vector<Finding>& findings);

/// The bars from that moment on, as excerptOf() cuts them.
Excerpt excerptFrom(const Session& session, double quarters);

/// Whether a move leaves every part's events as they are, so that it can be carried to the whole track.
bool keepsEvents(const Session& before, const Session& after);

/// The whole track with the values of its changed excerpt: everything but events and time.
Session carriedBack(const Session& whole, const Excerpt& excerpt, const Session& changed);

}  // namespace heft
