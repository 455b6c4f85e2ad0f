#include "app/stages/processors/peak_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"

namespace heft::app {

PeakPicture::PeakPicture(LayerChoice& choice, Selection& selection, const QString& name)
    : ProcessorPicture(choice, selection, name) {
  connect(&this->choice(), &LayerChoice::changed, this, &PeakPicture::findPeaks);
  connect(&document(), &Document::rendered, this, &PeakPicture::findPeaks);
}

void PeakPicture::showEvent(QShowEvent* event) {
  ProcessorPicture::showEvent(event);
  findPeaks();
}

void PeakPicture::findPeaks() {
  const auto& at = choice().chainPlace();
  if (!isVisible() || !at || isHeld()) return;
  if (!at->of.layer) {
    found_ = {};
    return;
  }
  peaksAside_.ask(
      this,
      [this] {
        const auto& now = choice().chainPlace();
        return [s = document().session(), part = now ? now->of.part.value_or(0) : 0,
                layer = now ? now->of.layer.value_or(0) : 0, assets = document().assets(),
                cache = document().cache()] { return layerSpectrum(s, part, layer, assets, *cache); };
      },
      [this](LayerSpectrum made) {
        found_ = std::move(made);
        chosen_ = std::min(chosen_, found_.cuts.empty() ? size_t{0} : found_.cuts.size() - 1);
        update();
      },
      document().failing());
}

std::optional<size_t> PeakPicture::peakAt(const QPointF& at) const {
  for (size_t i = 0; i < found_.cuts.size(); ++i)
    if (std::hypot((markOf(i) - at).x(), (markOf(i) - at).y()) < 10.0) return i;
  return std::nullopt;
}

bool PeakPicture::stepPeak(int by) {
  if (found_.cuts.empty()) return false;
  choosePeak(steppedPoint(chosen_, by, found_.cuts.size()));
  return true;
}

void PeakPicture::choosePeak(size_t peak) {
  if (peak == chosen_) return;
  chosen_ = peak;
  update();
}

void PeakPicture::cutPeakAt(size_t peak) {
  const auto& at = choice().chainPlace();
  if (peak >= found_.cuts.size() || isMeasuringPeaks() || !at || !at->of.layer) return;
  const EqBand band = found_.cuts[peak].band;
  document().takeHeard();
  Chain with = *chainOf(document().session(), at->of);
  if (!putEqBand(with, band)) return document().tell("All four bands of its EQ are in use: remove one first.");
  document().edit(cutPeak(*at->of.part, *at->of.layer, band));
}

// Over its mark, beside it where there is no room.
QRectF PeakPicture::wordsBox(size_t peak, const QSizeF& size, const QRectF& area) const {
  const QPointF at = markOf(peak);
  QRectF box(QPointF(at.x() - size.width() / 2, at.y() - 8 - size.height()), size);
  const bool over = box.top() >= area.top();
  if (!over) box.moveTopLeft({at.x() + 11, at.y() - size.height() / 2});
  if (box.right() > area.right()) box.moveRight(over ? area.right() : at.x() - 11);
  return box;
}

void PeakPicture::drawMarks(QPainter& p, const QRectF& area) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  const QFontMetricsF metrics(axisFont());
  std::vector<QRectF> taken;
  auto isFree = [&](size_t peak, const QRectF& box) {
    if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& other) { return other.intersects(box); }))
      return false;
    for (size_t i = 0; i < found_.cuts.size(); ++i)
      if (i != peak && box.adjusted(-5, -5, 5, 5).contains(markOf(i))) return false;
    return true;
  };
  auto drawWords = [&](size_t peak) {
    const LayerSpectrum::Cut& c = found_.cuts[peak];
    const QString words =
        QString("%1 Hz %2").arg(QString::fromStdString(formatNumber(c.peak.hz, 0)), dbText(c.peak.overDb));
    const QRectF box = wordsBox(peak, {metrics.horizontalAdvance(words), metrics.height()}, area);
    const bool chosen = peak == chosen_;
    if (!chosen && !isFree(peak, box.adjusted(-3, 0, 3, 0))) return;
    drawLabel(p, box.topLeft(), Qt::AlignLeft | Qt::AlignTop, words, chosen ? t.ink : t.muted, t.panel);
    taken.push_back(box.adjusted(-3, 0, 3, 0));
  };
  // The selection's always; others where there is room.
  if (chosen_ < found_.cuts.size()) drawWords(chosen_);
  for (size_t i = 0; i < found_.cuts.size(); ++i)
    if (i != chosen_) drawWords(i);
  for (size_t i = 0; i < found_.cuts.size(); ++i) drawPointMark(p, markOf(i), i == chosen_ && hasFocus());
}

QString PeakPicture::evenWords() const {
  if (found_.cuts.empty()) return {};
  const EqBand& band = found_.cuts[chosen_].band;
  return QString("a bell of %1 at %2 Hz evens the chosen peak: click it")
      .arg(dbText(band.gainDb), QString::fromStdString(formatNumber(band.hz, 0)));
}

}  // namespace heft::app
