#pragma once
/// The detection band: the note axis with the spectra of hits that trigger and of the others, and two edges.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class ListenStrip : public Picture {
  Q_OBJECT
 public:
  enum class Edge { Low, High };
  ListenStrip(Document& document, Selection& selection);
  /// Grip of an edge; tests drag it. A missing lower edge is at the axis's start.
  QPointF gripOf(Edge edge) const;
  /// Position of a frequency.
  double pixelOf(double hz) const { return axis().pixel(hz); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF box() const;
  Axis axis() const;
  std::optional<Edge> edgeAt(const QPointF& at) const;
  double edgeHz(Edge edge) const;
  void move(Edge edge, double hz);
  void drawNotes(QPainter& p) const;
  void drawSpectra(QPainter& p) const;
  void drawBand(QPainter& p) const;
  std::optional<Edge> held_;
  Edge chosen_ = Edge::High;  ///< that keys move
};

}  // namespace heft::app
