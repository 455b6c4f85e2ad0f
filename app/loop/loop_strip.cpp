#include "app/loop/loop_strip.h"

#include <QScrollBar>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/fields/lane_level.h"
#include "app/fields/value_fields.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/events.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {

LoopStrip::LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent)
    : QWidget(parent),
      document_(document),
      transport_(transport),
      selection_(selection),
      meters_(document, transport),
      pen_(document) {
  setObjectName("Loop strip");
  setProperty(kAccessibleRole, QAccessible::List);  // before its name, because screen readers read it at once
  setAccessibleName("Loop strip");
  setToolTip(
      "Click to place, again to remove; drag to move, Shift drags velocity. Right-click for more; F1 lists the "
      "keys.");
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  scroll_ = new QScrollBar(Qt::Vertical, this);
  scroll_->setObjectName("Lanes"), scroll_->setAccessibleName("Lanes");
  scroll_->setFocusPolicy(Qt::NoFocus);
  connect(scroll_, &QScrollBar::valueChanged, this, [this] { layHeads(), update(); });
  addGridFields();
  output_ = new ValueField(outputLevelField(transport_), this);
  connect(&transport_, &Transport::stateChanged, this, [this] { output_->refresh(), layHeads(); });
  addHeadFields();
  connect(&document_, &Document::changed, this, &LoopStrip::addHeadFields);
  connect(&document_, &Document::changed, this, &LoopStrip::fitView);
  connect(&document_, &Document::rendered, this, &LoopStrip::readPeaks);
  connect(&document_, &Document::waved, this, &LoopStrip::readPeaks);
  connect(&document_, &Document::replaced, this, [this] {
    viewStart_ = viewQuarters_ = cursor_ = 0.0, handPart_ = session().kick().id, wasLong_ = false;
    note_.reset(), hit_.reset(), wheelPart_.reset(), mark({}), pen_.lay();
  });
  pen_.setStretches([this](double quarters) { return stretchAt(quarters); });
  connect(&document_, &Document::changed, this, [this] { pen_.follow(); });
  for (auto signal : {&Document::changed, &Document::rendered, &Document::waved, &Document::studied})
    connect(&document_, signal, this, qOverload<>(&QWidget::update));
  connect(&transport_, &Transport::moved, this, &LoopStrip::followPlayhead);
  connect(&transport_, &Transport::stateChanged, this, qOverload<>(&QWidget::update));
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
}

// The grid's division and swing are above the lanes' heads.
void LoopStrip::addGridFields() {
  Document& doc = document_;
  auto* division = new ValueField(
      {.caption = {},
       .name = "Grid",
       .tip = "Grid: a note length such as 1/16, 1/8t or 1/32. Hits and notes snap to it",
       .text = [&doc] { return "grid " + QString::fromStdString(doc.session().grid.division.text()); },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const auto time = parseTime(QString(text).remove("grid").trimmed().toStdString());
         if (!time || !time->isNote() || time->quarters() < 1.0 / 32.0 || time->quarters() > 4.0)
           return "Write a note length from 1/128 to 1/1, such as 1/16 or 1/8t";
         doc.edit(setGridDivision(*time));
         return std::nullopt;
       },
       .reset = [&doc] { doc.edit(setGridDivision(Grid().division)); }},
      this);
  auto* swing = new ValueField(
      {.caption = {},
       .name = "Swing",
       .tip = "Delay of every second grid step. 100 % is triplets",
       .text = [&doc] { return QString("swing %1 %").arg(std::lround(100.0 * doc.session().grid.swing)); },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const auto value = parseNumber(QString(text).remove("swing").remove("%").trimmed().toStdString());
         const double most = 100.0 * rangeOf(doc, {}, "grid.swing").high;
         if (!value || *value < 0 || *value > most) return QString("Write a swing from 0 to %1 %").arg(most);
         doc.edit(setSwing(*value / 100.0));
         return std::nullopt;
       },
       .step =
           [&doc](int steps, bool fine) {
             doc.edit(setSwing(doc.session().grid.swing + steps * (fine ? 0.01 : 0.05), "swing"));
           },
       .endDrag = [&doc] { doc.endDrag(); },
       .reset = [&doc] { doc.edit(setSwing(0.0)); }},
      this);
  auto lay = [division, swing] {
    division->refresh(), swing->refresh();
    division->setGeometry(QRect(QPoint(16, 0), division->sizeHint()));
    swing->setGeometry(QRect(QPoint(82, 0), swing->sizeHint()));
  };
  connect(&document_, &Document::changed, this, lay);
  lay();
}

