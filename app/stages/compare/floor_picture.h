#pragma once
/// The floor: the references' median is a flat line, and the sum rises above or sinks below it; or all spectra
/// as they are.

#include "app/stages/compare/compare_picture.h"
#include "core/looks/compare_curves.h"

namespace heft::app {

class FloorPicture : public ComparePicture {
  Q_OBJECT
 public:
  FloorPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  bool isPlain() const { return plain_; }
  void setPlain(bool plain) { plain_ = plain, update(); }
  void markBand(std::optional<Band> band);
  /// The band that fields and keys speak of.
  BandAim band() const;
  void setTolerance(std::optional<double> db, const std::string& mergeKey = {});
  /// Of an added band; of one that is always there a new one is added.
  void setEdges(const Band& edges);
  void removeBand();
  /// The sum's own 10th to 90th percentile over time.
  bool showsOwnSpan() const { return ownSpan_; }
  void setOwnSpan(bool shown) { ownSpan_ = shown, update(); }

  /// The level axis: it follows what is drawn. Curves that still leave it run dotted along its edge.
  Axis levelAxis(const Study& s, const std::vector<CompareCurve>& curves) const;

 Q_SIGNALS:
  void bandChosen();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Areas {
    QRectF plot;
    Axis hz, level;
    double bandY = 0;
  };
  /// An edge of a band's range: above, or below.
  struct Grip {
    BandDifference of;
    bool above = true;
  };
  std::optional<Grip> gripAt(const QPointF& where) const;
  void drawTolerances(QPainter& p, const Areas& a, const Study& s) const;
  void stepBand(int by);
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
  bool plain_ = false, ownSpan_ = false;
  std::optional<Band> marked_;
  std::optional<Grip> held_, under_;
};

}  // namespace heft::app
