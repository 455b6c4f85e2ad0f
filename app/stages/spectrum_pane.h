#pragma once
/// The spectrum of the chosen sound beside its wave, with its low cut and its high cut as two grips: both are
/// there, off, until one is dragged.

#include "app/desk/layer_choice.h"
#include "app/document/aside.h"
#include "app/pictures/picture.h"
#include "app/pictures/spectrum_axis.h"
#include "core/looks/processor_look.h"
#include "core/session/edits/sounds.h"

class QPushButton;

namespace heft::app {

/// Least width of the pane beside another picture, in pixels.
inline constexpr int kLeastSpectrumWidth = 250;

class SpectrumPane : public Picture {
  Q_OBJECT
 public:
  SpectrumPane(LayerChoice& choice, Selection& selection, const QString& name = "Spectrum");
  /// Position of a cut's grip; at the picture's edge while the cut is off.
  QPointF gripOf(CutSide side) const;
  double xOf(double hertz) const { return axes().hz.pixel(hertz); }
  bool isMeasuring() const { return aside_.isRunning(); }

 protected:
  void showEvent(QShowEvent*) override { measure(); }
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF plot() const { return {QPointF(44, 24), QPointF(width() - 12.0, height() - 42.0)}; }
  SpectrumAxes axes() const;
  std::optional<double> cutHz(CutSide side) const;
  std::optional<CutSide> sideAt(const QPointF& at) const;
  double caught(double x, bool free) const;
  void set(CutSide side, std::optional<double> hertz, bool dragged);
  void measure();
  void drawScale(QPainter& p) const;
  void drawCut(QPainter& p, CutSide side) const;

  LayerChoice& choice_;
  std::optional<HeardSpectrum> look_;
  std::optional<Owner> lookedAt_;
  CutSide chosen_ = CutSide::Low;
  std::optional<CutSide> held_;
  LatestAside aside_;
};

/// Shows the pane beside a picture, or instead of it where both do not fit; the focus goes along.
void showEither(bool spectrum, bool bothFit, SpectrumPane& pane, QWidget& picture);

/// The button at the page's head that F presses.
QPushButton* spectrumSwitch();

}  // namespace heft::app
