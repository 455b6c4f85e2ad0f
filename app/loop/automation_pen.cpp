#include "app/loop/automation_pen.h"

#include <QRegularExpression>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "app/widgets/unit_words.h"
#include "core/session/pattern.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kPenReach = 8.0, kPenDragged = 3.0, kPenEdge = 6.0;  // px

// The range that a curve is drawn in: its own and a quarter of the value's whole range about it, so that a
// point moves by fine steps.
Axis scaleOf(const Session& s, const Automation& a) {
  const auto value = valueAt(s, a.owner, a.key);
  const Range range = value ? value->range : Range{0.0, 1.0};
  if (value && value->isWhole()) {
    Axis whole;
    whole.from = range.low, whole.to = range.high;
    return whole;
  }
  double low = a.points.front().value, high = low;
  for (const AutomationPoint& p : a.points) low = std::min(low, p.value), high = std::max(high, p.value);
  Axis out;
  out.logarithmic = range.unit == Unit::Hz && range.low > 0.0;
  if (out.logarithmic) {
    out.from = std::max(range.low, low / 2.0), out.to = std::min(range.high, high * 2.0);
  } else {
    const double around =
        range.high - range.low <= 2.0 ? range.high - range.low : 0.15 * (range.high - range.low);
    out.from = std::max(range.low, low - around), out.to = std::min(range.high, high + around);
  }
  return out;
}

QPolygonF lineOf(const Automation& a, const QRectF& box, const Axis& time, const Axis& values) {
  QPolygonF line;
  double last = time.from;
  line << QPointF(box.left(), values.pixel(a.at(time.from)));
  auto upTo = [&](double quarters) {
    for (double x = std::floor(time.pixel(last)) + 2.0; x < time.pixel(quarters); x += 2.0)
      line << QPointF(x, values.pixel(a.at(time.value(x))));
    last = quarters;
  };
  for (const AutomationPoint& p : a.points) {
    if (p.quarters < time.from || p.quarters > time.to) continue;
    upTo(p.quarters);
    line << QPointF(time.pixel(p.quarters), values.pixel(p.value));
  }
  upTo(time.to);
  line << QPointF(box.right(), values.pixel(a.at(time.to)));
  return line;
}

// Whether the curve moves from that point to the next.
bool canBend(const Automation& a, size_t point) {
  return !a.holds && point + 1 < a.points.size() && a.points[point].value != a.points[point + 1].value;
}

}  // namespace

std::optional<int> laneOfOwner(const Session& s, const Owner& owner, const std::string& key) {
  if (owner.part) return owner.part;
  if (const Duck* duck = owner.duck ? s.duck(*owner.duck) : nullptr)
    return duck->target.kind == DuckTargetKind::Backing ? kBackingLane : duck->target.part;
  if (key.starts_with("backing.")) return kBackingLane;
  return std::nullopt;
}

const Automation* AutomationPen::automation() const {
  const Automation* a = of_ ? automationOf(document_.session(), of_->owner, of_->key) : nullptr;
  return a && !a->points.empty() ? a : nullptr;
}

void AutomationPen::take(const AutomationOf& of) {
  const Session& s = document_.session();
  if (!canBeAutomated(s, of.owner, of.key))
    return document_.fail(QString::fromStdString(of.name) + " cannot be automated.");
  if (!automationOf(s, of.owner, of.key) && s.automation.size() >= kMostAutomations)
    return document_.fail(QString("All %1 automation curves are in use: remove one in the loop strip's menu.")
                              .arg(kMostAutomations));
  of_ = of, chosen_ = 0, grip_ = Grip::None;
  document_.edit(automate(of));
  fit();
}

void AutomationPen::lay() {
  of_.reset(), chosen_.reset(), grip_ = Grip::None;
}

void AutomationPen::follow() {
  if (!of_) return;
  const Automation* a = automation();
  if (!a) return lay();
  if (chosen_ && *chosen_ >= a->points.size()) chosen_.reset();
  if (grip_ == Grip::None) fit();
}

void AutomationPen::fit() {
  if (const Automation* a = automation()) shown_ = scaleOf(document_.session(), *a);
}

