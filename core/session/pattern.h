#pragma once
/// Patterns: the grid with its swing, quantising, and moves over whole patterns. All positions in quarters.

#include "core/session/session.h"

namespace heft {

/// Two positions in quarters no further apart are one.
inline constexpr double kSameMoment = 1e-6;

/// A position wrapped into a loop of `loop` quarters: 0 to below `loop`.
double wrappedQuarters(double at, double loop);

/// Maps a straight position to the swung grid: delays every second division by `swing` thirds of one and
/// moves positions in between along. And back.
double swung(const Grid& grid, double straight);
double straightened(const Grid& grid, double swungAt);

/// The grid line nearest to a position, and the one at or before it.
double nearestLine(const Grid& grid, double quarters);
double lineBefore(const Grid& grid, double quarters);
/// The line after the one at or before a position.
double lineAfter(const Grid& grid, double quarters);

/// The session with another grid: hits and notes move with its swing, and return with the old one.
Session withGrid(Session session, const Grid& grid);

/// Quantises by `strength` (0 to 1). Starts only; a note keeps its length. What would reach the loop's end
/// wraps to its start.
void quantise(std::vector<Hit>& hits, const Grid& grid, double strength, const Track& track);
void quantise(std::vector<Note>& notes, const Grid& grid, double strength, const Track& track);

/// Parses a typed offset in seconds: "0.52 s", "250 ms", "-1 beat", "2 bars", "1/4"; a bare number is
/// seconds. BadUsage beyond ten minutes or for anything else.
Result<double> parseOffset(const std::string& text, const Track& track);

/// A position as bar, beat and sixteenth, from 1: "2.3.1". Negative: the start.
std::string positionName(const Track& track, double quarters);
/// The same from "57", "57.3" or "57.3.2", in quarters. Errors: BadUsage where it is outside the track.
Result<double> parsePosition(const std::string& text, const Track& track);

/// The track in another metre, its loop as many bars long as before (as far as it can be).
Track withMetre(Track track, int beatsPerBar, int beatUnit);

/// A kick on every felt beat: the default of a new kick, and the pattern of that name.
std::vector<Hit> hitsOnBeats(const Track& track);
Session fourToTheBar(Session session);
/// The line's main note, by total length; without a line the key's low tonic. Of any part, and of the bass.
int mainNote(const Part& part, const Track& track);
int mainBassNote(const Session& session);
/// A bass note of half a beat on every offbeat, on the line's main note.
Session offbeatBass(Session session);
/// Only events that start within the first beat of each bar.
Session notesUnderFirstBeat(Session session);
/// Moves all hits and notes later by `quarters`, around the loop.
Session nudged(Session session, double quarters);

/// The pitch wheel at a position in the loop, -1 to 1; straight between its points, 0 without any.
double wheelValue(const Part& bass, double quarters);

/// Ascending, one hit at a place: within a loop, where what passes its end comes in at its start; in a song
/// not before its start.
void tidy(std::vector<Hit>& hits, const Track& track);
void tidy(std::vector<Note>& notes, const Track& track);

/// Changes the events that play and tidies them; those beyond the track's end stay as they are.
template <class Event, class Change>
void changePlayed(std::vector<Event>& events, const Track& track, Change change) {
  const double end = track.loopQuarters() - kSameMoment;
  std::vector<Event> beyond;
  for (const Event& e : events)
    if (e.startQuarters >= end) beyond.push_back(e);
  std::erase_if(events, [&](const Event& e) { return e.startQuarters >= end; });
  change(events);
  tidy(events, track);
  events.insert(events.end(), beyond.begin(), beyond.end());
  std::stable_sort(events.begin(), events.end(),
                   [](const Event& a, const Event& b) { return a.startQuarters < b.startQuarters; });
}

}  // namespace heft
