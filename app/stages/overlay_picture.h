#pragma once
/// A part's layers over each other: their strikes on one time axis, their spectra on one note axis, so that one
/// sees who covers what.

#include "app/plots/axis.h"
#include "app/stages/layer_choice.h"
#include "app/stages/stage_page.h"

namespace heft::app {

class OverlayPicture : public Picture {
  Q_OBJECT
 public:
  OverlayPicture(LayerChoice& choice, Selection& selection);

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { takeLayers(); }

 private:
  struct Shown {
    int id = 0;
    QString name;
    std::vector<float> strike;     ///< its first moments at the sound's rate, its level applied
    std::vector<double> spectrum;  ///< dB, one per band of kBands
  };
  void takeLayers();
  QPen penOf(size_t i) const;
  void drawStrikes(QPainter& p, const QRectF& area) const;
  void drawSpectra(QPainter& p, const QRectF& area) const;
  LayerChoice& choice_;
  std::vector<Shown> layers_;
};

}  // namespace heft::app
