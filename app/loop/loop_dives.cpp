// Dives of notes in the loop strip: falling lines with a handle at each end and one that bends them; and the
// pitch wheel's curve.

#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "app/theme/theme.h"
#include "core/session/edits/events.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kDeepest = 24.0, kShortest = 0.02;

}  // namespace

QPointF LoopStrip::diveHandle(int note, DiveGrip grip) const {
  const Part& bass = session().bass();
  return divePoint(bass, bass.notes[static_cast<size_t>(note)], grip);
}

// The lane's height is two octaves.
double LoopStrip::diveY(const Part& part, double semitones) const {
  const QRectF box = boxOf(part);
  return box.top() + 6 + (box.height() - 12) * semitones / kDeepest;
}

QPointF LoopStrip::divePoint(const Part& part, const Note& n, DiveGrip grip) const {
  const double start = std::min(n.dive.startQuarters, n.lengthQuarters),
               end = std::min(n.lengthQuarters, n.dive.startQuarters + n.dive.lengthQuarters);
  const double at = grip == DiveGrip::Start ? start : grip == DiveGrip::End ? end : 0.5 * (start + end);
  return {timeAxis().pixel(n.startQuarters + at), diveY(part, -diveAt(n.dive, at))};
}

bool LoopStrip::pressDive(const Part& part, const QPointF& at) {
  double nearest = 7.0;
  for (const Note& n : part.notes)
    for (DiveGrip grip : {DiveGrip::End, DiveGrip::Start, DiveGrip::Bend}) {
      const QPointF away = divePoint(part, n, grip) - at;
      const double distance = std::hypot(away.x(), away.y());
      if (n.dive.semitones <= 0.0 || distance >= nearest) continue;
      nearest = distance;
      note_ = Chosen{part.id, n.startQuarters}, diveGrip_ = grip, grip_ = Grip::Dive, handPart_ = part.id;
    }
  return nearest < 7.0;
}

