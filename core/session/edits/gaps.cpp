#include "core/session/edits/gaps.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kShortest = 1.0 / 16.0, kSame = 1e-6;  // quarters: a 64th

double quartersOf(double ms, const Track& track) {
  return ms * track.tempoBpm / 60000.0;
}

// From the hit before it, or with it, within the loop; nothing where the gap after none holds it.
std::optional<double> hitBefore(const Session& s, const Note& note, double gap) {
  std::optional<double> out;
  for (const Hit& h : s.kick().hits)
    if (note.startQuarters >= h.startQuarters - kSame && note.startQuarters < h.startQuarters + gap - kSame)
      out = h.startQuarters;
  return out;
}

// The first hit that it began before and that it sounds into, or up to less than the gap before it.
std::optional<double> hitWithin(const Session& s, const Note& note, double gap) {
  std::optional<double> out;
  for (const Hit& h : s.kick().hits)
    if (note.startQuarters < h.startQuarters - gap - kSame &&
        note.endQuarters() > h.startQuarters - gap + kSame)
      if (!out || h.startQuarters < *out) out = h.startQuarters;
  return out;
}

Edit onBassLine(const std::string& name, double gapMs, void (*change)(Session&, double)) {
  return {name + " " + formatNumber(gapMs, 0) + " ms",
          [gapMs, change](Session& s) { change(s, quartersOf(std::max(0.0, gapMs), s.track)); }};
}

}  // namespace

Edit delayToGap(double gapMs) {
  return onBassLine("delay bass notes to", gapMs, [](Session& s, double gap) {
    for (Note& n : s.bass().notes) {
      const auto hit = hitBefore(s, n, gap);
      if (!hit) continue;
      const double end = n.endQuarters();
      n.startQuarters = *hit + gap;
      n.lengthQuarters = std::max(kShortest, end - n.startQuarters);
    }
    std::stable_sort(s.bass().notes.begin(), s.bass().notes.end(),
                     [](const Note& a, const Note& b) { return a.startQuarters < b.startQuarters; });
  });
}

Edit tieOverGap(double gapMs) {
  return onBassLine("tie bass notes within", gapMs, [](Session& s, double gap) {
    auto& notes = s.bass().notes;
    for (size_t i = 1; i < notes.size(); ++i) {
      Note &before = notes[i - 1], &note = notes[i];
      if (!hitBefore(s, note, gap) || note.startQuarters - before.endQuarters() > gap + kSame) continue;
      before.lengthQuarters = note.startQuarters - before.startQuarters;
      before.tie = true;
    }
  });
}

Edit endBeforeHits(double gapMs) {
  return onBassLine("end bass notes before kicks by", gapMs, [](Session& s, double gap) {
    for (Note& n : s.bass().notes) {
      const auto hit = hitWithin(s, n, gap);
      if (!hit) continue;
      n.lengthQuarters = std::max(kShortest, *hit - gap - n.startQuarters);
      n.tie = false;
    }
  });
}

GapNotes notesAboutHits(const Session& s, double gapMs) {
  const double gap = quartersOf(gapMs, s.track);
  GapNotes out;
  for (const Note& n : s.bass().notes) {
    out.within += hitBefore(s, n, gap) ? 1 : 0;
    out.ringInto += hitWithin(s, n, gap) ? 1 : 0;
  }
  return out;
}

}  // namespace heft
