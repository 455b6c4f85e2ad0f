#include "app/pictures/spectrum_axis.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/measure/levels/spectrum.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kSpectrumDeepestDb = 60.0, kSpectrumOverDb = 6.0;

}  // namespace

SpectrumAxes spectrumAxes(const std::vector<double>& db, const QRectF& area) {
  const double most = db.empty() ? 0.0 : *std::max_element(db.begin(), db.end());
  return {{kSpectrumLowHz, kSpectrumHighHz, area.left(), area.right(), true},
          {most - kSpectrumDeepestDb, most + kSpectrumOverDb, area.bottom(), area.top()}};
}

void drawSpectrumScale(QPainter& p, const Track& track, const SpectrumAxes& axes, const QRectF& area,
                       const std::function<bool(double)>& hasRoom) {
  drawKeyNotes(p, track, axes.hz, area);
  drawLevelRules(p, axes.level, axes.level.to - kSpectrumOverDb, {0.0, -20.0, -40.0}, area);
  std::vector<double> ticks;
  for (const double at : {100.0, 1000.0, 10000.0})
    if (hasRoom(axes.hz.pixel(at))) ticks.push_back(at);
  drawTicksBelow(p, axes.hz, area.bottom(), ticks,
                 [](double at) { return hzTick(at) + (at < 1000.0 ? " Hz" : ""); });
}

void drawKeyNotes(QPainter& p, const Track& track, const Axis& hz, const QRectF& area) {
  const Theme& t = theme();
  const Key& key = track.key;
  constexpr double kTopHz = 500.0, kRoom = 26.0;
  double wordsEnd = -1e9;
  for (int midi = 12; midi < 96; ++midi) {
    const double at = hzFromMidi(midi, track.notes.a4Hz);
    if (!key.contains(midi) || at < hz.from || at > kTopHz) continue;
    const bool tonic = key.isTonic(midi);
    const double x = std::round(hz.pixel(at)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.75) : t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    if (!tonic || x - kRoom / 2 < wordsEnd) continue;
    p.setFont(axisFont(true));
    drawLabel(p, QPointF(x, area.top() - 2), Qt::AlignHCenter | Qt::AlignBottom,
              QString::fromStdString(pitchText(midi, track.notes)), t.muted, QColor(0, 0, 0, 0));
    wordsEnd = x + kRoom / 2;
  }
}

double caughtHz(const Track& track, const Axis& hz, double x, bool free) {
  constexpr double kCatches = 5.0;
  const double at = std::clamp(hz.value(x), std::min(hz.from, hz.to), std::max(hz.from, hz.to));
  const double a4 = track.notes.a4Hz;
  const double note = hzFromMidi(nearestInKey(midiFromHz(at, a4), track.key), a4);
  if (!free && std::abs(hz.pixel(note) - x) <= kCatches) return note;
  return std::round(10.0 * at) / 10.0;
}

QPolygonF spectrumLine(const std::vector<double>& db, const Axis& hz, const Axis& level) {
  QPolygonF out;
  for (size_t i = 0; i < db.size(); ++i)
    out << QPointF(hz.pixel(spectrumHz(i)), level.pixel(std::clamp(db[i], level.from, level.to)));
  return out;
}

QString hzTick(double hz) {
  return hz >= 1000 ? QString::number(hz / 1000) + " kHz" : QString::number(hz) + (hz == 20 ? " Hz" : "");
}

void drawLevelRules(QPainter& p, const Axis& level, double most, const std::vector<double>& below,
                    const QRectF& area) {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const double db : below) {
    if (most + db < level.from) continue;
    const double y = std::round(level.pixel(most + db)) + 0.5;
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::number(db) + (db == 0.0 ? " dB" : ""), t.muted, QColor(0, 0, 0, 0));
  }
}

}  // namespace heft::app
