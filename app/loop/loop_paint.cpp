// Painting of the loop strip.

#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/edit.h"
#include "core/theory/text.h"

namespace heft::app {

// Lines every `step` quarters; names of bars and beats beside them.
void LoopStrip::drawGridLines(QPainter& p, double step, bool named) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const Track& track = document_.track();
  const double beat = 4.0 / track.beatUnit;
  for (double at = std::ceil(x.from / step - 1e-6) * step; at < x.to - 1e-9; at += step) {
    const double px = std::round(x.pixel(at)) + 0.5;
    p.setPen(QPen(named ? t.rule : withAlpha(t.rule, 0.5), 1.0));
    p.drawLine(QPointF(px, named ? 4 : kRuler), QPointF(px, height() - 4));
    if (!named) continue;
    const int n = static_cast<int>(std::floor(at / beat + 1e-6)), bar = n / track.beatsPerBar + 1;
    p.setPen(t.ink);
    p.drawText(QPointF(px + 4, 14), step >= track.barQuarters() - 1e-9
                                        ? QString::number(bar)
                                        : QString("%1.%2").arg(bar).arg(n % track.beatsPerBar + 1));
  }
}

// As much as has room: far out only every few bars, close up the grid's own lines and their names.
void LoopStrip::drawRuler(QPainter& p) const {
  constexpr double kName = 38.0, kLine = 5.0;  // px
  const Theme& t = theme();
  const Track& track = document_.track();
  const Axis x = timeAxis();
  const double beat = 4.0 / track.beatUnit, bar = track.barQuarters(), perQuarter = x.pixel(1.0) - x.pixel(0.0);
  p.setFont(axisFont());
  p.setRenderHint(QPainter::Antialiasing, false);
  double named = beat;
  if (beat * perQuarter < kName) named = bar;
  while (named * perQuarter < kName) named *= 2.0;
  if (named >= bar - 1e-9 && bar * perQuarter >= kLine && named > bar) drawGridLines(p, bar, false);
  if (named == bar && beat * perQuarter >= kLine) drawGridLines(p, beat, false);
  const Grid& grid = session().grid;
  if (division() * perQuarter >= kLine)
    for (double at = lineBefore(grid, x.from); at < x.to - 1e-9; at = lineAfter(grid, at)) {
      const double beats = at / beat;
      if (at < x.from - 1e-9 || std::abs(beats - std::round(beats)) < 1e-6) continue;
      const double px = std::round(x.pixel(at)) + 0.5;
      p.setPen(QPen(withAlpha(t.rule, 0.5), 1.0));
      p.drawLine(QPointF(px, kRuler), QPointF(px, height() - 4));
      // Zoomed in, the sixteenths have names too.
      if (division() * perQuarter < 60.0) continue;
      const int n = static_cast<int>(std::floor(beats + 1e-6));
      const double inBeat = (beats - n) * beat;
      p.setPen(t.muted);
      p.drawText(QPointF(px + 4, 14), QString("%1.%2.%3")
                                          .arg(n / track.beatsPerBar + 1)
                                          .arg(n % track.beatsPerBar + 1)
                                          .arg(std::lround(straightened(grid, inBeat) / division()) + 1));
    }
  drawGridLines(p, named, true);
}

namespace {

const LaneWave* waveOf(const std::map<int, LaneWave>& waves, int lane) {
  const auto at = waves.find(lane);
  return at == waves.end() ? nullptr : &at->second;
}

}  // namespace

void LoopStrip::drawLane(QPainter& p, const Row& row, const QString& name, const QColor& colour,
                         const Signal* stem) const {
  const QRectF box = boxOf(row);
  const Theme& t = theme();
  if (row.of != Of::Sum && (box.bottom() < lanes().box.top() || box.top() > lanes().box.bottom())) return;
  p.setPen(QPen(t.rule, 1.0));
  p.drawLine(QPointF(0, box.top() + 0.5), QPointF(width(), box.top() + 0.5));
  p.setFont(bodyFont());
  const auto level = levels_.find(laneOf(row));
  const int room = row.of == Of::Sum        ? output_->x() - 22
                   : level == levels_.end() ? static_cast<int>(kHead) - 24
                                            : level->second->x() - 22;
  drawLabel(p, QPointF(16, box.center().y()), Qt::AlignLeft | Qt::AlignVCenter,
            p.fontMetrics().elidedText(name, Qt::ElideRight, room), colour, QColor(0, 0, 0, 0));
  const auto peak = peaks_.find(row);
  if (!stem || stem->frames() == 0 || peak == peaks_.end()) return;
  const bool quiet = row.of != Of::Sum && transport_.lanes().isMuted(laneOf(row));
  const Axis time = timeAxis();
  const double perQuarter = document_.track().framesPerQuarter();
  const float scale = 1.0f / peak->second.peak;
  const size_t channel = peak->second.channel;
  const LaneWaves* waves = document_.waves();
  const LaneWave* wave = !waves ? nullptr : row.of == Of::Sum ? &waves->sum : waveOf(waves->lanes, laneOf(row));
  if (!wave && !stem->span().wraps) return;
  drawWave(p, box.left(), box.right(), box.center().y(), box.height() - 6, time.from * perQuarter,
           (time.to - time.from) * perQuarter / box.width(),
           wave ? WaveReader(*wave, scale) : WaveReader(*stem, channel, scale), quiet ? t.rule : colour);
}

