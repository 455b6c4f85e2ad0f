#include "app/stages/align/hand_over_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/theme/theme.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLowestDb = -36.0, kMostRippleDb = 15.0;

}  // namespace

HandOverPicture::HandOverPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Hand-over") {
  setMinimumHeight(300);
  explain(
      "Drag the end of the hand-over; click a column to see its hit. Shift+F1: more",
      "Levels from 20 to 150 Hz where the kick's tail meets the next bass note: kick, bass and sum. Hatched: "
      "the crossfade. Dashed: kick and bass before it. Drag its end or Left, Right: length. Delete: off. "
      "Below: how far the sum falls under or rises over both after each hit. Up, Down: select a hit.");
}

QRectF HandOverPicture::levels() const {
  return {QPointF(64, 26), QPointF(width() - 16.0, height() - 150.0)};
}

QRectF HandOverPicture::columns() const {
  return {QPointF(64, height() - 104.0), QPointF(width() - 16.0, height() - 22.0)};
}

const HandOverFacts* HandOverPicture::chosen() const {
  const HitFacts* h = hit();
  return h && h->handOver ? &*h->handOver : nullptr;
}

Axis HandOverPicture::time() const {
  if (heldTime_) return *heldTime_;
  const double over = document().session().handOver.ms;
  return {-HandOverFacts::kLeadMs, over + HandOverFacts::kLeadMs, levels().left(), levels().right()};
}

QPointF HandOverPicture::endGrip() const {
  return {time().pixel(document().session().handOver.ms), levels().top() + 6};
}

QRectF HandOverPicture::columnOf(int hit) const {
  const Study* s = document().study();
  const double count = s ? std::max<double>(1.0, static_cast<double>(s->pair.hits.size())) : 1.0;
  const double wide = columns().width() / count;
  return {columns().left() + hit * wide, columns().top(), wide, columns().height()};
}

void HandOverPicture::set(double ms) {
  const HandOver& now = document().session().handOver;
  const Study* s = document().study();
  // With their correlation, once on.
  double alike = now.alike;
  if (!now.on && s) {
    double sum = 0.0, count = 0.0;
    for (const HitFacts& h : s->pair.hits)
      if (h.handOver) sum += h.handOver->alike, count += 1.0;
    alike = count > 0.0 ? sum / count : 0.0;
  }
  Edit edit = handOverIn(std::round(ms), alike);
  edit.mergeKey = "hand-over";
  document().edit(edit);
}

