#include "app/stages/compare/width_picture.h"

#include <algorithm>

#include "app/theme/theme.h"

namespace heft::app {

WidthPicture::WidthPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Width") {
  setToolTip("Side re mid in sixth octaves, or what a mono sum loses. Below -20 dB a band counts as mono");
}

std::optional<double> referencesMonoBelow(const CompareDetail& detail) {
  std::optional<double> out;
  for (const ComparedSection& s : detail.sections) {
    if (!s.of.counts) continue;
    const auto below = s.facts->monoBelowHz;
    if (!below) return std::nullopt;
    out = out ? std::min(*out, *below) : *below;
  }
  return out;
}

void WidthPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!hasSomething(p)) return;
  const Theme& t = theme();
  const QRectF plot = plotArea(26.0);
  const Axis x{20.0, 10000.0, plot.left(), plot.right(), true};
  const Axis y =
      loss_ ? Axis{-9.0, 1.0, plot.bottom(), plot.top()} : Axis{-54.0, 6.0, plot.bottom(), plot.top()};
  const auto lineOf = [&](const StereoWidth& width) {
    Line out;
    for (const auto& band : width.bands) {
      if (!width.sounds(band)) continue;
      out.at.push_back(band.hz);
      out.level.push_back(loss_ ? band.lossDb() : std::max(y.from, band.sideDb()));
    }
    return out;
  };
  Lines lines;
  if (detail()->mine) lines.mine = lineOf(detail()->mine->width);
  for (const ComparedSection& s : detail()->sections)
    lines.sections.push_back({s.of, lineOf(s.profile->width)});
  drawLevels(p, y, plot, loss_ ? 3.0 : 6.0);
  drawTicksBelow(p, x, plot.bottom(), {20, 50, 100, 200, 500, 1000, 2000, 5000, 10000},
                 [](double v) { return v < 1000 ? QString("%1 Hz").arg(v) : QString("%1 kHz").arg(v / 1000); });
  if (!loss_) {
    const double at = std::round(y.pixel(kMonoDb)) + 0.5;
    p.setPen(QPen(t.muted, 1.0));
    p.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at));
    p.setFont(axisFont());
    drawLabel(p, QPointF(plot.left() + 6, at + 2), Qt::AlignLeft | Qt::AlignTop, "mono below this line",
              t.muted, withAlpha(t.panel, 0.9));
  }
  drawLines(p, lines, x, y, plot);
  drawKey(p, plot, false);
  // Where the references are mono, and where yours is.
  auto mark = [&](const std::optional<double>& hz, const QString& words, const QColor& ink, const QColor& said,
                  double row) {
    if (!hz || *hz > 10000.0) return;
    const double at = std::round(x.pixel(*hz)) + 0.5;
    p.setPen(QPen(ink, 1.0, Qt::DashLine));
    p.drawLine(QPointF(at, plot.top()), QPointF(at, plot.bottom()));
    p.setFont(axisFont(true));
    const bool left = at > plot.right() - 220;
    drawLabel(p, QPointF(at + (left ? -6 : 6), plot.top() + row),
              (left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignTop, words.arg(std::lround(*hz)), said,
              withAlpha(t.panel, 0.9));
  };
  mark(referencesMonoBelow(*detail()), "all references mono below %1 Hz", t.reference, t.referenceWords, 4);
  mark(detail()->mineFacts.monoBelowHz, "yours below %1 Hz", t.ink, t.ink, 20);
}

}  // namespace heft::app
