#pragma once
/// The built kick as one ribbon in the pitch field: height is pitch, thickness is level. Its spine shapes the
/// fall, its edges the level, its landing is a shelf that locks to notes, its end is the length; the strike
/// is a block of its own ahead of it.

#include <optional>

#include "app/desk/layer_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class KickRibbon : public Picture {
  Q_OBJECT
 public:
  /// What can be dragged. `Point` and `Bend` have an index.
  enum class Grip { None, Strike, Point, Bend, LandingAt, Landing, Hold, Decay, End };
  struct Handle {
    Grip grip = Grip::None;
    size_t index = 0;
    bool operator==(const Handle&) const = default;
  };
  KickRibbon(LayerChoice& choice, Selection& selection);
  /// Where a handle is; tests drag it.
  QPointF place(const Handle& handle) const;
  /// The pixel of a note, in the middle of the landing's shelf.
  QPointF shelfAt(double midi) const;
  Handle chosen() const { return chosen_; }

 Q_SIGNALS:
  void strikeChosen();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void leaveEvent(QEvent*) override;
  bool focusNextPrevChild(bool next) override;

 private:
  const KickVoice* voice() const;
  double lengthMs() const;
  QRectF plot() const;
  QRectF strikeBox() const { return QRectF(8.5, plot().top() + 0.5, 92, plot().height() - 1.0); }
  Axis timeAxis() const;
  Axis pitchAxis() const;
  std::vector<Handle> handles() const;
  Handle handleAt(const QPointF& at) const;
  double halfThickness(double at) const;
  double pixelOf(double at) const { return timeAxis().pixel(at * lengthMs()); }
  double spineY(double at) const;

  void drawRules(QPainter& p) const;
  void drawRibbon(QPainter& p) const;
  void drawStrike(QPainter& p) const;
  void drawHandles(QPainter& p) const;
  void drawLabels(QPainter& p) const;

  void drag(const QPointF& at, bool free);
  /// A value of the voice; moves of one name are one step until the drag ends.
  void put(const std::string& name, const std::string& key, const Value& value);
  TimeValue lengthAt(const QPointF& at, bool free) const;
  double decayBendAt(const QPointF& at) const;
  void nudge(int x, int y, bool fine);
  void removePoint(size_t index);

  static constexpr double kThickest = 15.0;  ///< px from the spine to the edge at full level
  LayerChoice& choice_;
  Handle chosen_, held_;
  // The axes stay from a press until the pointer leaves: a picture that rescales during a drag runs away from
  // it.
  std::optional<Axis> heldTime_, heldPitch_;
};

}  // namespace heft::app
