#include "app/stages/align/align_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

QString preciseMs(double ms) {
  return QString::fromStdString(formatNumber(ms, 2)) + " ms";
}

}  // namespace

QString signedMs(double ms) {
  return (ms > 0 ? "+" : "") + preciseMs(ms);
}

AlignPicture::AlignPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Crests and troughs") {
  setMinimumHeight(260);
  explain(
      "Drag the bass sideways to delay it; click a row to see its hit. Shift+F1: more",
      "Kick and bass around one hit, low-passed; dotted: sum in perfect phase. Drag the bass sideways: delay. "
      "Up, down: start phase (built bass). Map: delay across, left normal, right inverted, one row per hit, or "
      "of many per "
      "section and note. "
      "Click a curve or a strip: apply. Click a row: view. M: the map of every hit. P: polarity. A: all hits. "
      "+, -, "
      "Ctrl+wheel: zoom.");
  connect(&document, &Document::studied, this, [this] { rowsAreOld_ = true; });
  connect(&document, &Document::replaced, this, [this] { rowsAreOld_ = true; });
}

void AlignPicture::openMaps(bool open) {
  mapsOpen_ = open;
  update();
}

QRectF AlignPicture::foldArea(const Areas& a) const {
  return {0, a.halves[0].all.top() - 18, a.halves[0].all.left() - 6, 34};
}

const std::vector<MapRow>& AlignPicture::rows() const {
  const Study* s = document().study();
  if (std::exchange(rowsAreOld_, false)) rows_ = s ? mapRows(document().session(), *s) : std::vector<MapRow>();
  return rows_;
}

size_t AlignPicture::rowAt(const Areas& a, double y) const {
  const double row = std::max(0.0, (y - a.halves[0].map.top()) / a.rowHeight);
  return std::min(static_cast<size_t>(row), rows().size() - 1);
}

AlignPicture::Areas AlignPicture::areas() const {
  constexpr double kBetween = 44, kCurve = 64, kStrip = 12;
  Areas out;
  const double left = 64, right = width() - 16.0;
  const auto rows = mapsOpen_ ? std::max<size_t>(1, this->rows().size()) : 1;
  const double mapSpace = mapsOpen_ ? std::min(0.32 * height(), 20.0 * static_cast<double>(rows)) : 0.0;
  out.rowHeight = std::max(1e-3, mapSpace / static_cast<double>(rows));
  const double mapBottom = height() - 24.0, mapTop = mapBottom - mapSpace,
               each = 0.5 * (right - left - kBetween),
               most = document().session().bass().align.question.maxDelayMs;
  for (const size_t i : {size_t{0}, size_t{1}}) {
    const double from = left + static_cast<double>(i) * (each + kBetween);
    Half& half = out.halves[i];
    half.map = QRectF(QPointF(from, mapTop), QPointF(from + each, mapBottom));
    half.all = mapsOpen_ ? QRectF(QPointF(from, mapTop - kCurve - 8), QPointF(from + each, mapTop - 8))
                         : QRectF(QPointF(from, mapTop - kStrip), QPointF(from + each, mapTop));
    half.delay = {-most, most, from, from + each};
  }
  out.hills = QRectF(QPointF(left, 22), QPointF(right, out.halves[0].all.top() - 60));
  out.time = {-shownMs_ / 24.0, shownMs_, left, right};
  return out;
}