// Each lane's level is at its head, beneath or beside its name.
void LoopStrip::addHeadFields() {
  std::vector<std::pair<int, std::string>> wanted;
  for (const Part& part : session().parts) wanted.emplace_back(part.id, part.title());
  if (!session().backing.asset.empty()) wanted.emplace_back(kBackingLane, "Backing");
  if (wanted != headsOf_) {
    headsOf_ = wanted;
    for (auto& [id, field] : levels_) field->hide(), field->setObjectName({}), field->deleteLater();
    levels_.clear();
    for (const auto& [id, name] : wanted) {
      levels_[id] = new ValueField(laneLevelField(document_, id), this);
      levels_[id]->show();
    }
    const int others = std::max(0, static_cast<int>(session().parts.size()) - 2);
    setMinimumHeight(132);
    setMaximumHeight(420 + 24 * others);
  }
  for (auto& [id, field] : levels_) field->refresh();
  layScroll(), layHeads();
}

void LoopStrip::layHeads() {
  for (auto& [id, field] : levels_) {
    const QRectF box = boxOf(id == kBackingLane ? Row{Of::Backing} : Row{Of::Part, id});
    const QSize size = field->sizeHint();
    field->setVisible(lanes().box.contains(QPointF(1.0, box.center().y() - 8.0)) &&
                      lanes().box.contains(QPointF(1.0, box.center().y() + 8.0)));
    field->setGeometry(QRect(QPoint(static_cast<int>(kHead) - 82 - size.width(),
                                    static_cast<int>(box.center().y()) - size.height() / 2),
                             size));
  }
  const QRectF sum = boxOf(Row{Of::Sum});
  const QSize size = output_->sizeHint();
  output_->setGeometry(QRect(QPoint(static_cast<int>(kHead) - 10 - size.width(),
                                    static_cast<int>(sum.center().y()) - size.height() / 2),
                             size));
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
    if (peak.peak > 0.0f)
      peaks_[lane == kBackingLane ? Row{Of::Backing} : Row{Of::Part, lane}] = {most, peak.channel};
  if (all.sum.peak > 0.0f) peaks_[Row{Of::Sum}] = {std::max(all.sum.peak, kLeast), all.sum.channel};
}

LoopStrip::Lanes LoopStrip::lanes() const {
  constexpr double kSumShare = 1.0, kLeastUnit = 26.0,
                   kPenLane = 88.0;  // px; a lane beside the pair is 0.7 of it
  // A bass lane is taller: its notes carry names. Parts beside the pair get less.
  std::vector<std::pair<Row, double>> wanted;
  for (const Part& part : session().parts)
    wanted.emplace_back(Row{Of::Part, part.id}, part.is() == PartRole::Other ? (part.playsNotes() ? 1.0 : 0.7)
                                                : part.playsNotes()          ? 1.35
                                                                             : 1.0);
  if (!session().backing.asset.empty()) wanted.emplace_back(Row{Of::Backing}, 1.0);
  double all = kSumShare;
  for (const auto& [row, share] : wanted) all += share;
  const double unit = std::max(kLeastUnit, (height() - kRuler - 4) / all);
  const double sumTop = height() - 4 - kSumShare * unit, wide = width() - kHead - kRight;
  Lanes out;
  out.box = QRectF(0, kRuler, width(), std::max(0.0, sumTop - kRuler));
  out.whole = unit * (all - kSumShare);
  // The lane in which automation is drawn is tall enough for a hand; the others scroll past it.
  if (pen_.isDrawing()) {
    const auto lane = laneOfOwner(session(), pen_.of().owner, pen_.of().key);
    for (auto& [row, share] : wanted)
      if (lane && laneOf(row) == *lane && unit * share < kPenLane) {
        out.whole += kPenLane - unit * share;
        share = kPenLane / unit;
      }
  }
  double y = kRuler - (out.scroll() ? scroll_->value() : 0);
  for (const auto& [row, share] : wanted) {
    out.areas.push_back({row, QRectF(kHead, y, wide, unit * share)});
    y += unit * share;
  }
  out.areas.push_back({Row{Of::Sum}, QRectF(kHead, sumTop, wide, kSumShare * unit)});
  return out;
}

