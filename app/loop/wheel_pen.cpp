#include "app/loop/wheel_pen.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/events.h"

namespace heft::app {
namespace {

constexpr double kMargin = 5.0;  // px above and below the curve

}  // namespace

const Part& WheelPen::part() const {
  const Part* part = part_ ? document_.session().part(*part_) : nullptr;
  return part ? *part : document_.session().bass();
}

double WheelPen::y(const QRectF& lane, double value) {
  return lane.center().y() - 0.5 * (lane.height() - 2.0 * kMargin) * value;
}

void WheelPen::press(const QPointF& at, const QRectF& lane, const Axis& time) {
  constexpr double kReach = 8.0;  // px
  point_.reset();
  double nearest = kReach;
  for (const WheelPoint& p : part().wheel) {
    const QPointF away = QPointF(time.pixel(p.quarters), y(lane, p.value)) - at;
    if (const double d = std::hypot(away.x(), away.y()); d < nearest) nearest = d, point_ = p.quarters;
  }
  held_ = true, isNew_ = !point_, dragged_ = false, pressed_ = at;
  if (point_) return;
  point_ = std::max(0.0, time.value(at.x()));
  document_.edit(placeWheelPoint(part(), *point_, 0.0));
  moveTo(at, lane, time);
}

void WheelPen::drag(const QPointF& at, const QRectF& lane, const Axis& time) {
  constexpr double kStill = 3.0;  // px
  dragged_ = dragged_ || std::abs(at.x() - pressed_.x()) + std::abs(at.y() - pressed_.y()) > kStill;
  moveTo(at, lane, time);
}

void WheelPen::moveTo(const QPointF& at, const QRectF& lane, const Axis& time) {
  constexpr double kRest = 0.06;
  if (!point_) return;
  // Near the middle it snaps to it.
  const double value =
      std::clamp((lane.center().y() - at.y()) / (0.5 * (lane.height() - 2.0 * kMargin)), -1.0, 1.0);
  const auto was = part().wheel;
  document_.edit(moveWheelPoint(part(), *point_, time.value(at.x()), std::abs(value) < kRest ? 0.0 : value,
                                document_.track().loopQuarters()));
  // Neighbours may have limited it: finds it by its index.
  const auto& now = part().wheel;
  for (size_t i = 0; i < was.size() && i < now.size(); ++i)
    if (was[i].quarters == *point_) {
      point_ = now[i].quarters;
      return;
    }
}

void WheelPen::release() {
  if (held_ && !isNew_ && !dragged_ && point_) document_.edit(removeWheelPoint(part(), *point_));
  held_ = false;
}

void WheelPen::draw(QPainter& p, const Part& part, const QRectF& lane, const Axis& time) const {
  constexpr double kApart = 5.0;  // px between handles; closer ones show when zoomed in
  const Theme& t = theme();
  const bool drawn = draws(part.id);
  if (!drawn && part.wheel.empty()) return;
  p.save();
  p.setClipRect(lane);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.reference, 1.5));
  QPolygonF line;
  for (double px = lane.left(); px <= lane.right(); px += 2.0)
    line << QPointF(px, y(lane, wheelValue(part, time.value(px))));
  p.drawPolyline(line);
  double lastX = -100.0;
  for (size_t i = 0; drawn && i < part.wheel.size(); ++i) {
    const QPointF at(time.pixel(part.wheel[i].quarters), y(lane, part.wheel[i].value));
    if (at.x() - lastX < kApart) continue;
    p.setBrush(t.page);
    p.drawEllipse(at, 3, 3);
    lastX = at.x();
  }
  p.restore();
  if (!drawn) return;
  p.setFont(axisFont());
  drawLabel(p, QPointF(lane.right() - 4, lane.top() + 4), Qt::AlignRight | Qt::AlignTop,
            QString("pitch wheel, %1 st: click for a point, drag, click it away, right-click to leave")
                .arg(part.wheelRange),
            t.referenceWords, t.page);
}

}  // namespace heft::app
