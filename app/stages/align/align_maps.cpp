// Maps of Align: phase loss over delay, for all hits and for each.

#include <QImage>
#include <algorithm>
#include <cmath>

#include "app/stages/align/align_picture.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kDeepestDb = -9.0;  // the darkest shade of the map

// The deeper the loss, the darker.
QRgb shadeOf(double levelDb) {
  const Theme& t = theme();
  const double loss = std::clamp(levelDb / kDeepestDb, 0.0, 1.0);
  auto mixed = [loss](int from, int to) { return static_cast<int>(from + (to - from) * loss); };
  return qRgb(mixed(t.panel.red(), t.off.red()), mixed(t.panel.green(), t.off.green()),
              mixed(t.panel.blue(), t.off.blue()));
}

}  // namespace

void AlignPicture::drawAll(QPainter& p, const Half& half, const Study& s, bool inverted) const {
  const Theme& t = theme();
  const bool now = document().session().bass().align.invert == inverted;
  const Axis level{kDeepestDb, 0.0, half.all.bottom(), half.all.top()};
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  for (const double db : {0.0, -3.0, -6.0, -9.0}) {
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(half.all.left(), level.pixel(db)), QPointF(half.all.right(), level.pixel(db)));
  }
  QPolygonF line;
  for (double x = half.all.left(); x <= half.all.right(); x += 1.0)
    line << QPointF(x, level.pixel(std::max(kDeepestDb, s.pair.all.levelAt(half.delay.value(x), inverted))));
  // Phase loss, hatched at the pair's position.
  if (now) {
    QPolygonF lost = line;
    lost.prepend(half.all.topLeft()), lost << half.all.topRight();
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(withAlpha(t.off, 0.35), Qt::BDiagPattern));
    p.drawPolygon(lost);
    p.setBrush(Qt::NoBrush);
  }
  p.setPen(now ? dataPen(t.ink) : QPen(t.muted, 1.0));
  drawLineThrough(p, line);
  p.restore();
  p.setFont(axisFont(now));
  drawLabel(p, QPointF(half.all.left(), half.all.top() - 3), Qt::AlignLeft | Qt::AlignBottom,
            inverted ? "polarity inverted" : "polarity normal", now ? t.ink : t.muted, t.panel);
}

// Closed: the loss of all hits at each delay, as a shade.
void AlignPicture::drawStrip(QPainter& p, const Half& half, const Study& s, bool inverted) const {
  const Theme& t = theme();
  const bool now = document().session().bass().align.invert == inverted;
  const int width = static_cast<int>(half.all.width());
  QImage image(width, 1, QImage::Format_RGB32);
  for (int x = 0; x < width; ++x)
    image.setPixel(x, 0, shadeOf(s.pair.all.levelAt(half.delay.value(half.all.left() + x + 0.5), inverted)));
  p.drawImage(half.all, image);
  p.setPen(rulePen(now ? t.ink : t.rule));
  p.drawRect(half.all.adjusted(0.5, 0.5, -0.5, -0.5));
  p.setFont(axisFont(now));
  drawLabel(p, QPointF(half.all.left(), half.all.top() - 3), Qt::AlignLeft | Qt::AlignBottom,
            inverted ? "inverted" : "normal", now ? t.ink : t.muted, t.panel);
  p.setFont(axisFont());
  drawTicksBelow(p, half.delay, half.all.bottom(), roundTicks(half.delay.from, half.delay.to, 6),
                 [](double v) { return (v > 0 ? "+" : "") + QString::number(v) + (v == 0 ? " ms" : ""); });
}