namespace {

// A note's own alignment after its name: " +3.2 ms", " 90\u00b0".
QString moveWords(const NoteMove& move) {
  QString out;
  if (move.offsetMs != 0.0)
    out += QString(" %1%2 ms")
               .arg(move.offsetMs > 0 ? "+" : "", QString::fromStdString(formatNumber(move.offsetMs, 1)));
  if (move.phaseDegrees != 0.0) out += QString(" %1\u00b0").arg(move.phaseDegrees, 0, 'f', 0);
  return out;
}

}  // namespace

void LoopStrip::drawNotes(QPainter& p, const Part& part) const {
  const Theme& t = theme();
  const QColor colour = colourOf(part);
  const QRectF box = boxOf(part);
  const Axis x = timeAxis();
  const auto& notes = part.notes;
  p.setFont(axisFont());
  for (size_t i = 0; i < notes.size(); ++i) {
    const Note& n = notes[i];
    if (n.startQuarters >= x.to || n.startQuarters + n.lengthQuarters <= x.from) continue;
    const double left = std::max(x.pixel(n.startQuarters), box.left()),
                 right = std::min(x.pixel(n.startQuarters + n.lengthQuarters), box.right());
    if (right - left < 2.0) continue;
    const QRectF slip(QPointF(left + 0.5, noteBox(part, n).top()),
                      QPointF(right - 1.5, noteBox(part, n).bottom()));
    const bool chosen = note_ && note_->part == part.id && &n == chosenNote();
    p.setBrush(withAlpha(colour, chosen ? 0.16 : 0.07));
    p.setPen(QPen(chosen ? colour : withAlpha(colour, 0.45), 1.0));
    p.drawRect(slip);
    drawGlide(p, part, i);
    QString name = QString::fromStdString(noteName(n.midi, document_.track().notes));
    const QString moved = name + moveWords(n.move);
    if (slip.width() > p.fontMetrics().horizontalAdvance(moved) + 6) name = moved;
    if (slip.width() > p.fontMetrics().horizontalAdvance(name) + 6)
      drawLabel(p, QPointF(slip.left() + 4, slip.center().y()), Qt::AlignLeft | Qt::AlignVCenter, name, t.ink,
                withAlpha(t.page, 0.85));
  }
  p.setBrush(Qt::NoBrush);
}

// A tied note's line into the next one: from its end to where the other begins.
void LoopStrip::drawGlide(QPainter& p, const Part& part, size_t note) const {
  const auto& notes = part.notes;
  if (!notes[note].tie || note + 1 >= notes.size()) return;
  const Axis x = timeAxis();
  const Note &n = notes[note], &next = notes[note + 1];
  const QRectF from = noteBox(part, n), to = noteBox(part, next);
  constexpr double kLead = 8.0;  // px of the glide within the note itself
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(colourOf(part), 2.0));
  p.drawLine(QPointF(x.pixel(next.startQuarters) - kLead, from.center().y()),
             QPointF(x.pixel(next.startQuarters) + kLead, to.center().y()));
  p.setRenderHint(QPainter::Antialiasing, false);
}