void LoopStrip::dragDive(const QPointF& at) {
  const Note* n = chosenNote();
  if (!n) return;
  const Part& part = hand();
  const QRectF box = boxOf(part);
  const double depth = std::clamp(kDeepest * (at.y() - box.top() - 6) / (box.height() - 12), 0.0, kDeepest);
  Dive d = n->dive;
  const double end = std::min(n->lengthQuarters, d.startQuarters + d.lengthQuarters),
               here = timeAxis().value(at.x()) - n->startQuarters;
  if (diveGrip_ == DiveGrip::Start) {
    d.startQuarters = std::clamp(here, 0.0, std::max(0.0, end - kShortest));
    d.lengthQuarters = std::max(kShortest, end - d.startQuarters);
  } else if (diveGrip_ == DiveGrip::End) {
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

void LoopStrip::drawDives(QPainter& p, const Part& part) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const QRectF box = boxOf(part);
  const auto& notes = part.notes;
  const Note* inHand = grip_ == Grip::Dive && note_ && note_->part == part.id ? chosenNote() : nullptr;
  p.save();
  p.setClipRect(box);
  p.setRenderHint(QPainter::Antialiasing);
  for (const Note& n : notes) {
    if (n.tie) {
      p.setPen(QPen(colourOf(part), 2.0));
      p.drawLine(QPointF(x.pixel(n.endQuarters()) - 5, box.bottom() - 6),
                 QPointF(x.pixel(n.endQuarters()) + 5, box.bottom() - 6));
    }
    if (n.dive.semitones <= 0.0) continue;
    QPolygonF line;
    const double end = std::min(n.lengthQuarters, n.dive.startQuarters + n.dive.lengthQuarters);
    for (double at = 0.0; at < end; at += std::max(0.005, end / 60.0))
      line << QPointF(x.pixel(n.startQuarters + at), diveY(part, -diveAt(n.dive, at)));
    line << divePoint(part, n, DiveGrip::End);
    p.setPen(QPen(t.ink, 1.5));
    p.drawPolyline(line);
    p.setBrush(t.page);
    p.setPen(QPen(t.ink, 1.0));
    for (DiveGrip grip : {DiveGrip::Start, DiveGrip::End})
      p.drawRect(QRectF(divePoint(part, n, grip) - QPointF(3, 3), QSizeF(6, 6)));
    const QPointF middle = divePoint(part, n, DiveGrip::Bend);
    p.drawPolygon(
        QPolygonF({middle + QPointF(0, -4), middle + QPointF(4.5, 3.5), middle + QPointF(-4.5, 3.5)}));
    p.setBrush(Qt::NoBrush);
  }
  // Its depth is shown at its end; during a drag its length too.
  p.setFont(axisFont());
  for (const Note& n : notes)
    if (n.dive.semitones > 0.0 && &n != inHand)
      drawLabel(p, divePoint(part, n, DiveGrip::End) + QPointF(7, 0), Qt::AlignLeft | Qt::AlignVCenter,
                QString("-%1 st").arg(n.dive.semitones), t.ink, t.page);
  if (inHand) {
    const Note& n = *inHand;
    const double ms = n.dive.lengthQuarters * 60000.0 / document_.track().tempoBpm;
    p.setFont(axisFont());
    drawLabel(p, divePoint(part, n, DiveGrip::End) + QPointF(8, 0), Qt::AlignLeft | Qt::AlignVCenter,
              QString("%1 st in %2 ms").arg(n.dive.semitones).arg(QString::fromStdString(formatNumber(ms, 0))),
              t.ink, t.page);
  }
  p.restore();
}

void LoopStrip::showWheel(bool shown) {
  wheelPart_.reset();
  if (shown) wheelPart_ = hand().playsNotes() ? hand().id : session().bass().id;
  update();
}

const Part& LoopStrip::wheelPart() const {
  const Part* part = wheelPart_ ? session().part(*wheelPart_) : nullptr;
  return part ? *part : session().bass();
}

double LoopStrip::wheelY(const Part& part, double value) const {
  const QRectF box = boxOf(part).adjusted(0, 5, 0, -5);
  return box.center().y() - 0.5 * box.height() * value;
}

void LoopStrip::pressWheel(const QPointF& at) {
  const Part& part = wheelPart();
  wheelPoint_.reset();
  double nearest = 8.0;
  for (const WheelPoint& p : part.wheel) {
    const QPointF away = wheelAt(p.quarters, p.value) - at;
    if (const double d = std::hypot(away.x(), away.y()); d < nearest) nearest = d, wheelPoint_ = p.quarters;
  }
  grip_ = wheelPoint_ ? Grip::Wheel : Grip::NewWheel;
  dragged_ = false, pressX_ = at.x(), gripY_ = at.y();
  if (wheelPoint_) return;
  wheelPoint_ = std::max(0.0, timeAxis().value(at.x()));
  document_.edit(placeWheelPoint(part, *wheelPoint_, 0.0));
  dragWheel(at);
}

void LoopStrip::dragWheel(const QPointF& at) {
  if (!wheelPoint_) return;
  const QRectF box = boxOf(wheelPart()).adjusted(0, 5, 0, -5);
  // Near the middle it snaps to it.
  const double value = std::clamp((box.center().y() - at.y()) / (0.5 * box.height()), -1.0, 1.0);
  const auto was = wheelPart().wheel;
  document_.edit(moveWheelPoint(wheelPart(), *wheelPoint_, timeAxis().value(at.x()),
                                std::abs(value) < 0.06 ? 0.0 : value, document_.track().loopQuarters()));
  // Neighbours may have limited it: finds it by its index.
  const auto& now = wheelPart().wheel;
  for (size_t i = 0; i < was.size() && i < now.size(); ++i)
    if (was[i].quarters == *wheelPoint_) {
      wheelPoint_ = now[i].quarters;
      return;
    }
}

}  // namespace heft::app
