#pragma once
/// Pictures of processors that mark peaks sticking out of a layer behind its strike: a click, or Return, adds
/// the cut that evens one.

#include "app/stages/processors/processor_picture.h"
#include "core/looks/layer_spectrum.h"

namespace heft::app {

class PeakPicture : public ProcessorPicture {
  Q_OBJECT
 public:
  PeakPicture(LayerChoice& choice, Selection& selection, const QString& name);
  size_t peakCount() const { return found_.cuts.size(); }
  bool isMeasuringPeaks() const { return peaksAside_.isRunning(); }
  /// The mark of a peak, from 0; tests click it.
  virtual QPointF markOf(size_t peak) const = 0;

 protected:
  void showEvent(QShowEvent*) override;
  virtual bool isHeld() const = 0;
  void findPeaks();
  const std::vector<LayerSpectrum::Cut>& cuts() const { return found_.cuts; }
  std::optional<size_t> peakAt(const QPointF& at) const;
  /// The next or the one before; false without any.
  bool stepPeak(int by);
  /// Whether it differs from before.
  void choosePeak(size_t peak);
  void cutPeakAt(size_t peak);
  void cutChosen() { cutPeakAt(chosen_); }
  /// `area`: room for words.
  void drawMarks(QPainter& p, const QRectF& area) const;
  /// What a click on the selection does; empty without peaks.
  QString evenWords() const;

 private:
  QRectF wordsBox(size_t peak, const QSizeF& size, const QRectF& area) const;
  LayerSpectrum found_;
  size_t chosen_ = 0;
  LatestAside peaksAside_;
};

}  // namespace heft::app