// A bar at each hit's and note's start, as tall as its velocity; a dot over hits at which layers rest.
void LoopStrip::drawVelocities(QPainter& p, const Part& part) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  // Where they would merge the wave tells more.
  constexpr double kApart = 5.0;  // px
  auto bars = [&](const auto& events, bool hits) {
    const auto first = std::lower_bound(events.begin(), events.end(), x.from,
                                        [](const auto& e, double at) { return e.startQuarters < at; });
    const auto last = std::upper_bound(first, events.end(), x.to,
                                       [](double at, const auto& e) { return at < e.startQuarters; });
    if (static_cast<double>(last - first) * kApart > x.pixelTo - x.pixelFrom) return;
    const QRectF box = boxOf(part).adjusted(0, 4, 0, -3);
    for (const auto& e : events) {
      if (!x.holds(e.startQuarters)) continue;
      const double px = std::round(x.pixel(e.startQuarters)) + 1.0;
      p.fillRect(QRectF(px, box.bottom() - box.height() * e.velocity, 2, box.height() * e.velocity),
                 session().mutedAt(part.id, e.startQuarters) ? t.rule : colourOf(part));
      if (hits && hit_ == Chosen{part.id, e.startQuarters}) {
        p.setPen(QPen(t.ink, 1.0));
        p.drawRect(QRectF(px - 2.5, box.top() - 1.5, 7, box.height() + 3));
      }
      if (!e.without.empty()) p.fillRect(QRectF(px + 4, box.top(), 4, 4), t.muted);
    }
  };
  bars(part.hits, true);
  bars(part.notes, false);
}

// The pitch wheel's curve.
void LoopStrip::drawWheel(QPainter& p, const Part& part) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const QRectF box = boxOf(part);
  const bool drawn = wheelPart_ == part.id;
  p.save();
  p.setClipRect(box);
  p.setRenderHint(QPainter::Antialiasing);
  if (drawn || !part.wheel.empty()) {
    p.setPen(QPen(t.reference, 1.5));
    QPolygonF line;
    for (double px = box.left(); px <= box.right(); px += 2.0)
      line << QPointF(px, wheelY(part, wheelValue(part, x.value(px))));
    p.drawPolyline(line);
    // Handles that fit; closer ones show when zoomed in.
    double lastX = -100.0;
    for (size_t i = 0; drawn && i < part.wheel.size(); ++i) {
      const QPointF at(x.pixel(part.wheel[i].quarters), wheelY(part, part.wheel[i].value));
      if (at.x() - lastX < 5.0) continue;
      p.setBrush(t.page);
      p.drawEllipse(at, 3, 3);
      lastX = at.x();
    }
  }
  p.restore();
  if (!drawn) return;
  p.setFont(axisFont());
  drawLabel(p, QPointF(box.right() - 4, box.top() + 4), Qt::AlignRight | Qt::AlignTop,
            QString("pitch wheel, %1 st: click for a point, drag, click it away, right-click to leave")
                .arg(part.wheelRange),
            t.referenceWords, t.page);
}

void LoopStrip::drawGain(QPainter& p, const QRectF& lane, const Signal& gain, const DuckTarget& of,
                         const ContourLine* contour) const {
  const bool ducked = std::any_of(session().ducks.begin(), session().ducks.end(), [&](const Duck& d) {
    return session().acts(d) && d.target.kind == of.kind &&
           (of.kind == DuckTargetKind::Backing || d.target.part == of.part);
  });
  if ((!ducked && !contour) || gain.frames() == 0) return;
  const QRectF box = lane.adjusted(0, 3, 0, -3);
  QPolygonF line;
  const Axis time = timeAxis();
  const double perQuarter = document_.track().framesPerQuarter();
  const double quarterSeconds = 60.0 / document_.track().tempoBpm;
  const int id = of.kind == DuckTargetKind::Backing ? kBackingLane : of.part;
  const LaneWave* wave = document_.waves() ? waveOf(document_.waves()->gains, id) : nullptr;
  if (!wave && !gain.span().wraps) return;
  for (double x = box.left(); x < box.right(); x += 1.0) {
    const double quarters = time.value(x);
    const auto frame = std::min(static_cast<int64_t>(gain.frames()) - 1,
                                static_cast<int64_t>(std::max(0.0, quarters) * perQuarter));
    // Of a song the deepest of each column, or short dips would come and go.
    double g = wave ? wave->range(frame, static_cast<int64_t>(time.value(x + 1.0) * perQuarter)).first
                    : gain.at(0, static_cast<size_t>(frame));
    if (contour) g = std::min(1.0, g * contour->at(quarters * quarterSeconds));
    line << QPointF(x, box.bottom() - box.height() * g);
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().ink, 1.0));
  drawLineThrough(p, line);
}

QRectF LoopStrip::headButton(const Row& row, bool solo) const {
  const QRectF box = boxOf(row);
  const double tall = std::min(16.0, box.height() - 2);
  return QRectF(kHead - (solo ? 76 : 40), box.center().y() - 0.5 * tall, solo ? 33 : 34, tall);
}

