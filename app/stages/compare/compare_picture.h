#pragma once
/// Shared by Compare's pictures: the sum in ink, each section as a thin line, their span hatched.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "app/play/reference_ear.h"
#include "app/stages/compare/figures.h"

namespace heft::app {

/// The plot of one curve a track, over any axis.
class ComparePicture : public Picture {
  Q_OBJECT
 public:
  ComparePicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear,
                 const QString& name);

 protected:
  /// A curve from a value of the axis to one of the level.
  struct Line {
    std::vector<double> at, level;
  };
  struct Lines {
    Line mine;
    struct Of {
      SectionRef of;
      Line line;
    };
    std::vector<Of> sections;
    /// Over all of them, where two or more count; `at` of the first.
    Line least, most;
  };
  const CompareDetail* detail() const { return figures_.detail(); }
  ReferenceEar& ear() const { return ear_; }
  /// Fills `least` and `most` from sections with equal axes.
  static void span(Lines& lines);
  /// The span hatched, references thin (the heard one bold), the sum thick.
  void drawLines(QPainter& p, const Lines& lines, const Axis& x, const Axis& y, const QRectF& plot) const;
  /// An area between two lines of one axis, hatched in the reference's ink.
  static void hatch(QPainter& p, const Line& low, const Line& high, const Axis& x, const Axis& y,
                    const QRectF& plot, const QColor& ink);
  /// "yours", "references", their span, in one row at the top right of a plot.
  void drawKey(QPainter& p, const QRectF& plot, bool withSpan, const QString& span = "their span") const;
  void drawLevels(QPainter& p, const Axis& y, const QRectF& plot, double step) const;
  /// The plot's box, with room for words at the left and below.
  QRectF plotArea(double below = 34.0, double left = 64.0) const;
  /// True where there is something to draw; else it says what to do.
  bool hasSomething(QPainter& p) const;

 private:
  CompareFigures& figures_;
  ReferenceEar& ear_;
};

}  // namespace heft::app
