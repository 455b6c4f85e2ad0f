#pragma once
/// The built bass: its partials as bars over their notes, marks for those that a small speaker plays, and its
/// amplitude curve.

#include "app/desk/layer_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class BassVoicePicture : public Picture {
  Q_OBJECT
 public:
  BassVoicePicture(LayerChoice& choice, Selection& selection);
  /// The top of a bar: 0 the octave below, 1 to 8 the partials; and where a level would be. Tests drag it.
  QPointF barTop(int bar) const;
  QPointF barAt(int bar, double db) const;
  /// Corners of the amplitude curve: 0 the peak, 1 the sustain, 2 the release's end.
  QPointF corner(int which) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  const BassVoice* voice() const;
  double rootMidi() const;
  QRectF bars() const;
  QRectF curve() const;
  std::optional<double> levelOf(int bar) const;  ///< nothing: out
  Axis levelAxis() const;
  Axis timeAxis() const;
  void setLevel(int bar, double db);
  void dragCorner(const QPointF& at);
  void drawBars(QPainter& p) const;
  void drawCurve(QPainter& p) const;
  int barUnder(const QPointF& at) const;
  int cornerUnder(const QPointF& at) const;

  LayerChoice& choice_;
  int chosen_ = 2;  ///< bar with the keyboard
  int bar_ = -1, corner_ = -1;
};

}  // namespace heft::app
