// The dip's dimension lines, its points, its words.

#include <algorithm>
#include <cmath>

#include "app/stages/duck/dip_picture.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/theme/theme.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kRowOne = 20, kRowTwo = 42;  // px under the hatching
constexpr double kRoomForWords = 46;

QString gainText(double gain) {
  return depthText(gain < 1e-6 ? kSilentDepthDb : -20.0 * std::log10(gain));
}

}  // namespace

QPointF DipPicture::placeOf(double ms, double gain) const {
  const Areas a = areas();
  return {a.time.pixel(ms), yOfGain(a, gain)};
}

std::optional<size_t> DipPicture::chosenPoint() const {
  return hasPoints() && chosen_ && *chosen_ < duck().curve.points.size() ? chosen_ : std::nullopt;
}

QPointF DipPicture::handleAt(Handle handle, size_t index) const {
  const Areas a = areas();
  const DrawnDip d = dip();
  const double y = a.target.bottom() + kRowOne, low = gainAtDepth(d.depthDb);
  const auto& points = d.points;
  switch (handle) {
    case Handle::Depth: {
      const double at = duck().movement == Movement::Static ? 0.5 * a.time.to : d.attackMs + 0.5 * d.holdMs;
      return {std::round(a.time.pixel(at)), yOfGain(a, low)};
    }
    case Handle::Attack:
      return {a.time.pixel(d.attackMs), y};
    case Handle::Hold:
      return {a.time.pixel(d.attackMs + d.holdMs), y};
    case Handle::Return:
      return {a.time.pixel(d.wholeMs()), hasPoints() ? a.target.bottom() + kRowTwo : y};
    case Handle::Point:
      if (index >= points.size()) break;
      return {a.time.pixel(points[index].at * d.lengthMs), yOfGain(a, 1.0 - points[index].taken * (1.0 - low))};
    case Handle::Bend: {
      if (index + 1 >= points.size()) break;
      const double middle = 0.5 * (points[index].at + points[index + 1].at) * d.lengthMs;
      return {a.time.pixel(middle), yOfGain(a, gainAt(middle))};
    }
    case Handle::None:
      break;
  }
  return {};
}

void DipPicture::drawDepth(QPainter& p, const Areas& a) const {
  const QPointF depth = handleAt(Handle::Depth);
  drawDimension(p, QPointF(depth.x(), a.target.top()), depth, depthText(duck().curve.depthDb), theme().ink,
                theme().panel);
  drawPointMark(p, depth, held_.handle == Handle::Depth);
}

void DipPicture::drawFour(QPainter& p, const Areas& a) const {
  const DrawnDip d = dip();
  const Theme& t = theme();
  const double y1 = a.target.bottom() + kRowOne, y2 = a.target.bottom() + kRowTwo;
  auto x = [&](double at) { return a.time.pixel(at); };
  p.setPen(QPen(t.rule, 1.0));
  for (double at : {0.0, d.attackMs, d.attackMs + d.holdMs, d.wholeMs()})
    p.drawLine(QPointF(x(at), a.target.bottom() + 2), QPointF(x(at), y2 + 4));
  drawDimension(p, QPointF(x(d.attackMs), y1), QPointF(x(d.attackMs + d.holdMs), y1),
                "hold " + msText(d.holdMs), t.ink, t.panel);
  drawDimension(p, QPointF(x(d.attackMs + d.holdMs), y1), QPointF(x(d.wholeMs()), y1),
                "release " + msText(d.returnMs), t.ink, t.panel);
  const CurveLasts lasts = duck().curve.lasts;
  drawDimension(p, QPointF(x(0), y2), QPointF(x(d.wholeMs()), y2),
                msText(d.wholeMs()) + (lasts == CurveLasts::AsSource ? ", as the source"
                                       : lasts == CurveLasts::ToNext ? ", to the next hit"
                                                                     : ""),
                t.ink, t.panel);
  p.setFont(axisFont());
  drawLabel(p, QPointF(x(0) - 6, y1), Qt::AlignRight | Qt::AlignVCenter, "attack " + msText(d.attackMs), t.ink,
            t.panel);
  for (Handle h : {Handle::Attack, Handle::Hold, Handle::Return})
    drawPointMark(p, handleAt(h), held_.handle == h);
  drawDepth(p, a);
}

// Between points their distance in time, below them the total.
void DipPicture::drawPointRow(QPainter& p, const Areas& a) const {
  const DrawnDip d = dip();
  const Theme& t = theme();
  const double y1 = a.target.bottom() + kRowOne, y2 = a.target.bottom() + kRowTwo;
  p.setPen(QPen(t.rule, 1.0));
  for (const DipPoint& point : d.points) {
    const double x = a.time.pixel(point.at * d.lengthMs);
    p.drawLine(QPointF(x, a.target.bottom() + 2), QPointF(x, y1 + 4));
  }
  for (size_t i = 0; i + 1 < d.points.size(); ++i) {
    const double from = a.time.pixel(d.points[i].at * d.lengthMs),
                 to = a.time.pixel(d.points[i + 1].at * d.lengthMs);
    if (to - from > kRoomForWords)
      drawDimension(p, QPointF(from, y1), QPointF(to, y1),
                    msText((d.points[i + 1].at - d.points[i].at) * d.lengthMs), t.ink, t.panel);
  }
  const CurveLasts lasts = duck().curve.lasts;
  drawDimension(p, QPointF(a.time.pixel(0), y2), QPointF(a.time.pixel(d.lengthMs), y2),
                msText(d.lengthMs) + (lasts == CurveLasts::AsSource ? ", as the source"
                                      : lasts == CurveLasts::ToNext ? ", to the next hit"
                                                                    : ""),
                t.ink, t.panel);
}

