#pragma once
/// A kit on one note axis: a column per drum with its pitch path, landing, target and length; targets and
/// lengths are dragged.

#include <QWidget>
#include <deque>
#include <functional>

#include "app/document/document.h"
#include "app/pictures/axis.h"
#include "app/widgets/accessible.h"
#include "core/tune/kit.h"

namespace heft::app {

class KitPicture : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  KitPicture(Document& document, const std::deque<Drum>& drums);
  /// Call after the drums changed.
  void rebuild();
  void choose(int row);
  int chosenRow() const { return chosen_; }
  /// Position of a drum's target (its landing while it has none) and length grip; nothing without a note.
  std::optional<QPointF> targetAt(int row) const;
  std::optional<QPointF> lengthAt(int row) const;
  double yOfMidi(double midi) const { return note().pixel(midi); }
  double xOfMs(int row, double ms) const { return time(row).pixel(ms); }
  std::vector<AccessibleItem> accessibleItems() const override;
  QSize sizeHint() const override { return {900, 300}; }

 Q_SIGNALS:
  void chosen(int row);
  void targetSet(int row, double midi);
  void lengthSet(int row, TimeValue length);

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  enum class Grip { None, Target, Length };
  const Drum& drum(int row) const { return drums_[static_cast<size_t>(row)]; }
  int count() const { return static_cast<int>(drums_.size()); }
  std::optional<double> landing(int row) const { return drum(row).landingMidi(document_.track().notes.a4Hz); }
  double lengthMs(int row) const;
  QRectF column(int row) const;
  Axis note() const { return {lowest_, highest_, height() - 46.0, 40.0}; }
  Axis time(int row) const;
  void stepTarget(int way, bool fine);
  void stepLength(int way, bool fine);
  void setLengthMs(int row, double ms, bool free);
  void drawColumn(QPainter& p, int row) const;
  void drawPath(QPainter& p, int row, double shift, const QPen& pen) const;
  void drawTarget(QPainter& p, int row) const;
  void drawLength(QPainter& p, int row) const;

  Document& document_;
  const std::deque<Drum>& drums_;
  int chosen_ = -1;
  Grip held_ = Grip::None;
  double lowest_ = 28.0, highest_ = 64.0, longestMs_ = 300.0;
};

}  // namespace heft::app
