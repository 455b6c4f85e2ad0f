#include "core/render/sounds/phrases.h"

#include <algorithm>
#include <cmath>

#include "core/session/pattern.h"

namespace heft {
namespace {

// The wheel from `start` to `end`, in seconds from `start`; nothing where it is centred throughout.
std::vector<PitchPointAt> bendOver(const Part& part, double start, double end, double quarterSeconds) {
  std::vector<PitchPointAt> out = {{0.0, wheelAt(part, start)}};
  const auto first = std::upper_bound(part.wheel.begin(), part.wheel.end(), start,
                                      [](double at, const WheelPoint& p) { return at < p.quarters; });
  for (auto p = first; p != part.wheel.end() && p->quarters < end; ++p)
    out.push_back({(p->quarters - start) * quarterSeconds, p->value * part.wheelRange});
  out.push_back({(end - start) * quarterSeconds, wheelAt(part, end)});
  const bool rests =
      std::all_of(out.begin(), out.end(), [](const PitchPointAt& p) { return p.semitones == 0.0; });
  return rests ? std::vector<PitchPointAt>() : out;
}

bool goesOver(const Note& note, const Note& next) {
  return note.tie && std::abs(note.endQuarters() - next.startQuarters) < 1e-6;
}

}  // namespace

double wheelAt(const Part& part, double quarters) {
  return wheelValue(part, quarters) * part.wheelRange;
}

std::vector<PlacedPhrase> phrasesOf(const Part& part, const Track& track) {
  std::vector<Note> notes;
  for (const Note& n : part.notes)
    if (n.startQuarters < track.loopQuarters() - 1e-9) notes.push_back(n);
  const double quarter = 60.0 / track.tempoBpm;
  std::vector<PlacedPhrase> out;
  for (size_t i = 0; i < notes.size(); ++i) {
    const Note& n = notes[i];
    const bool tied = i > 0 && goesOver(notes[i - 1], n);
    if (!tied) {
      PlacedPhrase& phrase = out.emplace_back();
      phrase.startQuarters = n.startQuarters + n.move.offsetMs / 1000.0 / quarter;
      phrase.ask.phrase.quarterSeconds = quarter;
      phrase.ask.phrase.startInSong = phrase.startQuarters * quarter;
      phrase.ask.phrase.phaseDegrees = n.move.phaseDegrees;
      phrase.ask.without = n.without;
      phrase.trimDb = n.trim.db;
    }
    const double next = i + 1 < notes.size() ? notes[i + 1].startQuarters
                        : track.song         ? n.endQuarters()
                                             : notes[0].startQuarters + track.loopQuarters();
    const double end = std::min(n.endQuarters(), next), start = out.back().startQuarters;
    const double from = tied ? n.startQuarters : start;
    constexpr double kShortestSeconds = 0.005;
    out.back().ask.phrase.notes.push_back({(from - start) * quarter,
                                           std::max(kShortestSeconds, (end - from) * quarter),
                                           static_cast<double>(n.midi), std::max(1e-4, n.velocity), n.dive});
  }
  for (PlacedPhrase& p : out) {
    const PhraseNote& last = p.ask.phrase.notes.back();
    // Released notes still follow the wheel.
    const double end = p.startQuarters + (last.start + last.length) / quarter + 0.5 / quarter;
    p.ask.phrase.bend = bendOver(part, p.startQuarters, end, quarter);
  }
  return out;
}

}  // namespace heft
