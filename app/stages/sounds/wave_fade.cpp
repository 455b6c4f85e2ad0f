// The fade of a trimmed tail: its line over the wave, and the points to drag.

#include <QKeyEvent>
#include <QLineF>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/sounds/wave_picture.h"
#include "app/theme/theme.h"
#include "core/session/edits/sounds.h"

namespace heft::app {

QPointF WavePicture::fadePlace(double at, double gain) const {
  const Recorded* r = trimmed();
  if (!r) return {-1, -1};
  const double share = r->fade.from + at * (1.0 - r->fade.from), top = plot().top() + 18,
               bottom = plot().center().y();
  return {timeAxis().pixel(share * lengthMs()), bottom - (bottom - top) * gain};
}

QPointF WavePicture::fadePoint(size_t index) const {
  const Recorded* r = trimmed();
  if (!r || index >= r->fade.points.size()) return {-1, -1};
  return fadePlace(r->fade.points[index].at, r->fade.points[index].gain);
}

// Its gain as a line over the wave; the middle of a drawn one can be dragged.
void WavePicture::drawFade(QPainter& p) const {
  const Recorded* r = trimmed();
  if (!r) return;
  const QRectF area = plot();
  const double top = area.top() + 18, bottom = area.center().y(), length = lengthMs();
  QPolygonF line;
  for (double share = 0.0; share <= 1.2001; share += 0.01)
    line << QPointF(timeAxis().pixel(share * length), bottom - (bottom - top) * r->fade.gainAt(share));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().muted, 1.0, Qt::DashLine));
  p.drawPolyline(line);
  if (r->fade.shape == FadeShape::Drawn && r->fade.points.empty())
    drawGrip(p, handle(Grip::Bend), grip_ == Grip::Bend, 3.5);
  for (size_t i = 0; r->fade.shape == FadeShape::Drawn && i < r->fade.points.size(); ++i)
    drawPointMark(p, fadePoint(i), point_ == i);
  p.setRenderHint(QPainter::Antialiasing, false);
}

std::optional<size_t> WavePicture::fadePointAt(const QPointF& at) const {
  const Recorded* r = trimmed();
  if (!r || r->fade.shape != FadeShape::Drawn) return std::nullopt;
  for (size_t i = 0; i < r->fade.points.size(); ++i)
    if (QLineF(at, fadePoint(i)).length() < 9.0) return i;
  return std::nullopt;
}

void WavePicture::dragFadePoint(const QPointF& at) {
  const Recorded* r = trimmed();
  if (!r || !point_) return;
  const QPointF first = fadePlace(0.0, 1.0), last = fadePlace(1.0, 0.0);
  document().edit(moveFadePoint(choice_.part().id, choice_.layer()->id, *point_,
                                (at.x() - first.x()) / std::max(1.0, last.x() - first.x()),
                                (last.y() - at.y()) / std::max(1.0, last.y() - first.y()), "wave handle"));
}

// On the line of a fade: the point there.
void WavePicture::mouseDoubleClickEvent(QMouseEvent* event) {
  const Recorded* r = trimmed();
  if (event->button() != Qt::LeftButton || !r || fadePointAt(event->position())) return;
  const QPointF first = fadePlace(0.0, 1.0), last = fadePlace(1.0, 0.0), at = event->position();
  const double way = (at.x() - first.x()) / std::max(1.0, last.x() - first.x());
  if (way < 0.0 || way > 1.0) return;
  const double gain = r->fade.gainAt(r->fade.from + way * (1.0 - r->fade.from));
  if (std::abs(at.y() - fadePlace(way, gain).y()) > 12.0) return;
  document().edit(placeFadePoint(choice_.part().id, choice_.layer()->id, way,
                                 (last.y() - at.y()) / std::max(1.0, last.y() - first.y())));
  point_ = fadePointAt(at);
  update();
}

// For the selected point; false for keys with another meaning.
bool WavePicture::moveFadePointBy(QKeyEvent* event) {
  const Recorded* r = trimmed();
  if (!r || r->fade.shape != FadeShape::Drawn || r->fade.points.empty()) return false;
  const int key = event->key(), part = choice_.part().id, layer = choice_.layer()->id;
  const auto last = static_cast<int>(r->fade.points.size()) - 1;
  if (key == Qt::Key_PageUp || key == Qt::Key_PageDown) {
    point_ = steppedPoint(point_, key == Qt::Key_PageDown ? 1 : -1, r->fade.points.size());
    update();
    return true;
  }
  if (!point_ || static_cast<int>(*point_) > last) return false;
  const FadePoint p = r->fade.points[*point_];
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.005 : 0.02;
  const double along = key == Qt::Key_Right  ? step
                       : key == Qt::Key_Left ? -step
                                             : 0.0,
               up = key == Qt::Key_Up     ? step
                    : key == Qt::Key_Down ? -step
                                          : 0.0;
  if (along != 0.0 || up != 0.0)
    document().edit(moveFadePoint(part, layer, *point_, p.at + along, p.gain + up, "key fade"));
  else if (key == Qt::Key_Delete)
    document().edit(removeFadePoint(part, layer, *point_));
  else if (key == Qt::Key_Escape)
    point_.reset(), update();
  else
    return false;
  return true;
}

}  // namespace heft::app
