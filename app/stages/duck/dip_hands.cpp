// Dragging the dip.

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/duck/dip_picture.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kDipGripReach = 9.0;  // px

}  // namespace

std::vector<DipPicture::Grip> DipPicture::grips() const {
  if (!duck().on) return {};
  if (duck().movement == Movement::Static) return {{Handle::Depth, 0}};
  if (!isDrawn()) return {};
  if (!hasPoints()) return {{Handle::Depth, 0}, {Handle::Return, 0}, {Handle::Hold, 0}, {Handle::Attack, 0}};
  std::vector<Grip> out;
  const size_t n = duck().curve.points.size();
  for (size_t i = 0; i < n; ++i) out.push_back({Handle::Point, i});
  out.push_back({Handle::Return, 0});
  for (size_t i = 0; i + 1 < n; ++i) out.push_back({Handle::Bend, i});
  return out;
}

DipPicture::Grip DipPicture::gripNear(const QPointF& at) const {
  Grip best;
  double nearest = kDipGripReach;
  for (const Grip& grip : grips()) {
    const QPointF d = at - handleAt(grip.handle, grip.index);
    // Of two overlapping handles the first in the list.
    if (const double off = std::hypot(d.x(), d.y()); off < nearest - 1e-9) nearest = off, best = grip;
  }
  return best;
}

void DipPicture::dragPoint(const QPointF& to, bool free) {
  const Areas a = areas();
  const DrawnDip d = dip();
  const double gain = std::clamp((a.target.center().y() - to.y()) / (0.5 * a.target.height()), 0.0, 1.0);
  const double low = gainAtDepth(d.depthDb);
  if (held_.handle == Handle::Point) {
    const double at =
        caughtByNotes(a.time, a.time.value(to.x()), track().tempoBpm, free).toMs(track().tempoBpm) / d.lengthMs;
    return document().edit(
        moveDipPoint(duck(), held_.index, at, low < 1.0 ? (1.0 - gain) / (1.0 - low) : 0.0, "drag point"));
  }
  const auto& points = duck().curve.points;
  if (held_.handle != Handle::Bend || held_.index + 1 >= points.size()) return;
  // The middle of the slope under the pointer: a raised cosine of the bent way.
  const double from = 1.0 - points[held_.index].taken * (1.0 - low),
               next = 1.0 - points[held_.index + 1].taken * (1.0 - low);
  if (from == next) return;
  const double gone = std::clamp((gain - from) / (next - from), 0.01, 0.99);
  document().edit(
      bendDip(duck(), held_.index, bendFor(std::acos(1.0 - 2.0 * gone) / std::numbers::pi), "drag bend"));
}

void DipPicture::drag(const QPointF& to, bool free) {
  const Areas a = areas();
  const DrawnDip d = dip();
  const double at = caughtByNotes(a.time, a.time.value(to.x()), track().tempoBpm, free).toMs(track().tempoBpm);
  auto setTime = [&](DipTime which, double ms, const std::string& merge) {
    const double tenths = std::clamp(ms, 0.0, 5000.0);
    const bool asSet = duck().curve.lasts == CurveLasts::AsSet;
    document().edit(setDipTime(duck(), which, TimeValue::milliseconds(tenths),
                               asSet ? std::nullopt : std::optional(d), merge));
  };
  switch (held_.handle) {
    case Handle::Depth: {
      const double gain = std::clamp((a.target.center().y() - to.y()) / (0.5 * a.target.height()), 0.0, 1.0);
      return document().edit(setDepth(duck(), depthAtGain(gain), "drag depth"));
    }
    case Handle::Attack:
      return setTime(DipTime::Attack, std::max(0.5, at), "drag attack");
    case Handle::Hold:
      return setTime(DipTime::Hold, at - d.attackMs, "drag hold");
    case Handle::Return:
      if (hasPoints())
        return document().edit(putValues("set the curve's length", {.duck = duck().id},
                                         {{"curve.length", TimeValue::milliseconds(std::max(1.0, at))},
                                          {"curve.lasts", std::string("as_set")}},
                                         "drag length"));
      return setTime(DipTime::Return, std::max(1.0, at - d.attackMs - d.holdMs), "drag release");
    case Handle::Point:
    case Handle::Bend:
      return dragPoint(to, free);
    case Handle::None:
      return;
  }
}

void DipPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) {
    held_ = gripNear(event->position());
    chosen_ = held_.handle == Handle::Point ? std::optional(held_.index) : std::nullopt;
  }
  update();
}

