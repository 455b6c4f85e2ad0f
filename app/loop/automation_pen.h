#pragma once
/// One value's automation, drawn over its lane with a grip at each point: by mouse and by keys.

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <optional>

#include "app/document/document.h"
#include "app/pictures/axis.h"
#include "core/session/edits/automation.h"

namespace heft::app {

class AutomationPen {
 public:
  explicit AutomationPen(Document& document) : document_(document) {}

  /// Draws that value from now on, with a point at its present value if it has no automation.
  void take(const AutomationOf& of);
  void lay();
  bool isDrawing() const { return of_.has_value(); }
  const AutomationOf& of() const { return *of_; }
  /// The stretch that Shift and a drag set: the region, else the section, else the bar.
  void setStretches(std::function<std::pair<double, double>(double quarters)> stretchAt) {
    stretchAt_ = std::move(stretchAt);
  }

  /// Over a lane's box; `time` is the strip's axis. The pen's own curve has grips.
  void draw(QPainter& p, const QRectF& box, const Axis& time) const;
  /// A line without grips, for a lane's other automation.
  static void drawOther(QPainter& p, const QRectF& box, const Axis& time, const Session& session,
                        const Automation& automation);

  void press(const QMouseEvent& event, const QRectF& box, const Axis& time);
  void move(const QMouseEvent& event, const QRectF& box, const Axis& time);
  void release();
  /// Returns whether it took the key.
  bool key(const QKeyEvent& event, double cursorQuarters);
  /// The chosen point as it is typed, "-3.0 dB" or "-3.0 dB, bend 40 %"; nothing without one.
  std::optional<QString> typedPoint() const;
  /// Sets the chosen point's value, and its bend where one is typed. False, changing nothing, for other words.
  bool typePoint(const QString& words);
  /// What typePoint() takes.
  QString takes() const;
  /// The document changed: scale and chosen point follow, unless a hand is on the curve.
  void follow();

  /// Where a point is, for tests.
  QPointF pointAt(size_t index, const QRectF& box, const Axis& time) const;

 private:
  enum class Grip { None, Point, NewPoint, Bend, Stretch };
  const Automation* automation() const;
  Axis values(const QRectF& box) const;
  QString words(double value) const;
  void fit();
  void chooseAt(double quarters);
  std::optional<size_t> pointUnder(const QPointF& at, const QRectF& box, const Axis& time) const;
  std::optional<size_t> bendUnder(const QPointF& at, const QRectF& box, const Axis& time) const;
  void drawGrips(QPainter& p, const QRectF& box, const Axis& time, const Automation& a) const;
  void stepValue(int steps, bool fine);
  void stepTime(int way);

  Document& document_;
  std::optional<AutomationOf> of_;
  std::function<std::pair<double, double>(double)> stretchAt_;
  Axis shown_;  ///< of values: low and high, logarithmic for frequencies
  Grip grip_ = Grip::None;
  std::optional<size_t> chosen_;  ///< a point; with Bend, the one before the grip
  bool dragged_ = false;
  QPointF pressed_;
  std::pair<double, double> stretch_;
};

/// The lane on which an owner's values are drawn: a part's id, kBackingLane, or nothing for the sum.
std::optional<int> laneOfOwner(const Session& session, const Owner& owner, const std::string& key);

}  // namespace heft::app
