#include "app/stages/dip_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

}  // namespace

QString msText(double value) {
  return QString::fromStdString(formatNumber(value, value < 10 ? 1 : 0)) + " ms";
}

QString depthText(double depthDb) {
  return depthDb >= kSilentDepthDb ? QString("silence")
         : depthDb <= 0            ? QString("0 dB")
                                   : "-" + dbText(depthDb, 1, false);
}

DipPicture::DipPicture(Document& document, Selection& selection) : Picture(document, selection, "The dip") {
  setToolTip(
      "What the ducking takes from the bass after a kick, hatched. Drag a dimension line: depth up and down; "
      "attack, hold and release sideways.");
}

DrawnDip DipPicture::dip() const {
  const Session& s = document().session();
  const Study* study = document().study();
  return resolvedDip(s.duck(), s.track.tempoBpm,
                     study && study->kick ? std::optional(study->kick->tailMs) : std::nullopt);
}

DipPicture::Areas DipPicture::areas() const {
  Areas out;
  const double left = 64, right = width() - 16.0, bottom = height() - 84.0;
  out.kick = QRectF(QPointF(left, 8), QPointF(right, 8 + 0.24 * (bottom - 8)));
  out.bass = QRectF(QPointF(left, out.kick.bottom() + 14), QPointF(right, bottom));
  const DrawnDip d = dip();
  const double eighth = 30000.0 / track().tempoBpm;
  out.time = {-0.1 * eighth, std::max(eighth, 1.15 * (d.attackMs + d.holdMs + d.returnMs)), left, right};
  return out;
}

void DipPicture::drawWaves(QPainter& p, const Areas& a, double frame) const {
  const Stems& stems = *document().stems();
  const double perPixel = (a.time.to - a.time.from) / 1000.0 * stems.sampleRate / a.bass.width();
  const double first = frame + a.time.from / 1000.0 * stems.sampleRate;
  const auto n = static_cast<int64_t>(stems.frames);
  auto reader = [n](const Stem& stem, float scale) {
    return [&stem, n, scale](int64_t i) { return scale * stem.at(0, static_cast<size_t>(((i % n) + n) % n)); };
  };
  // Each lane fills its height: what is drawn of it, moved and before it is moved, but never what is all but
  // silent.
  auto peakOf = [&](const Stem& stem) {
    float most = 0.001f;
    const auto from = static_cast<int64_t>(first),
               to = static_cast<int64_t>(first + a.bass.width() * perPixel) + 1;
    for (int64_t i = from; i <= to; ++i) most = std::max(most, std::abs(reader(stem, 1.0f)(i)));
    return most;
  };
  drawWave(p, a.kick.left(), a.kick.right(), a.kick.center().y(), a.kick.height(), first, perPixel,
           reader(stems.kick(), 1.0f / peakOf(stems.kick())), theme().kick);
  drawWave(p, a.bass.left(), a.bass.right(), a.bass.center().y(), a.bass.height(), first, perPixel,
           reader(stems.bass(), 1.0f / std::max(peakOf(stems.bass()), peakOf(stems.bassPlaced()))),
           theme().bass);
}

void DipPicture::drawTaken(QPainter& p, const Areas& a) const {
  const DrawnDip d = dip();
  const Trigger zero;
  const DipPlan plan(d, std::span<const Trigger>(&zero, 1), 1000.0 * 8.0, 0);  // eight values a millisecond
  std::vector<float> gain(static_cast<size_t>(std::max(1.0, a.time.to * 8.0)) + 1);
  plan.fill(0, gain);
  QPainterPath top, bottom;
  QPolygonF upper, lower;
  for (double x = a.time.pixel(0.0); x <= a.time.pixelTo; x += 1.0) {
    const auto i = std::min(gain.size() - 1, static_cast<size_t>(std::max(0.0, a.time.value(x) * 8.0)));
    upper << QPointF(x, yOfGain(a, gain[i]));
    lower << QPointF(x, yOfGain(a, -gain[i]));
  }
  auto hatch = [&](const QPolygonF& edge, double full) {
    QPolygonF area = edge;
    area.prepend(QPointF(edge.first().x(), full));
    area << QPointF(edge.last().x(), full);
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(withAlpha(theme().bass, 0.55), Qt::BDiagPattern));
    p.drawPolygon(area);
    p.setBrush(Qt::NoBrush);
  };
  p.setRenderHint(QPainter::Antialiasing);
  hatch(upper, a.bass.top());
  hatch(lower, a.bass.bottom());
  p.setPen(QPen(theme().bass, 1.0));
  drawLineThrough(p, upper);
  drawLineThrough(p, lower);
}

