#include "app/stages/sounds/overlay_picture.h"

#include <algorithm>
#include <cmath>

#include "app/document/aside.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/theme/theme.h"
#include "core/measure/levels/spectrum.h"

namespace heft::app {
namespace {

constexpr double kFloorDb = -60.0;

}  // namespace

OverlayPicture::OverlayPicture(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Layers together"), choice_(choice) {
  setToolTip("Strikes and spectra of the part's layers overlaid, at their levels in the mix");
  connect(&choice_, &LayerChoice::changed, this, &OverlayPicture::take);
  connect(&choice_.document(), &Document::rendered, this, &OverlayPicture::take);
}

// Some layers were never rendered alone, so all are rendered aside.
void OverlayPicture::take() {
  if (!isVisible()) return;
  const auto other = choice_.isBeside() ? choice_.against() : std::nullopt;
  auto make = [id = choice_.part().id, other, s = document().session(), assets = document().assets(),
               cache = document().cache()] {
    return other ? versionLooks(s, id, *other, assets, *cache) : layerLooks(s, id, assets, *cache);
  };
  runAside(
      this, make,
      [this, asked = ++asked_, versions = other.has_value()](std::vector<SoundLook> made) {
        if (asked != asked_) return;
        layers_ = std::move(made);
        versions_ = versions;
        update();
      },
      document().failing());
}

// The chosen layer in the part's ink, the others in ink of their own dash; of versions the other in the
// reference's.
QPen OverlayPicture::penOf(size_t i) const {
  if (versions_) {
    const bool now = layers_[i].id == choice_.versions().now;
    return dataPen(now ? colourOf(choice_.part()) : theme().reference);
  }
  const bool chosen = choice_.layer() && choice_.layer()->id == layers_[i].id;
  QPen pen = dataPen(chosen ? colourOf(choice_.part()) : theme().ink);
  if (!chosen) {
    constexpr double kDashes[][2] = {{6, 3}, {2, 2}, {10, 3}, {1, 3}, {4, 4}, {8, 2}, {3, 6}};
    pen.setWidthF(1.0);
    pen.setDashPattern({kDashes[i % 7][0], kDashes[i % 7][1]});
  }
  return pen;
}

void OverlayPicture::drawStrikes(QPainter& p, const QRectF& area) const {
  const Theme& t = theme();
  const Axis time{-kLookLeadMs, kLookMs, area.left(), area.right()};
  p.setPen(QPen(t.rule, 1.0));
  p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()));
  drawTicksBelow(p, time, area.bottom(), {0, 10, 20, 30},
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  float peak = 1e-6f;
  for (const SoundLook& l : layers_)
    for (float x : l.strike) peak = std::max(peak, std::abs(x));
  for (size_t i = 0; i < layers_.size(); ++i) {
    QPolygonF line;
    const auto& x = layers_[i].strike;
    const double each = static_cast<double>(x.size()) / area.width();
    for (double px = 0; px < area.width(); px += 0.5)
      line << QPointF(area.left() + px,
                      area.center().y() - 0.46 * area.height() *
                                              x[std::min(x.size() - 1, static_cast<size_t>(px * each))] / peak);
    p.setPen(penOf(i));
    p.drawPolyline(line);
  }
}

void OverlayPicture::drawSpectra(QPainter& p, const QRectF& area) const {
  const Theme& t = theme();
  const Axis hz{kSpectrumLowHz, kSpectrumHighHz, area.left(), area.right(), true};
  const Axis level{kFloorDb, 3.0, area.bottom(), area.top()};
  double most = -200.0;
  for (const SoundLook& l : layers_)
    for (double db : l.spectrum) most = std::max(most, db);
  for (double db : {0.0, -20.0, -40.0, -60.0}) {
    p.setPen(QPen(t.rule, 1.0));
    const double y = std::round(level.pixel(db)) + 0.5;
    p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::number(db) + (db == 0 ? " dB" : ""), t.muted, t.panel);
  }
  drawTicksBelow(p, hz, area.bottom(), {20, 50, 100, 200, 500, 1000, 2000, 5000, 10000}, [](double v) {
    return v >= 1000 ? QString::number(v / 1000) + " kHz" : QString::number(v) + (v == 20 ? " Hz" : "");
  });
  for (size_t i = 0; i < layers_.size(); ++i) {
    QPolygonF line;
    for (size_t b = 0; b < layers_[i].spectrum.size(); ++b)
      line << QPointF(hz.pixel(spectrumHz(b)),
                      level.pixel(std::clamp(layers_[i].spectrum[b] - most, kFloorDb, 0.0)));
    p.setPen(penOf(i));
    p.drawPolyline(line);
  }
}

// Layers in one line; versions, which have figures, one below another.
double OverlayPicture::drawNames(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  double x = 24.0, y = 12.0;
  for (size_t i = 0; i < layers_.size(); ++i) {
    p.setPen(penOf(i));
    p.drawLine(QPointF(x, y + 0.5), QPointF(x + 24, y + 0.5));
    const QString name = QString::fromStdString(layers_[i].name);
    QStringList figures;
    for (const std::string& figure : layers_[i].figures) figures << QString::fromStdString(figure);
    const QString words =
        versions_ ? name + ": " + figures.join(", ") : p.fontMetrics().elidedText(name, Qt::ElideMiddle, 110);
    const QRectF box =
        drawLabel(p, QPointF(x + 30, y), Qt::AlignLeft | Qt::AlignVCenter, words, t.ink, QColor(0, 0, 0, 0));
    versions_ ? y += 15.0 : x = box.right() + 18;
  }
  return versions_ ? y : y + 15.0;
}

void OverlayPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (layers_.empty())
    return drawEmpty(p, "This part has no audible layer. Add one, or drop a sound on its row.");
  const double top = drawNames(p) + 3.0;
  p.setRenderHint(QPainter::Antialiasing);
  const double split = std::round(width() * 0.36);
  drawStrikes(p, QRectF(QPointF(24, top), QPointF(split, height() - 28.0)));
  drawSpectra(p, QRectF(QPointF(split + 64, top), QPointF(width() - 24.0, height() - 28.0)));
}

}  // namespace heft::app
