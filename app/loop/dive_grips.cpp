#include "app/loop/dive_grips.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/events.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kDeepest = 24.0, kShortest = 0.02, kDiveMargin = 6.0, kDiveReach = 7.0;

double yOf(const QRectF& lane, double semitones) {
  return lane.top() + kDiveMargin + (lane.height() - 2.0 * kDiveMargin) * semitones / kDeepest;
}

double endOf(const Note& n) {
  return std::min(n.lengthQuarters, n.dive.startQuarters + n.dive.lengthQuarters);
}

}  // namespace

QPointF DiveGrips::at(const Note& n, DiveGrip grip, const QRectF& lane, const Axis& time) {
  const double start = std::min(n.dive.startQuarters, n.lengthQuarters), end = endOf(n);
  const double at = grip == DiveGrip::Start ? start : grip == DiveGrip::End ? end : 0.5 * (start + end);
  return {time.pixel(n.startQuarters + at), yOf(lane, -diveAt(n.dive, at))};
}

std::optional<double> DiveGrips::press(const Part& part, const QPointF& pointer, const QRectF& lane,
                                       const Axis& time) {
  double nearest = kDiveReach;
  for (const Note& n : part.notes)
    for (DiveGrip grip : {DiveGrip::End, DiveGrip::Start, DiveGrip::Bend}) {
      const QPointF away = at(n, grip, lane, time) - pointer;
      const double distance = std::hypot(away.x(), away.y());
      if (n.dive.semitones <= 0.0 || distance >= nearest) continue;
      nearest = distance;
      held_ = Held{part.id, n.startQuarters, grip};
    }
  return nearest < kDiveReach ? std::optional(held_->start) : std::nullopt;
}

void DiveGrips::drag(const Part& part, const QPointF& pointer, const QRectF& lane, const Axis& time) {
  const Note* n = held_ ? eventAt(part.notes, held_->start) : nullptr;
  if (!n) return;
  const double depth = std::clamp(
      kDeepest * (pointer.y() - lane.top() - kDiveMargin) / (lane.height() - 2 * kDiveMargin), 0.0, kDeepest);
  Dive d = n->dive;
  const double end = endOf(*n), here = time.value(pointer.x()) - n->startQuarters;
  if (held_->grip == DiveGrip::Start) {
    d.startQuarters = std::clamp(here, 0.0, std::max(0.0, end - kShortest));
    d.lengthQuarters = std::max(kShortest, end - d.startQuarters);
  } else if (held_->grip == DiveGrip::End) {
    const double to = std::clamp(here, kShortest, std::max(kShortest, n->lengthQuarters));
    d.startQuarters = std::min(d.startQuarters, to - kShortest);
    d.lengthQuarters = std::max(kShortest, to - d.startQuarters);
    d.semitones = std::max(1.0, std::round(depth));
  } else {
    d.bend = bendFor(depth / d.semitones);
    if (std::abs(d.bend) < 0.04) d.bend = 0.0;
  }
  document_.edit(setDive(part, n->startQuarters, d, "shape dive", "dive"));
}

void DiveGrips::drawLine(QPainter& p, const Note& n, const QRectF& lane, const Axis& time) const {
  const Theme& t = theme();
  QPolygonF line;
  const double end = endOf(n);
  for (double at = 0.0; at < end; at += std::max(0.005, end / 60.0))
    line << QPointF(time.pixel(n.startQuarters + at), yOf(lane, -diveAt(n.dive, at)));
  line << at(n, DiveGrip::End, lane, time);
  p.setPen(QPen(t.ink, 1.5));
  p.drawPolyline(line);
  p.setBrush(t.page);
  p.setPen(QPen(t.ink, 1.0));
  for (DiveGrip grip : {DiveGrip::Start, DiveGrip::End})
    p.drawRect(QRectF(at(n, grip, lane, time) - QPointF(3, 3), QSizeF(6, 6)));
  const QPointF middle = at(n, DiveGrip::Bend, lane, time);
  p.drawPolygon(QPolygonF({middle + QPointF(0, -4), middle + QPointF(4.5, 3.5), middle + QPointF(-4.5, 3.5)}));
  p.setBrush(Qt::NoBrush);
}

void DiveGrips::draw(QPainter& p, const Part& part, const QRectF& lane, const Axis& time) const {
  const Theme& t = theme();
  const Note* inHand = held_ && held_->part == part.id ? eventAt(part.notes, held_->start) : nullptr;
  p.save();
  p.setClipRect(lane);
  p.setRenderHint(QPainter::Antialiasing);
  for (const Note& n : part.notes) {
    if (n.tie) {
      p.setPen(QPen(colourOf(part), 2.0));
      const double end = time.pixel(n.endQuarters()), y = lane.bottom() - 6;
      p.drawLine(QPointF(end - 5, y), QPointF(end + 5, y));
    }
    if (n.dive.semitones > 0.0) drawLine(p, n, lane, time);
  }
  p.setFont(axisFont());
  for (const Note& n : part.notes) {
    if (n.dive.semitones <= 0.0) continue;
    const double ms = n.dive.lengthQuarters * 60000.0 / document_.track().tempoBpm;
    const QString words =
        &n == inHand
            ? QString("%1 st in %2 ms").arg(n.dive.semitones).arg(QString::fromStdString(formatNumber(ms, 0)))
            : QString("-%1 st").arg(n.dive.semitones);
    drawLabel(p, at(n, DiveGrip::End, lane, time) + QPointF(&n == inHand ? 8 : 7, 0),
              Qt::AlignLeft | Qt::AlignVCenter, words, t.ink, t.page);
  }
  p.restore();
}

}  // namespace heft::app
