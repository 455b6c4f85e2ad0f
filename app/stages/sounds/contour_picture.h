#pragma once
/// The contour of a part's notes, over one of them: gain reduction hatched, points to drag.

#include "app/desk/layer_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "core/render/sounds/contour_line.h"

namespace heft::app {

class ContourPicture : public Picture {
  Q_OBJECT
 public:
  enum class Handle { None, Point, Bend, Release };
  ContourPicture(LayerChoice& choice, Selection& selection);
  /// Position of a handle, for points and bends by index. Tests drag it.
  QPointF handleAt(Handle handle, size_t index = 0) const;
  /// A place in the picture: ms after the note's start, gain in dB.
  QPointF placeOf(double ms, double db) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Grip {
    Handle handle = Handle::None;
    size_t index = 0;
  };
  const Contour& contour() const { return choice_.part().contour; }
  QRectF plot() const { return {QPointF(64, 28), QPointF(width() - 16.0, height() - 40.0)}; }
  /// The shown note, and its index in the line; nothing where none plays.
  struct Shown {
    ContourLine::NoteSpan span;
    size_t place = 0, of = 0;
  };
  std::optional<Shown> shown() const;
  /// As set, also while it is off.
  ContourGain gain(const Shown& note) const;
  Axis time() const;
  double loudest() const;
  double yOf(double gain) const;
  double dbAt(double y) const;
  void drawWave(QPainter& p, const Shown& note) const;
  void drawScale(QPainter& p) const;
  void drawLine(QPainter& p, const Shown& note) const;
  void drawWords(QPainter& p, const Shown& note) const;
  Grip gripNear(const QPointF& at) const;
  void drag(const QPointF& to, bool free);
  bool moveChosen(QKeyEvent* event);
  void placePoint(const TimeValue& at, double db);
  void stepNote(int way);

  LayerChoice& choice_;
  mutable std::optional<ContourLine> line_;  ///< of the present part; made anew after a change
  Grip held_;
  std::optional<Axis> heldTime_;  ///< the scale stays during a drag
  std::optional<size_t> note_;    ///< of the line; nothing: its longest
  std::optional<size_t> chosen_;  ///< point with the keyboard
};

}  // namespace heft::app
