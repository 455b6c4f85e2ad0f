#include "core/session/edits/patterns.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/values.h"
#include "core/session/midi_pattern.h"
#include "core/session/pattern.h"
#include "core/session/pattern_range.h"
#include "core/session/take.h"
#include "core/session/thinned.h"
#include "core/theory/text.h"

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

Edit clearRange(const std::string& name, const PatternRange& range) {
  return {name, [range](Session& s) { s = cleared(s, range); }};
}

Edit pasteClip(const PatternClip& clip, double at) {
  return {"paste part of the pattern", [clip, at](Session& s) { s = pasted(s, clip, at); }};
}

Edit quantiseRange(const PatternRange& range, double strength) {
  return {"quantise pattern", [range, strength](Session& s) { s = quantised(s, range, strength); }};
}

Edit transposeRange(const PatternRange& range, int semitones, const std::string& mergeKey) {
  return {"transpose part of the line", [range, semitones](Session& s) { s = transposed(s, range, semitones); },
          mergeKey};
}

Edit changeVelocities(const PatternRange& range, double by, const std::string& mergeKey) {
  return {"set velocities", [range, by](Session& s) { s = louder(s, range, by); }, mergeKey};
}

Edit moveNotesAt(const Part& part, const std::vector<double>& moments, double byMs) {
  return {"move " + partWord(part) + " notes by " + formatNumber(byMs, 1) + " ms",
          [id = part.id, moments, byMs](Session& s) {
            Part* p = s.part(id);
            if (!p) return;
            const double by = byMs * s.track.tempoBpm / 60000.0;
            constexpr double kSoonAfter = 0.25, kStillOn = 0.02;
            auto sounds = [&](const Note& n) {
              return std::any_of(moments.begin(), moments.end(), [&](double at) {
                return n.startQuarters < at + kSoonAfter && n.endQuarters() > at + kStillOn;
              });
            };
            for (Note& n : p->notes)
              if (sounds(n)) n.startQuarters = std::max(0.0, n.startQuarters + by);
            std::stable_sort(p->notes.begin(), p->notes.end(),
                             [](const Note& a, const Note& b) { return a.startQuarters < b.startQuarters; });
          }};
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

Edit takeFoundHits(const Part& part, const std::vector<double>& seconds) {
  return {"find " + partWord(part) + " pattern", [id = part.id, seconds](Session& s) {
            Part* p = s.part(id);
            if (!p || p->playsNotes()) return;
            const double loop = s.track.loopQuarters();
            p->hits.clear();
            for (double t : seconds)
              if (const double at = t * s.track.tempoBpm / 60.0;
                  at >= 0.0 && at < loop && p->hits.size() < kMostHits)
                p->hits.push_back({at, 1.0});
            quantise(p->hits.own(), s.grid, 1.0, s.track);
          }};
}

Edit insertNote(const Part& part, const Note& played, const std::string& mergeKey) {
  return {"play in " + partWord(part) + " line",
          [id = part.id, played](Session& s) {
            if (Part* p = s.part(id)) insertPlayed(p->notes.own(), played, s.track.loopQuarters());
          },
          mergeKey};
}

Edit insertHit(const Part& part, const Hit& played, const std::string& mergeKey) {
  return {"play in " + partWord(part) + " hits",
          [id = part.id, played](Session& s) {
            if (Part* p = s.part(id)) insertPlayed(p->hits.own(), played, s.track.loopQuarters());
          },
          mergeKey};
}

Edit insertWheel(const Part& part, const std::vector<WheelPoint>& played) {
  return onPart("play in pitch wheel", part.id,
                [curve = thinned(played)](Part& p) { insertPlayed(p.wheel.own(), curve); });
}

Edit moveBacking(double offsetSeconds, const std::string& mergeKey) {
  return putValue("move backing", {}, "backing.offset_s", std::round(offsetSeconds * 1000.0) / 1000.0,
                  mergeKey);
}

Edit setBackingLevel(double levelDb, const std::string& mergeKey) {
  return putValue("set backing level", {}, "backing.level_db", levelDb, mergeKey);
}

}  // namespace heft