std::vector<LoopStrip::RowArea> LoopStrip::rows() const {
  std::vector<RowArea> out{{Row{Of::Ruler}, QRectF(kHead, 0, width() - kHead - kRight, kRuler)}};
  const Lanes all = lanes();
  out.insert(out.end(), all.areas.begin(), all.areas.end());
  return out;
}

// The heads' meters, and the columns where the playhead was and is.
void LoopStrip::followPlayhead() {
  constexpr int kWide = 3;
  const double at = transport_.positionQuarters();
  // A page on where it leaves what is shown.
  if (transport_.isPlaying() && wasLong_ && viewQuarters_ > 0.0 && !timeAxis().holds(at)) scrollTo(at);
  const Axis x = timeAxis();
  const auto now = x.holds(at) ? std::optional(x.pixel(at)) : std::nullopt;
  QRegion stale(0, 0, static_cast<int>(kHead), height());
  for (const auto& column : {std::exchange(playheadX_, now), now})
    if (column) stale += QRect(static_cast<int>(*column) - kWide, 0, 2 * kWide + 1, height());
  update(stale);
}

// A track that has become long is shown a few bars at a time, one that is short again as a whole.
void LoopStrip::fitView() {
  constexpr int kShownAtOnce = 8, kFirstShown = 4;
  const Track& t = document_.track();
  const bool isLong = t.song || t.loopBeats > kShownAtOnce * t.beatsPerBar;
  if (isLong == wasLong_) return;
  wasLong_ = isLong;
  viewStart_ = 0.0, viewQuarters_ = isLong ? std::min(t.loopQuarters(), kFirstShown * t.barQuarters()) : 0.0;
  Q_EMIT viewChanged();
}

void LoopStrip::layScroll() {
  const Lanes all = lanes();
  scroll_->setVisible(all.scroll());
  scroll_->setGeometry(
      QRect(width() - 10, static_cast<int>(all.box.top()), 8, static_cast<int>(all.box.height())));
  scroll_->setPageStep(static_cast<int>(all.box.height()));
  scroll_->setRange(0, static_cast<int>(std::ceil(std::max(0.0, all.whole - all.box.height()))));
}

void LoopStrip::bringInSight(int part) {
  const Lanes all = lanes();
  const QRectF box = boxOf(Row{Of::Part, part});
  if (box.top() < all.box.top())
    scroll_->setValue(scroll_->value() - static_cast<int>(std::ceil(all.box.top() - box.top())));
  else if (box.bottom() > all.box.bottom())
    scroll_->setValue(scroll_->value() + static_cast<int>(std::ceil(box.bottom() - all.box.bottom())));
}

QRectF LoopStrip::boxOf(const Row& row) const {
  for (const RowArea& a : rows())
    if (a.row == row) return a.box;
  return {};
}

