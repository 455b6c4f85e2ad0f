#pragma once
/// Mapping between values and pixels, and what every picture draws the same way.

#include <QPainter>
#include <QRegion>
#include <QString>
#include <functional>
#include <optional>
#include <vector>

#include "core/theory/time_value.h"

namespace heft::app {

/// A straight or logarithmic axis. Pixels may run downwards.
struct Axis {
  double from = 0.0, to = 1.0;
  double pixelFrom = 0.0, pixelTo = 1.0;
  bool logarithmic = false;

  double pixel(double value) const;
  double value(double pixel) const;
  bool holds(double value) const { return value >= std::min(from, to) && value <= std::max(from, to); }
};

/// Round values (1, 2 or 5 times a power of ten apart) between two ends, at most `most`.
std::vector<double> roundTicks(double from, double to, int most);

/// A dragged time in ms on that axis: snaps to a 64th or 48th note within 5 px, unless `free`, else ms to a
/// tenth.
TimeValue caughtByNotes(const Axis& time, double ms, double tempoBpm, bool free);

/// A wave between its samples, straight; 0 outside.
double readBetween(const std::vector<float>& wave, double index);

/// The next or previous selected point of a curve; from none the first or the last.
size_t steppedPoint(std::optional<size_t> now, int way, size_t count);

/// A horizontal axis line at `y` with ticks and words below.
void drawTicksBelow(QPainter& painter, const Axis& x, double y, const std::vector<double>& ticks,
                    const std::function<QString(double)>& words);

/// A line through many points, segment by segment: a stroked path of thousands of points costs ten times as
/// much.
void drawLineThrough(QPainter& painter, const QPolygonF& points);

/// A dimension line between two points with arrow heads and words in its middle, as on a technical drawing.
void drawDimension(QPainter& painter, const QPointF& a, const QPointF& b, const QString& words,
                   const QColor& colour, const QColor& ground);

/// Paints each dirty rectangle separately, clipped: a moving playhead then costs its two columns and not the
/// whole picture. Many rectangles are painted as one.
template <class Paint>
void paintRegion(QPainter& painter, const QRegion& region, Paint paint) {
  constexpr int kMost = 6;
  if (region.rectCount() > kMost) {
    painter.setClipRect(region.boundingRect());
    return paint();
  }
  for (const QRect& rect : region) {
    painter.save();
    painter.setClipRect(rect);
    paint();
    painter.restore();
  }
}

}  // namespace heft::app
