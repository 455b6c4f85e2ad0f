#include "app/stages/eq_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kFromHz = 40.0, kToHz = 16000.0, kDeepestDb = -60.0, kEqSpanDb = 24.0;

}  // namespace

EqPicture::EqPicture(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Layer spectrum"), choice_(choice) {
  explain("Click a mark to cut that peak. Shift+F1 tells all.",
          "The chosen layer's spectrum behind its strike, as it sounds after its drive; pale without its EQ, "
          "whose curve "
          "is drawn over it. Marks stand on peaks that stick out over the others about them: a click, or Left "
          "and Right "
          "and Return, puts a bell into the EQ that evens it, solved through the drive. I hears the loop "
          "without the EQ.");
  connect(&choice_, &LayerChoice::changed, this, &EqPicture::measure);
  connect(&choice_.document(), &Document::rendered, this, &EqPicture::measure);
}

void EqPicture::measure() {
  if (!isVisible() || !choice_.layer()) return;
  aside_.ask(
      this,
      [this] {
        const Layer* layer = choice_.layer();
        return [s = document().session(), part = choice_.part().id, layer = layer ? layer->id : 0,
                assets = document().assets(),
                cache = document().cache()] { return layerSpectrum(s, part, layer, assets, *cache); };
      },
      [this](LayerSpectrum made) {
        found_ = std::move(made);
        chosen_ = std::min(chosen_, found_.cuts.empty() ? size_t{0} : found_.cuts.size() - 1);
        update();
      });
}

Axis EqPicture::hz() const {
  return {kFromHz, kToHz, plot().left(), plot().right(), true};
}

Axis EqPicture::level() const {
  const double most =
      found_.heardDb.empty() ? 0.0 : *std::max_element(found_.heardDb.begin(), found_.heardDb.end());
  return {most + kDeepestDb, most + 6.0, plot().bottom(), plot().top()};
}

QPointF EqPicture::markOf(size_t peak) const {
  if (peak >= found_.cuts.size()) return {-1, -1};
  const double at = found_.cuts[peak].peak.hz;
  const auto i = static_cast<size_t>(std::lround(kFinePerOctave * std::log2(at / kFineLowHz)));
  return {hz().pixel(at), level().pixel(found_.heardDb[std::min(i, found_.heardDb.size() - 1)]) - 8.0};
}

void EqPicture::drawScale(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = plot();
  const Axis y = level();
  p.setFont(axisFont());
  for (const double below : {0.0, -20.0, -40.0, -60.0}) {
    const double at = std::round(y.pixel(y.to - 6.0 + below)) + 0.5;
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(area.left(), at), QPointF(area.right(), at));
    drawLabel(p, QPointF(area.left() - 8, at), Qt::AlignRight | Qt::AlignVCenter,
              QString::number(below) + (below == 0.0 ? " dB" : ""), t.muted, QColor(0, 0, 0, 0));
  }
  drawTicksBelow(p, hz(), area.bottom(), {50, 100, 200, 500, 1000, 2000, 5000, 10000}, [](double v) {
    return v >= 1000 ? QString::number(v / 1000) + " kHz" : QString::number(v) + (v == 50 ? " Hz" : "");
  });
}

void EqPicture::drawSpectrum(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = hz(), y = level();
  auto lineOf = [&](const std::vector<double>& db) {
    QPolygonF out;
    for (size_t i = 0; i < db.size(); ++i)
      out << QPointF(x.pixel(fineHz(i)), y.pixel(std::clamp(db[i], y.from, y.to)));
    return out;
  };
  p.save();
  p.setClipRect(plot().adjusted(0, 0, 0, -1));  // what lies under the scale is not drawn along it
  p.setRenderHint(QPainter::Antialiasing);
  const QColor ink = colourOf(choice_.part());
  if (!found_.withoutEqDb.empty()) {
    p.setPen(QPen(withAlpha(ink, 0.4), 1.0));
    drawLineThrough(p, lineOf(found_.withoutEqDb));
  }
  p.setPen(dataPen(ink));
  drawLineThrough(p, lineOf(found_.heardDb));
  const Eq* chosen = choice_.processor() ? choice_.processor()->as<Eq>() : nullptr;
  if (chosen && chosen->works()) {
    const Eq& eq = *chosen;
    const Axis gain{-kEqSpanDb, kEqSpanDb, plot().bottom(), plot().top()};
    QPolygonF curve;
    for (double px = plot().left(); px <= plot().right(); px += 2.0)
      curve << QPointF(
          px, gain.pixel(std::clamp(eqResponseDb(eq, track().sampleRate, x.value(px)), -kEqSpanDb, kEqSpanDb)));
    p.setPen(QPen(t.ink, 1.0, Qt::DashLine));
    p.drawPolyline(curve);
  }
  p.restore();
}

void EqPicture::drawMarks(QPainter& p) const {
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

void EqPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!choice_.layer() || found_.heardDb.empty())
    return drawEmpty(
        p, isMeasuring() ? "Measuring..." : "Here the layer's spectrum is drawn once it has a sound.");
  drawScale(p);
  drawSpectrum(p);
  drawMarks(p);
  p.setFont(axisFont());
  drawLabel(p, QPointF(plot().left(), 2), Qt::AlignLeft | Qt::AlignTop,
            !found_.withoutEqDb.empty()
                ? "behind the strike, as it sounds; pale without the EQ (dashed, +-24 dB)"
                : "behind the strike, as it sounds",
            t.ink, t.panel);
  const QString right = found_.cuts.empty()
                            ? QString("nothing sticks out by 5 dB")
                            : QString("a bell of %1 at %2 Hz evens the chosen peak: click it")
                                  .arg(dbText(found_.cuts[chosen_].band.gainDb),
                                       QString::fromStdString(formatNumber(found_.cuts[chosen_].band.hz, 0)));
  drawLabel(p, QPointF(plot().right(), 2), Qt::AlignRight | Qt::AlignTop, right, t.muted, t.panel);
}

void EqPicture::cut(size_t peak) {
  if (peak >= found_.cuts.size() || isMeasuring()) return;
  Chain chain = choice_.layer()->chain;
  if (!putEqBand(chain, found_.cuts[peak].band))
    return document().tell("All four bands of this EQ are in: take one out first.");
  document().edit(cutPeak(choice_.part().id, choice_.layer()->id, found_.cuts[peak].band));
}

std::optional<size_t> EqPicture::peakAt(const QPointF& at) const {
  for (size_t i = 0; i < found_.cuts.size(); ++i)
    if (std::hypot((markOf(i) - at).x(), (markOf(i) - at).y()) < 10.0) return i;
  return std::nullopt;
}

void EqPicture::mousePressEvent(QMouseEvent* event) {
  if (const auto peak = peakAt(event->position())) chosen_ = *peak, cut(*peak);
}

void EqPicture::mouseMoveEvent(QMouseEvent* event) {
  const auto peak = peakAt(event->position());
  setCursor(peak ? Qt::PointingHandCursor : Qt::ArrowCursor);
  if (peak && *peak != chosen_) chosen_ = *peak, update();
}

void EqPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key(), last = static_cast<int>(found_.cuts.size()) - 1;
  if ((key == Qt::Key_Left || key == Qt::Key_Right) && last >= 0) {
    chosen_ =
        static_cast<size_t>(std::clamp(static_cast<int>(chosen_) + (key == Qt::Key_Right ? 1 : -1), 0, last));
    return update();
  }
  if (key == Qt::Key_Return || key == Qt::Key_Enter) return cut(chosen_);
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
