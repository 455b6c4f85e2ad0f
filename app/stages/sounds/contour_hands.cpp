// Dragging the contour.

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/sounds/contour_picture.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/contour.h"
#include "core/session/edits/values.h"
#include "core/voices/bend.h"

namespace heft::app {

ContourPicture::Grip ContourPicture::gripNear(const QPointF& at) const {
  Grip best;
  double nearest = 9.0;
  const auto near = [&](Handle handle, size_t index) {
    const QPointF d = at - handleAt(handle, index);
    if (const double off = std::hypot(d.x(), d.y()); off < nearest - 1e-9)
      nearest = off, best = {handle, index};
  };
  const size_t n = contour().points.size();
  for (size_t i = n; i-- > 0;) near(Handle::Point, i);
  near(Handle::Release, 0);
  for (size_t i = 0; i + 1 < n; ++i) near(Handle::Bend, i);
  return best;
}

void ContourPicture::drag(const QPointF& to, bool free) {
  const auto note = shown();
  const Part& part = choice_.part();
  const auto& points = contour().points;
  if (!note) return;
  const TimeValue at = caughtByNotes(time(), time().value(to.x()), track().tempoBpm, free);
  switch (held_.handle) {
    case Handle::Point:
      return document().edit(moveContourPoint(part, held_.index, at, dbAt(to.y()), "drag contour"));
    case Handle::Release: {
      const double release =
          std::max(kShortestReleaseMs, time().value(to.x()) - 1000.0 * note->span.heldSeconds);
      return document().edit(
          putValues("set release of the contour", {.part = part.id},
                    {{"contour.release", TimeValue::milliseconds(std::round(release))}, {"contour.on", true}},
                    "drag release"));
    }
    case Handle::Bend: {
      if (held_.index + 1 >= points.size()) return;
      const double from = points[held_.index].db, next = points[held_.index + 1].db;
      if (from == next) return;
      const double gone = std::clamp((dbAt(to.y()) - from) / (next - from), 0.01, 0.99);
      return document().edit(bendContour(part, held_.index, bendFor(gone), "drag bend"));
    }
    case Handle::None:
      return;
  }
}

void ContourPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = gripNear(event->position());
  chosen_ = held_.handle == Handle::Point ? std::optional(held_.index) : std::nullopt;
  if (held_.handle != Handle::None) heldTime_ = time();
  update();
}

void ContourPicture::placePoint(const TimeValue& at, double db) {
  document().edit(placeContourPoint(choice_.part(), at, db));
  const auto& points = contour().points;
  for (size_t i = 0; i < points.size(); ++i)
    if (points[i].at == at) chosen_ = i;
  update();
}

void ContourPicture::mouseDoubleClickEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !shown() || !plot().contains(event->position())) return;
  if (gripNear(event->position()).handle == Handle::Point) return;
  held_ = {}, heldTime_.reset();
  placePoint(
      caughtByNotes(time(), time().value(event->position().x()), track().tempoBpm, isFree(event->modifiers())),
      dbAt(event->position().y()));
}

void ContourPicture::mouseMoveEvent(QMouseEvent* event) {
  const Grip near = held_.handle != Handle::None ? held_ : gripNear(event->position());
  setCursor(near.handle == Handle::None      ? Qt::ArrowCursor
            : near.handle == Handle::Bend    ? Qt::SizeVerCursor
            : near.handle == Handle::Release ? Qt::SizeHorCursor
                                             : Qt::SizeAllCursor);
  if (held_.handle != Handle::None) drag(event->position(), isFree(event->modifiers()));
}

void ContourPicture::mouseReleaseEvent(QMouseEvent*) {
  held_ = {}, heldTime_.reset();
  document().endDrag();
  update();
}

void ContourPicture::stepNote(int way) {
  if (const auto note = shown())
    note_ =
        static_cast<size_t>(std::clamp(static_cast<int>(note->place) + way, 0, static_cast<int>(note->of) - 1));
  update();
}

// Arrow keys on the selected point.
bool ContourPicture::moveChosen(QKeyEvent* event) {
  const auto& points = contour().points;
  if (!chosen_ || *chosen_ >= points.size()) return false;
  const size_t i = *chosen_;
  const Part& part = choice_.part();
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const int key = event->key();
  const double way = key == Qt::Key_Right || key == Qt::Key_Up ? 1.0 : -1.0;
  const double ms = points[i].at.toMs(track().tempoBpm);
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    document().edit(moveContourPoint(part, i,
                                     TimeValue::milliseconds(std::max(0.0, ms + way * (fine ? 0.1 : 1.0))),
                                     points[i].db, "key contour"));
  else if ((key == Qt::Key_Up || key == Qt::Key_Down) && event->modifiers() & Qt::ControlModifier)
    document().edit(bendContour(part, i, points[i].bend - way * (fine ? 0.01 : 0.1), "key bend"));
  else if (key == Qt::Key_Up || key == Qt::Key_Down)
    document().edit(
        moveContourPoint(part, i, points[i].at, points[i].db + way * (fine ? 0.1 : 0.5), "key contour"));
  else if (key == Qt::Key_Delete)
    document().edit(removeContourPoint(part, i));
  else if (key == Qt::Key_Escape)
    chosen_.reset(), update();
  else
    return false;
  return true;
}

void ContourPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const auto note = shown();
  if (!note) return QWidget::keyPressEvent(event);
  const auto last = static_cast<int>(contour().points.size()) - 1;
  if (key == Qt::Key_PageUp || key == Qt::Key_PageDown) {
    const int way = key == Qt::Key_PageDown ? 1 : -1;
    if (event->modifiers() & Qt::ShiftModifier) return stepNote(way);
    chosen_ = steppedPoint(chosen_, way, contour().points.size());
    return update();
  }
  if (key == Qt::Key_Insert) {
    const size_t from = std::min<size_t>(chosen_.value_or(0), static_cast<size_t>(last) - 1);
    const ContourGain g = gain(*note);
    const double middle = 0.5 * (g.pointSeconds(from) + g.pointSeconds(from + 1));
    return placePoint(TimeValue::milliseconds(std::round(10000.0 * middle) / 10.0),
                      dbAt(handleAt(Handle::Bend, from).y()));
  }
  if (!moveChosen(event)) QWidget::keyPressEvent(event);
}

}  // namespace heft::app
