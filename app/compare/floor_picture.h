#pragma once
/// The floor: the references' median is a flat line, and the sum rises above or sinks below it; or all spectra
/// as they are.

#include "app/compare/compare_picture.h"
#include "core/ledger/compare_curves.h"

namespace heft::app {

class FloorPicture : public ComparePicture {
  Q_OBJECT
 public:
  FloorPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  bool isPlain() const { return plain_; }
  void setPlain(bool plain) { plain_ = plain, update(); }
  void markBand(std::optional<Band> band) { marked_ = band, update(); }
  /// The level axis: it follows what is drawn. Curves that still leave it run dotted along its edge.
  Axis levelAxis(const Study& s, const std::vector<CompareCurve>& curves) const;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Areas {
    QRectF plot;
    Axis hz, level;
    double bandY = 0;
  };
  Areas areas(const Study& s, const std::vector<CompareCurve>& curves) const;
  void drawGrid(QPainter& p, const Areas& a) const;
  void drawCurves(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves, bool floor) const;
  void drawLeaving(QPainter& p, const Areas& a, const CompareCurve& curve) const;
  QString missing(const Study& s) const;
  void drawOverTime(QPainter& p, const Areas& a) const;
  void drawBands(QPainter& p, const Areas& a, const Study& s) const;
  void drawPartNames(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves) const;
  void drawLegend(QPainter& p, const Areas& a, const Study& s) const;
  bool floorShown(const Study& s) const { return !plain_ && s.anyReference(); }
  bool plain_ = false;
  std::optional<Band> marked_;
};

}  // namespace heft::app
