#include "app/loop_strip.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "core/theory/text.h"

namespace heft::app {
LoopStrip::LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), transport_(transport), selection_(selection) {
  setObjectName("Loop strip");
  setProperty(kAccessibleRole, QAccessible::List);  // before its name, which is told to readers at once
  setAccessibleName("Loop strip");
  setToolTip(
      "Click to place, again to remove; drag to move, Shift drags velocity. Right-click for more; F1 lists the "
      "keys.");
  setMinimumHeight(132);
  setMaximumHeight(420);
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  addGridFields();
  connect(&document_, &Document::rendered, this, &LoopStrip::readPeaks);
  connect(&document_, &Document::replaced, this,
          [this] { viewStart_ = viewQuarters_ = cursor_ = 0.0, note_ = -1, chosenAt_.reset(), mark({}); });
  for (auto signal : {&Document::changed, &Document::rendered, &Document::studied})
    connect(&document_, signal, this, qOverload<>(&QWidget::update));
  connect(&transport_, &Transport::moved, this, qOverload<>(&QWidget::update));
  connect(&transport_, &Transport::stateChanged, this, qOverload<>(&QWidget::update));
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
}

// The grid's division and swing stand over the lanes' heads.
void LoopStrip::addGridFields() {
  Document& doc = document_;
  auto setGrid = [&doc](Grid grid, const QString& name, const QString& merge) {
    doc.edit(
        name, [&](Session& s) { s = withGrid(std::move(s), grid); }, merge);
  };
  auto* division = new ValueField(
      {.caption = {},
       .name = "Grid",
       .tip = "What hits and notes catch on: a note length such as 1/16, 1/8t or 1/32",
       .text = [&doc] { return "grid " + QString::fromStdString(doc.session().grid.division.text()); },
       .commit = [&doc, setGrid](const QString& text) -> std::optional<QString> {
         const auto time = parseTime(QString(text).remove("grid").trimmed().toStdString());
         if (!time || !time->isNote() || time->quarters() < 1.0 / 32.0 || time->quarters() > 4.0)
           return "Write a note length from 1/128 to 1/1, such as 1/16 or 1/8t";
         // Another division leaves everything where it sounds.
         doc.edit("set grid", [&](Session& s) { s.grid.division = *time; });
         return std::nullopt;
       },
       .reset = [&doc] { doc.edit("set grid", [](Session& s) { s.grid.division = TimeValue::note(1, 16); }); }},
      this);
  auto setSwing = [&doc, setGrid](double swing, const QString& merge) {
    Grid grid = doc.session().grid;
    grid.swing = std::clamp(std::round(swing * 100.0) / 100.0, 0.0, 1.5);
    setGrid(grid, "set swing", merge);
  };
  auto* swing = new ValueField(
      {.caption = {},
       .name = "Swing",
       .tip = "How late every second division comes: 100 % is a triplet feel. All hits and notes move with it.",
       .text = [&doc] { return QString("swing %1 %").arg(std::lround(100.0 * doc.session().grid.swing)); },
       .commit = [setSwing](const QString& text) -> std::optional<QString> {
         const auto value = parseNumber(QString(text).remove("swing").remove("%").trimmed().toStdString());
         if (!value || *value < 0 || *value > 150) return "Write a swing from 0 to 150 %";
         setSwing(*value / 100.0, {});
         return std::nullopt;
       },
       .step = [&doc, setSwing](
                   int steps,
                   bool fine) { setSwing(doc.session().grid.swing + steps * (fine ? 0.01 : 0.05), "swing"); },
       .endDrag = [&doc] { doc.endDrag(); },
       .reset = [setSwing] { setSwing(0.0, {}); }},
      this);
  auto lay = [division, swing] {
    division->refresh(), swing->refresh();
    division->setGeometry(QRect(QPoint(16, 0), division->sizeHint()));
    swing->setGeometry(QRect(QPoint(82, 0), swing->sizeHint()));
  };
  connect(&document_, &Document::changed, this, lay);
  lay();
}

