#include "core/render/sounds/contour_line.h"

#include <algorithm>

#include "core/render/sounds/phrases.h"

namespace heft {

ContourLine::ContourLine(const Part& part, const Track& track)
    : contour_(part.contour), tempoBpm_(track.tempoBpm) {
  const double quarter = 60.0 / track.tempoBpm;
  loopSeconds_ = track.loopQuarters() * quarter;
  for (const PlacedPhrase& phrase : phrasesOf(part, track)) {
    const PhraseNote& last = phrase.ask.phrase.notes.back();
    notes_.push_back({phrase.startQuarters * quarter, last.start + last.length});
  }
}

double ContourLine::at(double seconds) const {
  if (notes_.empty()) return 0.0;
  const auto next = std::upper_bound(notes_.begin(), notes_.end(), seconds,
                                     [](double t, const NoteSpan& n) { return t < n.startSeconds; });
  const bool before = next == notes_.begin();
  const NoteSpan& note = before ? notes_.back() : *std::prev(next);
  const double since = seconds - note.startSeconds + (before ? loopSeconds_ : 0.0);
  return ContourGain(contour_, tempoBpm_, note.heldSeconds).at(since);
}

}  // namespace heft
