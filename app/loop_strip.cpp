#include "app/loop_strip.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace heft::app {
namespace {

constexpr double kHead = 152.0, kRight = 12.0, kRuler = 20.0;
constexpr double kGrid = 0.25;

Lane laneOf(int row) {
  return row == 1 ? Lane::Kick : row == 2 ? Lane::Bass : Lane::Backing;
}

}  // namespace

LoopStrip::LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), transport_(transport), selection_(selection) {
  setObjectName("Loop strip");
  setAccessibleName("Loop strip");
  setToolTip(
      "Click in the kick lane to place or remove a hit. In the bass lane drag to place, move or lengthen a "
      "note; the wheel of notes is up and down. Alt drags without the grid.");
  setFixedHeight(164);
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  connect(&document_, &Document::rendered, this, &LoopStrip::readPeaks);
  for (auto signal : {&Document::changed, &Document::rendered, &Document::studied})
    connect(&document_, signal, this, qOverload<>(&QWidget::update));
  connect(&transport_, &Transport::moved, this, qOverload<>(&QWidget::update));
  connect(&transport_, &Transport::stateChanged, this, qOverload<>(&QWidget::update));
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
}

// Kick, bass and backing share a scale, so that their sizes can be compared; the sum has its own.
void LoopStrip::readPeaks() {
  const Stems* s = document_.stems();
  if (!s) return;
  auto peak = [](const Stem& stem) {
    float most = 0.0f;
    for (size_t b = 0; b < stem.blockCount(); ++b)
      for (float x : stem.block(b).channels[0]) most = std::max(most, std::abs(x));
    return most;
  };
  const float kick = peak(s->kick), bass = peak(s->bass), backing = peak(s->backing), sum = peak(s->sum);
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
  return {0.0, document_.track().loopQuarters(), kHead, width() - kRight};
}
QPointF LoopStrip::kickAt(double quarters) const {
  return {timeAxis().pixel(quarters) + 2, boxOf(Row::Kick).center().y()};
}
QPointF LoopStrip::bassAt(double quarters) const {
  return {timeAxis().pixel(quarters), boxOf(Row::Bass).center().y()};
}

double LoopStrip::snapped(double quarters, bool free) const {
  const double loop = document_.track().loopQuarters();
  const double at = free ? quarters : std::floor(quarters / kGrid + 1e-9) * kGrid;
  return std::clamp(at, 0.0, loop - (free ? 0.01 : std::min(kGrid, loop)));
}

int LoopStrip::noteAt(double quarters) const {
  const auto& notes = document_.session().bass.notes;
  for (size_t i = 0; i < notes.size(); ++i)
    if (quarters >= notes[i].startQuarters && quarters < notes[i].startQuarters + notes[i].lengthQuarters)
      return static_cast<int>(i);
  return -1;
}

