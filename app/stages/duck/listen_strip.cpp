#include "app/stages/duck/listen_strip.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/desk/duck_choice.h"
#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/measure/levels/spectrum.h"
#include "core/session/edits/ducks.h"

namespace heft::app {
namespace {

constexpr double kListenLeft = 64, kListenRight = 16, kAxisHeight = 15, kEdgeReach = 7;  // px
constexpr double kSpectrumFloorDb = -40;

}  // namespace

ListenStrip::ListenStrip(Document& document, Selection& selection)
    : Picture(document, selection, "Detection band") {
  setFixedHeight(58);
  explain("Drag an edge of the detection band. Shift+F1: more",
          "Drag the detection band so that it catches the hits you want. Filled: hits that trigger; line: the "
          "others. Edges snap to notes (Alt: no snap). Page Up/Down: select an edge. Left, Right: 1 st, Shift: "
          "finely. Delete: reset.");
}

QRectF ListenStrip::box() const {
  return QRectF(QPointF(kListenLeft, 2), QPointF(width() - kListenRight, height() - kAxisHeight));
}

Axis ListenStrip::axis() const {
  return {kSpectrumLowHz, kSpectrumHighHz, box().left(), box().right(), true};
}

double ListenStrip::edgeHz(Edge edge) const {
  const DuckSource& s = chosenDuck(document(), selection()).source;
  return edge == Edge::Low ? s.lowCutHz.value_or(kSpectrumLowHz) : s.detector().highCutHz;
}

QPointF ListenStrip::gripOf(Edge edge) const {
  const double hz = std::clamp(edgeHz(edge), kSpectrumLowHz, kSpectrumHighHz);
  return {std::round(axis().pixel(hz)) + 0.5, std::round(box().center().y()) + 0.5};
}

// Below the axis's start nothing is cut.
void ListenStrip::move(Edge edge, double hz) {
  const Duck& d = chosenDuck(document(), selection());
  const auto low =
      edge == Edge::Low ? (hz > kSpectrumLowHz * 1.01 ? std::optional(hz) : std::nullopt) : d.source.lowCutHz;
  document().edit(setTriggerBand(d, low, edge == Edge::High ? hz : edgeHz(Edge::High), "trigger band"));
}

void ListenStrip::drawNotes(QPainter& p) const {
  const Theme& t = theme();
  const QRectF b = box();
  const NoteStyle& style = track().notes;
  p.setFont(axisFont());
  p.setPen(rulePen(t.rule));
  p.drawLine(b.bottomLeft(), b.bottomRight());
  for (int midi = lowTonic(track().key) - 24; midi < 140; midi += 12) {
    const double hz = hzFromMidi(midi, style.a4Hz);
    if (!axis().holds(hz)) continue;
    const double x = std::round(axis().pixel(hz)) + 0.5;
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(x, b.top()), QPointF(x, b.bottom()));
    p.setPen(t.muted);
    p.drawText(QRectF(x - 30, b.bottom() + 1, 60, kAxisHeight - 1), Qt::AlignCenter, noteText(midi));
  }
}

void ListenStrip::drawSpectra(QPainter& p) const {
  const Duck& d = chosenDuck(document(), selection());
  const ResolvedDuck* duck = resolvedDuck(document(), d);
  if (!duck || !duck->spectra) return;
  const QRectF b = box();
  const Axis level{kSpectrumFloorDb, 0.0, b.bottom(), b.top() + 2};
  auto lineOf = [&](const std::vector<double>& db) {
    QPolygonF out;
    for (size_t i = 0; i < db.size(); ++i)
      out << QPointF(std::min(b.right(), axis().pixel(spectrumHz(i))),
                     level.pixel(std::clamp(db[i], kSpectrumFloorDb, 0.0)));
    return out;
  };
  QPolygonF area = lineOf(duck->spectra->firing);
  if (!area.isEmpty()) {
    area.prepend(QPointF(area.first().x(), b.bottom())), area << QPointF(area.last().x(), b.bottom());
    p.setPen(Qt::NoPen);
    p.setBrush(withAlpha(triggerColour(document().session(), d.source), 0.3));
    p.drawPolygon(area);
    p.setBrush(Qt::NoBrush);
  }
  p.setPen(QPen(theme().ink, 1.0));
  p.drawPolyline(lineOf(duck->spectra->others));
}

