#include "app/loop/lane_painter.h"

#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kRuler = LaneRows::kRuler;

const LaneWave* waveOf(const std::map<int, LaneWave>& waves, int lane) {
  const auto at = waves.find(lane);
  return at == waves.end() ? nullptr : &at->second;
}

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

// Lines every `step` quarters; names of bars and beats beside them.
void LanePainter::gridLines(double height, double step, bool named) const {
  const Theme& t = theme();
  const double beat = 4.0 / track().beatUnit;
  for (double at = std::ceil(time_.from / step - 1e-6) * step; at < time_.to - 1e-9; at += step) {
    const double px = std::round(time_.pixel(at)) + 0.5;
    p_.setPen(QPen(named ? t.rule : withAlpha(t.rule, 0.5), 1.0));
    p_.drawLine(QPointF(px, named ? 4 : kRuler), QPointF(px, height - 4));
    if (!named) continue;
    const int n = static_cast<int>(std::floor(at / beat + 1e-6)), bar = n / track().beatsPerBar + 1;
    p_.setPen(t.ink);
    p_.drawText(QPointF(px + 4, 14), step >= track().barQuarters() - 1e-9
                                         ? QString::number(bar)
                                         : QString("%1.%2").arg(bar).arg(n % track().beatsPerBar + 1));
  }
}

// The grid's own lines between the beats. Zoomed in, the sixteenths have names too.
void LanePainter::divisions(double height, double perQuarter) const {
  constexpr double kNamed = 60.0;  // px
  const Theme& t = theme();
  const Grid& grid = session().grid;
  const double beat = 4.0 / track().beatUnit, division = grid.division.quarters();
  for (double at = lineBefore(grid, time_.from); at < time_.to - 1e-9; at = lineAfter(grid, at)) {
    const double beats = at / beat;
    if (at < time_.from - 1e-9 || std::abs(beats - std::round(beats)) < 1e-6) continue;
    const double px = std::round(time_.pixel(at)) + 0.5;
    p_.setPen(QPen(withAlpha(t.rule, 0.5), 1.0));
    p_.drawLine(QPointF(px, kRuler), QPointF(px, height - 4));
    if (division * perQuarter < kNamed) continue;
    const int n = static_cast<int>(std::floor(beats + 1e-6));
    const double inBeat = (beats - n) * beat;
    p_.setPen(t.muted);
    p_.drawText(QPointF(px + 4, 14), QString("%1.%2.%3")
                                         .arg(n / track().beatsPerBar + 1)
                                         .arg(n % track().beatsPerBar + 1)
                                         .arg(std::lround(straightened(grid, inBeat) / division) + 1));
  }
}

void LanePainter::ruler(double height) const {
  constexpr double kName = 38.0, kLine = 5.0;  // px
  const double beat = 4.0 / track().beatUnit, bar = track().barQuarters(),
               perQuarter = time_.pixel(1.0) - time_.pixel(0.0);
  p_.setFont(axisFont());
  p_.setRenderHint(QPainter::Antialiasing, false);
  double named = beat;
  if (beat * perQuarter < kName) named = bar;
  while (named * perQuarter < kName) named *= 2.0;
  if (named >= bar - 1e-9 && bar * perQuarter >= kLine && named > bar) gridLines(height, bar, false);
  if (named == bar && beat * perQuarter >= kLine) gridLines(height, beat, false);
  if (session().grid.division.quarters() * perQuarter >= kLine) divisions(height, perQuarter);
  gridLines(height, named, true);
}

void LanePainter::wave(const LaneRows::Area& lane, const Signal* stem, const LanePeak& peak,
                       const QColor& colour) const {
  if (!stem || stem->frames() == 0 || !(peak.peak > 0.0f)) return;
  const double perQuarter = track().framesPerQuarter();
  const float scale = 1.0f / peak.peak;
  const LaneWaves* waves = document_.waves();
  const LaneWave* wave = !waves                            ? nullptr
                         : lane.row.of == LoopRow::Of::Sum ? &waves->sum
                                                           : waveOf(waves->lanes, lane.row.lane());
  if (!wave && !stem->span().wraps) return;
  const QRectF& box = lane.box;
  drawWave(p_, box.left(), box.right(), box.center().y(), box.height() - 6, time_.from * perQuarter,
           (time_.to - time_.from) * perQuarter / box.width(),
           wave ? WaveReader(*wave, scale) : WaveReader(*stem, peak.channel, scale), colour);
}

void LanePainter::notes(const Part& part, const Note* chosen) const {
  const Theme& t = theme();
  const QColor colour = colourOf(part);
  const QRectF box = rows_.box(part);
  p_.setFont(axisFont());
  for (size_t i = 0; i < part.notes.size(); ++i) {
    const Note& n = part.notes[i];
    if (n.startQuarters >= time_.to || n.endQuarters() <= time_.from) continue;
    const QRectF at = rows_.noteBox(part, n, time_);
    const double left = std::max(at.left(), box.left()), right = std::min(at.right(), box.right());
    if (right - left < 2.0) continue;
    const QRectF slip(QPointF(left + 0.5, at.top()), QPointF(right - 1.5, at.bottom()));
    p_.setBrush(withAlpha(colour, &n == chosen ? 0.16 : 0.07));
    p_.setPen(QPen(&n == chosen ? colour : withAlpha(colour, 0.45), 1.0));
    p_.drawRect(slip);
    glide(part, i);
    QString name = QString::fromStdString(noteName(n.midi, track().notes));
    const QString moved = name + moveWords(n.move);
    if (slip.width() > p_.fontMetrics().horizontalAdvance(moved) + 6) name = moved;
    if (slip.width() > p_.fontMetrics().horizontalAdvance(name) + 6)
      drawLabel(p_, QPointF(slip.left() + 4, slip.center().y()), Qt::AlignLeft | Qt::AlignVCenter, name, t.ink,
                withAlpha(t.page, 0.85));
  }
  p_.setBrush(Qt::NoBrush);
}

