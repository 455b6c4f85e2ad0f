#include "app/loop/loop_strip.h"

#include <QScrollBar>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/loop/grid_fields.h"
#include "app/loop/lane_painter.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

using Of = LoopRow::Of;

LoopStrip::LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent)
    : QWidget(parent),
      document_(document),
      transport_(transport),
      selection_(selection),
      view_(document),
      heads_(document, transport, this),
      events_(document, [this](double quarters) { chooseHitBefore(quarters); }),
      marked_(document),
      pen_(document),
      wheel_(document),
      dives_(document),
      scroll_(new QScrollBar(Qt::Vertical, this)) {
  setObjectName("Loop strip");
  setProperty(kAccessibleRole, QAccessible::List);  // before its name, because screen readers read it at once
  setAccessibleName("Loop strip");
  setToolTip(
      "Click to place, again to remove; drag to move, Shift drags velocity. Right-click for more; F1 lists the "
      "keys.");
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  scroll_->setObjectName("Lanes"), scroll_->setAccessibleName("Lanes");
  scroll_->setFocusPolicy(Qt::NoFocus);
  connect(scroll_, &QScrollBar::valueChanged, this, [this] { heads_.lay(rows()), update(); });
  addGridFields(document_, this);
  connect(&view_, &TimeView::changed, this, qOverload<>(&QWidget::update));
  connect(&marked_, &MarkedRange::changed, this, qOverload<>(&QWidget::update));
  connect(&marked_, &MarkedRange::pasted, this, [this](double quarters) { cursor_ = quarters; });
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
  pen_.setStretches([this](double quarters) { return stretchAt(quarters); });
  follow(document_), follow(transport_);
  refreshHeads();
}

void LoopStrip::follow(Document& document) {
  connect(&document, &Document::changed, this, &LoopStrip::refreshHeads);
  connect(&document, &Document::changed, &view_, &TimeView::fit);
  connect(&document, &Document::rendered, this, &LoopStrip::readPeaks);
  connect(&document, &Document::waved, this, &LoopStrip::readPeaks);
  connect(&document, &Document::replaced, this, [this] {
    cursor_ = 0.0, handPart_ = session().kick().id;
    view_.reset(), events_.forget(), wheel_.take({}), marked_.set({}), pen_.lay();
  });
  connect(&document, &Document::changed, this, [this] { pen_.follow(); });
  for (auto signal : {&Document::changed, &Document::rendered, &Document::waved, &Document::studied})
    connect(&document, signal, this, qOverload<>(&QWidget::update));
}

void LoopStrip::follow(Transport& transport) {
  connect(&transport, &Transport::moved, this, &LoopStrip::followPlayhead);
  connect(&transport, &Transport::stateChanged, this, [this] {
    heads_.refreshOutput(), heads_.lay(rows());
    update();
  });
}

void LoopStrip::refreshHeads() {
  const int others = std::max(0, static_cast<int>(session().parts.size()) - 2);
  setMinimumHeight(132);
  setMaximumHeight(420 + 24 * others);
  heads_.refresh();
  layRows();
}

void LoopStrip::layRows() {
  const LaneRows now = rows();
  const QRectF lanes = now.lanesBox();
  scroll_->setVisible(now.hiddenPx() > 0.0);
  scroll_->setGeometry(QRect(width() - 10, static_cast<int>(lanes.top()), 8, static_cast<int>(lanes.height())));
  scroll_->setPageStep(static_cast<int>(lanes.height()));
  scroll_->setRange(0, static_cast<int>(std::ceil(now.hiddenPx())));
  heads_.lay(rows());
}

// All lanes share a scale, so that their sizes can be compared; the sum has its own.
void LoopStrip::readPeaks() {
  if (!document_.stems()) return;
  const LanePeaks& all = document_.lanePeaks();
  constexpr float kLeast = 0.05f;
  float most = kLeast;
  for (const auto& [lane, peak] : all.lanes) most = std::max(most, peak.peak);
  peaks_.clear();
  for (const auto& [lane, peak] : all.lanes)
    if (peak.peak > 0.0f) peaks_[LoopRow::ofLane(lane)] = {most, peak.channel};
  if (all.sum.peak > 0.0f) peaks_[LoopRow{Of::Sum}] = {std::max(all.sum.peak, kLeast), all.sum.channel};
}