// Kick, bass and backing share a scale, so that their sizes can be compared; the sum has its own.
void LoopStrip::readPeaks() {
  const Stems* s = document_.stems();
  if (!s) return;
  auto peak = [](const Stem& stem) {
    float most = 0.0f;
    for (size_t b = 0; b < stem.blockCount(); ++b)
      for (const auto& channel : stem.block(b).channels)
        for (float x : channel) most = std::max(most, std::abs(x));
    return most;
  };
  const float kick = peak(s->kick()), bass = peak(s->bass()), backing = peak(s->backing), sum = peak(s->sum);
  shownPeak_.fill(std::max({kick, bass, backing, 0.05f}));
  shownPeak_[static_cast<size_t>(Row::Sum)] = std::max(sum, 0.05f);
  silent_ = {true, kick == 0.0f, bass == 0.0f, backing == 0.0f, sum == 0.0f, true};
}

std::vector<LoopStrip::RowArea> LoopStrip::rows() const {
  std::vector<Row> lanes{Row::Kick, Row::Bass};
  if (!document_.session().backing.asset.empty()) lanes.push_back(Row::Backing);
  lanes.push_back(Row::Sum);
  std::vector<RowArea> out{{Row::Ruler, QRectF(kHead, 0, width() - kHead - kRight, kRuler)}};
  // The bass lane is taller: its notes carry names.
  const double unit = (height() - kRuler - 4) / (static_cast<double>(lanes.size()) + 0.35);
  double y = kRuler;
  for (Row row : lanes) {
    const double h = row == Row::Bass ? 1.35 * unit : unit;
    out.push_back({row, QRectF(kHead, y, width() - kHead - kRight, h)});
    y += h;
  }
  return out;
}

QRectF LoopStrip::boxOf(Row row) const {
  for (const RowArea& a : rows())
    if (a.row == row) return a.box;
  return {};
}

LoopStrip::Row LoopStrip::rowAt(const QPointF& at) const {
  for (const RowArea& a : rows())
    if (at.y() >= a.box.top() && at.y() < a.box.bottom()) return a.row;
  return Row::None;
}

Axis LoopStrip::timeAxis() const {
  const double loop = document_.track().loopQuarters();
  const double shown = viewQuarters_ > 0.0 ? std::min(viewQuarters_, loop) : loop;
  const double start = std::clamp(viewStart_, 0.0, loop - shown);
  return {start, start + shown, kHead, width() - kRight};
}
QPointF LoopStrip::kickAt(double quarters) const {
  return {timeAxis().pixel(quarters) + 2, boxOf(Row::Kick).center().y()};
}
QPointF LoopStrip::bassAt(double quarters) const {
  return {timeAxis().pixel(quarters), boxOf(Row::Bass).center().y()};
}

double LoopStrip::snapped(double quarters, bool free) const {
  const double loop = document_.track().loopQuarters();
  if (free) return std::clamp(quarters, 0.0, loop - 0.01);
  const double most = lineBefore(document_.session().grid, loop - 1e-4);
  return std::clamp(lineBefore(document_.session().grid, quarters), 0.0, most);
}

int LoopStrip::noteAt(double quarters) const {
  const auto& notes = document_.session().bass().notes;
  for (size_t i = 0; i < notes.size(); ++i)
    if (quarters >= notes[i].startQuarters && quarters < notes[i].startQuarters + notes[i].lengthQuarters)
      return static_cast<int>(i);
  return -1;
}

bool LoopStrip::gripsEnd(int note, double x) const {
  const Note& n = document_.session().bass().notes[static_cast<size_t>(note)];
  const double end = timeAxis().pixel(n.startQuarters + n.lengthQuarters),
               start = timeAxis().pixel(n.startQuarters);
  return end - x < std::min(8.0, 0.35 * (end - start));
}

