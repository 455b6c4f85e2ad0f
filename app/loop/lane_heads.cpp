#include "app/loop/lane_heads.h"

#include <algorithm>
#include <cmath>

#include "app/fields/lane_level.h"
#include "app/fields/value_fields.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"

namespace heft::app {
namespace {

using Of = LoopRow::Of;
constexpr double kHead = LaneRows::kHead;

void putAt(ValueField& field, double right, double middle) {
  const QSize size = field.sizeHint();
  field.setGeometry(QRect(
      QPoint(static_cast<int>(right) - size.width(), static_cast<int>(middle) - size.height() / 2), size));
}

}  // namespace

LaneHeads::LaneHeads(Document& document, Transport& transport, QWidget* strip)
    : document_(document),
      transport_(transport),
      strip_(strip),
      meters_(document, transport),
      output_(new ValueField(outputLevelField(transport), strip)) {}

void LaneHeads::refresh() {
  const Session& s = document_.session();
  std::vector<std::pair<int, std::string>> wanted;
  for (const Part& part : s.parts) wanted.emplace_back(part.id, part.title());
  if (!s.backing.asset.empty()) wanted.emplace_back(kBackingLane, "Backing");
  if (wanted != headsOf_) {
    headsOf_ = wanted;
    for (auto& [id, field] : levels_) field->hide(), field->setObjectName({}), field->deleteLater();
    levels_.clear();
    for (const auto& [id, name] : wanted) {
      levels_[id] = new ValueField(laneLevelField(document_, id), strip_);
      levels_[id]->show();
    }
  }
  for (auto& [id, field] : levels_) field->refresh();
}

void LaneHeads::refreshOutput() {
  output_->refresh();
}

void LaneHeads::lay(const LaneRows& rows) {
  for (auto& [id, field] : levels_) {
    const double y = rows.box(LoopRow::ofLane(id)).center().y();
    field->setVisible(rows.lanesBox().contains(QPointF(1.0, y - 8.0)) &&
                      rows.lanesBox().contains(QPointF(1.0, y + 8.0)));
    putAt(*field, kHead - 82, y);
  }
  putAt(*output_, kHead - 10, rows.sum().box.center().y());
}

void LaneHeads::drawName(QPainter& p, const LaneRows::Area& lane, const QString& name,
                         const QColor& colour) const {
  const auto level = levels_.find(lane.row.lane());
  const int room = lane.row.of == Of::Sum   ? output_->x() - 22
                   : level == levels_.end() ? static_cast<int>(kHead) - 24
                                            : level->second->x() - 22;
  p.setFont(bodyFont());
  drawLabel(p, QPointF(16, lane.box.center().y()), Qt::AlignLeft | Qt::AlignVCenter,
            p.fontMetrics().elidedText(name, Qt::ElideRight, room), colour, QColor(0, 0, 0, 0));
}

QRectF LaneHeads::switchBox(const QRectF& lane, bool solo) {
  const double tall = std::min(16.0, lane.height() - 2);
  return QRectF(kHead - (solo ? 76 : 40), lane.center().y() - 0.5 * tall, solo ? 33 : 34, tall);
}

void LaneHeads::drawSwitches(QPainter& p, const LaneRows& rows) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const LaneRows::Area& a : rows.all()) {
    if (!a.row.isLane()) continue;
    for (bool solo : {true, false}) {
      const QRectF box = switchBox(a.box, solo);
      const bool on = solo ? transport_.lanes().isSolo(a.row.lane()) : transport_.lanes().isMuted(a.row.lane());
      p.setBrush(on ? QBrush(t.ink) : QBrush(Qt::NoBrush));
      p.setPen(QPen(on ? t.ink : t.rule, 1.0));
      p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
      p.setPen(on ? t.panel : t.muted);
      p.drawText(box, Qt::AlignCenter, solo ? "solo" : "mute");
    }
  }
  p.setBrush(Qt::NoBrush);
}

void LaneHeads::drawMeter(QPainter& p, const LaneRows::Area& a) const {
  constexpr double kLeastDb = -54.0, kLeastTaken = 0.1, kFrom = 16.0, kTo = kHead - 8.0;
  const Theme& t = theme();
  const Axis x{kLeastDb, 0.0, kFrom, kTo};
  const MeterReading m = a.row.of == Of::Sum ? meters_.output() : meters_.lane(a.row.lane());
  if (m.heldDb <= kLeastDb) return;
  const double y = std::round(a.box.bottom()) - 4.0;
  const Part* part = a.row.of == Of::Part ? document_.session().part(a.row.part) : nullptr;
  const QColor ink = part ? colourOf(*part) : a.row.of == Of::Sum ? t.ink : t.muted;
  p.fillRect(QRectF(kFrom, y, x.pixel(std::clamp(m.db, kLeastDb, 0.0)) - kFrom, 2.0), withAlpha(ink, 0.8));
  p.fillRect(QRectF(x.pixel(std::min(0.0, m.heldDb)) - 1.0, y - 1.0, 2.0, 4.0), ink);
  if (m.takenDb > kLeastTaken) {
    const double from = x.pixel(std::max(kLeastDb, -m.takenDb));
    p.setPen(QPen(withAlpha(t.ink, 0.7), 1.0));
    p.fillRect(QRectF(from, y - 2.0, kTo - from, 5.0), t.page);
    for (double at = kTo; at > from; at -= 3.0) p.drawLine(QPointF(at - 2.0, y + 2.0), QPointF(at, y - 2.0));
    p.drawLine(QPointF(from, y - 3.0), QPointF(from, y + 3.0));
  }
  if (m.over) p.fillRect(QRectF(kTo + 1.0, y - 3.0, 5.0, 6.0), t.off);
}

bool LaneHeads::press(const LaneRows& rows, const LoopRow& row, const QPointF& at) {
  if (!row.isLane()) return false;
  const int lane = row.lane();
  for (bool solo : {true, false}) {
    if (!switchBox(rows.box(row), solo).adjusted(-2, -2, 2, 2).contains(at)) continue;
    solo ? transport_.setSolo(lane, !transport_.lanes().isSolo(lane))
         : transport_.setMuted(lane, !transport_.lanes().isMuted(lane));
    return true;
  }
  return false;
}

}  // namespace heft::app
