#include "core/session/edits/contour.h"

#include <algorithm>
#include <cmath>

#include "core/session/fields.h"

namespace heft {
namespace {

Edit onContour(const std::string& name, const Part& part, std::function<void(Contour&, double tempoBpm)> change,
               const std::string& mergeKey = {}) {
  return {name,
          [id = part.id, change = std::move(change)](Session& s) {
            Part* p = s.part(id);
            if (!p) return;
            change(p->contour, s.track.tempoBpm);
            p->contour.on = true;
          },
          mergeKey};
}

double kept(double db) {
  return rangeOf<ContourPoint>("db").held(std::round(10.0 * db) / 10.0);
}

// Between the neighbours or on one of them; exact if the requested value is in between.
void putPoint(Contour& c, size_t index, TimeValue at, double db, double tempoBpm) {
  if (index >= c.points.size()) return;
  const double asked = at.toMs(tempoBpm);
  if (asked > kLatestContourMs) at = TimeValue::milliseconds(kLatestContourMs);
  if (index + 1 < c.points.size() && asked > c.points[index + 1].at.toMs(tempoBpm)) at = c.points[index + 1].at;
  if (index > 0 && asked < c.points[index - 1].at.toMs(tempoBpm)) at = c.points[index - 1].at;
  c.points[index].at = at, c.points[index].db = kept(db);
}

}  // namespace

Edit moveContourPoint(const Part& part, size_t index, const TimeValue& at, double db,
                      const std::string& mergeKey) {
  return onContour(
      "move a point of the contour", part,
      [=](Contour& c, double tempoBpm) { putPoint(c, index, at, db, tempoBpm); }, mergeKey);
}

Edit placeContourPoint(const Part& part, const TimeValue& at, double db) {
  return onContour("place a point of the contour", part, [=](Contour& c, double tempoBpm) {
    if (c.points.size() >= kMostContourPoints) return;
    const auto next = std::find_if(c.points.begin(), c.points.end(), [&](const ContourPoint& p) {
      return p.at.toMs(tempoBpm) > at.toMs(tempoBpm);
    });
    c.points.insert(next, {at, kept(db), 0.0});
  });
}

Edit removeContourPoint(const Part& part, size_t index) {
  return onContour("remove a point of the contour", part, [=](Contour& c, double) {
    if (c.points.size() > 2 && index < c.points.size())
      c.points.erase(c.points.begin() + static_cast<ptrdiff_t>(index));
  });
}

Edit bendContour(const Part& part, size_t index, double bend, const std::string& mergeKey) {
  return onContour(
      "bend the contour", part,
      [=](Contour& c, double) {
        if (index + 1 < c.points.size()) c.points[index].bend = rangeOf<ContourPoint>("bend").held(bend);
      },
      mergeKey);
}

Edit setContourSustain(const Part& part, double db, const std::string& mergeKey) {
  return onContour(
      "set sustain", part, [=](Contour& c, double) { c.points.back().db = kept(db); }, mergeKey);
}

Edit setContourFall(const Part& part, const TimeValue& until, const std::string& mergeKey) {
  return onContour(
      "set when the sustain is reached", part,
      [=](Contour& c, double tempoBpm) {
        putPoint(c, c.points.size() - 1, until, c.points.back().db, tempoBpm);
      },
      mergeKey);
}

}  // namespace heft
