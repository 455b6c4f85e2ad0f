#include "app/pictures/axis.h"

#include <algorithm>
#include <cmath>
#include <tuple>

#include "app/theme/theme.h"

namespace heft::app {

double Axis::pixel(double v) const {
  const double x = logarithmic ? std::log(v / from) / std::log(to / from) : (v - from) / (to - from);
  return pixelFrom + x * (pixelTo - pixelFrom);
}

double Axis::value(double p) const {
  const double x = (p - pixelFrom) / (pixelTo - pixelFrom);
  return logarithmic ? from * std::pow(to / from, x) : from + x * (to - from);
}

std::vector<double> roundTicks(double from, double to, int most) {
  const double rough = (to - from) / std::max(1, most), power = std::pow(10.0, std::floor(std::log10(rough)));
  double step = power;
  for (double factor : {1.0, 2.0, 5.0, 10.0})
    if (factor * power >= rough - 1e-12) {
      step = factor * power;
      break;
    }
  std::vector<double> out;
  for (double v = std::ceil(from / step - 1e-9) * step; v <= to + 1e-9 * step; v += step)
    out.push_back(std::abs(v) < 1e-9 * step ? 0.0 : v);
  return out;
}

TimeValue caughtByNotes(const Axis& time, double ms, double tempoBpm, bool free) {
  using Feel = TimeValue::Feel;
  constexpr double kCatch = 5.0;  // px
  TimeValue best = TimeValue::milliseconds(std::max(0.0, std::round(ms * 10.0) / 10.0));
  if (free) return best;
  double nearest = kCatch;
  const double whole = 240000.0 / tempoBpm;
  // 48ths of a whole note are triplets of 32nds.
  for (const auto& [parts, under, feel] : {std::tuple(64.0, 64, Feel::Straight), {48.0, 32, Feel::Triplet}}) {
    int count = static_cast<int>(std::lround(std::max(0.0, ms) / whole * parts)), of = under;
    const double off = std::abs(time.pixel(count / parts * whole) - time.pixel(ms));
    if (off >= nearest) continue;
    while (count > 0 && count % 2 == 0 && of > 1) count /= 2, of /= 2;
    if (count > 64) continue;  // the finest note value that can be written
    nearest = off, best = count == 0 ? TimeValue::milliseconds(0.0) : TimeValue::note(count, of, feel);
  }
  return best;
}

double readBetween(const std::vector<float>& wave, double index) {
  const double whole = std::floor(index);
  if (index < 0.0 || whole + 1.0 >= static_cast<double>(wave.size())) return 0.0;
  const auto i = static_cast<size_t>(whole);
  return wave[i] + (index - whole) * (wave[i + 1] - wave[i]);
}

size_t steppedPoint(std::optional<size_t> now, int way, size_t count) {
  if (count == 0) return 0;
  if (!now) return way > 0 ? 0 : count - 1;
  return way > 0 ? std::min(count - 1, *now + 1) : *now - std::min<size_t>(*now, 1);
}

void drawTicksBelow(QPainter& p, const Axis& x, double y, const std::vector<double>& ticks,
                    const std::function<QString(double)>& words) {
  p.setFont(axisFont());
  const QFontMetricsF metrics(p.font());
  double lastRight = -1e9;
  for (double tick : ticks) {
    const double at = std::round(x.pixel(tick)) + 0.5;
    p.setPen(rulePen(theme().muted));
    p.drawLine(QPointF(at, y), QPointF(at, y + 4));
    const QString text = words(tick);
    // Words keep inside the axis and clear of their neighbours.
    const double width = metrics.horizontalAdvance(text);
    const double left = std::clamp(at - width / 2, std::min(x.pixelFrom, x.pixelTo) - 24,
                                   std::max(x.pixelFrom, x.pixelTo) + 12 - width);
    if (left < lastRight + 8) continue;
    p.setPen(theme().muted);
    p.drawText(QPointF(left, y + 7 + metrics.ascent()), text);
    lastRight = left + width;
  }
}

void drawLineThrough(QPainter& p, const QPolygonF& points) {
  std::vector<QLineF> segments;
  segments.reserve(static_cast<size_t>(points.size()));
  for (qsizetype i = 1; i < points.size(); ++i) segments.emplace_back(points[i - 1], points[i]);
  p.drawLines(segments.data(), static_cast<int>(segments.size()));
}

void drawDimension(QPainter& p, const QPointF& a, const QPointF& b, const QString& words, const QColor& colour,
                   const QColor& ground) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(colour, 1.0));
  p.drawLine(a, b);
  const QLineF line(a, b);
  if (line.length() > 1.0) {
    const QPointF along(line.dx() / line.length(), line.dy() / line.length()), across(-along.y(), along.x());
    const double size = std::min(5.0, line.length() / 3.0);
    for (double side : {1.0, -1.0}) {
      p.drawLine(a, a + size * along + side * 0.6 * size * across);
      p.drawLine(b, b - size * along + side * 0.6 * size * across);
      p.drawLine(a + side * 4 * across, a);
      p.drawLine(b + side * 4 * across, b);
    }
  }
  p.setFont(axisFont());
  const double width = QFontMetricsF(p.font()).horizontalAdvance(words);
  const bool upright = std::abs(line.dx()) < std::abs(line.dy());
  // Words that do not fit between the arrows are left out: the field below says the same.
  if (!words.isEmpty() && (upright || line.length() > width + 16))
    drawLabel(p, line.center() + (upright ? QPointF(8, 0) : QPointF()),
              upright ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignCenter, words, colour, ground);
  p.restore();
}

}  // namespace heft::app