// Legend of the shades, and the switch that opens the maps.
void AlignPicture::drawLegend(QPainter& p, const Areas& a) const {
  const Theme& t = theme();
  constexpr double kWidth = 70.0;
  const double right = a.halves[1].all.right(), y = a.halves[1].all.top() - 16;
  p.setFont(axisFont());
  const QRectF end =
      drawLabel(p, QPointF(right, y + 5), Qt::AlignRight | Qt::AlignVCenter, "-9 dB", t.muted, t.panel);
  QImage image(static_cast<int>(kWidth), 1, QImage::Format_RGB32);
  for (int x = 0; x < image.width(); ++x) image.setPixel(x, 0, shadeOf(kDeepestDb * x / kWidth));
  const QRectF bar(end.left() - 6 - kWidth, y, kWidth, 9);
  p.drawImage(bar, image);
  p.setPen(rulePen(t.rule));
  p.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
  drawLabel(p, QPointF(bar.left() - 6, y + 5), Qt::AlignRight | Qt::AlignVCenter, "sum loses 0", t.muted,
            t.panel);
  const QRectF fold = foldArea(a);
  p.setPen(t.ink);
  p.drawText(fold, Qt::AlignLeft | Qt::AlignTop, mapsOpen_ ? "- each hit" : "+ each hit");
}

// Many rows have no gaps, a pixel each or less.
void AlignPicture::drawMap(QPainter& p, const Areas& a, bool inverted) const {
  constexpr double kLeastWithGap = 5.0;
  const Theme& t = theme();
  const Half& half = a.halves[inverted];
  const int width = static_cast<int>(half.map.width());
  const bool gaps = a.rowHeight >= kLeastWithGap;
  double drawn = -1.0;
  for (size_t row = 0; row < rows().size(); ++row) {
    const AlignCurve& curve = rows()[row].curve;
    const double top = half.map.top() + static_cast<double>(row) * a.rowHeight;
    if (!curve.overlap || top < drawn + 1.0 - a.rowHeight) continue;
    drawn = top;
    const QRectF strip(half.map.left(), top, half.map.width(),
                       gaps ? a.rowHeight - 2 : std::max(1.0, a.rowHeight));
    QImage image(width, 1, QImage::Format_RGB32);
    for (int x = 0; x < width; ++x) {
      image.setPixel(x, 0, shadeOf(curve.levelAt(half.delay.value(half.map.left() + x + 0.5), inverted)));
    }
    p.drawImage(strip, image);
    if (!gaps) continue;
    p.setPen(rulePen(t.rule));
    p.drawRect(strip.adjusted(0.5, 0.5, -0.5, -0.5));
  }
  if (!gaps) {
    p.setPen(rulePen(t.rule));
    p.drawRect(half.map.adjusted(0.5, 0.5, -0.5, -0.5));
  }
  p.setFont(axisFont());
  drawTicksBelow(p, half.delay, half.map.bottom(), roundTicks(half.delay.from, half.delay.to, 6),
                 [](double v) { return (v > 0 ? "+" : "") + QString::number(v) + (v == 0 ? " ms" : ""); });
}

// "3 A1"; of several hits the section, the note and how many.
QString AlignPicture::rowName(const MapRow& row, const Study& s) const {
  const QString note =
      row.noteMidi ? QString::fromStdString(noteName(*row.noteMidi, track().notes)) : QString();
  if (s.pair.hits.size() <= kMostSingleRows)
    return QString::number(row.hits.front() + 1) + (note.isEmpty() ? "" : " " + note);
  return note + QString(" x %1").arg(row.hits.size());
}