void DipPicture::drawDimensions(QPainter& p, const Areas& a) const {
  const DrawnDip d = dip();
  const Theme& t = theme();
  const QPointF depth = handleAt(Handle::Depth);
  drawDimension(p, QPointF(depth.x(), a.bass.top()), depth, depthText(d.depthDb), t.ink, t.panel);
  const double y1 = a.bass.bottom() + 20, y2 = y1 + 22;
  auto x = [&](double at) { return a.time.pixel(at); };
  p.setPen(QPen(t.rule, 1.0));
  for (double at : {0.0, d.attackMs, d.attackMs + d.holdMs, d.attackMs + d.holdMs + d.returnMs})
    p.drawLine(QPointF(x(at), a.bass.bottom() + 2), QPointF(x(at), y2 + 4));
  drawDimension(p, QPointF(x(d.attackMs), y1), QPointF(x(d.attackMs + d.holdMs), y1),
                "hold " + msText(d.holdMs), t.ink, t.panel);
  drawDimension(p, QPointF(x(d.attackMs + d.holdMs), y1), QPointF(x(d.attackMs + d.holdMs + d.returnMs), y1),
                "release " + msText(d.returnMs), t.ink, t.panel);
  drawDimension(p, QPointF(x(0), y2), QPointF(x(d.attackMs + d.holdMs + d.returnMs), y2),
                msText(d.attackMs + d.holdMs + d.returnMs) +
                    (document().session().duck().curve.lasts == CurveLasts::AsSource ? ", as the kick" : ""),
                t.ink, t.panel);
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.time.pixel(0) - 6, y1), Qt::AlignRight | Qt::AlignVCenter,
            "attack " + msText(d.attackMs), t.ink, t.panel);
  p.setRenderHint(QPainter::Antialiasing);
  for (Handle h : {Handle::Depth, Handle::Attack, Handle::Hold, Handle::Return}) {
    drawGrip(p, handleAt(h), h == held_, 3.5);
  }
}

QPointF DipPicture::handleAt(Handle handle) const {
  const Areas a = areas();
  const DrawnDip d = dip();
  const double y1 = a.bass.bottom() + 20;
  switch (handle) {
    case Handle::Depth:
      return {std::round(a.time.pixel(d.attackMs + 0.5 * d.holdMs)), yOfGain(a, gainAtDepth(d.depthDb))};
    case Handle::Attack:
      return {a.time.pixel(d.attackMs), y1};
    case Handle::Hold:
      return {a.time.pixel(d.attackMs + d.holdMs), y1};
    case Handle::Return:
      return {a.time.pixel(d.attackMs + d.holdMs + d.returnMs), y1};
    case Handle::None:
      break;
  }
  return {};
}

void DipPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Stems* stems = document().stems();
  const Study* s = document().study();
  if (!stems || stems->hitFrames().empty() || !s || !s->bass)
    return drawEmpty(p, document().isBusy() ? "Rendering..."
                                            : "Each kick hit lowers the bass for a moment. Drop both "
                                              "sounds in Sounds and place hits in the loop below.");
  const Areas a = areas();
  const Theme& t = theme();
  const auto index =
      std::min(stems->hitFrames().size() - 1, static_cast<size_t>(std::max(0, selection().hit())));
  // Sixteenths and their halves, from the hit.
  const double sixteenth = 15000.0 / track().tempoBpm;
  for (double at = 0.0; at <= a.time.to + 1e-6; at += sixteenth / 2.0) {
    const double x = std::round(a.time.pixel(at)) + 0.5;
    p.setPen(QPen(at == 0.0 ? t.ink : t.rule, 1.0));
    p.drawLine(QPointF(x, a.kick.top()), QPointF(x, a.bass.bottom()));
  }
  p.setPen(rulePen(t.rule));
  p.drawLine(a.bass.topLeft(), a.bass.topRight());
  p.drawLine(a.bass.bottomLeft(), a.bass.bottomRight());
  drawWaves(p, a, stems->hitFrames()[index]);
  std::vector<double> ticks;
  for (double at = 0.0; at <= a.time.to + 1e-6; at += sixteenth / 2.0) ticks.push_back(at);
  drawTicksBelow(p, a.time, a.bass.bottom() + 56, ticks, [&](double v) {
    const int thirtyseconds = static_cast<int>(std::lround(2.0 * v / sixteenth));
    if (thirtyseconds == 0) return QString("0");
    int over = 32, count = thirtyseconds;
    while (count % 2 == 0 && over > 1) count /= 2, over /= 2;
    return QString("%1/%2").arg(count).arg(over);
  });
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.kick.left() - 8, a.kick.center().y()), Qt::AlignRight | Qt::AlignVCenter,
            QString("kick %1").arg(index + 1), t.kick, QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.kick.left() - 8, a.bass.center().y()), Qt::AlignRight | Qt::AlignVCenter, "bass",
            t.bass, QColor(0, 0, 0, 0));
  if (!document().session().duck().on) {
    p.setFont(bodyFont());
    drawLabel(p, QPointF(a.bass.center().x(), a.bass.bottom() + 30), Qt::AlignCenter,
              "Nothing ducks. Set Ducking to curve, or press Duck in the Ledger.", t.muted, t.panel);
    return;
  }
  drawTaken(p, a);
  drawDimensions(p, a);
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.kick.right(), a.kick.top()), Qt::AlignRight | Qt::AlignTop,
            QString("from the pattern, %1 of %2 hits").arg(s->dip.fired).arg(s->hitsInLoop), t.muted, t.panel);
  drawLabel(p, QPointF(a.bass.right() - 4, a.bass.top() + 4), Qt::AlignRight | Qt::AlignTop,
            "hatched: taken away", t.bass, t.panel);
}

DipPicture::Handle DipPicture::handleNear(const QPointF& at) const {
  if (!document().session().duck().on) return Handle::None;
  for (Handle h : {Handle::Depth, Handle::Return, Handle::Hold, Handle::Attack}) {
    const QPointF d = at - handleAt(h);
    if (std::hypot(d.x(), d.y()) < 9.0) return h;
  }
  return Handle::None;
}

void DipPicture::drag(const QPointF& to) {
  const Areas a = areas();
  const DrawnDip d = dip();
  const double at = a.time.value(to.x());
  const Duck& duck = document().session().duck();
  auto setTime = [&](DipTime which, double ms, const std::string& merge) {
    const double tenths = std::clamp(std::round(ms * 10.0) / 10.0, 0.0, 5000.0);
    document().edit(setDipTime(duck, which, TimeValue::milliseconds(tenths),
                               duck.curve.lasts == CurveLasts::AsSource ? std::optional(d) : std::nullopt,
                               merge));
  };
  switch (held_) {
    case Handle::Depth: {
      const double gain = std::clamp((a.bass.center().y() - to.y()) / (0.5 * a.bass.height()), 0.0, 1.0);
      return document().edit(setDepth(duck, depthAtGain(gain), "drag depth"));
    }
    case Handle::Attack:
      return setTime(DipTime::Attack, std::max(0.5, at), "drag attack");
    case Handle::Hold:
      return setTime(DipTime::Hold, at - d.attackMs, "drag hold");
    case Handle::Return:
      return setTime(DipTime::Return, std::max(1.0, at - d.attackMs - d.holdMs), "drag release");
    case Handle::None:
      return;
  }
}

void DipPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) held_ = handleNear(event->position());
  update();
}

void DipPicture::mouseMoveEvent(QMouseEvent* event) {
  const Handle near = held_ != Handle::None ? held_ : handleNear(event->position());
  setCursor(near == Handle::None    ? Qt::ArrowCursor
            : near == Handle::Depth ? Qt::SizeVerCursor
                                    : Qt::SizeHorCursor);
  if (held_ != Handle::None) drag(event->position());
}

void DipPicture::mouseReleaseEvent(QMouseEvent*) {
  held_ = Handle::None;
  document().endDrag();
  update();
}

void DipPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const int hits = document().study() ? static_cast<int>(document().study()->hitsInLoop) : 0;
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  if (key == Qt::Key_Down || key == Qt::Key_Up)
    document().edit(setDepth(document().session().duck(),
                             document().session().duck().curve.depthDb + (key == Qt::Key_Down ? step : -step),
                             "key depth"));
  else if ((key == Qt::Key_Left || key == Qt::Key_Right) && hits)
    selection().setHit(std::clamp(selection().hit() + (key == Qt::Key_Right ? 1 : -1), 0, hits - 1));
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
