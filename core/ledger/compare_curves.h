#pragma once
/// Spectra of a session beside its references, as they are looked at.

#include <optional>
#include <vector>

#include "core/ledger/study.h"

namespace heft {

struct CompareCurve {
  enum class Of { Reference, Kick, Bass, Part, Sum } of = Of::Sum;
  std::optional<int> part = {};  ///< the id with Part
  std::vector<double> db;        ///< one a profileHz()
};

/// Loudness matched and smoothed over half an octave with a triangle: what one judges is the shape, not the
/// loop's comb of lines. Lanes stand at their own share of the sum; of parts beside kick and bass those are
/// here that have more power than both in a low band. Against the references' median, or against the highest of
/// all where that is not asked for or there are none. Silent lanes have none.
std::vector<CompareCurve> compareCurves(const Study& study, bool againstMedian);

}  // namespace heft
