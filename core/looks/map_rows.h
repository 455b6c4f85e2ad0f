#pragma once
/// Rows of Align's map.

#include <vector>

#include "core/study/study.h"

namespace heft {

/// One hit, or of many those of one section over one bass note.
struct MapRow {
  std::vector<size_t> hits;  ///< places in the study, ascending
  size_t worst = 0;          ///< the one of them that loses most as heard
  AlignCurve curve;          ///< of all of them together
  std::optional<int> noteMidi = {};
  std::string section = {};
};
/// Up to this many hits each have a row.
inline constexpr size_t kMostSingleRows = 64;

/// A row a hit; of more than kMostSingleRows hits a row a section and note, in the order in which they begin,
/// those without a bass under them left out. Cost: of 1,200 hits some 10 ms.
std::vector<MapRow> mapRows(const Session& session, const Study& study);

}  // namespace heft
