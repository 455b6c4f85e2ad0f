#include "app/stages/align_picture.h"

#include <QImage>
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/pair.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kShownMs = 240.0;
constexpr double kDeepestDb = -9.0;  // the darkest shade of the map

QString preciseMs(double ms) {
  return QString::fromStdString(formatNumber(ms, 2)) + " ms";
}

}  // namespace

QString signedMs(double ms) {
  return (ms > 0 ? "+" : "") + preciseMs(ms);
}

AlignPicture::AlignPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Crests and troughs") {
  explain("Drag the bass sideways to delay it; click a row to look at its hit. Shift+F1 tells all.",
          "Kick and bass, low-passed, around one hit: crests over crests add, crests over troughs cancel. Drag "
          "the bass sideways to delay it; click a row of the map to look at its hit. Each row shows the normal "
          "polarity above and the inverted one beneath. P turns the polarity.");
}

AlignPicture::Areas AlignPicture::areas() const {
  Areas out;
  const double left = 64, right = width() - 16.0;
  const Study* s = document().study();
  const auto rows = s ? std::max<size_t>(1, s->hits.size()) : 1;
  const double mapSpace = std::min(0.37 * height(), 26.0 * static_cast<double>(rows));
  out.rowHeight = mapSpace / static_cast<double>(rows);
  const double mapBottom = height() - 26.0, mapTop = mapBottom - mapSpace;
  out.map = QRectF(QPointF(left, mapTop), QPointF(right, mapBottom));
  out.all = QRectF(QPointF(left, mapTop - 76), QPointF(right, mapTop - 20));
  out.hills = QRectF(QPointF(left, 22), QPointF(right, out.all.top() - 34));
  out.time = {-10.0, kShownMs, left, right};
  const double most = document().session().bass().align.question.maxDelayMs;
  out.delay = {-most, most, left, right};
  return out;
}

void AlignPicture::drawHills(QPainter& p, const Areas& a, const HitFacts& h) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  const double middle = a.hills.center().y(), sign = move.invert ? -1.0 : 1.0;
  auto at = [&](const std::vector<float>& wave, double ms) {
    const double index = (ms / 1000.0 + h.waveLeadSeconds) * h.waveRate, whole = std::floor(index);
    const auto i = static_cast<size_t>(std::max(0.0, whole));
    if (index < 0 || i + 1 >= wave.size()) return 0.0;
    return wave[i] + (index - whole) * (wave[i + 1] - wave[i]);
  };
  double most = 1e-6;
  for (double x = a.hills.left(); x <= a.hills.right(); x += 2.0) {
    const double ms = a.time.value(x), k = at(h.kickWave, ms), b = sign * at(h.bassWave, ms - move.delayMs);
    most = std::max({most, std::abs(k), std::abs(b), std::abs(k + b)});
  }
  const double scale = 0.49 * a.hills.height() / most;
  QPolygonF kick, bass, sum;
  for (double x = a.hills.left(); x <= a.hills.right(); x += 1.0) {
    const double ms = a.time.value(x), k = at(h.kickWave, ms), b = sign * at(h.bassWave, ms - move.delayMs);
    kick << QPointF(x, middle - scale * k);
    bass << QPointF(x, middle - scale * b);
    sum << QPointF(x, middle - scale * (k + b));
  }
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  QPolygonF area = sum;
  area.prepend(QPointF(a.hills.left(), middle));
  area << QPointF(a.hills.right(), middle);
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(t.ink, 0.14));
  p.drawPolygon(area);
  p.setPen(rulePen(t.muted));
  p.drawLine(QPointF(a.hills.left(), middle), QPointF(a.hills.right(), middle));
  p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
  p.drawLine(QPointF(a.time.pixel(0), a.hills.top()), QPointF(a.time.pixel(0), a.hills.bottom()));
  p.setPen(dataPen(t.kick));
  drawLineThrough(p, kick);
  p.setPen(dataPen(t.bass));
  drawLineThrough(p, bass);
  p.restore();
  drawHillWords(p, a, h);
}

