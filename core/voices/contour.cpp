#include "core/voices/contour.h"

#include <algorithm>

#include "core/sound/buffer.h"
#include "core/sound/raised_cosine.h"
#include "core/voices/bend.h"

namespace heft {
ContourGain::ContourGain(const Contour& contour, double tempoBpm, double heldSeconds, bool released)
    : contour_(contour), held_(heldSeconds), released_(released) {
  double last = 0.0;
  for (const ContourPoint& p : contour.points)
    at_.push_back(last = std::max(last, p.at.toMs(tempoBpm) / 1000.0));
  release_ = std::max(kShortestReleaseMs, contour.release.toMs(tempoBpm)) / 1000.0;
}

double ContourGain::decibelsAt(double seconds) const {
  const auto& points = contour_.points;
  const auto next = std::upper_bound(at_.begin(), at_.end(), seconds) - at_.begin();
  if (next == 0) return points.front().db;
  if (next == std::ssize(at_)) return points.back().db;
  const auto i = static_cast<size_t>(next - 1);
  const double part = (seconds - at_[i]) / (at_[i + 1] - at_[i]);
  return points[i].db + bentWay(part, points[i].bend) * (points[i + 1].db - points[i].db);
}

double ContourGain::at(double seconds) const {
  if (!contour_.works()) return 1.0;
  if (seconds < 0.0) return 0.0;
  double gain = amplitudeFromDb(contour_.amount * decibelsAt(seconds));
  if (seconds < at_.front()) gain *= raisedCosine(seconds / at_.front());
  if (released_ && seconds > held_) gain *= 1.0 - raisedCosine((seconds - held_) / release_);
  return gain;
}

}  // namespace heft
