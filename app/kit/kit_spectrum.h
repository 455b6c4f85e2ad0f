#pragma once
/// The spectrum of the chosen drum of a kit: thick as tuned, dashed as recorded.

#include <QWidget>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "app/pictures/axis.h"
#include "core/tune/kit.h"

namespace heft::app {

class KitSpectrum : public QWidget {
  Q_OBJECT
 public:
  explicit KitSpectrum(Document& document);
  /// Measures that drum aside while visible; nothing: none is chosen.
  void show(const std::optional<Drum>& drum);
  bool isMeasuring() const { return aside_.isRunning(); }
  const DrumSpectra& spectra() const { return spectra_; }

 protected:
  void showEvent(QShowEvent*) override { measure(); }
  void paintEvent(QPaintEvent*) override;

 private:
  void measure();
  QRectF plot() const { return {QPointF(44, 40), QPointF(width() - 12.0, height() - 46.0)}; }
  Document& document_;
  std::optional<Drum> drum_;
  DrumSpectra spectra_;
  LatestAside aside_;
};

}  // namespace heft::app