void LoopStrip::drawRuler(QPainter& p) const {
  const Theme& t = theme();
  const Track& track = document_.track();
  const Axis x = timeAxis();
  const double beat = 4.0 / track.beatUnit;
  p.setFont(axisFont());
  const Grid& grid = document_.session().grid;
  for (double at = lineBefore(grid, x.from); at < x.to - 1e-9; at = lineAfter(grid, at)) {
    if (at < x.from - 1e-9) continue;
    const double beats = at / beat;
    const bool onBeat = std::abs(beats - std::round(beats)) < 1e-6;
    const double px = std::round(x.pixel(at)) + 0.5;
    p.setPen(QPen(onBeat ? t.rule : withAlpha(t.rule, 0.5), 1.0));
    p.drawLine(QPointF(px, onBeat ? 4 : kRuler), QPointF(px, height() - 4));
    // Close up the sixteenths are named too.
    const double inBeat = (beats - std::floor(beats + 1e-6)) * beat;
    const int sixteenth = static_cast<int>(std::lround(straightened(grid, inBeat) / division())) + 1;
    if (!onBeat && x.pixel(division()) - x.pixel(0.0) < 60) continue;
    const int n = static_cast<int>(std::floor(beats + 1e-6));
    if (x.pixel(beat) - x.pixel(0.0) < 34 && n % track.beatsPerBar != 0) continue;
    const QString place = QString("%1.%2").arg(n / track.beatsPerBar + 1).arg(n % track.beatsPerBar + 1);
    p.setPen(onBeat ? t.ink : t.muted);
    p.drawText(QPointF(px + 4, 14), onBeat ? place : place + "." + QString::number(sixteenth));
  }
}

void LoopStrip::drawLane(QPainter& p, Row row, const QString& name, const QColor& colour,
                         const Stem* stem) const {
  const QRectF box = boxOf(row);
  const Theme& t = theme();
  p.setPen(QPen(t.rule, 1.0));
  p.drawLine(QPointF(0, box.top() + 0.5), QPointF(width(), box.top() + 0.5));
  p.setFont(bodyFont());
  drawLabel(p, QPointF(16, box.center().y()), Qt::AlignLeft | Qt::AlignVCenter, name, colour,
            QColor(0, 0, 0, 0));
  if (!stem || stem->frames() == 0 || silent_[static_cast<size_t>(row)]) return;
  const bool quiet = row != Row::Sum && (transport_.isMuted(laneOf(row)));
  const auto frames = static_cast<int64_t>(stem->frames());
  const Axis time = timeAxis();
  const double perQuarter = document_.track().framesPerQuarter();
  const float scale = 1.0f / shownPeak_[static_cast<size_t>(row)];
  drawWave(
      p, box.left(), box.right(), box.center().y(), box.height() - 6, time.from * perQuarter,
      (time.to - time.from) * perQuarter / box.width(),
      [&](int64_t i) {
        return scale * stem->at(0, static_cast<size_t>(std::clamp<int64_t>(i, 0, frames - 1)));
      },
      quiet ? t.rule : colour);
}

// The pitches of the line, an octave of them at least, so that its height says how high a note is.
std::pair<int, int> LoopStrip::shownPitches() const {
  int low = 127, high = 0;
  for (const Note& n : document_.session().bass().notes)
    low = std::min(low, n.midi), high = std::max(high, n.midi);
  if (low > high) return {27, 39};
  const int missing = std::max(0, 12 - (high - low));
  return {low - missing / 2, high + missing - missing / 2};
}

QRectF LoopStrip::noteBox(const Note& n) const {
  constexpr double kHeight = 15.0;
  const QRectF box = boxOf(Row::Bass).adjusted(0, 3, 0, -3);
  const auto [low, high] = shownPitches();
  const double room = std::max(0.0, box.height() - kHeight);
  const double top = box.top() + room * (high - n.midi) / std::max(1, high - low);
  const Axis x = timeAxis();
  return QRectF(QPointF(x.pixel(n.startQuarters), top), QPointF(x.pixel(n.endQuarters()), top + kHeight));
}

std::vector<AccessibleItem> LoopStrip::accessibleItems() const {
  std::vector<AccessibleItem> out;
  const Track& track = document_.track();
  auto place = [&](double quarters) {
    const int beat = static_cast<int>(quarters * track.beatUnit / 4.0 + 1e-6);
    return QString("at %1.%2").arg(beat / track.beatsPerBar + 1).arg(beat % track.beatsPerBar + 1);
  };
  for (const Hit& h : document_.session().kick().hits)
    out.push_back({QString("kick hit %1, velocity %2 %").arg(place(h.startQuarters)).arg(std::lround(100 * h.velocity)),
                   QRectF(timeAxis().pixel(h.startQuarters), boxOf(Row::Kick).top(), 6, boxOf(Row::Kick).height())
                       .toRect()});
  for (const Note& n : document_.session().bass().notes)
    out.push_back({QString("bass note %1 %2").arg(QString::fromStdString(noteName(n.midi, track.notes)),
                                                  place(n.startQuarters)),
                   noteBox(n).toRect()});
  return out;
}