void HandOverPicture::drawLevels(QPainter& p, const HandOverFacts& f) const {
  const Theme& t = theme();
  const QRectF area = levels();
  const Axis x = time(), y{kLowestDb, 6.0, area.bottom(), area.top()};
  const HandOver& set = document().session().handOver;
  p.setFont(axisFont());
  for (const double db : {0.0, -12.0, -24.0, -36.0}) {
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(area.left(), y.pixel(db)), QPointF(area.right(), y.pixel(db)));
    drawLabel(p, QPointF(area.left() - 8, y.pixel(db)), Qt::AlignRight | Qt::AlignVCenter,
              QString::number(db) + (db == 0.0 ? " dB" : ""), t.muted, QColor(0, 0, 0, 0));
  }
  const QRectF over(QPointF(x.pixel(0), area.top()), QPointF(x.pixel(f.overMs), area.bottom()));
  p.fillRect(over, QBrush(withAlpha(set.on ? t.ink : t.muted, set.on ? 0.35 : 0.2), Qt::BDiagPattern));
  p.setRenderHint(QPainter::Antialiasing);
  auto line = [&](const std::vector<float>& db, const QPen& pen) {
    QPolygonF points;
    for (size_t i = 0; i < db.size(); ++i)
      points << QPointF(x.pixel(static_cast<double>(i) * HandOverFacts::kStepMs - HandOverFacts::kLeadMs),
                        y.pixel(std::max<double>(kLowestDb, db[i])));
    p.setPen(pen);
    drawLineThrough(p, points);
  };
  line(f.kickDb, dataPen(t.kick)), line(f.bassDb, dataPen(t.bass)), line(f.sumDb, dataPen(t.ink));
  auto levelAt = [&](const std::vector<float>& db, double ms) {
    const auto i = static_cast<size_t>(std::max(0.0, (ms + HandOverFacts::kLeadMs) / HandOverFacts::kStepMs));
    return db.empty() ? kLowestDb : static_cast<double>(db[std::min(i, db.size() - 1)]);
  };
  p.setPen(QPen(t.muted, 1.0, Qt::DashLine));
  for (const double db : {levelAt(f.kickDb, -6.0), levelAt(f.bassDb, f.overMs + 6.0)})
    p.drawLine(QPointF(x.pixel(0), y.pixel(db)), QPointF(x.pixel(f.overMs), y.pixel(db)));
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(t.ink, dragging_ || hasFocus() ? 2.0 : 1.0));
  const QPointF grip = endGrip();
  p.drawLine(QPointF(grip.x(), area.top()), QPointF(grip.x(), area.bottom()));
  drawDimension(p, QPointF(x.pixel(0), grip.y()), grip,
                (set.on ? QString() : QString("would take ")) + QString::number(set.ms) + " ms", t.ink,
                t.panel);
  drawGrip(p, grip, dragging_, 3.5);
  drawTicksBelow(p, x, area.bottom(), roundTicks(x.from, x.to, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  const QString words = QString("%1, the next note %2 ms after it").arg(hitWords()).arg(std::round(f.afterMs));
  QRectF box = drawLabel(p, QPointF(area.left(), 4), Qt::AlignLeft | Qt::AlignTop, words, t.ink, t.panel);
  box = drawLabel(p, QPointF(box.right() + 20, 4), Qt::AlignLeft | Qt::AlignTop, "kick", t.kick, t.panel);
  box = drawLabel(p, QPointF(box.right() + 12, 4), Qt::AlignLeft | Qt::AlignTop, "bass", t.bass, t.panel);
  drawLabel(p, QPointF(box.right() + 12, 4), Qt::AlignLeft | Qt::AlignTop, "sum", t.ink, t.panel);
  drawLabel(p, QPointF(area.right(), 4), Qt::AlignRight | Qt::AlignTop,
            "dips " + dbText(-f.holeDb, 1, false) + " below, rises " + dbText(f.pileDb, 1, false) + " above",
            f.ripple() <= Limits().rippleHolds   ? t.holds
            : f.ripple() <= Limits().rippleWatch ? t.watch
                                                 : t.off,
            t.panel);
}

// Dip below and rise above both levels after each hit, the range hatched.
void HandOverPicture::drawColumns(QPainter& p, const Study& s) const {
  const Theme& t = theme();
  const QRectF area = columns();
  const Axis y{-kMostRippleDb, kMostRippleDb, area.bottom(), area.top()};
  const double holds = Limits().rippleHolds;
  p.fillRect(QRectF(QPointF(area.left(), y.pixel(holds)), QPointF(area.right(), y.pixel(-holds))),
             QBrush(withAlpha(t.holds, 0.3), Qt::BDiagPattern));
  p.setPen(rulePen(t.muted));
  p.drawLine(QPointF(area.left(), y.pixel(0)), QPointF(area.right(), y.pixel(0)));
  p.setFont(axisFont());
  drawLabel(p, QPointF(area.left() - 8, y.pixel(0)), Qt::AlignRight | Qt::AlignVCenter, "even", t.muted,
            QColor(0, 0, 0, 0));
  for (const double db : {10.0, -10.0})
    drawLabel(p, QPointF(area.left() - 8, y.pixel(db)), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 ? "+" : "") + QString::number(db) + " dB", t.muted, QColor(0, 0, 0, 0));
  for (size_t i = 0; i < s.pair.hits.size(); ++i) {
    const QRectF column = columnOf(static_cast<int>(i));
    const bool chosen = static_cast<int>(i) == selection().hit();
    const double wide = std::min(18.0, 0.5 * column.width());
    if (const auto& f = s.pair.hits[i].handOver) {
      const QRectF bar(QPointF(column.center().x() - 0.5 * wide, y.pixel(std::min(kMostRippleDb, f->pileDb))),
                       QPointF(column.center().x() + 0.5 * wide, y.pixel(std::max(-kMostRippleDb, f->holeDb))));
      const QColor ink = f->ripple() <= holds ? t.holds : f->ripple() <= Limits().rippleWatch ? t.watch : t.off;
      p.fillRect(bar, withAlpha(ink, chosen ? 0.9 : 0.5));
    }
    p.setFont(axisFont(chosen));
    if (column.width() > 14 || chosen)
      drawLabel(p, QPointF(column.center().x(), area.bottom() + 4), Qt::AlignHCenter | Qt::AlignTop,
                QString::number(i + 1), chosen ? t.ink : t.muted, t.panel);
    // From the hit to the next note, where there is room for it.
    if (column.width() > 44 && s.pair.hits[i].nextNoteGapMs)
      drawLabel(p, QPointF(column.center().x(), area.top() - 2), Qt::AlignHCenter | Qt::AlignBottom,
                msText(*s.pair.hits[i].nextNoteGapMs), chosen ? t.ink : t.muted, QColor(0, 0, 0, 0));
  }
}

void HandOverPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || !s->pair.bass.sound || s->pair.hits.empty())
    return drawEmpty(
        p, document().isBusy() ? "Measuring..." : "Place kick hits and bass notes to see the hand-over here.");
  if (const HandOverFacts* f = chosen())
    drawLevels(p, *f);
  else {
    p.setFont(bodyFont());
    drawLabel(p, levels().center(), Qt::AlignCenter,
              QString("After %1 no bass note starts while the kick still sounds.").arg(hitWords()),
              theme().muted, QColor(0, 0, 0, 0));
  }
  drawColumns(p, *s);
}

void HandOverPicture::mousePressEvent(QMouseEvent* event) {
  const Study* s = document().study();
  if (!s) return;
  for (size_t i = 0; i < s->pair.hits.size(); ++i)
    if (columnOf(static_cast<int>(i)).adjusted(0, -12, 0, 20).contains(event->position()))
      selection().setHit(static_cast<int>(i));
  dragging_ = chosen() && std::abs(event->position().x() - endGrip().x()) < 9.0 &&
              levels().contains(QPointF(levels().center().x(), event->position().y()));
  if (dragging_) {
    const Axis held = time();
    heldTime_ = held;
  }
}

void HandOverPicture::mouseMoveEvent(QMouseEvent* event) {
  const bool over = chosen() && std::abs(event->position().x() - endGrip().x()) < 9.0;
  setCursor(dragging_ || over ? Qt::SizeHorCursor : Qt::ArrowCursor);
  if (dragging_) set(time().value(event->position().x()));
}

void HandOverPicture::mouseReleaseEvent(QMouseEvent*) {
  dragging_ = false;
  heldTime_.reset();
  document().endDrag();
  update();
}

void HandOverPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const Study* s = document().study();
  const int hits = s ? static_cast<int>(s->pair.hits.size()) : 0;
  const double step = event->modifiers() & Qt::ShiftModifier ? 1.0 : 5.0;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    set(document().session().handOver.ms + (key == Qt::Key_Right ? step : -step));
  else if (key == Qt::Key_Up && hits)
    selection().setHit(std::max(0, selection().hit() - 1));
  else if (key == Qt::Key_Down && hits)
    selection().setHit(std::min(hits - 1, selection().hit() + 1));
  else if (key == Qt::Key_Delete)
    document().edit(putValue("take back the hand-over", {}, "hand_over.on", false));
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
