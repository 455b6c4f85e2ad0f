#pragma once
/// Where the loop strip has its ruler and its lanes. Lanes never get smaller than their text: those that do not
/// fit scroll between the ruler and the sum.

#include <QRectF>
#include <optional>
#include <utility>
#include <vector>

#include "core/session/session.h"

namespace heft::app {

/// A lane of the strip, or its ruler.
struct LoopRow {
  enum class Of { Ruler, Part, Backing, Sum, None };
  Of of = Of::None;
  int part = 0;  ///< with Part: its id
  auto operator<=>(const LoopRow&) const = default;

  bool isLane() const { return of == Of::Part || of == Of::Backing; }
  /// A part's id, or kBackingLane.
  int lane() const { return of == Of::Part ? part : kBackingLane; }
  static LoopRow ofLane(int lane) {
    return lane == kBackingLane ? LoopRow{Of::Backing} : LoopRow{Of::Part, lane};
  }
};

class LaneRows {
 public:
  static constexpr double kHead = 216.0, kRight = 12.0, kRuler = 20.0;  // px
  struct Area {
    LoopRow row;
    QRectF box;
  };

  /// In a strip of that size whose lanes are scrolled by some pixels; `tall` is the lane that automation is
  /// drawn in.
  LaneRows(const Session& session, QSizeF size, double scrolledPx, std::optional<int> tall);

  /// The ruler, the lanes in the session's order, the sum.
  const std::vector<Area>& all() const { return all_; }
  const Area& sum() const { return all_.back(); }
  QRectF box(const LoopRow& row) const;  ///< empty for a row that is not there
  QRectF box(const Part& part) const { return box(LoopRow{LoopRow::Of::Part, part.id}); }
  LoopRow at(const QPointF& at) const;
  const QRectF& lanesBox() const { return lanes_; }  ///< of the lanes that can be seen
  double hiddenPx() const;                           ///< how far the lanes can be scrolled; 0: all are seen
  /// A note's box in its lane, at its pitch.
  QRectF noteBox(const Part& part, const Note& note, const struct Axis& time) const;

 private:
  std::vector<Area> all_;
  QRectF lanes_;
  double whole_ = 0.0;  ///< how high all lanes are together
};

}  // namespace heft::app