Axis AutomationPen::values(const QRectF& box) const {
  Axis out = shown_;
  out.pixelFrom = box.bottom() - kPenEdge, out.pixelTo = box.top() + kPenEdge;
  return out;
}

QString AutomationPen::words(double value) const {
  const auto at = valueAt(document_.session(), of_->owner, of_->key);
  if (at && !at->words.words.empty())
    return QString(at->words.at(static_cast<int>(std::lround(at->range.held(value))))).replace('_', ' ');
  if (at && std::holds_alternative<bool>(at->now)) return value >= 0.5 ? "on" : "off";
  return unitText(value, at ? at->range.unit : Unit::Number, document_.track());
}

QPointF AutomationPen::pointAt(size_t index, const QRectF& box, const Axis& time) const {
  const Automation* a = automation();
  if (!a || index >= a->points.size()) return {};
  return {time.pixel(a->points[index].quarters), values(box).pixel(a->points[index].value)};
}

void AutomationPen::drawOther(QPainter& p, const QRectF& box, const Axis& time, const Session& session,
                              const Automation& a) {
  if (!a.works()) return;
  Axis values = scaleOf(session, a);
  values.pixelFrom = box.bottom() - kPenEdge, values.pixelTo = box.top() + kPenEdge;
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(withAlpha(theme().reference, 0.7), 1.0));
  drawLineThrough(p, lineOf(a, box, time, values));
}

void AutomationPen::drawGrips(QPainter& p, const QRectF& box, const Axis& time, const Automation& a) const {
  const Axis y = values(box);
  double lastX = -100.0;
  p.setPen(QPen(theme().reference, 1.5));
  for (size_t i = 0; i < a.points.size(); ++i) {
    const QPointF at = pointAt(i, box, time);
    if (at.x() < box.left() - 1 || at.x() > box.right() + 1) continue;
    const bool step = i > 0 && a.points[i].quarters - a.points[i - 1].quarters < 1e-9;
    if (at.x() - lastX < 5.0 && !step && chosen_ != i) continue;
    drawGrip(p, at, chosen_ == i && grip_ != Grip::Bend, 3.5);
    lastX = at.x();
    if (!canBend(a, i)) continue;
    const double next = time.pixel(a.points[i + 1].quarters), middle = 0.5 * (at.x() + next);
    if (next - at.x() > 40.0 && middle > box.left() && middle < box.right())
      drawBendGrip(p, QPointF(middle, y.pixel(a.at(time.value(middle)))), chosen_ == i && grip_ == Grip::Bend);
  }
}

void AutomationPen::draw(QPainter& p, const QRectF& box, const Axis& time) const {
  const Automation* a = automation();
  if (!a) return;
  const Theme& t = theme();
  p.save();
  p.setClipRect(box, Qt::IntersectClip);
  p.fillRect(box, withAlpha(t.page, 0.6));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.reference, 1.5, a->on ? Qt::SolidLine : Qt::DashLine));
  drawLineThrough(p, lineOf(*a, box, time, values(box)));
  drawGrips(p, box, time, *a);
  p.restore();
  p.setFont(axisFont());
  QString words = QString::fromStdString(of_->name) + (a->on ? "" : ", bypassed");
  if (chosen_ && *chosen_ < a->points.size()) {
    const AutomationPoint& point = a->points[*chosen_];
    words += QString(": %1 at %2")
                 .arg(this->words(point.value),
                      QString::fromStdString(positionName(document_.track(), point.quarters)));
    if (point.bend != 0.0) words += QString(", bent %1 %").arg(std::lround(100.0 * point.bend));
  }
  if (grip_ == Grip::Stretch) {
    const Track& track = document_.track();
    words += QString(": %1 from %2 to %3")
                 .arg(this->words(a->at(stretch_.first)),
                      QString::fromStdString(positionName(track, stretch_.first)),
                      QString::fromStdString(positionName(track, stretch_.second)));
  }
  drawLabel(p, QPointF(box.right() - 4, box.top() + 3), Qt::AlignRight | Qt::AlignTop, words, t.referenceWords,
            t.page);
}