// Outside the band is hatched.
void ListenStrip::drawBand(QPainter& p) const {
  const Theme& t = theme();
  const QRectF b = box();
  const double low = gripOf(Edge::Low).x(), high = gripOf(Edge::High).x();
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(t.muted, 0.6), Qt::BDiagPattern));
  p.drawRect(QRectF(b.topLeft(), QPointF(low, b.bottom())));
  p.drawRect(QRectF(QPointF(high, b.top()), b.bottomRight()));
  p.setBrush(Qt::NoBrush);
  for (const Edge edge : {Edge::Low, Edge::High}) {
    const QPointF grip = gripOf(edge);
    const bool chosen = held_ == edge || (hasFocus() && chosen_ == edge);
    p.setPen(QPen(t.ink, chosen ? 2.0 : 1.0));
    p.drawLine(QPointF(grip.x(), b.top()), QPointF(grip.x(), b.bottom()));
    drawPointMark(p, grip, chosen);
  }
  const bool roomAfter = high < b.right() - 130;
  p.setFont(axisFont());
  drawLabel(p, QPointF(high + (roomAfter ? 10 : -10), b.center().y()),
            (roomAfter ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
            listenWords(chosenDuck(document(), selection()).source), t.ink, t.panel);
}

void ListenStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const QRectF b = box();
  const DuckSource& source = chosenDuck(document(), selection()).source;
  drawNotes(p);
  drawSpectra(p);
  drawBand(p);
  drawLabel(p, QPointF(kListenLeft - 8, b.center().y()), Qt::AlignRight | Qt::AlignVCenter, "band",
            triggerColour(document().session(), source), QColor(0, 0, 0, 0));
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  if (duck && duck->spectra && !duck->spectra->others.empty())
    drawLabel(p, QPointF(b.right(), b.top() + 8), Qt::AlignRight | Qt::AlignVCenter,
              "filled: triggers, line: other hits", t.muted, t.panel);
  if (hasFocus()) {
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawRect(QRectF(0.5, 0.5, width() - 1.0, height() - 1.0));
  }
}

std::optional<ListenStrip::Edge> ListenStrip::edgeAt(const QPointF& at) const {
  const double low = std::abs(at.x() - gripOf(Edge::Low).x()), high = std::abs(at.x() - gripOf(Edge::High).x());
  if (std::min(low, high) > kEdgeReach) return std::nullopt;
  return low < high ? Edge::Low : Edge::High;
}

void ListenStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = edgeAt(event->position());
  if (held_) chosen_ = *held_;
  update();
}

void ListenStrip::mouseMoveEvent(QMouseEvent* event) {
  setCursor(held_ || edgeAt(event->position()) ? Qt::SizeHorCursor : Qt::ArrowCursor);
  if (!held_) return;
  double hz = std::clamp(axis().value(event->position().x()), kSpectrumLowHz, kSpectrumHighHz);
  const double a4 = track().notes.a4Hz;
  if (!isFree(event->modifiers()) && hz > kSpectrumLowHz) hz = hzFromMidi(std::round(midiFromHz(hz, a4)), a4);
  move(*held_, hz);
}

void ListenStrip::mouseReleaseEvent(QMouseEvent*) {
  held_.reset();
  document().endDrag();
  update();
}

void ListenStrip::keyPressEvent(QKeyEvent* event) {
  const bool up = event->key() == Qt::Key_Right || event->key() == Qt::Key_PageUp;
  const double semitones = event->modifiers() & Qt::ShiftModifier ? 0.25 : 1.0;
  switch (event->key()) {
    case Qt::Key_PageUp:
    case Qt::Key_PageDown:
      chosen_ = up ? Edge::High : Edge::Low;
      return update();
    case Qt::Key_Left:
    case Qt::Key_Right:
      return move(chosen_, edgeHz(chosen_) * std::exp2((up ? semitones : -semitones) / 12.0));
    case Qt::Key_Delete:
      return document().edit(setTriggerBand(chosenDuck(document(), selection()), {}, {}));
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace heft::app
