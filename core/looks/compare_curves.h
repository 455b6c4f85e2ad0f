#pragma once
/// Spectra of a session beside its references, as displayed.

#include <optional>
#include <vector>

#include "core/study/study.h"

namespace heft {

struct CompareCurve {
  enum class Of { Reference, Kick, Bass, Part, Sum } of = Of::Sum;
  std::optional<int> part = {};       ///< the id with Part
  size_t reference = 0, section = 0;  ///< with Reference: indices in the session
  std::vector<double> db;             ///< one a profileHz()
};

/// Loudness matched and smoothed over half an octave with a triangle: the shape is what one judges, not the
/// loop's comb of lines. Lanes are drawn at their own share of the sum; of the parts beside kick and bass,
/// those with more power than both in a low band. Against the references' median, or against the highest of
/// all where no median is asked for or none exists. Silent lanes have none.
std::vector<CompareCurve> compareCurves(const Study& study, bool againstMedian);

/// The references' 10th and 90th percentile over time (medians over their sections), as drawn beside those
/// curves: one value a profileHz(). Empty without a measured reference.
struct OverTimeBand {
  std::vector<double> low, high;
};
OverTimeBand overTimeBand(const Study& study, bool againstMedian);
/// The sum's own, on the same ground.
OverTimeBand overTimeOf(const SectionProfile& sum, const Study& study, bool againstMedian);

}  // namespace heft
