#pragma once
/// The chosen layer's spectrum behind its strike as it sounds, its EQ's curve, and the peaks that stick out: a
/// click puts the cut that evens one into the EQ.

#include "app/document/aside.h"
#include "app/plots/axis.h"
#include "app/stages/layer_choice.h"
#include "app/stages/stage_page.h"
#include "core/ledger/layer_spectrum.h"

namespace heft::app {

class EqPicture : public Picture {
  Q_OBJECT
 public:
  EqPicture(LayerChoice& choice, Selection& selection);
  size_t peakCount() const { return found_.cuts.size(); }
  /// The mark of a peak, from 0; tests click it.
  QPointF markOf(size_t peak) const;
  bool isMeasuring() const { return aside_.isRunning(); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { measure(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void measure();
  void cut(size_t peak);
  QRectF plot() const { return {QPointF(64, 24), QPointF(width() - 16.0, height() - 24.0)}; }
  Axis hz() const;
  Axis level() const;
  void drawScale(QPainter& p) const;
  void drawSpectrum(QPainter& p) const;
  void drawMarks(QPainter& p) const;
  std::optional<size_t> peakAt(const QPointF& at) const;

  LayerChoice& choice_;
  LayerSpectrum found_;
  size_t chosen_ = 0;
  LatestAside aside_;
};

}  // namespace heft::app