AlignPicture::Hills AlignPicture::hillsOf(const Areas& a, const HitFacts& h) const {
  const AlignMove& move = document().session().bass().align;
  const double sign = move.invert ? -1.0 : 1.0;
  if (!h.kickWave || !h.bassWave) return {};
  auto at = [&](const std::vector<float>& wave, double ms) {
    return readBetween(wave, (ms / 1000.0 + h.waveLeadSeconds) * h.waveRate);
  };
  Hills out;
  for (double x = a.hills.left(); x <= a.hills.right(); x += 1.0) {
    const double ms = a.time.value(x), k = at(h.kickWave->samples, ms),
                 b = sign * at(h.bassWave->samples, ms - move.delayMs),
                 perfect = at(h.kickWave->envelope, ms) + at(h.bassWave->envelope, ms - move.delayMs);
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

// Every hit at the chosen one's scale, so that outliers show.
void AlignPicture::drawStack(QPainter& p, const Areas& a, double scale) const {
  constexpr size_t kMostStacked = 64;
  const Study* s = document().study();
  const double middle = a.hills.center().y();
  for (size_t i = 0; i < std::min(kMostStacked, s->pair.hits.size()); ++i) {
    if (static_cast<int>(i) == selection().hit() || !s->pair.hits[i].meets()) continue;
    Hills hills = hillsOf(a, s->pair.hits[i]);
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

// Legend: whose waves these are, and their sum.
void AlignPicture::drawHillWords(QPainter& p, const Areas& a, const HitFacts& h) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  const QString which =
      hitWords() +
      (h.noteMidi
           ? ", bass " + noteText(*h.noteMidi) +
                 QString(", period %1").arg(preciseMs(1000.0 / hzFromMidi(*h.noteMidi, track().notes.a4Hz)))
           : QString(", no bass under it"));
  QRectF box = drawLabel(p, QPointF(a.hills.left(), 2), Qt::AlignLeft | Qt::AlignTop, which, t.ink, t.panel);
  box = drawLabel(p, QPointF(box.right() + 20, 2), Qt::AlignLeft | Qt::AlignTop, "kick", t.kick, t.panel);
  box = drawLabel(p, QPointF(box.right() + 12, 2), Qt::AlignLeft | Qt::AlignTop, "bass", t.bass, t.panel);
  // The hit's words are at the right, so a narrow window shortens the legend.
  constexpr double kAboutHit = 170.0;
  const QString whole = "sum (shaded), in perfect phase (dotted)";
  const bool fits = box.right() + 12 + p.fontMetrics().horizontalAdvance(whole) < a.hills.right() - kAboutHit;
  drawLabel(p, QPointF(box.right() + 12, 2), Qt::AlignLeft | Qt::AlignTop, fits ? whole : "sum (shaded)",
            t.muted, t.panel);
  if (h.meets()) {
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

void AlignPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  const HitFacts* h = hit();
  if (!s || !h || !s->pair.bass.sound)
    return drawEmpty(
        p, document().isBusy()
               ? "Measuring..."
               : "Drop a kick and a bass in Sounds and place hits and notes in the loop to align them here.");
  const Areas a = areas();
  drawHills(p, a, *h);
  if (!s->pair.all.overlap) {
    p.setFont(bodyFont());
    drawLabel(p, QPointF(a.hills.center().x(), a.halves[0].map.center().y()), Qt::AlignCenter,
              QString("Kick and bass never sound together in this %1: nothing to align.")
                  .arg(track().song ? "song" : "loop"),
              theme().muted, QColor(0, 0, 0, 0));
    return;
  }
  drawPeriods(p, a, *h);
  for (const bool inverted : {false, true}) {
    if (!mapsOpen_) {
      drawStrip(p, a.halves[inverted], *s, inverted);
      continue;
    }
    drawAll(p, a.halves[inverted], *s, inverted);
    drawMap(p, a, inverted);
  }
  if (mapsOpen_) drawRowNames(p, a, *s);
  drawLegend(p, a);
  drawBest(p, a, *s);
  drawNow(p, a, *s);
  drawPointed(p);
}

QString AlignPicture::wordsAt(const QPointF& at) const {
  const Study* s = document().study();
  const Areas a = areas();
  const auto inverted = polarityAt(a, at);
  if (!s || !inverted || s->pair.hits.empty()) return {};
  const Half& half = a.halves[*inverted];
  const bool onMap = at.y() >= half.map.top();
  const MapRow* row = onMap && !rows().empty() ? &rows()[rowAt(a, at.y())] : nullptr;
  const auto chosen = static_cast<size_t>(std::max(0, selection().hit()));
  const HitFacts& h = s->pair.hits[row ? row->worst : std::min(chosen, s->pair.hits.size() - 1)];
  const double ms = half.delay.value(at.x());
  const AlignCurve& curve = row ? row->curve : s->pair.all;
  QString out = signedMs(std::round(50.0 * ms) / 50.0);
  if (h.noteMidi)
    out += QString(" is %1 degrees of %2")
               .arg(std::lround(360.0 * ms / 1000.0 * hzFromMidi(*h.noteMidi, track().notes.a4Hz)))
               .arg(noteText(*h.noteMidi));
  return curve.overlap ? out + ": " + dbText(curve.levelAt(ms, *inverted)) + (row ? "" : " over all") : out;
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