void DipPicture::drawPoints(QPainter& p, const Areas& a) const {
  const DrawnDip d = dip();
  const Theme& t = theme();
  drawPointRow(p, a);
  double wordsEnd = -1e9;
  for (size_t i = 0; i < d.points.size(); ++i) {
    const QPointF at = handleAt(Handle::Point, i);
    const bool chosen = chosenPoint() == i;
    const double depth = at.y() - a.target.top();
    if (depth > 14 && (chosen || at.x() - wordsEnd > kRoomForWords)) {
      drawDimension(p, QPointF(at.x(), a.target.top()), at,
                    gainText(1.0 - d.points[i].taken * (1.0 - gainAtDepth(d.depthDb))),
                    chosen ? t.ink : t.muted, t.panel);
      wordsEnd = at.x();
    }
  }
  for (size_t i = 0; i + 1 < d.points.size(); ++i) {
    const QPointF bend = handleAt(Handle::Bend, i);
    const bool slopes = d.points[i].taken != d.points[i + 1].taken;
    if (slopes && handleAt(Handle::Point, i + 1).x() - handleAt(Handle::Point, i).x() > 24)
      drawBendGrip(p, bend, held_ == Grip{Handle::Bend, i});
  }
  for (size_t i = 0; i < d.points.size(); ++i) drawPointMark(p, handleAt(Handle::Point, i), chosenPoint() == i);
  drawPointMark(p, handleAt(Handle::Return), held_.handle == Handle::Return);
}

void DipPicture::drawNames(QPainter& p, const Areas& a) const {
  const Session& s = document().session();
  p.setFont(axisFont());
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const auto index = r ? shownTrigger(*r) : std::nullopt;
  const QFontMetrics metrics(axisFont());
  auto name = [&](const QString& words, double y, const QColor& ink) {
    drawLabel(p, QPointF(a.source.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              metrics.elidedText(words, Qt::ElideRight, static_cast<int>(a.source.left()) - 12), ink,
              QColor(0, 0, 0, 0));
  };
  name(index ? triggerAt(*index) : QString("hit"), a.source.center().y(), triggerColour(s, duck().source));
  name(targetWords(s, duck().target).toLower(), a.target.center().y(), targetColour(s, duck().target));
}

// "hit 3"; of a song its place.
QString DipPicture::triggerAt(size_t index) const {
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  if (!track().song || !r || index >= r->triggers.size()) return QString("hit %1").arg(index + 1);
  return QString::fromStdString(positionName(track(), r->triggers[index].frame / track().framesPerQuarter()));
}

void DipPicture::drawFigures(QPainter& p, const Areas& a) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  const DuckFacts* facts = duckFacts(document(), duck());
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const size_t index = (r ? shownTrigger(*r) : std::nullopt).value_or(SIZE_MAX);
  QStringList words;
  if (duck().movement == Movement::Static) {
    words << depthText(duck().curve.depthDb) + " all along";
  } else if (facts && index < facts->dip.each.size()) {
    const TriggerFacts& f = facts->dip.each[index];
    words << triggerAt(index) + (track().song ? QString(", %1").arg(index + 1) : QString()) +
                 QString(" of %1").arg(facts->dip.each.size())
          << dbText(f.depthDb) << "under -3 dB for " + msText(f.under3DbMs)
          << "back after " + msText(f.returnMs);
  }
  if (playhead_ && r && r->gain.frames() > 0) {
    const auto at =
        std::min(r->gain.frames() - 1, static_cast<size_t>(*playhead_ * track().framesPerQuarter()));
    words << "now " + gainText(r->gain.at(0, at));
    if (facts) words << "most " + dbText(facts->dip.depthDb);
  }
  const double between = 0.5 * (a.source.bottom() + a.target.top());
  drawLabel(p, QPointF(a.source.right(), between), Qt::AlignRight | Qt::AlignVCenter, words.join(", "), t.muted,
            t.panel);
  drawLabel(p, QPointF(a.time.pixel(0.0) + 6, between), Qt::AlignLeft | Qt::AlignVCenter,
            "hatched: gain reduction", targetColour(document().session(), duck().target), t.panel);
  const auto frame = hitFrame();
  if (!playhead_ || !frame) return;
  const double ms = msOf(*playhead_, *frame);
  if (!a.time.holds(ms)) return;
  p.setPen(QPen(t.ink, 1.0));
  p.drawLine(QPointF(a.time.pixel(ms), a.source.top()), QPointF(a.time.pixel(ms), a.target.bottom()));
}

}  // namespace heft::app
