#include "app/stages/compare/compare_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace heft::app {

ComparePicture::ComparePicture(Document& document, Selection& selection, CompareFigures& figures,
                               ReferenceEar& ear, const QString& name)
    : Picture(document, selection, name), figures_(figures), ear_(ear) {
  connect(&figures, &CompareFigures::changed, this, qOverload<>(&QWidget::update));
  connect(&ear, &ReferenceEar::changed, this, qOverload<>(&QWidget::update));
}

void ComparePicture::span(Lines& lines) {
  lines.least = lines.most = {};
  for (const auto& each : lines.sections) {
    if (!each.of.counts || each.line.level.empty()) continue;
    if (lines.least.level.empty()) {
      lines.least = lines.most = each.line;
      continue;
    }
    for (size_t i = 0; i < lines.least.level.size() && i < each.line.level.size(); ++i) {
      lines.least.level[i] = std::min(lines.least.level[i], each.line.level[i]);
      lines.most.level[i] = std::max(lines.most.level[i], each.line.level[i]);
    }
  }
}

void ComparePicture::hatch(QPainter& p, const Line& low, const Line& high, const Axis& x, const Axis& y,
                           const QRectF& plot, const QColor& ink) {
  if (low.level.size() < 2 || low.level.size() != high.level.size()) return;
  QPainterPath area;
  auto point = [&](const Line& line, size_t i) {
    return QPointF(x.pixel(line.at[i]), std::clamp(y.pixel(line.level[i]), plot.top(), plot.bottom()));
  };
  area.moveTo(point(high, 0));
  for (size_t i = 1; i < high.level.size(); ++i) area.lineTo(point(high, i));
  for (size_t i = low.level.size(); i-- > 0;) area.lineTo(point(low, i));
  area.closeSubpath();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipPath(area, Qt::IntersectClip);
  p.setPen(QPen(withAlpha(ink, 0.45), 1.0));
  constexpr double kApart = 6.0;
  const double height = plot.height();
  for (double at = plot.left() - height; at < plot.right(); at += kApart)
    p.drawLine(QPointF(at, plot.bottom()), QPointF(at + height, plot.top()));
  p.restore();
}

void ComparePicture::drawLines(QPainter& p, const Lines& lines, const Axis& x, const Axis& y,
                               const QRectF& plot) const {
  const Theme& t = theme();
  p.save();
  p.setClipRect(plot.adjusted(0, -1, 1, 1));
  hatch(p, lines.least, lines.most, x, y, plot, t.reference);
  p.setRenderHint(QPainter::Antialiasing);
  auto draw = [&](const Line& line, const QPen& pen) {
    QPolygonF points;
    for (size_t i = 0; i < line.level.size(); ++i)
      points << QPointF(x.pixel(line.at[i]), y.pixel(std::clamp(line.level[i], y.from - 60.0, y.to + 60.0)));
    p.setPen(pen);
    drawLineThrough(p, points);
  };
  for (const auto& each : lines.sections) {
    const bool heard = ear_.heard() == each.of.reference && !ear_.isHidden();
    QPen pen(t.reference, heard ? 2.5 : 1.0);
    if (!each.of.counts) pen.setStyle(Qt::DashLine);
    draw(each.line, pen);
  }
  draw(lines.mine, QPen(t.ink, 2.0));
  p.restore();
}

void ComparePicture::drawKey(QPainter& p, const QRectF& plot, bool withSpan, const QString& span) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  double right = plot.right() - 4.0;
  const double y = plot.top() - 12.0;
  auto say = [&](const QString& words, const QColor& ink, const std::function<void(const QRectF&)>& mark) {
    const double width = p.fontMetrics().horizontalAdvance(words);
    p.setPen(ink);
    p.drawText(QRectF(right - width, y - 8, width, 16), Qt::AlignVCenter, words);
    mark(QRectF(right - width - 24, y - 5, 18, 10));
    right -= width + 40;
  };
  const bool references = detail() && !detail()->sections.empty();
  if (references && withSpan)
    say(span, t.referenceWords, [&](const QRectF& box) {
      p.save();
      p.setClipRect(box);
      p.setPen(QPen(withAlpha(t.reference, 0.6), 1.0));
      for (double x = box.left() - 10; x < box.right(); x += 5)
        p.drawLine(QPointF(x, box.bottom()), QPointF(x + 10, box.top()));
      p.restore();
    });
  if (references)
    say("references", t.referenceWords, [&](const QRectF& box) {
      p.setPen(QPen(t.reference, 1.0));
      p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()));
    });
  say("yours", t.ink, [&](const QRectF& box) {
    p.setPen(QPen(t.ink, 2.0));
    p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()));
  });
}

void ComparePicture::drawLevels(QPainter& p, const Axis& y, const QRectF& plot, double step) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (double db = std::ceil(y.from / step) * step; db <= y.to + 0.01; db += step) {
    const double at = std::round(y.pixel(db)) + 0.5;
    p.setPen(QPen(t.rule, 1.0, Qt::DotLine));
    p.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at));
    drawLabel(p, QPointF(plot.left() - 8, at), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 ? "+" : "") + QString::number(db) + (std::abs(db) < 0.01 ? " dB" : ""), t.muted,
              QColor(0, 0, 0, 0));
  }
}

QRectF ComparePicture::plotArea(double below, double left) const {
  return QRectF(QPointF(left, 28), QPointF(width() - 16.0, height() - below));
}

bool ComparePicture::hasSomething(QPainter& p) const {
  if (detail() && (detail()->mine || !detail()->sections.empty())) return true;
  drawEmpty(p, document().isBusy() || document().study() ? "Measuring..."
                                                         : "Drop finished tracks here, and sounds in Sounds.");
  return false;
}

}  // namespace heft::app