std::optional<size_t> AutomationPen::pointUnder(const QPointF& at, const QRectF& box, const Axis& time) const {
  const Automation* a = automation();
  std::optional<size_t> out;
  double nearest = kPenReach;
  for (size_t i = 0; a && i < a->points.size(); ++i) {
    const QPointF away = pointAt(i, box, time) - at;
    if (const double d = std::hypot(away.x(), away.y()); d < nearest) nearest = d, out = i;
  }
  return out;
}

std::optional<size_t> AutomationPen::bendUnder(const QPointF& at, const QRectF& box, const Axis& time) const {
  const Automation* a = automation();
  for (size_t i = 0; a && i + 1 < a->points.size(); ++i) {
    const double from = time.pixel(a->points[i].quarters), to = time.pixel(a->points[i + 1].quarters);
    const double middle = 0.5 * (from + to);
    if (to - from <= 40.0 || !canBend(*a, i)) continue;
    if (std::abs(middle - at.x()) < kPenReach &&
        std::abs(values(box).pixel(a->at(time.value(middle))) - at.y()) < kPenReach)
      return i;
  }
  return std::nullopt;
}

void AutomationPen::press(const QMouseEvent& event, const QRectF& box, const Axis& time) {
  const QPointF at = event.position();
  pressed_ = at, dragged_ = false;
  const double quarters = std::clamp(time.value(at.x()), 0.0, document_.track().loopQuarters());
  if ((event.modifiers() & Qt::ShiftModifier) && !isFree(event.modifiers()) && stretchAt_) {
    grip_ = Grip::Stretch, chosen_.reset(), stretch_ = stretchAt_(quarters);
    return move(event, box, time);
  }
  if ((chosen_ = pointUnder(at, box, time))) {
    grip_ = Grip::Point;
  } else if ((chosen_ = bendUnder(at, box, time))) {
    grip_ = Grip::Bend;
  } else {
    grip_ = Grip::NewPoint;
    const double on = isFree(event.modifiers()) ? quarters : nearestLine(document_.session().grid, quarters);
    document_.edit(placeAutomationPoint(*of_, on, values(box).value(at.y())));
    chooseAt(on);
  }
}

void AutomationPen::chooseAt(double quarters) {
  const Automation* a = automation();
  for (size_t i = 0; a && i < a->points.size(); ++i)
    if (std::abs(a->points[i].quarters - std::min(quarters, document_.track().loopQuarters())) < 1e-6)
      chosen_ = i;
}

void AutomationPen::move(const QMouseEvent& event, const QRectF& box, const Axis& time) {
  const Automation* a = automation();
  if (grip_ == Grip::None || !a) return;
  const QPointF at = event.position();
  dragged_ = dragged_ || (at - pressed_).manhattanLength() > kPenDragged;
  const Axis y = values(box);
  const double value = y.value(std::clamp(at.y(), box.top() + kPenEdge, box.bottom() - kPenEdge));
  if (grip_ == Grip::Stretch)
    return document_.edit(setAutomationOver(*of_, stretch_.first, stretch_.second, value, "automation"));
  if (!dragged_ || !chosen_ || *chosen_ >= a->points.size()) return;
  if (grip_ == Grip::Bend) {
    const double from = y.pixel(a->points[*chosen_].value), to = y.pixel(a->points[*chosen_ + 1].value);
    double bend = bendFor((at.y() - from) / (to - from));
    if (std::abs(bend) < 0.04) bend = 0.0;
    return document_.edit(bendAutomation(*of_, *chosen_, bend, "automation"));
  }
  const double quarters = time.value(at.x());
  const double on = isFree(event.modifiers()) ? quarters : nearestLine(document_.session().grid, quarters);
  document_.edit(moveAutomationPoint(*of_, *chosen_, std::max(0.0, on), value, "automation"));
}

void AutomationPen::release() {
  // A click takes a point away again.
  if (grip_ == Grip::Point && !dragged_ && chosen_) document_.edit(removeAutomationPoint(*of_, *chosen_));
  grip_ = Grip::None;
  document_.endDrag();
  follow();
}

void AutomationPen::stepValue(int steps, bool fine) {
  const AutomationPoint p = automation()->points[*chosen_];
  const auto at = valueAt(document_.session(), of_->owner, of_->key);
  const double to =
      at && at->isWhole() ? p.value + steps : stepped(p.value, at ? at->range.unit : Unit::Number, steps, fine);
  document_.edit(moveAutomationPoint(*of_, *chosen_, p.quarters, to, "key automation"));
}

