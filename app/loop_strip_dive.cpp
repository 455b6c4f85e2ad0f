// Dives of bass notes in the loop strip: falling lines with a handle at each end and one that bends them.

#include <algorithm>
#include <cmath>

#include "app/loop_strip.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kDeepest = 24.0, kShortest = 0.02;

}  // namespace

// The lane's height is two octaves.
double LoopStrip::diveY(double semitones) const {
  const QRectF box = boxOf(Row::Bass);
  return box.top() + 6 + (box.height() - 12) * semitones / kDeepest;
}

QPointF LoopStrip::divePoint(const Note& n, DiveGrip grip) const {
  const double start = std::min(n.dive.startQuarters, n.lengthQuarters),
               end = std::min(n.lengthQuarters, n.dive.startQuarters + n.dive.lengthQuarters);
  const double at = grip == DiveGrip::Start ? start : grip == DiveGrip::End ? end : 0.5 * (start + end);
  return {timeAxis().pixel(n.startQuarters + at), diveY(-diveAt(n.dive, at))};
}

bool LoopStrip::pressDive(const QPointF& at) {
  const auto& notes = document_.session().bass().notes;
  double nearest = 7.0;
  for (size_t i = 0; i < notes.size(); ++i)
    for (DiveGrip grip : {DiveGrip::End, DiveGrip::Start, DiveGrip::Bend}) {
      const QPointF away = divePoint(notes[i], grip) - at;
      const double distance = std::hypot(away.x(), away.y());
      if (notes[i].dive.semitones <= 0.0 || distance >= nearest) continue;
      nearest = distance;
      note_ = static_cast<int>(i), diveGrip_ = grip, grip_ = Grip::Dive, cursorRow_ = Row::Bass;
    }
  return nearest < 7.0;
}

void LoopStrip::dragDive(const QPointF& at) {
  const QRectF box = boxOf(Row::Bass);
  const double depth = std::clamp(kDeepest * (at.y() - box.top() - 6) / (box.height() - 12), 0.0, kDeepest);
  changeNotes(
      "shape dive",
      [&](std::vector<Note>& notes) {
        if (note_ < 0 || note_ >= static_cast<int>(notes.size())) return;
        Note& n = notes[static_cast<size_t>(note_)];
        Dive& d = n.dive;
        const double end = std::min(n.lengthQuarters, d.startQuarters + d.lengthQuarters),
                     here = timeAxis().value(at.x()) - n.startQuarters;
        if (diveGrip_ == DiveGrip::Start) {
          d.startQuarters = std::clamp(here, 0.0, std::max(0.0, end - kShortest));
          d.lengthQuarters = std::max(kShortest, end - d.startQuarters);
        } else if (diveGrip_ == DiveGrip::End) {
          const double to = std::clamp(here, kShortest, std::max(kShortest, n.lengthQuarters));
          d.startQuarters = std::min(d.startQuarters, to - kShortest);
          d.lengthQuarters = std::max(kShortest, to - d.startQuarters);
          d.semitones = std::max(1.0, std::round(depth));
        } else {
          d.bend = bendFor(depth / d.semitones);
          if (std::abs(d.bend) < 0.04) d.bend = 0.0;
        }
      },
      "dive");
}

void LoopStrip::drawDives(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const QRectF box = boxOf(Row::Bass);
  const auto& notes = document_.session().bass().notes;
  p.save();
  p.setClipRect(box);
  p.setRenderHint(QPainter::Antialiasing);
  for (const Note& n : notes) {
    if (n.tie) {
      p.setPen(QPen(t.bass, 2.0));
      p.drawLine(QPointF(x.pixel(n.endQuarters()) - 5, box.bottom() - 6),
                 QPointF(x.pixel(n.endQuarters()) + 5, box.bottom() - 6));
    }
    if (n.dive.semitones <= 0.0) continue;
    QPolygonF line;
    const double end = std::min(n.lengthQuarters, n.dive.startQuarters + n.dive.lengthQuarters);
    for (double at = 0.0; at < end; at += std::max(0.005, end / 60.0))
      line << QPointF(x.pixel(n.startQuarters + at), diveY(-diveAt(n.dive, at)));
    line << divePoint(n, DiveGrip::End);
    p.setPen(QPen(t.ink, 1.5));
    p.drawPolyline(line);
    p.setBrush(t.page);
    p.setPen(QPen(t.ink, 1.0));
    for (DiveGrip grip : {DiveGrip::Start, DiveGrip::End})
      p.drawRect(QRectF(divePoint(n, grip) - QPointF(3, 3), QSizeF(6, 6)));
    const QPointF middle = divePoint(n, DiveGrip::Bend);
    p.drawPolygon(QPolygonF({middle + QPointF(0, -4), middle + QPointF(4.5, 3.5), middle + QPointF(-4.5, 3.5)}));
    p.setBrush(Qt::NoBrush);
  }
  // How far it goes stands at its end; what is in the hand says how long too.
  p.setFont(axisFont());
  for (const Note& n : notes)
    if (n.dive.semitones > 0.0 && !(grip_ == Grip::Dive && note_ >= 0 && &n == &notes[static_cast<size_t>(note_)]))
      drawLabel(p, divePoint(n, DiveGrip::End) + QPointF(7, 0), Qt::AlignLeft | Qt::AlignVCenter,
                QString("-%1 st").arg(n.dive.semitones), t.ink, t.page);
  if (grip_ == Grip::Dive && note_ >= 0 && note_ < static_cast<int>(notes.size())) {
    const Note& n = notes[static_cast<size_t>(note_)];
    const double ms = n.dive.lengthQuarters * 60000.0 / document_.track().tempoBpm;
    p.setFont(axisFont());
    drawLabel(p, divePoint(n, DiveGrip::End) + QPointF(8, 0), Qt::AlignLeft | Qt::AlignVCenter,
              QString("%1 st in %2 ms").arg(n.dive.semitones).arg(QString::fromStdString(formatNumber(ms, 0))),
              t.ink, t.page);
  }
  p.restore();
}

}  // namespace heft::app
