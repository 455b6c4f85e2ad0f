#include "app/stages/sounds/backing_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/session/edits/patterns.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kBeside = 0.15;  // of the loop, shown before and after it

}  // namespace

BackingPicture::BackingPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Backing wave") {
  explain("Drag it sideways until its beats match the loop. Shift+F1: more",
          "The backing under the loop's grid. Drag sideways until its beats match the grid. Left, Right: 10 "
          "ms, Shift: 1 ms. Return: start the loop at its first beat.");
}

Axis BackingPicture::timeAxis() const {
  const double loop = track().loopQuarters();
  return {-kBeside * loop, (1.0 + kBeside) * loop, plot().left(), plot().right()};
}

void BackingPicture::setOffset(double seconds, const QString& merge) {
  document().edit(moveBacking(seconds, merge.toStdString()));
}

void BackingPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const Backing& backing = document().session().backing;
  const Sound sound = document().assets().sound(backing.asset);
  if (!sound) return drawEmpty(p, "Drop the rest of the track here: one audio file at the session tempo.");
  const QRectF area = plot();
  const Axis time = timeAxis();
  const double perQuarter = 60.0 / track().tempoBpm * sound->sampleRate;
  const auto& samples = louderChannel(*sound);
  const double first = backing.offsetSeconds * sound->sampleRate + time.from * perQuarter;
  const double perPixel = (time.to - time.from) * perQuarter / area.width();
  const auto from = static_cast<int64_t>(first);
  const auto [least, most] =
      WaveReader(samples, 1.0f).range(from, from + std::max<int64_t>(1, std::lround(perPixel * area.width())));
  const double peak =
      std::max({1e-6, std::abs(static_cast<double>(least)), std::abs(static_cast<double>(most))});
  drawWave(p, area.left(), area.right(), area.center().y(), area.height() - 8, first, perPixel,
           WaveReader(samples, static_cast<float>(1.0 / peak)), t.muted);
  // Veils everything outside the loop.
  const double start = time.pixel(0.0), end = time.pixel(track().loopQuarters());
  for (const QRectF& beside : {QRectF(area.topLeft(), QPointF(start, area.bottom())),
                               QRectF(QPointF(end, area.top()), area.bottomRight())})
    p.fillRect(beside, withAlpha(t.panel, 0.7));
  const double beat = 4.0 / track().beatUnit;
  p.setFont(axisFont());
  for (int i = 0; i * beat <= track().loopQuarters() + 1e-6; ++i) {
    const double x = std::round(time.pixel(i * beat)) + 0.5;
    const bool bar = i % track().beatsPerBar == 0;
    p.setPen(QPen(bar ? t.ink : t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    if (bar && i * beat < track().loopQuarters() - 1e-6)
      drawLabel(p, QPointF(x + 4, area.top() - 4), Qt::AlignLeft | Qt::AlignBottom,
                QString("%1.1").arg(i / track().beatsPerBar + 1), t.ink, QColor(0, 0, 0, 0));
  }
  drawLabel(
      p, QPointF(area.right(), 2), Qt::AlignRight | Qt::AlignTop,
      "the loop starts at " + QString::fromStdString(formatNumber(backing.offsetSeconds, 3)) + " s of the file",
      t.ink, t.panel);
  if (const auto beatAt = document().sounds().backingFirstBeat()) {
    const double x = std::round(time.pixel((*beatAt - backing.offsetSeconds) * track().tempoBpm / 60.0)) + 0.5;
    if (x > area.left() && x < area.right()) {
      p.setPen(QPen(t.holds, 1.0, Qt::DashLine));
      p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
      drawLabel(p, QPointF(x + 5, area.bottom() - 2), Qt::AlignLeft | Qt::AlignBottom, "first beat", t.holds,
                t.panel);
    }
  }
  if (hasFocus()) {
    p.setPen(QPen(t.bass, 1.0));
    p.drawRect(area.adjusted(-0.5, -0.5, 0.5, 0.5));
  }
}

void BackingPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || document().session().backing.asset.empty()) return;
  dragX_ = event->position().x();
  dragOffset_ = document().session().backing.offsetSeconds;
}

void BackingPicture::mouseMoveEvent(QMouseEvent* event) {
  setCursor(document().session().backing.asset.empty() ? Qt::ArrowCursor : Qt::SizeHorCursor);
  if (!dragX_) return;
  const Axis time = timeAxis();
  const double by = (time.value(event->position().x()) - time.value(*dragX_)) * 60.0 / track().tempoBpm;
  setOffset(dragOffset_ - by, "backing offset");
}

void BackingPicture::mouseReleaseEvent(QMouseEvent*) {
  dragX_.reset();
  document().endDrag();
}

void BackingPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.001 : 0.01;
  const double now = document().session().backing.offsetSeconds;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    setOffset(now + (key == Qt::Key_Left ? step : -step), "backing offset");
  else if (key == Qt::Key_Delete)
    setOffset(0.0, {});
  else if ((key == Qt::Key_Return || key == Qt::Key_Enter) && document().sounds().backingFirstBeat())
    setOffset(*document().sounds().backingFirstBeat(), {});
  else
    return QWidget::keyPressEvent(event);
  event->accept();
}

}  // namespace heft::app
