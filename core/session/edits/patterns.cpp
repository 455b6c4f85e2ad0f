#include "core/session/edits/patterns.h"

#include <algorithm>

#include "core/session/midi_pattern.h"
#include "core/session/pattern_range.h"

namespace heft {

Edit kickOnEveryBeat() {
  return {"kick on every beat", [](Session& s) { s = fourToTheBar(std::move(s)); }};
}

Edit bassOffTheBeat() {
  return {"offbeat bass", [](Session& s) { s = offbeatBass(std::move(s)); }};
}

Edit bassUnderFirstBeat() {
  return {"notes under the first beat", [](Session& s) { s = notesUnderFirstBeat(std::move(s)); }};
}

Edit copyFirstBar() {
  return {"copy first bar", [](Session& s) {
            const double bar = s.track.beatsPerBar * 4.0 / s.track.beatUnit;
            for (double to = bar; to < s.track.loopQuarters() - kSameMoment; to += bar)
              s = copied(s, 0.0, bar, to);
          }};
}

Edit nudgePatterns(double quarters) {
  return {"nudge pattern", [quarters](Session& s) { s = nudged(std::move(s), quarters); }};
}

Edit takePatterns(const std::vector<Part>& from, const std::string& name, const std::string& mergeKey) {
  return {name,
          [from](Session& s) {
            for (const Part& there : from)
              if (Part* part = s.part(there.id))
                part->hits = there.hits, part->notes = there.notes, part->wheel = there.wheel;
          },
          mergeKey};
}

Edit readPatternInto(const Part& part, const MidiTrack& track, double loop) {
  const std::string word = partWord(part);
  return onPart(part.playsNotes() ? "read " + word + " line" : "read " + word + " pattern", part.id,
                [track, loop](Part& p) {
                  if (!p.playsNotes()) {
                    p.hits = hitsFrom(track, loop);
                    return;
                  }
                  const BassLine line = lineFrom(track, loop);
                  p.notes = line.notes, p.wheel = line.wheel;
                  if (line.wheelRange) p.wheelRange = *line.wheelRange;
                });
}

Edit setBackingLevel(double levelDb, const std::string& mergeKey) {
  return {"set backing level",
          [levelDb](Session& s) { s.backing.levelDb = std::clamp(levelDb, kLeastLevelDb, kMostLevelDb); },
          mergeKey};
}

}  // namespace heft