bool LoopStrip::gripsEnd(int note, double x) const {
  const Note& n = document_.session().bass.notes[static_cast<size_t>(note)];
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
  for (double at = 0.0; at < track.loopQuarters() - 1e-9; at += kGrid) {
    const double beats = at / beat;
    const bool onBeat = std::abs(beats - std::round(beats)) < 1e-6;
    const double px = std::round(x.pixel(at)) + 0.5;
    p.setPen(QPen(onBeat ? t.rule : withAlpha(t.rule, 0.5), 1.0));
    p.drawLine(QPointF(px, onBeat ? 4 : kRuler), QPointF(px, height() - 4));
    if (!onBeat) continue;
    const int n = static_cast<int>(std::lround(beats));
    if (x.pixel(beat) - x.pixel(0) < 34 && n % track.beatsPerBar != 0) continue;
    p.setPen(t.muted);
    p.drawText(QPointF(px + 4, 14),
               QString("%1.%2").arg(n / track.beatsPerBar + 1).arg(n % track.beatsPerBar + 1));
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
  const bool quiet = row != Row::Sum && (transport_.isMuted(laneOf(static_cast<int>(row))));
  const auto frames = static_cast<int64_t>(stem->frames());
  const float scale = 1.0f / shownPeak_[static_cast<size_t>(row)];
  drawWave(
      p, box.left(), box.right(), box.center().y(), box.height() - 6, 0,
      static_cast<double>(frames) / box.width(),
      [&](int64_t i) {
        return scale * stem->at(0, static_cast<size_t>(std::clamp<int64_t>(i, 0, frames - 1)));
      },
      quiet ? t.rule : colour);
}

void LoopStrip::drawNotes(QPainter& p) const {
  const Theme& t = theme();
  const QRectF box = boxOf(Row::Bass);
  const Axis x = timeAxis();
  const auto& notes = document_.session().bass.notes;
  p.setFont(axisFont());
  for (size_t i = 0; i < notes.size(); ++i) {
    const Note& n = notes[i];
    if (n.startQuarters >= document_.track().loopQuarters()) continue;
    const double left = x.pixel(n.startQuarters),
                 right = std::min(x.pixel(n.startQuarters + n.lengthQuarters), box.right());
    const QRectF slip(QPointF(left + 0.5, box.top() + 3.5), QPointF(right - 1.5, box.bottom() - 2.5));
    const bool chosen = static_cast<int>(i) == note_;
    p.setBrush(withAlpha(t.bass, chosen ? 0.16 : 0.07));
    p.setPen(QPen(chosen ? t.bass : withAlpha(t.bass, 0.45), 1.0));
    p.drawRect(slip);
    const QString name = QString::fromStdString(noteName(n.midi, document_.track().notes));
    if (slip.width() > p.fontMetrics().horizontalAdvance(name) + 6)
      drawLabel(p, QPointF(slip.left() + 4, slip.bottom() - 1), Qt::AlignLeft | Qt::AlignBottom, name, t.ink,
                withAlpha(t.page, 0.85));
  }
  p.setBrush(Qt::NoBrush);
}

void LoopStrip::drawGain(QPainter& p) const {
  const Stems* stems = document_.stems();
  if (!stems || !document_.session().duck.on || stems->gain.frames() == 0) return;
  const QRectF box = boxOf(Row::Bass).adjusted(0, 3, 0, -3);
  QPolygonF line;
  const double perPixel = static_cast<double>(stems->frames) / box.width();
  for (double x = 0; x < box.width(); x += 1.0)
    line << QPointF(
        box.left() + x,
        box.bottom() -
            box.height() * stems->gain.at(0, std::min(stems->frames - 1, static_cast<size_t>(x * perPixel))));
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
    const Lane lane = laneOf(static_cast<int>(a.row));
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
  if (stems && !stems->hitFrames.empty()) {
    const auto i = std::min(stems->hitFrames.size() - 1, static_cast<size_t>(std::max(0, selection_.hit())));
    const double px = x.pixel(stems->hitFrames[i] / document_.track().framesPerQuarter());
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(t.kick);
    const double y = boxOf(Row::Kick).top() + 1;
    p.drawPolygon(QPolygonF({QPointF(px - 4, y), QPointF(px + 5, y), QPointF(px + 0.5, y + 6)}));
    p.setBrush(Qt::NoBrush);
  }
  if (hasFocus()) {
    const QRectF box = boxOf(cursorRow_);
    p.setPen(QPen(t.bass, 1.5));
    p.drawRect(
        QRectF(QPointF(x.pixel(cursor_), box.top() + 1), QPointF(x.pixel(cursor_ + kGrid), box.bottom() - 1)));
  }
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
  drawLane(p, Row::Kick, "Kick", t.kick, s ? &s->kick : nullptr);
  drawLane(p, Row::Bass, "Bass", t.bass, s ? &s->bass : nullptr);
  if (!document_.session().backing.asset.empty())
    drawLane(p, Row::Backing, "Backing", t.muted, s ? &s->backing : nullptr);
  drawLane(p, Row::Sum, "Sum", t.ink, s ? &s->sum : nullptr);
  drawNotes(p);
  drawGain(p);
  drawHeads(p);
  if (document_.session().kick.hits.empty() && document_.session().bass.notes.empty()) {
    p.setFont(bodyFont());
    drawLabel(p, boxOf(Row::Kick).center(), Qt::AlignCenter, "click to place a kick hit", t.muted, t.page);
    drawLabel(p, boxOf(Row::Bass).center(), Qt::AlignCenter, "drag to place a bass note", t.muted, t.page);
  }
  drawCursor(p);
}

void LoopStrip::changeNotes(const QString& name, const std::function<void(std::vector<Note>&)>& change,
                            const QString& merge) {
  document_.edit(
      name, [&](Session& s) { change(s.bass.notes); }, merge);
}

void LoopStrip::toggleHit(double quarters, bool free) {
  const double at = snapped(quarters, free);
  const auto& hits = document_.session().kick.hits;
  const auto same = std::find_if(hits.begin(), hits.end(), [&](const Hit& h) {
    return free ? std::abs(h.startQuarters - at) < 0.03
                : h.startQuarters >= at - 1e-6 && h.startQuarters < at + kGrid - 1e-6;
  });
  const bool there = same != hits.end();
  const auto index = same - hits.begin();
  document_.edit(there ? "remove kick hit" : "place kick hit", [&](Session& s) {
    if (there) {
      s.kick.hits.erase(s.kick.hits.begin() + index);
    } else {
      s.kick.hits.push_back({at, 1.0});
      std::sort(s.kick.hits.begin(), s.kick.hits.end(),
                [](const Hit& a, const Hit& b) { return a.startQuarters < b.startQuarters; });
    }
  });
}

void LoopStrip::pressBass(double quarters, double x, bool free) {
  note_ = noteAt(quarters);
  if (note_ >= 0) {
    const Note& n = document_.session().bass.notes[static_cast<size_t>(note_)];
    grip_ = gripsEnd(note_, x) ? Grip::End : Grip::Move;
    gripOffset_ = quarters - n.startQuarters;
    update();
    return;
  }
  // A new note takes the pitch of the one before it, else the tonic near A1.
  const double at = snapped(quarters, free);
  int midi = nearestOfClass(32.0, document_.track().key.tonic);
  for (const Note& n : document_.session().bass.notes)
    if (n.startQuarters < at) midi = n.midi;
  changeNotes(
      "place bass note",
      [&](std::vector<Note>& notes) {
        notes.push_back({at, kGrid, midi, 0.8});
        std::sort(notes.begin(), notes.end(),
                  [](const Note& a, const Note& b) { return a.startQuarters < b.startQuarters; });
      },
      "note");
  note_ = noteAt(at + 1e-6);
  grip_ = Grip::New;
}

void LoopStrip::dragNote(double quarters, bool free) {
  if (note_ < 0 || note_ >= static_cast<int>(document_.session().bass.notes.size())) return;
  const auto index = static_cast<size_t>(note_);
  const Note before = document_.session().bass.notes[index];
  Note n = before;
  if (grip_ == Grip::Move) {
    n.startQuarters =
        std::clamp(free ? quarters - gripOffset_ : std::round((quarters - gripOffset_) / kGrid) * kGrid, 0.0,
                   std::max(0.0, document_.track().loopQuarters() - 0.05));
  } else {
    const double end = free ? quarters : std::ceil(quarters / kGrid - 0.2) * kGrid;
    n.lengthQuarters = std::clamp(end - n.startQuarters, free ? 0.05 : kGrid, document_.track().loopQuarters());
  }
  if (n == before) return;
  changeNotes(
      grip_ == Grip::New    ? "place bass note"
      : grip_ == Grip::Move ? "move bass note"
                            : "lengthen bass note",
      [&](std::vector<Note>& notes) {
        notes.erase(notes.begin() + static_cast<ptrdiff_t>(index));
        const auto place = std::upper_bound(notes.begin(), notes.end(), n.startQuarters,
                                            [](double at, const Note& o) { return at < o.startQuarters; });
        note_ = static_cast<int>(place - notes.begin());
        notes.insert(place, n);
      },
      "note");
}

void LoopStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QPointF at = event->position();
  const Row row = rowAt(at);
  const bool free = event->modifiers() & Qt::AltModifier;
  if (row == Row::Kick || row == Row::Bass || row == Row::Backing)
    for (bool solo : {true, false})
      if (headButton(row, solo).adjusted(-2, -2, 2, 2).contains(at)) {
        const Lane lane = laneOf(static_cast<int>(row));
        solo ? transport_.setSolo(lane, !transport_.isSolo(lane))
             : transport_.setMuted(lane, !transport_.isMuted(lane));
        return;
      }
  if (at.x() < kHead || at.x() > width() - kRight) return;
  const double quarters = timeAxis().value(at.x());
  cursor_ = snapped(quarters, false);
  if (row == Row::Kick) cursorRow_ = row, toggleHit(quarters, free);
  if (row == Row::Bass) cursorRow_ = row, pressBass(quarters, at.x(), free);
  if (row == Row::Ruler || row == Row::Sum)
    if (const Stems* s = document_.stems()) {
      // The hit nearest before the pointer is the one that the stages look at.
      int hit = 0;
      for (size_t i = 0; i < s->hitFrames.size(); ++i)
        if (s->hitFrames[i] <= (quarters + 0.1) * document_.track().framesPerQuarter())
          hit = static_cast<int>(i);
      selection_.setHit(hit);
    }
}