// A tied note's line into the next one: from its end to where the other begins.
void LanePainter::glide(const Part& part, size_t note) const {
  constexpr double kLead = 8.0;  // px of the glide within the note itself
  if (!part.notes[note].tie || note + 1 >= part.notes.size()) return;
  const Note &n = part.notes[note], &next = part.notes[note + 1];
  const QRectF from = rows_.noteBox(part, n, time_), to = rows_.noteBox(part, next, time_);
  p_.setRenderHint(QPainter::Antialiasing);
  p_.setPen(QPen(colourOf(part), 2.0));
  p_.drawLine(QPointF(to.left() - kLead, from.center().y()), QPointF(to.left() + kLead, to.center().y()));
  p_.setRenderHint(QPainter::Antialiasing, false);
}

void LanePainter::velocities(const Part& part, const Hit* chosen) const {
  // Where they would merge the wave tells more.
  constexpr double kApart = 5.0;  // px
  const Theme& t = theme();
  const QRectF box = rows_.box(part).adjusted(0, 4, 0, -3);
  auto bars = [&](const auto& events, auto mark) {
    const auto first = std::lower_bound(events.begin(), events.end(), time_.from,
                                        [](const auto& e, double at) { return e.startQuarters < at; });
    const auto last = std::upper_bound(first, events.end(), time_.to,
                                       [](double at, const auto& e) { return at < e.startQuarters; });
    if (static_cast<double>(last - first) * kApart > time_.pixelTo - time_.pixelFrom) return;
    for (auto e = first; e != last; ++e) {
      const double px = std::round(time_.pixel(e->startQuarters)) + 1.0;
      p_.fillRect(QRectF(px, box.bottom() - box.height() * e->velocity, 2, box.height() * e->velocity),
                  session().mutedAt(part.id, e->startQuarters) ? t.rule : colourOf(part));
      mark(*e, px);
      if (!e->without.empty()) p_.fillRect(QRectF(px + 4, box.top(), 4, 4), t.muted);
    }
  };
  bars(part.hits, [&](const Hit& hit, double px) {
    if (&hit != chosen) return;
    p_.setPen(QPen(t.ink, 1.0));
    p_.drawRect(QRectF(px - 2.5, box.top() - 1.5, 7, box.height() + 3));
  });
  bars(part.notes, [](const Note&, double) {});
}

void LanePainter::gain(const QRectF& lane, const Signal& gain, const DuckTarget& of,
                       const ContourLine* contour) const {
  const bool ducked = std::any_of(session().ducks.begin(), session().ducks.end(), [&](const Duck& d) {
    return session().acts(d) && d.target.kind == of.kind &&
           (of.kind == DuckTargetKind::Backing || d.target.part == of.part);
  });
  if ((!ducked && !contour) || gain.frames() == 0) return;
  const QRectF box = lane.adjusted(0, 3, 0, -3);
  const double perQuarter = track().framesPerQuarter(), quarterSeconds = 60.0 / track().tempoBpm;
  const int id = of.kind == DuckTargetKind::Backing ? kBackingLane : of.part;
  const LaneWave* wave = document_.waves() ? waveOf(document_.waves()->gains, id) : nullptr;
  if (!wave && !gain.span().wraps) return;
  QPolygonF line;
  for (double x = box.left(); x < box.right(); x += 1.0) {
    const double quarters = time_.value(x);
    const auto frame = std::min(static_cast<int64_t>(gain.frames()) - 1,
                                static_cast<int64_t>(std::max(0.0, quarters) * perQuarter));
    // Of a song the deepest of each column, or short dips would come and go.
    double g = wave ? wave->range(frame, static_cast<int64_t>(time_.value(x + 1.0) * perQuarter)).first
                    : gain.at(0, static_cast<size_t>(frame));
    if (contour) g = std::min(1.0, g * contour->at(quarters * quarterSeconds));
    line << QPointF(x, box.bottom() - box.height() * g);
  }
  p_.setRenderHint(QPainter::Antialiasing);
  p_.setPen(QPen(theme().ink, 1.0));
  drawLineThrough(p_, line);
}

void LanePainter::hint(const Part& part) const {
  const QRectF box = rows_.box(part);
  if (part.hasEvents() || box.height() < 14) return;
  const QString word = QString::fromStdString(partWord(part));
  p_.setFont(bodyFont());
  drawLabel(p_, box.center(), Qt::AlignCenter,
            part.playsNotes() ? "drag to place a " + word + " note" : "click to place a " + word + " hit",
            theme().muted, theme().page);
}

}  // namespace heft::app
