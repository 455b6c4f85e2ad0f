#include "app/loop/lane_rows.h"

#include <algorithm>
#include <cmath>

#include "app/pictures/axis.h"

namespace heft::app {
namespace {

using Of = LoopRow::Of;

// A bass lane is taller: its notes carry names. Parts beside the pair get less.
double shareOf(const Part& part) {
  if (part.is() == PartRole::Other) return part.playsNotes() ? 1.0 : 0.7;
  return part.playsNotes() ? 1.35 : 1.0;
}

// The pitch range of the line, at least an octave, so that height shows pitch.
std::pair<int, int> shownPitches(const Part& part) {
  int low = 127, high = 0;
  for (const Note& n : part.notes) low = std::min(low, n.midi), high = std::max(high, n.midi);
  if (low > high) return {27, 39};
  const int missing = std::max(0, 12 - (high - low));
  return {low - missing / 2, high + missing - missing / 2};
}

}  // namespace

LaneRows::LaneRows(const Session& session, QSizeF size, double scrolledPx, std::optional<int> tall) {
  constexpr double kSumShare = 1.0, kLeastUnit = 26.0, kTallLane = 88.0;  // px
  std::vector<std::pair<LoopRow, double>> wanted;
  for (const Part& part : session.parts) wanted.emplace_back(LoopRow{Of::Part, part.id}, shareOf(part));
  if (!session.backing.asset.empty()) wanted.emplace_back(LoopRow{Of::Backing}, 1.0);
  double shares = kSumShare;
  for (const auto& [row, share] : wanted) shares += share;
  const double unit = std::max(kLeastUnit, (size.height() - kRuler - 4) / shares);
  const double sumTop = size.height() - 4 - kSumShare * unit, wide = size.width() - kHead - kRight;
  lanes_ = QRectF(0, kRuler, size.width(), std::max(0.0, sumTop - kRuler));
  whole_ = unit * (shares - kSumShare);
  // The lane in which automation is drawn is tall enough for a hand; the others scroll past it.
  for (auto& [row, share] : wanted)
    if (tall && row.lane() == *tall && unit * share < kTallLane)
      whole_ += kTallLane - unit * share, share = kTallLane / unit;
  all_.push_back({LoopRow{Of::Ruler}, QRectF(kHead, 0, wide, kRuler)});
  double y = kRuler - (hiddenPx() > 0.5 ? scrolledPx : 0.0);
  for (const auto& [row, share] : wanted) {
    all_.push_back({row, QRectF(kHead, y, wide, unit * share)});
    y += unit * share;
  }
  all_.push_back({LoopRow{Of::Sum}, QRectF(kHead, sumTop, wide, kSumShare * unit)});
}

double LaneRows::hiddenPx() const {
  const double hidden = whole_ - lanes_.height();
  return hidden > 0.5 ? hidden : 0.0;
}

QRectF LaneRows::box(const LoopRow& row) const {
  for (const Area& a : all_)
    if (a.row == row) return a.box;
  return {};
}

LoopRow LaneRows::at(const QPointF& at) const {
  const bool amongLanes = lanes_.contains(QPointF(1.0, at.y()));
  for (const Area& a : all_)
    if (a.row.isLane() == amongLanes && at.y() >= a.box.top() && at.y() < a.box.bottom()) return a.row;
  return {};
}

QRectF LaneRows::noteBox(const Part& part, const Note& n, const Axis& x) const {
  constexpr double kHeight = 15.0;
  const QRectF lane = box(part).adjusted(0, 3, 0, -3);
  const auto [low, high] = shownPitches(part);
  const double tall = std::min(kHeight, lane.height()), room = std::max(0.0, lane.height() - kHeight);
  const double top = lane.top() + room * (high - n.midi) / std::max(1, high - low);
  return QRectF(QPointF(x.pixel(n.startQuarters), top), QPointF(x.pixel(n.endQuarters()), top + tall));
}

}  // namespace heft::app
