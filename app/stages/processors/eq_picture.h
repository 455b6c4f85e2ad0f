#pragma once
/// An EQ by its effect: the sound's spectrum before and after on the note axis, cuts hatched, boosts
/// outlined; each cut and band a dimension line from the spectrum before, with its width as a bracket. Drag
/// them; they snap to notes of the key. For a layer also the peaks that stick out: a click adds the bell that
/// evens one.

#include "app/stages/processors/peak_picture.h"

namespace heft::app {

class EqPicture : public PeakPicture {
  Q_OBJECT
 public:
  EqPicture(LayerChoice& choice, Selection& selection);
  QPointF markOf(size_t peak) const override;
  /// The end of a place's dimension line (shape/eq.h, kEqPlaces); nothing while that is out.
  std::optional<QPointF> handleOf(size_t place) const;
  double xOf(double hertz) const { return hz().pixel(hertz); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool isHeld() const override { return held_.has_value(); }

 private:
  static constexpr size_t kHighCut = kEqPlaces - 1;
  QRectF plot() const { return {QPointF(64, 40), QPointF(width() - 16.0, height() - 24.0)}; }
  Axis hz() const;
  Axis level() const;
  const Eq* eq() const { return as<Eq>(); }
  double beforeAt(double hertz) const;
  /// Before, with the EQ's response on top: exact while it is dragged, before anything is measured again.
  std::vector<double> afterDb() const;
  void drawScale(QPainter& p) const;
  void drawSpectrum(QPainter& p) const;
  void drawPlace(QPainter& p, size_t place) const;
  QString turnWords() const;
  void drawWords(QPainter& p) const;
  QString placeWords(size_t place) const;
  std::optional<size_t> placeAt(const QPointF& at) const;
  std::vector<size_t> placesIn() const;
  void move(size_t place, double hertz, double gainDb, bool dragged);
  void narrow(size_t place, double factor);
  void addBell(double hertz, double gainDb);
  void takeOut(size_t place);

  std::optional<size_t> place_, held_;  ///< cut or band
  std::optional<std::pair<Axis, double>>
      heldAxes_;  ///< level axis, and the curve at the drag's start, during a drag
};

}  // namespace heft::app
