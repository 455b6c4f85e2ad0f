#pragma once
/// Edits of the contour of a part's notes. Each switches the contour on; does nothing if the part is missing.

#include "core/session/edits/edit.h"

namespace heft {

/// Moves a point: between its neighbours in time, which depends on the tempo, its level within its range.
Edit moveContourPoint(const Part& part, size_t index, const TimeValue& at, double db,
                      const std::string& mergeKey = {});
/// Adds a point; does nothing at kMostContourPoints.
Edit placeContourPoint(const Part& part, const TimeValue& at, double db);
/// Peak and sustain stay: at least two points remain.
Edit removeContourPoint(const Part& part, size_t index);
Edit bendContour(const Part& part, size_t index, double bend, const std::string& mergeKey = {});
/// The gain at the contour's end, and when it is reached: its last point.
Edit setContourSustain(const Part& part, double db, const std::string& mergeKey = {});
Edit setContourFall(const Part& part, const TimeValue& until, const std::string& mergeKey = {});

}  // namespace heft