void LoopStrip::drawNotes(QPainter& p) const {
  const Theme& t = theme();
  const QRectF box = boxOf(Row::Bass);
  const Axis x = timeAxis();
  const auto& notes = document_.session().bass().notes;
  p.setFont(axisFont());
  for (size_t i = 0; i < notes.size(); ++i) {
    const Note& n = notes[i];
    if (n.startQuarters >= x.to || n.startQuarters + n.lengthQuarters <= x.from) continue;
    const double left = std::max(x.pixel(n.startQuarters), box.left()),
                 right = std::min(x.pixel(n.startQuarters + n.lengthQuarters), box.right());
    const QRectF slip(QPointF(left + 0.5, noteBox(n).top()), QPointF(right - 1.5, noteBox(n).bottom()));
    const bool chosen = static_cast<int>(i) == note_;
    p.setBrush(withAlpha(t.bass, chosen ? 0.16 : 0.07));
    p.setPen(QPen(chosen ? t.bass : withAlpha(t.bass, 0.45), 1.0));
    p.drawRect(slip);
    const QString name = QString::fromStdString(noteName(n.midi, document_.track().notes));
    if (slip.width() > p.fontMetrics().horizontalAdvance(name) + 6)
      drawLabel(p, QPointF(slip.left() + 4, slip.center().y()), Qt::AlignLeft | Qt::AlignVCenter, name, t.ink,
                withAlpha(t.page, 0.85));
  }
  p.setBrush(Qt::NoBrush);
}

// A bar at each hit's and note's start, as tall as its velocity; a dot over hits at which layers rest.
void LoopStrip::drawVelocities(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  auto bars = [&](const auto& events, Row row, const QColor& colour) {
    const QRectF box = boxOf(row).adjusted(0, 4, 0, -3);
    for (const auto& e : events) {
      if (!x.holds(e.startQuarters)) continue;
      const double px = std::round(x.pixel(e.startQuarters)) + 1.0;
      p.fillRect(QRectF(px, box.bottom() - box.height() * e.velocity, 2, box.height() * e.velocity), colour);
      if (row == Row::Kick && chosenAt_ && std::abs(e.startQuarters - *chosenAt_) < 1e-6) {
        p.setPen(QPen(t.ink, 1.0));
        p.drawRect(QRectF(px - 2.5, box.top() - 1.5, 7, box.height() + 3));
      }
      if (!e.without.empty()) p.fillRect(QRectF(px + 4, box.top(), 4, 4), t.muted);
    }
  };
  bars(document_.session().kick().hits, Row::Kick, t.kick);
  bars(document_.session().bass().notes, Row::Bass, t.bass);
}

double LoopStrip::wheelY(double value) const {
  const QRectF box = boxOf(Row::Bass).adjusted(0, 5, 0, -5);
  return box.center().y() - 0.5 * box.height() * value;
}

// The pitch wheel's curve.
void LoopStrip::drawWheel(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const QRectF box = boxOf(Row::Bass);
  const Part& bass = document_.session().bass();
  p.save();
  p.setClipRect(box);
  p.setRenderHint(QPainter::Antialiasing);
  if (wheelMode_ || !bass.wheel.empty()) {
    p.setPen(QPen(t.reference, 1.5));
    QPolygonF line;
    for (double px = box.left(); px <= box.right(); px += 2.0)
      line << QPointF(px, wheelY(wheelValue(bass, x.value(px))));
    p.drawPolyline(line);
    // Handles as far as they have room; closer ones show when zoomed in.
    double lastX = -100.0;
    for (size_t i = 0; wheelMode_ && i < bass.wheel.size(); ++i) {
      const QPointF at = wheelAt(bass.wheel[i].quarters, bass.wheel[i].value);
      if (at.x() - lastX < 5.0) continue;
      p.setBrush(t.page);
      p.drawEllipse(at, 3, 3);
      lastX = at.x();
    }
  }
  p.restore();
  if (!wheelMode_) return;
  p.setFont(axisFont());
  drawLabel(p, QPointF(box.right() - 4, box.top() + 4), Qt::AlignRight | Qt::AlignTop,
            QString("pitch wheel, %1 st: click for a point, drag, click it away, right-click to leave")
                .arg(bass.wheelRange),
            t.referenceWords, t.page);
}

