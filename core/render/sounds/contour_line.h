#pragma once
/// The gain that a part's contour gives its lane over the loop: a line to draw.

#include <utility>
#include <vector>

#include "core/session/session.h"

namespace heft {

class ContourLine {
 public:
  ContourLine(const Part& part, const Track& track);
  struct NoteSpan {
    double startSeconds = 0.0, heldSeconds = 0.0;  ///< of tied notes: of all together
  };
  /// Ascending; a note that the next one ends lasts until then.
  const std::vector<NoteSpan>& notes() const { return notes_; }
  /// An amplitude; the last note's contour wraps to the loop's start. 0 where no note sounds.
  double at(double seconds) const;

 private:
  std::vector<NoteSpan> notes_;
  Contour contour_;
  double tempoBpm_ = 120.0, loopSeconds_ = 1.0;
};

}  // namespace heft
