#include "app/stages/spectrum_pane.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPushButton>
#include <QStackedWidget>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/measure/levels/spectrum.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

// At the edge a cut is off.
constexpr double kEdgePixels = 4.0;

}  // namespace

SpectrumPane::SpectrumPane(LayerChoice& choice, Selection& selection, const QString& name)
    : Picture(choice.document(), selection, name), choice_(choice) {
  explain(
      "Spectrum of the chosen sound. Drag a cut in from the edge. Shift+F1: more",
      "Spectrum of the chosen sound behind its processors. Low cut at the left, high cut at the right: drag "
      "one in "
      "from the edge to switch it on, back to the edge to switch it off. It snaps to notes of the key; Alt or "
      "Ctrl+Shift: no snap. Page Up, Page Down: choose a cut. Left, Right: move it by a semitone, Shift: fine. "
      "Delete: "
      "off.");
  connect(&choice_, &LayerChoice::changed, this, &SpectrumPane::measure);
  connect(&document(), &Document::rendered, this, &SpectrumPane::measure);
}

void SpectrumPane::measure() {
  if (!isVisible() || !choice_.layerOwner()) return update();
  using Found = std::pair<std::optional<Owner>, std::optional<HeardSpectrum>>;
  aside_.ask(
      this,
      [this] {
        return [s = document().heardSession(), of = choice_.layerOwner(), assets = document().assets(),
                cache = document().cache()]() -> Found {
          if (!of) return {};
          return {of, heardSpectrum(s, *of, assets, *cache)};
        };
      },
      [this](Found found) {
        lookedAt_ = found.first, look_ = std::move(found.second);
        update();
      },
      document().failing());
}

SpectrumAxes SpectrumPane::axes() const {
  return spectrumAxes(look_ ? look_->db : std::vector<double>(), plot());
}

std::optional<double> SpectrumPane::cutHz(CutSide side) const {
  const Layer* l = choice_.layer();
  return l ? layerCutHz(*l, side) : std::nullopt;
}

QPointF SpectrumPane::gripOf(CutSide side) const {
  const auto at = cutHz(side);
  const double edge = side == CutSide::Low ? plot().left() : plot().right();
  return {at ? std::clamp(xOf(*at), plot().left(), plot().right()) : edge, plot().bottom() + 10.0};
}

std::optional<CutSide> SpectrumPane::sideAt(const QPointF& at) const {
  constexpr double kReach = 12.0;
  for (const CutSide side : {CutSide::Low, CutSide::High})
    if (const QPointF grip = gripOf(side);
        std::abs(grip.x() - at.x()) < kReach && (at.y() > plot().bottom() - 4.0 || cutHz(side)))
      return side;
  return std::nullopt;
}

// Above the drawn notes a cut does not snap.
double SpectrumPane::caught(double x, bool free) const {
  constexpr double kTopNoteHz = 500.0;
  return caughtHz(track(), axes().hz, x, free || axes().hz.value(x) > kTopNoteHz);
}

void SpectrumPane::set(CutSide side, std::optional<double> hertz, bool dragged) {
  const auto of = choice_.layerOwner();
  if (!of) return;
  const Chain& chain = choice_.layer()->chain;
  if (hertz && !chain.on)
    return document().tell("This layer's processors are bypassed, its cuts too: enable them first.");
  if (hertz && chain.isFull() && !chain.first<Eq>()) return document().tell(kChainFull);
  document().takeHeard();
  document().edit(setLayerCut(*of->part, *of->layer, side, hertz, dragged ? "drag a cut" : ""));
}

void SpectrumPane::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = sideAt(event->position());
  if (held_) chosen_ = *held_;
  update();
}

void SpectrumPane::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  if (!held_) return setCursor(sideAt(at) ? Qt::SizeHorCursor : Qt::ArrowCursor);
  const bool off =
      *held_ == CutSide::Low ? at.x() < plot().left() + kEdgePixels : at.x() > plot().right() - kEdgePixels;
  if (off && !cutHz(*held_)) return;
  set(*held_, off ? std::nullopt : std::optional(caught(at.x(), isFree(event->modifiers()))), true);
}

void SpectrumPane::mouseReleaseEvent(QMouseEvent*) {
  if (!held_) return;
  held_.reset();
  document().endDrag();
  update();
}

