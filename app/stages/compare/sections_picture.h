#pragma once
/// Sections: the whole of the chosen reference, its wave with its low end over it, and its sections to take
/// hold of.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "app/stages/compare/reference_table.h"

namespace heft::app {

class SectionsPicture : public Picture {
  Q_OBJECT
 public:
  SectionsPicture(Document& document, Selection& selection, ReferenceTable& table, ReferenceEar& ear);
  /// The chosen section's edges and middle in px; tests take hold there.
  enum class Grip { From, To, Whole };
  QPointF gripOf(Grip grip) const;
  /// A section like the chosen one, after it or before it.
  void duplicate();
  void remove();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  const Reference* reference() const;
  double seconds() const;
  QRectF plot() const;
  Axis time() const;
  double caught(double seconds, bool free) const;
  void move(double from, double to, const char* key);
  void drawWave(QPainter& p, const TrackProfile& track) const;
  void drawStretches(QPainter& p, const TrackProfile& track) const;
  void drawSections(QPainter& p) const;
  void drawRuler(QPainter& p) const;
  ReferenceTable& table_;
  ReferenceEar& ear_;
  std::optional<Grip> held_;
  double offset_ = 0.0;
};

}  // namespace heft::app
