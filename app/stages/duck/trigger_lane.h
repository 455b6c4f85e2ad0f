#pragma once
/// The trigger lane: the sidechain's level over the whole loop, the threshold, triggering hits, doubtful ones
/// and near misses.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

inline constexpr double kLaneLowestDb = -60.0;

class TriggerLane : public Picture {
  Q_OBJECT
 public:
  TriggerLane(Document& document, Selection& selection);
  /// Position of a moment of the loop, in quarters; tests click there.
  QPointF placeOf(double quarters) const;
  /// Grip of the threshold's line; nothing without one.
  std::optional<QPointF> thresholdGrip() const;
  /// Grip of the shortest gap; nothing where none applies.
  std::optional<QPointF> gapGrip() const;
  /// The playhead, in quarters; nothing while nothing plays.
  void setPlayhead(std::optional<double> quarters);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool event(QEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  enum class Grip { None, Threshold, Gap };
  struct Threshold {
    double levelDb;  ///< on the lane's scale
    bool follower;
  };
  QRectF box() const;
  Axis time() const;
  double yOfDb(double db) const;
  std::optional<Threshold> threshold() const;
  void drawLevel(QPainter& p, const ResolvedDuck& duck) const;
  void drawThreshold(QPainter& p) const;
  void drawGap(QPainter& p, const LaneHit& hit, bool chosen) const;
  void drawHit(QPainter& p, const LaneHit& hit, bool chosen) const;
  void paintAll(QPainter& p) const;
  void drawWords(QPainter& p, const ResolvedDuck& duck) const;
  /// The hit under the pointer.
  const LaneHit* hitAt(const QPointF& at) const;
  /// The chosen hit: a trigger or a near miss.
  const LaneHit* chosenHit() const;
  void choose(const LaneHit& hit);
  Grip gripAt(const QPointF& at) const;
  double gapEnd(const LaneHit& hit) const;
  double placeBesideChosen(const ResolvedDuck& duck) const;
  void toggle(const LaneHit& hit);
  void placeAt(double quarters);
  void step(int way);
  Grip held_ = Grip::None;
  LaneHit heldHit_;             ///< whose gap is dragged
  std::optional<double> near_;  ///< frame of the selected near miss
  std::optional<double> playhead_;
};

/// The selected trigger, as an index into the ducking's triggers; nothing where none triggers.
std::optional<size_t> chosenTrigger(const ResolvedDuck& duck, const Selection& selection);

}  // namespace heft::app