void DipPicture::placePoint(double ms, double gain) {
  if (!isDrawn() || !duck().on) return;
  const DrawnDip d = dip();
  const double low = gainAtDepth(d.depthDb), at = std::clamp(ms / std::max(1.0, d.wholeMs()), 0.0, 1.0);
  document().edit(placeDipPoint(duck(), d, at, low < 1.0 ? (1.0 - gain) / (1.0 - low) : 0.0));
  // The one nearest in time is the new one.
  const auto& points = duck().curve.points;
  for (size_t i = 1; i + 1 < points.size(); ++i)
    if (std::abs(points[i].at - at) < 1e-9) chosen_ = i;
}

void DipPicture::mouseDoubleClickEvent(QMouseEvent* event) {
  const Areas a = areas();
  if (event->button() != Qt::LeftButton || gripNear(event->position()).handle == Handle::Point) return;
  const double ms = a.time.value(event->position().x());
  if (!a.target.adjusted(0, -4, 0, 4).contains(event->position()) || ms < 0.0 || ms > dip().wholeMs()) return;
  const double gain =
      std::clamp((a.target.center().y() - event->position().y()) / (0.5 * a.target.height()), 0.0, 1.0);
  placePoint(caughtByNotes(a.time, ms, track().tempoBpm, isFree(event->modifiers())).toMs(track().tempoBpm),
             gain);
}

void DipPicture::mouseMoveEvent(QMouseEvent* event) {
  const Grip near = held_.handle != Handle::None ? held_ : gripNear(event->position());
  setCursor(near.handle == Handle::None                                   ? Qt::ArrowCursor
            : near.handle == Handle::Depth || near.handle == Handle::Bend ? Qt::SizeVerCursor
            : near.handle == Handle::Point                                ? Qt::SizeAllCursor
                                                                          : Qt::SizeHorCursor);
  if (held_.handle != Handle::None) drag(event->position(), isFree(event->modifiers()));
}

void DipPicture::mouseReleaseEvent(QMouseEvent*) {
  held_ = {};
  document().endDrag();
  update();
}

void DipPicture::stepPoint(int way) {
  chosen_ = steppedPoint(chosenPoint(), way, duck().curve.points.size());
  update();
}

// Arrow keys on the selected point.
bool DipPicture::moveChosen(QKeyEvent* event) {
  const auto index = chosenPoint();
  if (!index) return false;
  const DipPoint point = duck().curve.points[*index];
  const double fine = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  const int key = event->key();
  const double way = key == Qt::Key_Right || key == Qt::Key_Down ? 1.0 : -1.0;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    document().edit(moveDipPoint(duck(), *index, point.at + way * fine / std::max(1.0, dip().lengthMs),
                                 point.taken, "key point"));
  else if ((key == Qt::Key_Up || key == Qt::Key_Down) && event->modifiers() & Qt::ControlModifier)
    document().edit(bendDip(duck(), *index, point.bend + way * 0.1 * fine, "key bend"));
  else if (key == Qt::Key_Up || key == Qt::Key_Down)
    document().edit(moveDipPoint(duck(), *index, point.at, point.taken + way * 0.02 * fine, "key point"));
  else if (key == Qt::Key_Delete)
    document().edit(removeDipPoint(duck(), *index));
  else if (key == Qt::Key_Escape)
    chosen_.reset(), update();
  else
    return false;
  return true;
}

void DipPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (hasPoints() && (key == Qt::Key_PageUp || key == Qt::Key_PageDown))
    return stepPoint(key == Qt::Key_PageDown ? 1 : -1);
  if (key == Qt::Key_Insert && isDrawn()) {
    const DrawnDip d = dip();
    const auto points = pointsOf(d);
    const size_t from = chosenPoint().value_or(points.size() > 2 ? points.size() - 2 : 0);
    const size_t to = std::min(points.size() - 1, from + 1);
    const double ms = 0.5 * (points[from].at + points[to].at) * d.wholeMs();
    return placePoint(ms, gainAt(ms));
  }
  if (moveChosen(event)) return;
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const int hits = r ? static_cast<int>(r->triggers.size()) : 0;
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  if (key == Qt::Key_Down || key == Qt::Key_Up)
    document().edit(setDepth(duck(), duck().curve.depthDb + (key == Qt::Key_Down ? step : -step), "key depth"));
  else if ((key == Qt::Key_Left || key == Qt::Key_Right) && hits)
    selection().setHit(std::clamp(selection().hit() + (key == Qt::Key_Right ? 1 : -1), 0, hits - 1));
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