LoopStrip::Row LoopStrip::rowAt(const QPointF& at) const {
  const bool amongLanes = lanes().box.contains(QPointF(1.0, at.y()));
  for (const RowArea& a : rows()) {
    const bool isLane = a.row.of == Of::Part || a.row.of == Of::Backing;
    if (isLane == amongLanes && at.y() >= a.box.top() && at.y() < a.box.bottom()) return a.row;
  }
  return Row{};
}

const Part& LoopStrip::hand() const {
  const Part* part = session().part(handPart_);
  return part ? *part : session().kick();
}

Axis LoopStrip::timeAxis() const {
  const double loop = document_.track().loopQuarters();
  const double shown = viewQuarters_ > 0.0 ? std::min(viewQuarters_, loop) : loop;
  const double start = std::clamp(viewStart_, 0.0, loop - shown);
  return {start, start + shown, kHead, width() - kRight};
}

QPointF LoopStrip::partAt(int part, double quarters) const {
  return {timeAxis().pixel(quarters), boxOf(Row{Of::Part, part}).center().y()};
}

double LoopStrip::snapped(double quarters, bool free) const {
  const double loop = document_.track().loopQuarters();
  if (free) return std::clamp(quarters, 0.0, loop - 0.01);
  const double most = lineBefore(session().grid, loop - 1e-4);
  return std::clamp(lineBefore(session().grid, quarters), 0.0, most);
}

// The pitch range of the line, at least an octave, so that height shows pitch.
std::pair<int, int> LoopStrip::shownPitches(const Part& part) {
  int low = 127, high = 0;
  for (const Note& n : part.notes) low = std::min(low, n.midi), high = std::max(high, n.midi);
  if (low > high) return {27, 39};
  const int missing = std::max(0, 12 - (high - low));
  return {low - missing / 2, high + missing - missing / 2};
}

QRectF LoopStrip::noteBox(const Part& part, const Note& n) const {
  constexpr double kHeight = 15.0;
  const QRectF box = boxOf(part).adjusted(0, 3, 0, -3);
  const auto [low, high] = shownPitches(part);
  const double tall = std::min(kHeight, box.height()), room = std::max(0.0, box.height() - kHeight);
  const double top = box.top() + room * (high - n.midi) / std::max(1, high - low);
  const Axis x = timeAxis();
  return QRectF(QPointF(x.pixel(n.startQuarters), top), QPointF(x.pixel(n.endQuarters()), top + tall));
}

std::vector<AccessibleItem> LoopStrip::accessibleItems() const {
  std::vector<AccessibleItem> out;
  const Track& track = document_.track();
  auto place = [&](double quarters) {
    const int beat = static_cast<int>(quarters * track.beatUnit / 4.0 + 1e-6);
    return QString("at %1.%2").arg(beat / track.beatsPerBar + 1).arg(beat % track.beatsPerBar + 1);
  };
  for (const Part& part : session().parts) {
    const QString word = QString::fromStdString(partWord(part));
    const QRectF box = boxOf(part);
    for (const Hit& h : part.hits)
      out.push_back({QString("%1 hit %2, velocity %3 %")
                         .arg(word, place(h.startQuarters))
                         .arg(std::lround(100 * h.velocity)),
                     QRectF(timeAxis().pixel(h.startQuarters), box.top(), 6, box.height()).toRect()});
    for (const Note& n : part.notes)
      out.push_back(
          {QString("%1 note %2 %3")
               .arg(word, QString::fromStdString(noteName(n.midi, track.notes)), place(n.startQuarters)),
           noteBox(part, n).toRect()});
  }
  return out;
}

const Hit* LoopStrip::chosenHit() const {
  const Part* part = hit_ ? session().part(hit_->part) : nullptr;
  return part ? eventAt(part->hits, hit_->at) : nullptr;
}

const Note* LoopStrip::chosenNote() const {
  const Part* part = note_ ? session().part(note_->part) : nullptr;
  return part ? eventAt(part->notes, note_->at) : nullptr;
}

}  // namespace heft::app