void AutomationPen::stepTime(int way) {
  const AutomationPoint p = automation()->points[*chosen_];
  const Grid& grid = document_.session().grid;
  const double to = way > 0 ? lineAfter(grid, p.quarters) : lineBefore(grid, std::max(0.0, p.quarters - 1e-4));
  document_.edit(moveAutomationPoint(*of_, *chosen_, to, p.value, "key automation"));
}

std::optional<QString> AutomationPen::typedPoint() const {
  const Automation* a = automation();
  if (!a || !chosen_ || *chosen_ >= a->points.size()) return std::nullopt;
  const AutomationPoint& p = a->points[*chosen_];
  return words(p.value) + (p.bend == 0.0 ? QString() : QString(", bend %1 %").arg(std::lround(100.0 * p.bend)));
}

QString AutomationPen::takes() const {
  const auto at = valueAt(document_.session(), of_->owner, of_->key);
  if (!at) return {};
  if (!at->words.words.empty()) return QString::fromStdString(at->words.choices()).replace('_', ' ');
  if (std::holds_alternative<bool>(at->now)) return "on or off";
  return takesText(at->range, document_.track()) + ", then \"bend\" and -100 to 100 %";
}

bool AutomationPen::typePoint(const QString& typed) {
  const auto at = valueAt(document_.session(), of_->owner, of_->key);
  const Automation* a = automation();
  if (!at || !a || !chosen_ || *chosen_ >= a->points.size()) return false;
  const QStringList both = typed.trimmed().split(QRegularExpression("[,;]?\\s*bend\\s*"));
  std::optional<double> value, bend;
  if (!at->words.words.empty()) {
    if (const auto place = at->words.find(QString(both[0]).replace(' ', '_').toStdString())) value = *place;
  } else if (std::holds_alternative<bool>(at->now)) {
    if (both[0] == "on" || both[0] == "off") value = both[0] == "on" ? 1.0 : 0.0;
  } else {
    value = typedNumber(both[0], at->range, document_.track());
  }
  if (both.size() > 1) {
    bend = typedNumber(both[1], {-1, 1, Unit::Share}, document_.track());
    if (!bend || a->holds) return false;
  }
  if (!value || both.size() > 2) return false;
  const size_t point = *chosen_;
  document_.edit(moveAutomationPoint(*of_, point, a->points[point].quarters, *value, "type automation"));
  if (bend) document_.edit(bendAutomation(*of_, point, *bend, "type automation"));
  document_.endDrag();
  return true;
}

// Left and Right choose a point, with Ctrl they move it; Up and Down its value, with Ctrl its bend; Insert at
// the cursor; Delete; Esc.
bool AutomationPen::key(const QKeyEvent& event, double cursor) {
  const Automation* a = automation();
  if (!a) return false;
  const bool control = event.modifiers() & Qt::ControlModifier, fine = event.modifiers() & Qt::ShiftModifier;
  const int key = event.key(), way = key == Qt::Key_Right || key == Qt::Key_Up ? 1 : -1;
  if (key == Qt::Key_Escape) return lay(), true;
  if (key == Qt::Key_Insert || key == Qt::Key_Return || key == Qt::Key_Enter)
    return document_.edit(placeAutomationPoint(*of_, cursor, a->at(cursor))), chooseAt(cursor), true;
  if ((key == Qt::Key_Left || key == Qt::Key_Right) && !control)
    return chosen_ = steppedPoint(chosen_, way, a->points.size()), true;
  if (!chosen_) return false;
  if (key == Qt::Key_Left || key == Qt::Key_Right) return stepTime(way), true;
  if (key == Qt::Key_Up || key == Qt::Key_Down) {
    if (!control) return stepValue(way, fine), true;
    return document_.edit(
               bendAutomation(*of_, *chosen_, a->points[*chosen_].bend + 0.1 * way, "key automation")),
           true;
  }
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace)
    return document_.edit(removeAutomationPoint(*of_, *chosen_)), follow(), true;
  return false;
}

}  // namespace heft::app
