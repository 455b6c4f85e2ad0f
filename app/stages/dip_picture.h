#pragma once
/// The dip: what is taken from the bass after a kick is hatched, and moved by dragging its dimension lines.

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"

namespace heft::app {

class DipPicture : public Picture {
  Q_OBJECT
 public:
  enum class Handle { None, Depth, Attack, Hold, Return };
  DipPicture(Document& document, Selection& selection);
  /// Where a handle stands; tests drag it.
  QPointF handleAt(Handle handle) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Areas {
    QRectF kick, bass;
    Axis time;        ///< ms from the hit
    double peak = 1;  ///< of the bass
  };
  Areas areas() const;
  DrawnDip dip() const;
  double yOfGain(const Areas& a, double gain) const {
    return a.bass.center().y() - 0.5 * a.bass.height() * gain;
  }
  void drawWaves(QPainter& p, const Areas& a, double frame) const;
  void drawTaken(QPainter& p, const Areas& a) const;
  void drawDimensions(QPainter& p, const Areas& a) const;
  Handle handleNear(const QPointF& at) const;
  void drag(const QPointF& to);
  Handle held_ = Handle::None;
};

/// "8.5 ms", "120 ms".
QString msText(double ms);
/// "-8.5 dB"; "silence" at its end.
QString depthText(double depthDb);

}  // namespace heft::app