void LoopStrip::drawGain(QPainter& p) const {
  const Stems* stems = document_.stems();
  if (!stems || !document_.session().duck().on || stems->gain().frames() == 0) return;
  const QRectF box = boxOf(Row::Bass).adjusted(0, 3, 0, -3);
  QPolygonF line;
  const Axis time = timeAxis();
  const double perQuarter = document_.track().framesPerQuarter();
  for (double x = box.left(); x < box.right(); x += 1.0)
    line << QPointF(
        x, box.bottom() -
               box.height() * stems->gain().at(0, std::min(stems->frames - 1,
                                                           static_cast<size_t>(time.value(x) * perQuarter))));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().ink, 1.0));
  drawLineThrough(p, line);
}

QRectF LoopStrip::headButton(Row row, bool solo) const {
  const QRectF box = boxOf(row);
  return QRectF(solo ? 76 : 112, box.center().y() - 8, solo ? 33 : 34, 16);
}

void LoopStrip::drawHeads(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const RowArea& a : rows()) {
    if (a.row == Row::Ruler || a.row == Row::Sum) continue;
    const int lane = laneOf(a.row);
    for (bool solo : {true, false}) {
      const QRectF box = headButton(a.row, solo);
      const bool on = solo ? transport_.isSolo(lane) : transport_.isMuted(lane);
      p.setBrush(on ? QBrush(t.ink) : QBrush(Qt::NoBrush));
      p.setPen(QPen(on ? t.ink : t.rule, 1.0));
      p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
      p.setPen(on ? t.panel : t.muted);
      p.drawText(box, Qt::AlignCenter, solo ? "solo" : "mute");
    }
  }
  p.setBrush(Qt::NoBrush);
}

void LoopStrip::drawCursor(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const Stems* stems = document_.stems();
  if (stems && !stems->hitFrames().empty()) {
    const auto i = std::min(stems->hitFrames().size() - 1, static_cast<size_t>(std::max(0, selection_.hit())));
    const double at = stems->hitFrames()[i] / document_.track().framesPerQuarter();
    const double px = x.pixel(at);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(t.kick);
    const double y = boxOf(Row::Kick).top() + 1;
    if (x.holds(at))
      p.drawPolygon(QPolygonF({QPointF(px - 4, y), QPointF(px + 5, y), QPointF(px + 0.5, y + 6)}));
    p.setBrush(Qt::NoBrush);
  }
  if (hasFocus() && x.holds(cursor_)) {
    const QRectF box = boxOf(cursorRow_);
    p.setPen(QPen(t.bass, 1.5));
    p.drawRect(
        QRectF(QPointF(x.pixel(cursor_), box.top() + 1), QPointF(x.pixel(after(cursor_)), box.bottom() - 1)));
  }
  if (!x.holds(transport_.positionQuarters())) return;
  const double px = std::round(x.pixel(transport_.positionQuarters())) + 0.5;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(px, 0), QPointF(px, height()));
}

void LoopStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.fillRect(rect(), t.page);
  p.setPen(t.ink);
  p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
  drawRuler(p);
  const Stems* s = document_.stems();
  drawLane(p, Row::Kick, "Kick", t.kick, s ? &s->kick() : nullptr);
  drawLane(p, Row::Bass, "Bass", t.bass, s ? &s->bass() : nullptr);
  if (!document_.session().backing.asset.empty())
    drawLane(p, Row::Backing, "Backing", t.muted, s ? &s->backing : nullptr);
  drawLane(p, Row::Sum, "Sum", t.ink, s ? &s->sum : nullptr);
  drawNotes(p);
  drawVelocities(p);
  drawDives(p);
  drawWheel(p);
  drawGain(p);
  drawMarked(p);
  drawHeads(p);
  p.setFont(bodyFont());
  if (document_.session().kick().hits.empty())
    drawLabel(p, boxOf(Row::Kick).center(), Qt::AlignCenter, "click to place a kick hit", t.muted, t.page);
  if (document_.session().bass().notes.empty())
    drawLabel(p, boxOf(Row::Bass).center(), Qt::AlignCenter, "drag to place a bass note", t.muted, t.page);
  drawCursor(p);
}

}  // namespace heft::app
