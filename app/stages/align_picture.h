#pragma once
/// Crests and troughs over one zero line around a hit, and the phase map with a row per hit.

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"

namespace heft::app {

class AlignPicture : public Picture {
  Q_OBJECT
 public:
  AlignPicture(Document& document, Selection& selection);
  /// Places that tests take hold of.
  QRectF hillsArea() const { return areas().hills; }
  QRectF mapArea() const { return areas().map; }
  double xOfDelay(double ms) const { return areas().delay.pixel(ms); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Areas {
    QRectF hills, all, map;
    Axis time, delay;
    double rowHeight = 20;
  };
  enum class Drag { None, Bass, Delay };
  Areas areas() const;
  void drawHills(QPainter& p, const Areas& a, const HitFacts& h) const;
  void drawHillWords(QPainter& p, const Areas& a, const HitFacts& h) const;
  void drawAll(QPainter& p, const Areas& a, const Study& s) const;
  void drawMap(QPainter& p, const Areas& a, const Study& s) const;
  void drawDelayLines(QPainter& p, const Areas& a, const Study& s) const;
  void setDelay(double ms);
  Drag drag_ = Drag::None;
  double dragX_ = 0.0, dragDelay_ = 0.0;
};

/// "+1.25 ms".
QString signedMs(double ms);

}  // namespace heft::app
