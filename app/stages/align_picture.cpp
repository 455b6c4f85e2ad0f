#include "app/stages/align_picture.h"

#include <QImage>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

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
  setMinimumHeight(380);
  explain(
      "Drag the bass sideways to delay it; click a row to look at its hit. Shift+F1 tells all.",
      "Kick and bass around one hit, low-passed; dotted: sum in perfect phase. Drag the bass sideways: delay. "
      "Up, down: start phase (built bass). Map: delay across, left normal, right inverted, one row per hit. "
      "Click a curve: apply. Click a row: view. P: polarity. A: all hits. +, -, Ctrl+wheel: zoom.");
}

AlignPicture::Areas AlignPicture::areas() const {
  constexpr double kBetween = 44, kCurve = 64;
  Areas out;
  const double left = 64, right = width() - 16.0;
  const Study* s = document().study();
  const auto rows = s ? std::max<size_t>(1, s->hits.size()) : 1;
  const double mapSpace = std::min(0.32 * height(), 20.0 * static_cast<double>(rows));
  out.rowHeight = mapSpace / static_cast<double>(rows);
  const double mapBottom = height() - 24.0, mapTop = mapBottom - mapSpace,
               each = 0.5 * (right - left - kBetween),
               most = document().session().bass().align.question.maxDelayMs;
  for (const size_t i : {size_t{0}, size_t{1}}) {
    const double from = left + static_cast<double>(i) * (each + kBetween);
    Half& half = out.halves[i];
    half.map = QRectF(QPointF(from, mapTop), QPointF(from + each, mapBottom));
    half.all = QRectF(QPointF(from, mapTop - kCurve - 8), QPointF(from + each, mapTop - 8));
    half.delay = {-most, most, from, from + each};
  }
  out.hills = QRectF(QPointF(left, 22), QPointF(right, out.halves[0].all.top() - 60));
  out.time = {-shownMs_ / 24.0, shownMs_, left, right};
  return out;
}

AlignPicture::Hills AlignPicture::hillsOf(const Areas& a, const HitFacts& h) const {
  const AlignMove& move = document().session().bass().align;
  const double sign = move.invert ? -1.0 : 1.0;
  auto at = [&](const std::vector<float>& wave, double ms) {
    return readBetween(wave, (ms / 1000.0 + h.waveLeadSeconds) * h.waveRate);
  };
  Hills out;
  for (double x = a.hills.left(); x <= a.hills.right(); x += 1.0) {
    const double ms = a.time.value(x), k = at(h.kickWave, ms), b = sign * at(h.bassWave, ms - move.delayMs),
                 perfect = at(h.kickEnvelope, ms) + at(h.bassEnvelope, ms - move.delayMs);
    out.most = std::max({out.most, std::abs(k), std::abs(b), std::abs(k + b), perfect});
    out.kick << QPointF(x, k), out.bass << QPointF(x, b), out.sum << QPointF(x, k + b);
    out.above << QPointF(x, perfect), out.below << QPointF(x, -perfect);
  }
  return out;
}

namespace {

void place(QPolygonF& line, double middle, double scale) {
  for (QPointF& point : line) point.setY(middle - scale * point.y());
}

}  // namespace

// Every hit at the scale of the chosen one, so that one sees which stand apart.
void AlignPicture::drawStack(QPainter& p, const Areas& a, double scale) const {
  constexpr size_t kMostStacked = 64;
  const Study* s = document().study();
  const double middle = a.hills.center().y();
  for (size_t i = 0; i < std::min(kMostStacked, s->hits.size()); ++i) {
    if (static_cast<int>(i) == selection().hit() || !s->hits[i].curve.overlap) continue;
    Hills hills = hillsOf(a, s->hits[i]);
    place(hills.kick, middle, scale), place(hills.bass, middle, scale);
    p.setPen(QPen(withAlpha(theme().kick, 0.35), 1.0));
    drawLineThrough(p, hills.kick);
    p.setPen(QPen(withAlpha(theme().bass, 0.35), 1.0));
    drawLineThrough(p, hills.bass);
  }
}