void LoopStrip::mouseMoveEvent(QMouseEvent* event) {
  const double quarters = timeAxis().value(event->position().x());
  if (grip_ != Grip::None) return dragNote(quarters, event->modifiers() & Qt::AltModifier);
  const int over = rowAt(event->position()) == Row::Bass ? noteAt(quarters) : -1;
  setCursor(over < 0                                ? Qt::ArrowCursor
            : gripsEnd(over, event->position().x()) ? Qt::SizeHorCursor
                                                    : Qt::OpenHandCursor);
}

void LoopStrip::mouseReleaseEvent(QMouseEvent*) {
  grip_ = Grip::None;
  document_.endDrag();
}

void LoopStrip::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const double loop = document_.track().loopQuarters();
  const bool shift = event->modifiers() & Qt::ShiftModifier;
  const int here = noteAt(cursor_ + 1e-6);
  auto changeHere = [&](const QString& name, auto change) {
    if (here >= 0)
      changeNotes(
          name, [&](std::vector<Note>& n) { change(n[static_cast<size_t>(here)]); }, "key note");
  };
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    const double way = key == Qt::Key_Right ? kGrid : -kGrid;
    if (shift && cursorRow_ == Row::Bass)
      changeHere("lengthen bass note",
                 [&](Note& n) { n.lengthQuarters = std::clamp(n.lengthQuarters + way, kGrid, loop); });
    else
      cursor_ = std::clamp(cursor_ + way, 0.0, std::max(0.0, loop - kGrid));
  } else if (key == Qt::Key_Up || key == Qt::Key_Down) {
    const int way = key == Qt::Key_Up ? 1 : -1;
    if (cursorRow_ == Row::Bass && here >= 0 && !(event->modifiers() & Qt::ControlModifier))
      changeHere("move bass note",
                 [&](Note& n) { n.midi = std::clamp(n.midi + way * (shift ? 12 : 1), 0, 127); });
    else
      cursorRow_ = way > 0 ? Row::Kick : Row::Bass;
  } else if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
    cursorRow_ = key == Qt::Key_PageUp ? Row::Kick : Row::Bass;
  } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
    if (cursorRow_ == Row::Kick)
      toggleHit(cursor_, false);
    else if (here < 0)
      pressBass(cursor_, timeAxis().pixel(cursor_), false), grip_ = Grip::None, document_.endDrag();
  } else if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    if (cursorRow_ == Row::Bass && here >= 0)
      changeNotes("remove bass note", [&](std::vector<Note>& n) { n.erase(n.begin() + here); });
  } else {
    return QWidget::keyPressEvent(event);
  }
  note_ = noteAt(cursor_ + 1e-6);
  event->accept();
  update();
}

