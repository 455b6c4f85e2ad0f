#pragma once
/// What the loop strip shows on its ruled paper: bars and beats, each lane's wave, notes, velocities and gain.

#include <QPainter>

#include "app/document/document.h"
#include "app/loop/lane_rows.h"
#include "app/pictures/axis.h"

namespace heft::app {

class LanePainter {
 public:
  /// Paints one frame; what it is given must outlive it.
  LanePainter(QPainter& painter, const Document& document, const LaneRows& rows, const Axis& time)
      : p_(painter), document_(document), rows_(rows), time_(time) {}

  /// As much as has room: far out only every few bars, close up the grid's own lines and their names.
  void ruler(double height) const;
  /// `stem` may be nullptr; a peak of 0 draws nothing.
  void wave(const LaneRows::Area& lane, const Signal* stem, const LanePeak& peak, const QColor& colour) const;
  void notes(const Part& part, const Note* chosen) const;
  /// A bar at each hit's and note's start, as tall as its velocity; a dot over hits at which layers rest.
  void velocities(const Part& part, const Hit* chosen) const;
  /// The gain of a ducked or shaped lane as one line through it.
  void gain(const QRectF& lane, const Signal& gain, const DuckTarget& of,
            const ContourLine* contour = nullptr) const;
  /// What to do in an empty lane.
  void hint(const Part& part) const;

 private:
  const Session& session() const { return document_.session(); }
  const Track& track() const { return document_.track(); }
  void gridLines(double height, double step, bool named) const;
  void divisions(double height, double perQuarter) const;
  void glide(const Part& part, size_t note) const;

  QPainter& p_;
  const Document& document_;
  const LaneRows& rows_;
  const Axis& time_;
};

}  // namespace heft::app
