#pragma once
/// The dip: gain reduction after a hit, hatched. Drag its dimension lines, or the points on its edge.

#include "app/desk/duck_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class DipPicture : public Picture {
  Q_OBJECT
 public:
  enum class Handle { None, Depth, Attack, Hold, Return, Point, Bend };
  DipPicture(Document& document, Selection& selection);
  /// Position of a handle, for points and bends by index. Tests drag it.
  QPointF handleAt(Handle handle, size_t index = 0) const;
  /// A place in the hatching: ms after the hit, gain as an amplitude.
  QPointF placeOf(double ms, double gain) const;
  std::optional<size_t> chosenPoint() const;
  /// The playhead, in quarters; nothing while nothing plays.
  void setPlayhead(std::optional<double> quarters);
  /// While a song plays, the hit that sounds; the chosen one otherwise, and under a hand.
  std::optional<size_t> shownTrigger(const ResolvedDuck& duck) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Areas {
    QRectF source, target;
    Axis time;  ///< ms from the hit
  };
  struct Grip {
    Handle handle = Handle::None;
    size_t index = 0;
    bool operator==(const Grip&) const = default;
  };
  const Duck& duck() const { return chosenDuck(document(), selection()); }
  Areas areas() const;
  /// The effective curve after the chosen hit, with its length resolved.
  DrawnDip dip() const;
  bool isDrawn() const { return duck().movement == Movement::Curve; }
  bool hasPoints() const { return isDrawn() && duck().curve.points.size() >= 2; }
  double gapMs() const;  ///< from the chosen hit to the next
  std::optional<double> hitFrame() const;
  /// Whether the playhead says which hit is shown.
  bool leads() const;
  /// The drawn gain `ms` after the hit.
  double gainAt(double ms) const;
  double yOfGain(const Areas& a, double gain) const {
    return a.target.center().y() - 0.5 * a.target.height() * gain;
  }
  void drawWaves(QPainter& p, const Areas& a, double frame) const;
  void drawTaken(QPainter& p, const Areas& a) const;
  void drawGrid(QPainter& p, const Areas& a) const;
  void drawFour(QPainter& p, const Areas& a) const;
  void drawPoints(QPainter& p, const Areas& a) const;
  void drawPointRow(QPainter& p, const Areas& a) const;
  void drawDepth(QPainter& p, const Areas& a) const;
  void paintAll(QPainter& p) const;
  double msOf(double quarters, double frame) const;  ///< after the chosen hit
  QString triggerAt(size_t index) const;
  void drawFigures(QPainter& p, const Areas& a) const;
  void drawNames(QPainter& p, const Areas& a) const;

  std::vector<Grip> grips() const;
  Grip gripNear(const QPointF& at) const;
  void drag(const QPointF& to, bool free);
  void dragPoint(const QPointF& to, bool free);
  bool moveChosen(QKeyEvent* event);
  void stepPoint(int way);
  void placePoint(double ms, double gain);
  Grip held_;
  std::optional<size_t> chosen_;
  std::optional<double> playhead_;
};

}  // namespace heft::app
