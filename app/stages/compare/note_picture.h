#pragma once
/// By note: each track's lows with its own tonic at one place.

#include "app/stages/compare/compare_picture.h"

namespace heft::app {

class NotePicture : public ComparePicture {
  Q_OBJECT
 public:
  NotePicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  double shiftOf(const SectionRef& of) const;
  Lines lines() const;
  void drawNotes(QPainter& p, const Axis& x, const QRectF& plot) const;
  void drawUsed(QPainter& p, const Axis& x, const QRectF& plot) const;
};

}  // namespace heft::app