// Whose waves these are, and what the pair makes of them.
void AlignPicture::drawHillWords(QPainter& p, const Areas& a, const HitFacts& h) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  const QString which =
      QString("hit %1").arg(selection().hit() + 1) +
      (h.noteMidi
           ? ", bass " + noteText(*h.noteMidi) +
                 QString(", period %1").arg(preciseMs(1000.0 / hzFromMidi(*h.noteMidi, track().notes.a4Hz)))
           : QString(", no bass under it"));
  QRectF box = drawLabel(p, QPointF(a.hills.left(), 2), Qt::AlignLeft | Qt::AlignTop, which, t.ink, t.panel);
  box = drawLabel(p, QPointF(box.right() + 20, 2), Qt::AlignLeft | Qt::AlignTop, "kick", t.kick, t.panel);
  box = drawLabel(p, QPointF(box.right() + 12, 2), Qt::AlignLeft | Qt::AlignTop, "bass", t.bass, t.panel);
  drawLabel(p, QPointF(box.right() + 12, 2), Qt::AlignLeft | Qt::AlignTop, "sum (shaded)", t.muted, t.panel);
  if (h.curve.overlap) {
    const double loss = h.heardDb;
    const QString text = loss < -1.0 ? QString("the pair loses %1 here").arg(dbText(-loss, 1, false))
                                     : "crest on crest: they add";
    drawLabel(p, QPointF(a.hills.right(), 2), Qt::AlignRight | Qt::AlignTop, text,
              loss < -3.0   ? t.off
              : loss < -1.0 ? t.watch
                            : t.holds,
              t.panel);
  }
  drawTicksBelow(p, a.time, a.hills.bottom() + 2, roundTicks(0, kShownMs, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

void AlignPicture::drawAll(QPainter& p, const Areas& a, const Study& s) const {
  const bool invert = document().session().bass().align.invert;
  const Axis level{kDeepestDb, 0.0, a.all.bottom(), a.all.top()};
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(rulePen(theme().rule));
  p.drawLine(a.all.topLeft(), a.all.topRight());
  // The other polarity's thin, the present one's over it.
  for (bool other : {true, false}) {
    QPolygonF line;
    for (double x = a.all.left(); x <= a.all.right(); x += 1.0)
      line << QPointF(x, level.pixel(std::max(kDeepestDb, s.all.levelAt(a.delay.value(x), invert != other))));
    p.setPen(other ? QPen(theme().muted, 1.0, Qt::DashLine) : dataPen(theme().ink));
    drawLineThrough(p, line);
  }
  p.restore();
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.all.left() - 8, a.all.center().y() - 6), Qt::AlignRight | Qt::AlignVCenter, "all hits",
            theme().ink, QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.all.left() - 8, a.all.center().y() + 8), Qt::AlignRight | Qt::AlignVCenter,
            "0 to -9 dB", theme().muted, QColor(0, 0, 0, 0));
}

void AlignPicture::drawMap(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const bool invert = document().session().bass().align.invert;
  const int width = static_cast<int>(a.map.width());
  p.setFont(axisFont());
  for (size_t row = 0; row < s.hits.size(); ++row) {
    const HitFacts& h = s.hits[row];
    const QRectF box(a.map.left(), a.map.top() + static_cast<double>(row) * a.rowHeight, a.map.width(),
                     a.rowHeight - 2);
    const bool chosen = static_cast<int>(row) == selection().hit();
    if (h.curve.overlap) {
      // Normal above, inverted beneath; the present one has the thicker strip.
      const double part = invert ? 0.36 : 0.64;
      for (bool lower : {false, true}) {
        const QRectF strip(box.left(), box.top() + (lower ? part * box.height() : 0.0), box.width(),
                           (lower ? 1.0 - part : part) * box.height());
        QImage image(width, 1, QImage::Format_RGB32);
        for (int x = 0; x < width; ++x) {
          const double loss =
              std::clamp(h.curve.levelAt(a.delay.value(a.map.left() + x + 0.5), lower) / kDeepestDb, 0.0, 1.0);
          auto mixed = [&](int from, int to) { return static_cast<int>(from + (to - from) * loss); };
          image.setPixel(x, 0,
                         qRgb(mixed(t.panel.red(), t.off.red()), mixed(t.panel.green(), t.off.green()),
                              mixed(t.panel.blue(), t.off.blue())));
        }
        p.drawImage(strip, image);
        p.setPen(rulePen(t.rule));
        p.drawRect(strip.adjusted(0.5, 0.5, -0.5, -0.5));
      }
    } else {
      drawLabel(p, QPointF(box.left() + 8, box.center().y()), Qt::AlignLeft | Qt::AlignVCenter,
                "no bass under this hit", t.muted, QColor(0, 0, 0, 0));
    }
    p.setFont(axisFont(chosen));
    const QString words =
        QString::number(row + 1) +
        (h.noteMidi ? " " + QString::fromStdString(noteName(*h.noteMidi, track().notes)) : QString());
    drawLabel(p, QPointF(a.map.left() - 8, box.center().y()), Qt::AlignRight | Qt::AlignVCenter, words,
              chosen ? t.ink : t.muted, QColor(0, 0, 0, 0));
  }
  drawTicksBelow(p, a.delay, a.map.bottom(), roundTicks(a.delay.from, a.delay.to, 8),
                 [](double v) { return (v > 0 ? "+" : "") + QString::number(v) + (v == 0 ? " ms" : ""); });
}

