#pragma once
/// Duck: the dip. What is taken away is hatched, and moved by dragging its dimension lines.

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

class DuckPage : public StagePage {
  Q_OBJECT
 public:
  DuckPage(Document& document, Selection& selection);

 protected:
  QString subtitle() const override;
};

}  // namespace heft::app
