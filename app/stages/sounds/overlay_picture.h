#pragma once
/// A part's layers over each other: their strikes on one time axis, their spectra on one note axis, to show
/// which masks which. Or two versions of the part in the same way, with their figures.

#include "app/desk/layer_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "core/looks/layer_looks.h"

namespace heft::app {

class OverlayPicture : public Picture {
  Q_OBJECT
 public:
  OverlayPicture(LayerChoice& choice, Selection& selection);

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { take(); }

 private:
  void take();
  double drawNames(QPainter& p) const;  ///< gives the height they took
  QPen penOf(size_t i) const;
  void drawStrikes(QPainter& p, const QRectF& area) const;
  void drawSpectra(QPainter& p, const QRectF& area) const;
  LayerChoice& choice_;
  std::vector<SoundLook> layers_;  ///< or the present version and the other
  bool versions_ = false;
  uint64_t asked_ = 0;  ///< versions are made aside; only the last request is shown
};

}  // namespace heft::app
