#pragma once
/// Where the kick could land, as marks on the pitch field's own note axis: each with its shift, its reason and
/// its strain, and a number key that plays it in the running loop before it is taken.

#include "app/stages/pitch_field.h"
#include "app/stages/stage_page.h"
#include "core/tune/targets.h"

namespace heft::app {

class TargetMarks : public Picture {
  Q_OBJECT
 public:
  TargetMarks(Document& document, Selection& selection, const PitchField& axis);
  /// Numbers hear, 0 as recorded, Return takes what is heard, Esc drops it. False for other keys.
  bool takeKey(int key);
  /// The number that is heard; nothing: the loop as it is.
  std::optional<int> heardNumber() const { return heard_; }
  const std::vector<TuneTarget>& targets() const { return targets_; }
  /// Where the mark of a number is, from 1; tests press there.
  QRectF cell(int number) const;
  void drop();
  QSize sizeHint() const override { return {208, 200}; }

 Q_SIGNALS:
  /// The loop with the kick on another note; nothing: as it is.
  void heard(const std::optional<heft::Edit>& edit);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void rebuild();
  void hear(int number);
  void take();
  std::optional<Edit> editOf(int number) const;
  void drawMark(QPainter& p, int number) const;
  void drawStrain(QPainter& p, const QRectF& box, double semitones, const QColor& ink) const;
  const PitchField& axis_;
  std::vector<TuneTarget> targets_;
  double landing_ = 0.0, own_ = 0.0;  ///< where it lands by itself, and its own shift in that
  std::optional<int> heard_;          ///< 0: as recorded
};

}  // namespace heft::app