LaneRows LoopStrip::rows() const {
  const auto tall =
      pen_.isDrawing() ? laneOfOwner(session(), pen_.of().owner, pen_.of().key) : std::optional<int>();
  return {session(), size(), static_cast<double>(scroll_->value()), tall};
}

void LoopStrip::bringInSight(int part) {
  const LaneRows now = rows();
  const QRectF box = now.box(LoopRow::ofLane(part)), lanes = now.lanesBox();
  if (box.top() < lanes.top())
    scroll_->setValue(scroll_->value() - static_cast<int>(std::ceil(lanes.top() - box.top())));
  else if (box.bottom() > lanes.bottom())
    scroll_->setValue(scroll_->value() + static_cast<int>(std::ceil(box.bottom() - lanes.bottom())));
}

const Part* LoopStrip::partOf(const LoopRow& row) const {
  return row.of == Of::Part ? session().part(row.part) : nullptr;
}

const Part& LoopStrip::hand() const {
  const Part* part = session().part(handPart_);
  return part ? *part : session().kick();
}

void LoopStrip::showWheel(bool shown) {
  const int line = hand().playsNotes() ? hand().id : session().bass().id;
  wheel_.take(shown ? std::optional(line) : std::nullopt);
  update();
}

QPointF LoopStrip::partAt(int part, double quarters) const {
  return {timeAxis().pixel(quarters), rows().box(LoopRow::ofLane(part)).center().y()};
}

QPointF LoopStrip::diveHandle(int note, DiveGrip grip) const {
  const Part& bass = session().bass();
  return DiveGrips::at(bass.notes[static_cast<size_t>(note)], grip, rows().box(bass), timeAxis());
}

QPointF LoopStrip::wheelAt(double quarters, double value) const {
  return {timeAxis().pixel(quarters), WheelPen::y(rows().box(wheel_.part()), value)};
}

std::vector<AccessibleItem> LoopStrip::accessibleItems() const {
  std::vector<AccessibleItem> out;
  const Track& track = document_.track();
  const LaneRows all = rows();
  const Axis x = timeAxis();
  auto place = [&](double quarters) {
    const int beat = static_cast<int>(quarters * track.beatUnit / 4.0 + 1e-6);
    return QString("at %1.%2").arg(beat / track.beatsPerBar + 1).arg(beat % track.beatsPerBar + 1);
  };
  for (const Part& part : session().parts) {
    const QString word = QString::fromStdString(partWord(part));
    const QRectF box = all.box(part);
    for (const Hit& h : part.hits)
      out.push_back({QString("%1 hit %2, velocity %3 %")
                         .arg(word, place(h.startQuarters))
                         .arg(std::lround(100 * h.velocity)),
                     QRectF(x.pixel(h.startQuarters), box.top(), 6, box.height()).toRect()});
    for (const Note& n : part.notes)
      out.push_back(
          {QString("%1 note %2 %3")
               .arg(word, QString::fromStdString(noteName(n.midi, track.notes)), place(n.startQuarters)),
           all.noteBox(part, n, x).toRect()});
  }
  return out;
}

// The heads' meters, and the columns where the playhead was and is.
void LoopStrip::followPlayhead() {
  constexpr int kWide = 3;
  const double at = transport_.positionQuarters();
  if (transport_.isPlaying()) view_.follow(at);
  const Axis x = timeAxis();
  const auto now = x.holds(at) ? std::optional(x.pixel(at)) : std::nullopt;
  QRegion stale(0, 0, static_cast<int>(LaneRows::kHead), height());
  for (const auto& column : {std::exchange(playheadX_, now), now})
    if (column) stale += QRect(static_cast<int>(*column) - kWide, 0, 2 * kWide + 1, height());
  update(stale);
}

void LoopStrip::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  paintRegion(p, event->region(), [&] { paintAll(p); });
}

