#pragma once
/// Where the kick could land, as marks on the pitch field's own note axis: each with its shift, its reason and
/// its strain, and a number key that plays it in the running loop before it is taken.

#include "app/pictures/numbered_offers.h"
#include "app/stages/tune/pitch_field.h"
#include "core/tune/targets.h"

namespace heft::app {

class TargetMarks : public NumberedOffers {
  Q_OBJECT
 public:
  TargetMarks(Document& document, Selection& selection, const PitchField& axis);
  const std::vector<TuneTarget>& targets() const { return targets_; }
  QRectF cell(int number) const override;
  QSize sizeHint() const override { return {208, 200}; }

 protected:
  int count() const override { return static_cast<int>(targets_.size()); }
  /// 0: as recorded.
  std::optional<Edit> editOf(int number) const override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void rebuild();
  void drawMark(QPainter& p, int number) const;
  void drawStrain(QPainter& p, const QRectF& box, double semitones, const QColor& ink) const;
  const PitchField& axis_;
  std::vector<TuneTarget> targets_;
  double landing_ = 0.0, own_ = 0.0;  ///< its own landing, and its own shift within that
};

}  // namespace heft::app
