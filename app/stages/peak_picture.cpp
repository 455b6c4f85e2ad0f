#include "app/stages/peak_picture.h"

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
      });
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
  Chain with = *chainOf(document().session(), at->of);
  if (!putEqBand(with, band)) return document().tell("All four bands of its EQ are in: take one out first.");
  document().edit(cutPeak(*at->of.part, *at->of.layer, band));
}

void PeakPicture::drawMarks(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  double wordsEnd = -1e9;
  for (size_t i = 0; i < found_.cuts.size(); ++i) {
    const LayerSpectrum::Cut& c = found_.cuts[i];
    const QPointF at = markOf(i);
    const bool chosen = i == chosen_;
    drawPointMark(p, at, chosen && hasFocus());
    if (!chosen && at.x() - 30 < wordsEnd) continue;
    const QString words =
        QString("%1 Hz %2").arg(QString::fromStdString(formatNumber(c.peak.hz, 0)), dbText(c.peak.overDb));
    const QRectF box = drawLabel(p, at - QPointF(0, 8), Qt::AlignHCenter | Qt::AlignBottom, words,
                                 chosen ? t.ink : t.muted, t.panel);
    wordsEnd = box.right();
  }
}

QString PeakPicture::evenWords() const {
  if (found_.cuts.empty()) return {};
  const EqBand& band = found_.cuts[chosen_].band;
  return QString("a bell of %1 at %2 Hz evens the chosen peak: click it")
      .arg(dbText(band.gainDb), QString::fromStdString(formatNumber(band.hz, 0)));
}

}  // namespace heft::app