void LoopStrip::drawHeads(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const RowArea& a : rows()) {
    if (a.row.of == Of::Ruler || a.row.of == Of::Sum) continue;
    const int lane = laneOf(a.row);
    for (bool solo : {true, false}) {
      const QRectF box = headButton(a.row, solo);
      const bool on = solo ? transport_.lanes().isSolo(lane) : transport_.lanes().isMuted(lane);
      p.setBrush(on ? QBrush(t.ink) : QBrush(Qt::NoBrush));
      p.setPen(QPen(on ? t.ink : t.rule, 1.0));
      p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
      p.setPen(on ? t.panel : t.muted);
      p.drawText(box, Qt::AlignCenter, solo ? "solo" : "mute");
    }
  }
  p.setBrush(Qt::NoBrush);
}

// A bar under each head while the loop plays, with its peak hold as a stroke; 0 dB is the head's full width.
// Hatched from the right: gain reduction.
void LoopStrip::drawMeter(QPainter& p, const RowArea& a) const {
  constexpr double kLeastDb = -54.0, kLeastTaken = 0.1, kFrom = 16.0, kTo = kHead - 8.0;
  const Theme& t = theme();
  const Axis x{kLeastDb, 0.0, kFrom, kTo};
  const MeterReading m = a.row.of == Of::Sum ? meters_.output() : meters_.lane(laneOf(a.row));
  if (m.heldDb <= kLeastDb) return;
  const double y = std::round(a.box.bottom()) - 4.0;
  const Part* part = a.row.of == Of::Part ? session().part(a.row.part) : nullptr;
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
    const double y = boxOf(session().kick()).top() + 1;
    if (x.holds(at))
      p.drawPolygon(QPolygonF({QPointF(px - 4, y), QPointF(px + 5, y), QPointF(px + 0.5, y + 6)}));
    p.setBrush(Qt::NoBrush);
  }
  if (hasFocus() && x.holds(cursor_)) {
    const QRectF box = boxOf(hand());
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

// Hint in an empty lane.
void LoopStrip::drawHints(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(bodyFont());
  for (const Part& part : session().parts) {
    if (part.hasEvents() || boxOf(part).height() < 14) continue;
    const QString word = QString::fromStdString(partWord(part));
    drawLabel(p, boxOf(part).center(), Qt::AlignCenter,
              part.playsNotes() ? "drag to place a " + word + " note" : "click to place a " + word + " hit",
              t.muted, t.page);
  }
}

void LoopStrip::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  paintRegion(p, event->region(), [&] { paintAll(p); });
}

void LoopStrip::paintAll(QPainter& p) const {
  const Theme& t = theme();
  p.fillRect(rect(), t.page);
  const Lanes all = lanes();
  drawRuler(p);
  // Scrolled lanes pass beneath the ruler and the sum.
  p.save();
  p.setClipRect(all.box, Qt::IntersectClip);
  drawLanes(p);
  p.restore();
  const Stems* s = document_.stems();
  drawLane(p, Row{Of::Sum}, session().sum.finish.works() ? "Sum, finished" : "Sum", t.ink,
           s ? &s->sum : nullptr);
  drawMarked(p);
  if (transport_.isPlaying()) drawMeter(p, all.areas.back());
  drawCursor(p);
  p.setPen(t.ink);
  p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
}

void LoopStrip::drawLanes(QPainter& p) const {
  const Stems* s = document_.stems();
  for (const Part& part : session().parts) {
    const Lane* lane = s ? s->lane(part.id) : nullptr;
    drawLane(p, Row{Of::Part, part.id}, QString::fromStdString(part.title()), colourOf(part),
             lane ? &lane->heard : nullptr);
  }
  if (!session().backing.asset.empty())
    drawLane(p, Row{Of::Backing}, "Backing", theme().muted, s ? &s->backing : nullptr);
  for (const Part& part : session().parts) {
    drawNotes(p, part);
    drawVelocities(p, part);
    drawDives(p, part);
    drawWheel(p, part);
    if (const Lane* lane = s ? s->lane(part.id) : nullptr)
      drawGain(p, boxOf(part), lane->gain, {DuckTargetKind::Part, part.id, 1}, lane->contour.get());
  }
  if (s && !session().backing.asset.empty())
    drawGain(p, boxOf(Row{Of::Backing}), s->backingGain, {DuckTargetKind::Backing, 0, 0});
  drawAutomation(p);
  drawHeads(p);
  for (const RowArea& a : rows())
    if (transport_.isPlaying() && a.row.of != Of::Ruler && a.row.of != Of::Sum) drawMeter(p, a);
  drawHints(p);
}

}  // namespace heft::app