void AlignPicture::drawHills(QPainter& p, const Areas& a, const HitFacts& h) const {
  const Theme& t = theme();
  const double middle = a.hills.center().y();
  Hills hills = hillsOf(a, h);
  const double scale = 0.49 * a.hills.height() / hills.most;
  auto& [kick, bass, sum, above, below, most] = hills;
  for (QPolygonF* line : {&kick, &bass, &sum, &above, &below}) place(*line, middle, scale);
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
  p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
  p.drawPolyline(above);
  p.drawPolyline(below);
  p.save();
  p.setClipRect(a.hills);
  if (stacked_) drawStack(p, a, scale);
  p.restore();
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
  drawLabel(p, QPointF(box.right() + 12, 2), Qt::AlignLeft | Qt::AlignTop,
            "sum (shaded), in perfect phase (dotted)", t.muted, t.panel);
  if (h.curve.overlap) {
    const double loss = h.heardDb;
    const QString text =
        loss < -1.0 ? QString("the pair loses %1 here").arg(dbText(-loss, 1, false)) : "in phase";
    drawLabel(p, QPointF(a.hills.right(), 2), Qt::AlignRight | Qt::AlignTop, text,
              loss < -3.0   ? t.off
              : loss < -1.0 ? t.watch
                            : t.holds,
              t.panel);
  }
  drawTicksBelow(p, a.time, a.hills.bottom() + 2, roundTicks(0, shownMs_, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

// The same time in periods of the note under the hit.
void AlignPicture::drawPeriods(QPainter& p, const Areas& a, const HitFacts& h) const {
  if (!h.noteMidi) return;
  const double period = 1000.0 / hzFromMidi(*h.noteMidi, track().notes.a4Hz);
  const double y = a.hills.bottom() + 22;
  p.setFont(axisFont());
  p.setPen(QPen(theme().bass, 1.0));
  const int step = period < 12.0 ? 2 : 1;
  for (int n = 0; n * period <= shownMs_; ++n) {
    const double x = std::round(a.time.pixel(n * period)) + 0.5;
    p.drawLine(QPointF(x, y), QPointF(x, y + 4));
    if (n % step == 0)
      p.drawText(QRectF(x - 30, y + 4, 60, 13), Qt::AlignCenter, n == 0 ? QString() : QString::number(n));
  }
  drawLabel(p, QPointF(a.hills.left() - 8, y + 8), Qt::AlignRight | Qt::AlignVCenter, "periods", theme().bass,
            QColor(0, 0, 0, 0));
}

void AlignPicture::drawAll(QPainter& p, const Half& half, const Study& s, bool inverted) const {
  const Theme& t = theme();
  const bool now = document().session().bass().align.invert == inverted;
  const Axis level{kDeepestDb, 0.0, half.all.bottom(), half.all.top()};
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  for (const double db : {0.0, -3.0, -6.0, -9.0}) {
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(half.all.left(), level.pixel(db)), QPointF(half.all.right(), level.pixel(db)));
  }
  QPolygonF line;
  for (double x = half.all.left(); x <= half.all.right(); x += 1.0)
    line << QPointF(x, level.pixel(std::max(kDeepestDb, s.all.levelAt(half.delay.value(x), inverted))));
  // What is lost against perfect phase, hatched where the pair is.
  if (now) {
    QPolygonF lost = line;
    lost.prepend(half.all.topLeft()), lost << half.all.topRight();
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(withAlpha(t.off, 0.35), Qt::BDiagPattern));
    p.drawPolygon(lost);
    p.setBrush(Qt::NoBrush);
  }
  p.setPen(now ? dataPen(t.ink) : QPen(t.muted, 1.0));
  drawLineThrough(p, line);
  p.restore();
  p.setFont(axisFont(now));
  drawLabel(p, QPointF(half.all.left(), half.all.top() - 3), Qt::AlignLeft | Qt::AlignBottom,
            inverted ? "polarity inverted" : "polarity normal", now ? t.ink : t.muted, t.panel);
}

// Rows of many hits stand without gaps, a pixel each or less.
void AlignPicture::drawMap(QPainter& p, const Areas& a, const Study& s, bool inverted) const {
  constexpr double kLeastWithGap = 5.0;
  const Theme& t = theme();
  const Half& half = a.halves[inverted];
  const int width = static_cast<int>(half.map.width());
  const bool gaps = a.rowHeight >= kLeastWithGap;
  double drawn = -1.0;
  for (size_t row = 0; row < s.hits.size(); ++row) {
    const HitFacts& h = s.hits[row];
    const double top = half.map.top() + static_cast<double>(row) * a.rowHeight;
    if (!h.curve.overlap || top < drawn + 1.0 - a.rowHeight) continue;
    drawn = top;
    const QRectF strip(half.map.left(), top, half.map.width(),
                       gaps ? a.rowHeight - 2 : std::max(1.0, a.rowHeight));
    QImage image(width, 1, QImage::Format_RGB32);
    for (int x = 0; x < width; ++x) {
      const double level = h.curve.levelAt(half.delay.value(half.map.left() + x + 0.5), inverted),
                   loss = std::clamp(level / kDeepestDb, 0.0, 1.0);
      auto mixed = [&](int from, int to) { return static_cast<int>(from + (to - from) * loss); };
      image.setPixel(x, 0,
                     qRgb(mixed(t.panel.red(), t.off.red()), mixed(t.panel.green(), t.off.green()),
                          mixed(t.panel.blue(), t.off.blue())));
    }
    p.drawImage(strip, image);
    if (!gaps) continue;
    p.setPen(rulePen(t.rule));
    p.drawRect(strip.adjusted(0.5, 0.5, -0.5, -0.5));
  }
  if (!gaps) {
    p.setPen(rulePen(t.rule));
    p.drawRect(half.map.adjusted(0.5, 0.5, -0.5, -0.5));
  }
  p.setFont(axisFont());
  drawTicksBelow(p, half.delay, half.map.bottom(), roundTicks(half.delay.from, half.delay.to, 6),
                 [](double v) { return (v > 0 ? "+" : "") + QString::number(v) + (v == 0 ? " ms" : ""); });
}

void AlignPicture::drawHitNames(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const QRectF& map = a.halves[0].map;
  for (size_t row = 0; row < s.hits.size(); ++row) {
    const HitFacts& h = s.hits[row];
    const double y = map.top() + (static_cast<double>(row) + 0.5) * a.rowHeight - 1;
    const bool chosen = static_cast<int>(row) == selection().hit();
    if (!h.curve.overlap)
      drawLabel(p, QPointF(map.left() + 8, y), Qt::AlignLeft | Qt::AlignVCenter, "no bass under this hit",
                t.muted, QColor(0, 0, 0, 0));
    p.setFont(axisFont(chosen));
    // Of many only as many are named as there is room for.
    const auto every = static_cast<size_t>(std::ceil(11.0 / a.rowHeight));
    const auto toChosen = std::abs(static_cast<int>(row) - selection().hit()) * a.rowHeight;
    if (chosen || (row % every == 0 && (a.rowHeight >= 11.0 || toChosen > 12.0)))
      drawLabel(
          p, QPointF(map.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
          QString::number(row + 1) +
              (h.noteMidi ? " " + QString::fromStdString(noteName(*h.noteMidi, track().notes)) : QString()),
          chosen ? t.ink : t.muted, t.panel);
    p.setFont(axisFont());
  }
  const QRectF& all = a.halves[0].all;
  drawLabel(p, QPointF(all.left() - 8, all.top() + 2), Qt::AlignRight | Qt::AlignVCenter, "all 0 dB", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(all.left() - 8, all.bottom() - 2), Qt::AlignRight | Qt::AlignVCenter, "-9 dB", t.muted,
            QColor(0, 0, 0, 0));
}

void AlignPicture::drawBest(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  if (!s.best.overlap || (std::abs(s.best.delayMs - move.delayMs) <= 0.005 && s.best.invert == move.invert))
    return;
  const Half& half = a.halves[s.best.invert];
  const double x = std::round(half.delay.pixel(s.best.delayMs)) + 0.5;
  p.setPen(QPen(t.holds, 1.0, Qt::DashLine));
  p.drawLine(QPointF(x, half.all.top()), QPointF(x, half.map.bottom()));
  const bool rightHalf = x > half.all.center().x() + 1;
  p.setFont(axisFont());
  drawLabel(p, QPointF(x + (rightHalf ? -6 : 6), half.all.bottom() - 4),
            (rightHalf ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignBottom,
            "best for all hits: " + signedMs(s.best.delayMs), t.holds, t.panel);
}

// Where the pair is, and how far it may be off.
void AlignPicture::drawNow(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  const AlignMove& move = document().session().bass().align;
  const Half& half = a.halves[move.invert];
  const double x = std::round(half.delay.pixel(move.delayMs)) + 0.5;
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(x, half.all.top() - 4), QPointF(x, half.map.bottom()));
  p.setBrush(t.ink);
  p.setPen(Qt::NoPen);
  p.setRenderHint(QPainter::Antialiasing);
  p.drawPolygon(QPolygonF({QPointF(x - 5, half.all.top() - 9), QPointF(x + 5, half.all.top() - 9),
                           QPointF(x, half.all.top() - 2)}));
  p.setBrush(Qt::NoBrush);
  // How far a poor place holds says nothing.
  if (s.best.afterDb - s.alignedDb > Limits().pairHolds) return;
  const AlignHold hold = holdOf(s.all, move.delayMs, move.invert, Limits().pairHolds);
  const double from = half.delay.pixel(move.delayMs - hold.earlierMs),
               to = half.delay.pixel(move.delayMs + hold.laterMs);
  p.setFont(axisFont());
  const double y = half.all.bottom() - 12;
  drawDimension(p, QPointF(from, y), QPointF(to, y), QString(), t.ink, t.panel);
  // Beside it where there is room, else upon its line.
  const double room = 80;
  const bool after = to<half.all.right() - room, before = from> half.all.left() + room;
  drawLabel(p,
            QPointF(after    ? to + 6
                    : before ? from - 6
                             : (from + to) / 2,
                    y),
            (after    ? Qt::AlignLeft
             : before ? Qt::AlignRight
                      : Qt::AlignHCenter) |
                Qt::AlignVCenter,
            QString("holds %1 ms").arg(QString::fromStdString(formatNumber(hold.earlierMs + hold.laterMs, 1))),
            t.ink, t.panel);
}

void AlignPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  const HitFacts* h = hit();
  if (!s || !h || !s->bass)
    return drawEmpty(
        p, document().isBusy()
               ? "Measuring..."
               : "Drop a kick and a bass in Sounds and place hits and notes in the loop to align them here.");
  const Areas a = areas();
  drawHills(p, a, *h);
  if (!s->all.overlap) {
    p.setFont(bodyFont());
    drawLabel(p, QPointF(a.hills.center().x(), a.halves[0].map.center().y()), Qt::AlignCenter,
              "Kick and bass never sound together in this loop: nothing to align.", theme().muted,
              QColor(0, 0, 0, 0));
    return;
  }
  drawPeriods(p, a, *h);
  for (const bool inverted : {false, true}) {
    drawAll(p, a.halves[inverted], *s, inverted);
    drawMap(p, a, *s, inverted);
  }
  drawHitNames(p, a, *s);
  drawBest(p, a, *s);
  drawNow(p, a, *s);
  drawPointed(p);
}

QString AlignPicture::wordsAt(const QPointF& at) const {
  const Study* s = document().study();
  const Areas a = areas();
  const auto inverted = polarityAt(a, at);
  if (!s || !inverted || s->hits.empty()) return {};
  const Half& half = a.halves[*inverted];
  const bool onMap = at.y() >= half.map.top();
  const auto row = onMap ? static_cast<size_t>((at.y() - half.map.top()) / a.rowHeight)
                         : static_cast<size_t>(std::max(0, selection().hit()));
  const HitFacts& h = s->hits[std::min(row, s->hits.size() - 1)];
  const double ms = half.delay.value(at.x());
  const AlignCurve& curve = onMap ? h.curve : s->all;
  QString out = signedMs(std::round(50.0 * ms) / 50.0);
  if (h.noteMidi)
    out += QString(" is %1 degrees of %2")
               .arg(std::lround(360.0 * ms / 1000.0 * hzFromMidi(*h.noteMidi, track().notes.a4Hz)))
               .arg(noteText(*h.noteMidi));
  return curve.overlap ? out + ": " + dbText(curve.levelAt(ms, *inverted)) + (onMap ? "" : " over all") : out;
}

void AlignPicture::drawPointed(QPainter& p) const {
  const QString words = pointer_ ? wordsAt(*pointer_) : QString();
  if (words.isEmpty()) return;
  p.setFont(axisFont());
  const bool left = pointer_->x() > 0.6 * width();
  drawLabel(p, *pointer_ + QPointF(left ? -10 : 10, -8),
            (left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignBottom, words, theme().ink, theme().panel);
}

}  // namespace heft::app