void SpectrumPane::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (event->key() == Qt::Key_PageUp || event->key() == Qt::Key_PageDown) {
    chosen_ = chosen_ == CutSide::Low ? CutSide::High : CutSide::Low;
    return update();
  }
  if (event->key() == Qt::Key_Delete && cutHz(chosen_)) return set(chosen_, std::nullopt, false);
  if (way == 0 || !choice_.layer()) return Picture::keyPressEvent(event);
  const double from = cutHz(chosen_).value_or(chosen_ == CutSide::Low ? kSpectrumLowHz : kSpectrumHighHz);
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  const double to = from * std::exp2(way * step / 12.0);
  const bool off = chosen_ == CutSide::Low ? to < kSpectrumLowHz : to > kSpectrumHighHz;
  set(chosen_, off ? std::nullopt : std::optional(std::round(100.0 * to) / 100.0), false);
}

void SpectrumPane::drawScale(QPainter& p) const {
  constexpr double kGripRoom = 26.0;
  drawSpectrumScale(p, track(), axes(), plot(), [this](double x) {
    return std::abs(x - gripOf(CutSide::Low).x()) > kGripRoom &&
           std::abs(x - gripOf(CutSide::High).x()) > kGripRoom;
  });
}

void SpectrumPane::drawCut(QPainter& p, CutSide side) const {
  const Theme& t = theme();
  const QPointF grip = gripOf(side);
  const auto at = cutHz(side);
  const bool chosen = chosen_ == side;
  if (at) {
    const QRectF gone = side == CutSide::Low ? QRectF(plot().topLeft(), QPointF(grip.x(), plot().bottom()))
                                             : QRectF(QPointF(grip.x(), plot().top()), plot().bottomRight());
    p.fillRect(gone, QBrush(withAlpha(t.ink, 0.25), Qt::BDiagPattern));
    p.setPen(QPen(chosen ? t.ink : t.muted, 1.0));
    p.drawLine(QPointF(grip.x(), plot().top()), QPointF(grip.x(), plot().bottom()));
  }
  p.setRenderHint(QPainter::Antialiasing);
  drawGrip(p, grip, chosen && hasFocus());
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setFont(axisFont(chosen && hasFocus()));
  QString words = side == CutSide::Low ? "low cut " : "high cut ";
  words += !at ? QString("off")
           : *at < 1000
               ? noteText(midiFromHz(*at, track().notes.a4Hz)) + QString(", %1 Hz").arg(std::lround(*at))
               : QString::fromStdString(formatNumber(*at / 1000.0, 1)) + " kHz";
  const bool left = side == CutSide::Low;
  drawLabel(p, QPointF(left ? plot().left() : plot().right(), plot().bottom() + 22),
            (left ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignTop, words, at ? t.ink : t.muted,
            QColor(0, 0, 0, 0));
}

void SpectrumPane::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const auto of = choice_.layerOwner();
  if (!of || !look_ || look_->db.empty() || lookedAt_ != of)
    return drawEmpty(p, isMeasuring() ? "Measuring..." : "The spectrum of a sound is drawn here.");
  drawScale(p);
  const Part* part = document().session().part(*of->part);
  p.save();
  p.setClipRect(plot());
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(part ? colourOf(*part) : t.ink, 1.5));
  drawLineThrough(p, spectrumLine(look_->db, axes().hz, axes().level));
  p.restore();
  for (const CutSide side : {CutSide::Low, CutSide::High}) drawCut(p, side);
  p.setPen(QPen(t.muted, 1.0));
  p.drawLine(plot().bottomLeft(), plot().bottomRight());
}

void showEither(bool spectrum, bool bothFit, SpectrumPane& pane, QWidget& picture) {
  const auto holdsFocus = [](const QWidget& w) {
    const QWidget* now = w.window()->focusWidget();
    return now && (now == &w || w.isAncestorOf(now));
  };
  const bool fromPicture = spectrum && !bothFit && holdsFocus(picture),
             fromPane = !spectrum && holdsFocus(pane);
  pane.setVisible(spectrum);
  picture.setVisible(!spectrum || bothFit);
  auto* stack = qobject_cast<QStackedWidget*>(&picture);
  if (fromPicture) pane.setFocus();
  if (fromPane) (stack ? stack->currentWidget() : &picture)->setFocus();
}

QPushButton* spectrumSwitch() {
  auto* out = new QPushButton("Spectrum");
  out->setObjectName("Show spectrum");
  out->setAccessibleName("Show spectrum");
  out->setToolTip("Spectrum of the chosen sound, with its low cut and high cut (F)");
  out->setCheckable(true);
  return out;
}

}  // namespace heft::app