void AlignPicture::drawDelayLines(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  p.setFont(axisFont());
  if (s.best.overlap && (std::abs(s.best.delayMs - move.delayMs) > 0.005 || s.best.invert != move.invert)) {
    const double x = std::round(a.delay.pixel(s.best.delayMs)) + 0.5;
    p.setPen(QPen(t.holds, 1.0, Qt::DashLine));
    p.drawLine(QPointF(x, a.all.top()), QPointF(x, a.map.bottom()));
    const bool rightHalf = x > a.all.center().x();
    const QString words =
        "best for all hits: " + signedMs(s.best.delayMs) +
        (s.best.invert != move.invert ? (s.best.invert ? ", inverted (lower strip)" : ", normal (upper strip)")
                                      : "");
    drawLabel(p, QPointF(x + (rightHalf ? -6 : 6), a.map.top() - 3),
              (rightHalf ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignBottom, words, t.holds, t.panel);
  }
  const double x = std::round(a.delay.pixel(move.delayMs)) + 0.5;
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(x, a.all.top() - 4), QPointF(x, a.map.bottom()));
  p.setBrush(t.ink);
  p.setPen(Qt::NoPen);
  p.setRenderHint(QPainter::Antialiasing);
  p.drawPolygon(QPolygonF(
      {QPointF(x - 5, a.all.top() - 9), QPointF(x + 5, a.all.top() - 9), QPointF(x, a.all.top() - 2)}));
}

void AlignPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  const HitFacts* h = hit();
  if (!s || !h || !s->bass)
    return drawEmpty(p, document().isBusy() ? "Measuring..."
                                            : "Kick hits and bass notes meet here. Drop both sounds in Sounds "
                                              "and place hits and notes in the loop below.");
  const Areas a = areas();
  drawHills(p, a, *h);
  if (!s->all.overlap) {
    p.setFont(bodyFont());
    drawLabel(p, a.map.center(), Qt::AlignCenter,
              "Kick and bass never sound together in this loop: nothing to align.", theme().muted,
              QColor(0, 0, 0, 0));
    return;
  }
  drawAll(p, a, *s);
  drawMap(p, a, *s);
  drawDelayLines(p, a, *s);
}

void AlignPicture::setDelay(double ms) {
  const double most = document().session().bass().align.question.maxDelayMs;
  const double delay = std::clamp(std::round(ms * 50.0) / 50.0, -most, most);
  document().edit(heft::setDelay(document().session().bass(), delay, "delay"));
}

void AlignPicture::mousePressEvent(QMouseEvent* event) {
  const Areas a = areas();
  const Study* s = document().study();
  if (event->button() != Qt::LeftButton || !s || s->hits.empty()) return;
  dragX_ = event->position().x();
  dragDelay_ = document().session().bass().align.delayMs;
  if (a.hills.adjusted(0, -10, 0, 10).contains(event->position()))
    drag_ = Drag::Bass;
  else if (QRectF(a.all.topLeft(), a.map.bottomRight()).adjusted(0, -10, 0, 0).contains(event->position())) {
    drag_ = Drag::Delay;
    if (a.map.contains(event->position()))
      selection().setHit(static_cast<int>((event->position().y() - a.map.top()) / a.rowHeight));
    // A press on the map looks at a hit; only the line itself and the curve above move the delay.
    if (std::abs(dragX_ - a.delay.pixel(dragDelay_)) > 8.0 && a.map.contains(event->position()))
      drag_ = Drag::None;
    else if (!a.map.contains(event->position()))
      setDelay(a.delay.value(dragX_));
  } else if (event->position().x() < a.map.left() && event->position().y() > a.map.top() &&
             event->position().y() < a.map.bottom()) {
    selection().setHit(static_cast<int>((event->position().y() - a.map.top()) / a.rowHeight));
  }
}

void AlignPicture::mouseMoveEvent(QMouseEvent* event) {
  const Areas a = areas();
  const bool overLine =
      std::abs(event->position().x() - a.delay.pixel(document().session().bass().align.delayMs)) < 8.0 &&
      event->position().y() > a.all.top() - 10;
  setCursor(drag_ != Drag::None || overLine || a.hills.contains(event->position()) ? Qt::SizeHorCursor
                                                                                   : Qt::ArrowCursor);
  if (drag_ == Drag::Bass) setDelay(dragDelay_ + a.time.value(event->position().x()) - a.time.value(dragX_));
  if (drag_ == Drag::Delay) setDelay(a.delay.value(event->position().x()));
}

void AlignPicture::mouseReleaseEvent(QMouseEvent*) {
  drag_ = Drag::None;
  document().endDrag();
}

void AlignPicture::keyPressEvent(QKeyEvent* event) {
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const int key = event->key();
  const Study* s = document().study();
  const int hits = s ? static_cast<int>(s->hits.size()) : 0;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    setDelay(document().session().bass().align.delayMs + (key == Qt::Key_Right ? 1 : -1) * (fine ? 0.02 : 0.1));
  else if (key == Qt::Key_Up && hits)
    selection().setHit(std::max(0, selection().hit() - 1));
  else if (key == Qt::Key_Down && hits)
    selection().setHit(std::min(hits - 1, selection().hit() + 1));
  else if (key == Qt::Key_P)
    document().edit(setPolarity(document().session().bass(), !document().session().bass().align.invert));
  else if (key == Qt::Key_Delete)
    setDelay(0.0);
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
