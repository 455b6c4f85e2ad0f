#pragma once
/// The heads of the loop strip's lanes: name, level, solo and mute, and a meter while it plays.

#include <QPainter>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "app/loop/lane_meters.h"
#include "app/loop/lane_rows.h"

namespace heft::app {

class ValueField;

class LaneHeads {
 public:
  LaneHeads(Document& document, Transport& transport, QWidget* strip);

  /// Fields for the session's lanes as they are now.
  void refresh();
  void lay(const LaneRows& rows);
  /// The monitor level changed.
  void refreshOutput();

  void drawName(QPainter& p, const LaneRows::Area& lane, const QString& name, const QColor& colour) const;
  void drawSwitches(QPainter& p, const LaneRows& rows) const;
  /// A bar while the loop plays, with its peak hold as a stroke; 0 dB is the head's full width. Hatched from
  /// the right: gain reduction.
  void drawMeter(QPainter& p, const LaneRows::Area& lane) const;
  /// Solo or mute under the pointer is switched; false where there is none.
  bool press(const LaneRows& rows, const LoopRow& row, const QPointF& at);

 private:
  static QRectF switchBox(const QRectF& lane, bool solo);

  Document& document_;
  Transport& transport_;
  QWidget* strip_;
  LaneMeters meters_;
  ValueField* output_;                                ///< monitor level, at the sum's head
  std::map<int, ValueField*> levels_;                 ///< by part id or kBackingLane
  std::vector<std::pair<int, std::string>> headsOf_;  ///< ids and names for which the fields were made
};

}  // namespace heft::app