void LoopStrip::paintAll(QPainter& p) const {
  const Theme& t = theme();
  p.fillRect(rect(), t.page);
  const LaneRows all = rows();
  const Axis time = timeAxis();
  const LanePainter paint(p, document_, all, time);
  paint.ruler(height());
  // Scrolled lanes pass beneath the ruler and the sum.
  p.save();
  p.setClipRect(all.lanesBox(), Qt::IntersectClip);
  drawLanes(paint, p, all);
  p.restore();
  const Stems* s = document_.stems();
  drawLane(paint, p, all.sum(), session().sum.finish.works() ? "Sum, finished" : "Sum", t.ink,
           s ? &s->sum : nullptr);
  marked_.draw(p, all, time);
  if (transport_.isPlaying()) heads_.drawMeter(p, all.sum());
  drawCursor(p, all);
  p.setPen(t.ink);
  p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
}

void LoopStrip::drawLane(const LanePainter& paint, QPainter& p, const LaneRows::Area& lane, const QString& name,
                         const QColor& colour, const Signal* stem) const {
  p.setPen(QPen(theme().rule, 1.0));
  p.drawLine(QPointF(0, lane.box.top() + 0.5), QPointF(width(), lane.box.top() + 0.5));
  heads_.drawName(p, lane, name, colour);
  const auto peak = peaks_.find(lane.row);
  const bool quiet = lane.row.isLane() && transport_.lanes().isMuted(lane.row.lane());
  if (peak != peaks_.end()) paint.wave(lane, stem, peak->second, quiet ? theme().rule : colour);
}

void LoopStrip::drawLanes(const LanePainter& paint, QPainter& p, const LaneRows& rows) const {
  const Stems* s = document_.stems();
  const Axis time = timeAxis();
  for (const LaneRows::Area& lane : rows.all()) {
    if (!lane.row.isLane() || !lane.box.intersects(rows.lanesBox())) continue;
    const Part* part = partOf(lane.row);
    const Lane* made = s && part ? s->lane(part->id) : nullptr;
    drawLane(paint, p, lane, part ? QString::fromStdString(part->title()) : QString("Backing"),
             part ? colourOf(*part) : theme().muted,
             part ? (made ? &made->heard : nullptr) : (s ? &s->backing : nullptr));
  }
  for (const Part& part : session().parts) {
    const QRectF box = rows.box(part);
    if (!box.intersects(rows.lanesBox())) continue;
    paint.notes(part, events_.noteOf(part));
    paint.velocities(part, events_.hitOf(part));
    dives_.draw(p, part, box, time);
    wheel_.draw(p, part, box, time);
    if (const Lane* lane = s ? s->lane(part.id) : nullptr)
      paint.gain(box, lane->gain, {DuckTargetKind::Part, part.id, 1}, lane->contour.get());
  }
  if (s && !session().backing.asset.empty())
    paint.gain(rows.box(LoopRow{Of::Backing}), s->backingGain, {DuckTargetKind::Backing, 0, 0});
  drawAutomation(p, rows);
  heads_.drawSwitches(p, rows);
  for (const LaneRows::Area& lane : rows.all())
    if (transport_.isPlaying() && lane.row.isLane()) heads_.drawMeter(p, lane);
  for (const Part& part : session().parts) paint.hint(part);
}

void LoopStrip::drawCursor(QPainter& p, const LaneRows& rows) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const Stems* stems = document_.stems();
  if (stems && !stems->hitFrames().empty()) {
    const auto i = std::min(stems->hitFrames().size() - 1, static_cast<size_t>(std::max(0, selection_.hit())));
    const double at = stems->hitFrames()[i] / document_.track().framesPerQuarter();
    const double px = x.pixel(at), y = rows.box(session().kick()).top() + 1;
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(t.kick);
    if (x.holds(at))
      p.drawPolygon(QPolygonF({QPointF(px - 4, y), QPointF(px + 5, y), QPointF(px + 0.5, y + 6)}));
    p.setBrush(Qt::NoBrush);
  }
  if (hasFocus() && x.holds(cursor_)) {
    const QRectF box = rows.box(hand());
    p.setPen(QPen(t.bass, 1.5));
    p.drawRect(QRectF(QPointF(x.pixel(cursor_), box.top() + 1),
                      QPointF(x.pixel(events_.after(cursor_)), box.bottom() - 1)));
  }
  if (!x.holds(transport_.positionQuarters())) return;
  const double px = std::round(x.pixel(transport_.positionQuarters())) + 0.5;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(px, 0), QPointF(px, height()));
}

}  // namespace heft::app