void LoopStrip::contextMenuEvent(QContextMenuEvent* event) {
  if (rowAt(event->pos()) != Row::Bass) return;
  const int note = noteAt(timeAxis().value(event->pos().x()));
  if (note < 0) return;
  QMenu menu(this);
  menu.setObjectName("Note menu");
  const Note& n = document_.session().bass.notes[static_cast<size_t>(note)];
  QMenu* pitch = menu.addMenu("Note");
  for (int midi = n.midi + 12; midi >= std::max(0, n.midi - 12); --midi) {
    if (!document_.track().key.contains(midi) && midi != n.midi) continue;
    QAction* action = pitch->addAction(QString::fromStdString(noteName(midi, document_.track().notes)));
    action->setCheckable(true);
    action->setChecked(midi == n.midi);
    connect(action, &QAction::triggered, this, [this, note, midi] {
      changeNotes("move bass note",
                  [&](std::vector<Note>& notes) { notes[static_cast<size_t>(note)].midi = midi; });
    });
  }
  connect(menu.addAction("Remove"), &QAction::triggered, this, [this, note] {
    changeNotes("remove bass note", [&](std::vector<Note>& notes) { notes.erase(notes.begin() + note); });
  });
  menu.exec(event->globalPos());
}

}  // namespace heft::app