void AlignPicture::drawRowNames(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const QRectF& map = a.halves[0].map;
  size_t chosenRow = 0;
  for (size_t row = 0; row < rows().size(); ++row)
    for (const size_t hit : rows()[row].hits)
      if (static_cast<int>(hit) == selection().hit()) chosenRow = row;
  for (size_t row = 0; row < rows().size(); ++row) {
    const double y = map.top() + (static_cast<double>(row) + 0.5) * a.rowHeight - 1;
    const bool chosen = row == chosenRow;
    if (!rows()[row].curve.overlap)
      drawLabel(p, QPointF(map.left() + 8, y), Qt::AlignLeft | Qt::AlignVCenter, "no bass under this hit",
                t.muted, QColor(0, 0, 0, 0));
    p.setFont(axisFont(chosen));
    // With many hits, names only as many as fit.
    const auto every = static_cast<size_t>(std::ceil(11.0 / a.rowHeight));
    const auto toChosen = std::abs(static_cast<double>(row) - static_cast<double>(chosenRow)) * a.rowHeight;
    if (chosen || (row % every == 0 && (a.rowHeight >= 11.0 || toChosen > 12.0)))
      drawLabel(p, QPointF(map.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter, rowName(rows()[row], s),
                chosen ? t.ink : t.muted, t.panel);
    p.setFont(axisFont());
    // The section stands at its first row, within the map.
    const std::string& section = rows()[row].section;
    if (s.pair.hits.size() > kMostSingleRows && !section.empty() && a.rowHeight >= 6.0 &&
        (row == 0 || rows()[row - 1].section != section))
      drawLabel(p, QPointF(map.left() + 6, y), Qt::AlignLeft | Qt::AlignVCenter,
                QString::fromStdString(section), t.ink, withAlpha(t.panel, 0.8));
  }
  const QRectF& all = a.halves[0].all;
  drawLabel(p, QPointF(all.left() - 8, all.top() + 2), Qt::AlignRight | Qt::AlignVCenter, "all 0 dB", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(all.left() - 8, all.bottom() - 2), Qt::AlignRight | Qt::AlignVCenter, "-9 dB", t.muted,
            QColor(0, 0, 0, 0));
}

void AlignPicture::drawBest(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  if (!s.pair.best.overlap || (std::abs(s.pair.best.delayMs - move.delayMs) <= 0.005 && s.pair.best.invert == move.invert))
    return;
  const Half& half = a.halves[s.pair.best.invert];
  const double x = std::round(half.delay.pixel(s.pair.best.delayMs)) + 0.5;
  p.setPen(QPen(t.holds, 1.0, Qt::DashLine));
  p.drawLine(QPointF(x, half.all.top()), QPointF(x, half.map.bottom()));
  if (!mapsOpen_) return;
  const bool rightHalf = x > half.all.center().x() + 1;
  p.setFont(axisFont());
  drawLabel(p, QPointF(x + (rightHalf ? -6 : 6), half.all.bottom() - 4),
            (rightHalf ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignBottom,
            "best for all hits: " + signedMs(s.pair.best.delayMs), t.holds, t.panel);
}

// The pair's position, and its tolerance.
void AlignPicture::drawNow(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  const Half& half = a.halves[move.invert];
  const double x = std::round(half.delay.pixel(move.delayMs)) + 0.5;
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(x, half.all.top() - 4), QPointF(x, half.map.bottom()));
  p.setBrush(t.ink);
  p.setPen(Qt::NoPen);
  p.setRenderHint(QPainter::Antialiasing);
  p.drawPolygon(QPolygonF({QPointF(x - 5, half.all.top() - 9), QPointF(x + 5, half.all.top() - 9),
                           QPointF(x, half.all.top() - 2)}));
  p.setBrush(Qt::NoBrush);
  // The tolerance of a poor position means nothing.
  if (!mapsOpen_ || s.pair.best.afterDb - s.pair.alignedDb > Limits().pairHolds) return;
  const AlignHold hold = holdOf(s.pair.all, move.delayMs, move.invert, Limits().pairHolds);
  const double from = half.delay.pixel(move.delayMs - hold.earlierMs),
               to = half.delay.pixel(move.delayMs + hold.laterMs);
  p.setFont(axisFont());
  const double y = half.all.bottom() - 12;
  drawDimension(p, QPointF(from, y), QPointF(to, y), QString(), t.ink, t.panel);
  // Beside it where there is room, else upon its line.
  const double room = 80;
  const bool after = to<half.all.right() - room, before = from> half.all.left() + room;
  drawLabel(p,
            QPointF(after    ? to + 6
                    : before ? from - 6
                             : (from + to) / 2,
                    y),
            (after    ? Qt::AlignLeft
             : before ? Qt::AlignRight
                      : Qt::AlignHCenter) |
                Qt::AlignVCenter,
            QString("holds %1 ms").arg(QString::fromStdString(formatNumber(hold.earlierMs + hold.laterMs, 1))),
            t.ink, t.panel);
}

}  // namespace heft::app
