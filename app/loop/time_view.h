#pragma once
/// The stretch of the track that the loop strip shows: zoomed about a moment, scrolled, turned over like a
/// page.

#include <QObject>

#include "app/document/document.h"
#include "app/pictures/axis.h"

namespace heft::app {

class TimeView : public QObject {
  Q_OBJECT
 public:
  explicit TimeView(const Document& document) : document_(document) {}

  /// Quarters over pixels between two edges.
  Axis axis(double left, double right) const;
  double from() const { return axis(0.0, 1.0).from; }  ///< quarters
  double to() const { return axis(0.0, 1.0).to; }
  /// Shows `factor` times as much, one beat at least and all at most. A moment in sight stays where it is, for
  /// another the middle does.
  void zoom(double factor, double aboutQuarters);
  void scrollTo(double startQuarters);
  void scrollBy(double share);  ///< of what is shown
  /// Scrolls so that a moment is in sight, at the left of what is shown.
  void showAt(double quarters);
  void showAll();
  /// A page on where a moment has left what is shown of a long track.
  void follow(double quarters);
  /// A track that has become long is shown a few bars at a time, one that is short again as a whole.
  void fit();
  void reset();  ///< for another session; tells nobody

 Q_SIGNALS:
  void changed();

 private:
  double loop() const { return document_.track().loopQuarters(); }
  double shown() const { return to() - from(); }

  const Document& document_;
  double start_ = 0.0, quarters_ = 0.0;  ///< what is shown; length 0: all
  bool wasLong_ = false;                 ///< whether the track was too long to show all of it first
};

}  // namespace heft::app
