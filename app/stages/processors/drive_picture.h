#pragma once
/// A drive by its effect: two periods of the note before and after; the added partials as bars over their
/// notes, with marks for those audible on a small speaker; the driven band as a dimension line with draggable
/// ends. For a layer also the peaks that stick out behind it: a click evens one.

#include "app/stages/processors/peak_picture.h"

namespace heft::app {

class DrivePicture : public PeakPicture {
  Q_OBJECT
 public:
  DrivePicture(LayerChoice& choice, Selection& selection);
  enum class Grip { None, Amount, From, To };
  QPointF gripAt(Grip grip) const;
  double xOf(double hertz) const { return hz().pixel(hertz); }
  QPointF markOf(size_t peak) const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool isHeld() const override { return held_ != Grip::None; }

 private:
  const Drive* drive() const { return as<Drive>(); }
  QRectF waves() const { return {QPointF(16, 24), QPointF(0.36 * width(), height() - 24.0)}; }
  QRectF bars() const { return {QPointF(0.36 * width() + 56, 40), QPointF(width() - 16.0, height() - 40.0)}; }
  Axis hz() const;
  Axis level() const;
  Grip gripUnder(const QPointF& at) const;
  /// At an end of the axis the band is open.
  void setEdge(Grip grip, double hertz, bool dragged);
  void setAmount(double db, bool dragged);
  void drawWaves(QPainter& p) const;
  void drawBars(QPainter& p) const;
  void drawBand(QPainter& p) const;
  Grip held_ = Grip::None, chosen_ = Grip::Amount;
  QPointF pressedAt_;
  double pressedDb_ = 0.0;
};

}  // namespace heft::app
