#pragma once
/// Width: side to mid over frequency, and what mono loses.

#include <algorithm>

#include "app/stages/compare/compare_picture.h"

namespace heft::app {

class WidthPicture : public ComparePicture {
  Q_OBJECT
 public:
  WidthPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  bool showsLoss() const { return loss_; }
  void setLoss(bool loss) { loss_ = loss, update(); }
  /// Up to where the side's share is told, 30 to 500 Hz.
  double sideBelowHz() const { return sideBelowHz_; }
  void setSideBelowHz(double hz) { sideBelowHz_ = std::clamp(hz, 30.0, 500.0); }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  bool loss_ = false;
  double sideBelowHz_ = 120.0;
};

/// Highest frequency below which all counted sections are mono; nothing where one is wide from the bottom, or
/// none counts.
std::optional<double> referencesMonoBelow(const CompareDetail& detail);

}  // namespace heft::app
