#include "app/stages/tune/pitch_field.h"

#include <QKeyEvent>
#include <algorithm>
#include <cmath>

#include "app/desk/passing.h"
#include "app/pictures/note_rows.h"
#include "app/theme/theme.h"
#include "core/measure/levels/low_end.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLowestMidi = 20.0;
constexpr double kSpectrumFootDb = -42.0;

bool kickIsMoved(const Study& s) {
  return s.pair.kick.hit && std::abs(s.pair.kick.hit->semitones) > 0.005;
}

}  // namespace

PitchField::PitchField(Document& document, Selection& selection) : Picture(document, selection, "Pitch field") {
  explain("Drag the landing to retune the kick, over the spectrum for the search band. Shift+F1: more",
          "Pitch over time and spectrum on one note axis. Drag the landing: retune the kick (Alt: no snap). "
          "Circle at the start: strike pitch. Dashed line: strike length. Grip at the end: straighten a "
          "drifting tail. Flag: the moment of landing. Drag over the spectrum: search band.");
}

std::optional<double> PitchField::landingMidi() const {
  const Study* s = document().study();
  if (!s || !s->pair.kick.sound || !s->pair.kick.sound->landing.noteHz()) return std::nullopt;
  return midiFromHz(*s->pair.kick.sound->landing.noteHz(), track().notes.a4Hz);
}

// Until a new target's figures arrive the marker is at the target.
std::optional<double> PitchField::shownTarget() const {
  const Layer* layer = document().session().kickLayer();
  if (layer && landingTarget(*layer) && landingMidi()) return landingTarget(*layer);
  return landingMidi();
}

PitchField::Axes PitchField::axes() const {
  Axes out;
  const double bottom = height() - 28.0, top = 24.0;
  const double split = 48.0 + (width() - 60.0) * 0.72;
  out.left = QRectF(QPointF(48, top), QPointF(split, bottom));
  out.right = QRectF(QPointF(split + 12, top), QPointF(width() - 12.0, bottom));
  double longest = 220.0;
  if (const Study* s = document().study())
    for (const auto& facts : {s->pair.kick.sound, s->pair.kick.source})
      if (facts) longest = std::max(longest, std::min(700.0, facts->tailMs * 1.1));
  out.note = {kLowestMidi, highestMidi(), bottom, top};
  out.time = {0.0, longest, out.left.left(), out.left.right()};
  out.level = {kSpectrumFootDb, 0.0, out.right.left(), out.right.right()};
  return out;
}

// Claps and high snares have their note above the usual range.
double PitchField::highestMidi() const {
  double highest = 72.0;
  const Layer* layer = document().session().kickLayer();
  if (layer && layer->band().highHz > LandingOptions().highHz)
    highest = std::max(highest, midiFromHz(layer->band().highHz, track().notes.a4Hz));
  if (const auto target = shownTarget()) highest = std::max(highest, *target + 5.0);
  return std::min(128.0, highest);
}

QPointF PitchField::markerAt() const {
  const Axes a = axes();
  const auto midi = shownTarget();
  return midi ? QPointF(a.left.right() - 6, a.note.pixel(*midi)) : QPointF();
}

void PitchField::drawNotes(QPainter& p, const Axes& a) const {
  const Theme& t = theme();
  drawNoteRows(p, track(), a.note, a.left.left(), a.right.right());
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.left.left(), 2), Qt::AlignLeft | Qt::AlignTop, "pitch over time", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.right.right(), 2), Qt::AlignRight | Qt::AlignTop, "spectrum, below its peak", t.muted,
            QColor(0, 0, 0, 0));
  const double sixteenth = 15000.0 / track().tempoBpm;
  if (a.time.holds(sixteenth)) {
    const double x = std::round(a.time.pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, a.left.top()), QPointF(x, a.left.bottom()));
    drawLabel(p, QPointF(x + 5, a.left.top() + 2), Qt::AlignLeft | Qt::AlignTop, "1/16", t.muted, t.panel);
  }
  drawTicksBelow(p, a.time, a.left.bottom(), roundTicks(0, a.time.to, 7),
                 [&](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  drawTicksBelow(p, a.level, a.right.bottom(), {-36, -24, -12, 0}, [](double v) { return QString::number(v); });
}

void PitchField::drawPaths(QPainter& p, const Axes& a) const {
  const Study& s = *document().study();
  const HitFacts* hit = shown();
  const double a4 = track().notes.a4Hz;
  auto line = [&](const SoundFacts& facts) {
    QPolygonF out;
    for (const PitchPoint& point : facts.landing.path) {
      const QPointF at(a.time.pixel((point.seconds - facts.onsetSeconds.value_or(0.0)) * 1000.0),
                       a.note.pixel(midiFromHz(point.hz, a4)));
      if (a.left.contains(at)) out << at;
    }
    return out;
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.left.adjusted(0, 0, 1, 1));
  const auto bass = hit && hit->bassSound ? hit->bassSound : s.pair.bass.sound;
  if (bass) {
    p.setPen(QPen(withAlpha(theme().bass, 0.8), 4.0, Qt::SolidLine, Qt::FlatCap));
    drawLineThrough(p, line(*bass));
  }
  // The grips belong to the landing layer: among several it is drawn on its own for them.
  if ((kickIsMoved(s) || s.pair.kick.layers.size() > 1) && s.pair.kick.source) {
    p.setPen(QPen(theme().kick, 1.0, Qt::DashLine));
    drawLineThrough(p, line(*s.pair.kick.source));
  }
  if (s.pair.kick.sound) {
    const bool own = hit && hit->kickSound;
    p.setPen(own ? QPen(withAlpha(theme().kick, 0.5), 1.5) : QPen(theme().kick, 2.5));
    drawLineThrough(p, line(*s.pair.kick.sound));
    p.setPen(QPen(theme().kick, 2.5));
    if (own) drawLineThrough(p, line(*hit->kickSound));
  }
  p.restore();
}

void PitchField::drawLegend(QPainter& p, const Axes& a) const {
  const Study& s = *document().study();
  const HitFacts* hit = shown();
  p.setFont(axisFont());
  double y = a.left.top() + 18;
  auto legend = [&](const QString& text, const QColor& colour) {
    const QRectF box =
        drawLabel(p, QPointF(a.left.right() - 12, y), Qt::AlignRight | Qt::AlignTop,
                  p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(a.left.width()) - 20),
                  colour, theme().panel);
    y += box.height() + 3;
  };
  if (s.pair.kick.sound)
    legend(hit && hit->kickSound           ? "kick at " + wordsOfHit(shownHit()) + " (thick), as set (thin)"
           : s.pair.kick.layers.size() > 1 ? "kick, all layers (thick) and its first as recorded (dashed)"
           : kickIsMoved(s)                ? "kick, now (thick) and as recorded (dashed)"
                                           : "kick",
           theme().kick);
  const auto bass = hit && hit->bassSound ? hit->bassSound : s.pair.bass.sound;
  if (!bass || bass->landing.path.empty()) return;
  legend(hit && hit->noteMidi ? "bass at " + wordsOfHit(shownHit()) + ": " +
                                    QString::fromStdString(noteName(*hit->noteMidi, track().notes))
                              : "bass, at the note it plays under most hits",
         theme().bass);
}

// Of a song the playhead leads: one looks at a hit without choosing it.
int PitchField::shownHit() const {
  const Stems* stems = document().stems();
  if (!playhead_ || !stems || !track().song || grip_ != Grip::None) return selection().hit();
  const auto heard = passing(stems->hitFrames(), *playhead_ * track().framesPerQuarter());
  return heard ? static_cast<int>(*heard) : selection().hit();
}

const HitFacts* PitchField::shown() const {
  const Study* s = document().study();
  const auto index = static_cast<size_t>(std::max(0, shownHit()));
  return s && index < s->pair.hits.size() ? &s->pair.hits[index] : nullptr;
}

void PitchField::setPlayhead(std::optional<double> quarters) {
  const HitFacts* was = shown();
  playhead_ = quarters;
  if (shown() != was) update();
}

void PitchField::drawSpectra(QPainter& p, const Axes& a) const {
  const Study& s = *document().study();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.right.adjusted(0, 0, 1, 1));
  auto draw = [&](const LowEnd& low, const QColor& colour) {
    if (!(low.totalPower > 0.0)) return;
    const double most = *std::max_element(low.curveDb.begin(), low.curveDb.end());
    QPolygonF line;
    for (size_t i = 0; i < low.curveDb.size(); ++i)
      line << QPointF(a.level.pixel(std::max(kSpectrumFootDb, low.curveDb[i] - most)),
                      a.note.pixel(midiFromHz(profileHz()[i], track().notes.a4Hz)));
    QPolygonF area = line;
    area.prepend(QPointF(a.right.left(), line.first().y()));
    area << QPointF(a.right.left(), line.last().y());
    p.setPen(Qt::NoPen);
    p.setBrush(withAlpha(colour, 0.13));
    p.drawPolygon(area);
    p.setPen(dataPen(colour));
    drawLineThrough(p, line);
  };
  draw(s.pair.kick.spectrum, theme().kick);
  draw(s.pair.bass.spectrum, theme().bass);
  p.restore();
  p.setPen(rulePen(theme().muted));
  p.drawLine(a.right.topLeft(), a.right.bottomLeft());
}

void PitchField::drawMarker(QPainter& p, const Axes& a) const {
  const auto midi = shownTarget();
  if (!midi) return;
  const QPointF at = markerAt();
  const Study& s = *document().study();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().kick, grip_ == Grip::Marker || hasFocus() ? 1.5 : 1.0));
  p.drawLine(QPointF(a.left.left(), at.y()), QPointF(a.right.right(), at.y()));
  p.setBrush(theme().kick);
  p.setPen(Qt::NoPen);
  p.drawPolygon(QPolygonF({at + QPointF(-8, -7), at + QPointF(6, 0), at + QPointF(-8, 7)}));
  p.restore();
  p.setFont(axisFont());
  QString words =
      (s.pair.kick.sound && s.pair.kick.sound->landing.slides() ? "heard on " : "lands on ") + noteText(*midi);
  // Where the rest is cut away nothing was shifted, whatever is auditioned.
  const Layer* layer = document().session().kickLayer();
  const bool shifted = layer && (landingTarget(*layer) || layer->semitones != 0.0);
  if (shifted && s.pair.kick.source && s.pair.kick.source->landing.noteHz()) {
    const double shift = *midi - midiFromHz(*s.pair.kick.source->landing.noteHz(), track().notes.a4Hz);
    if (std::abs(shift) > 0.02)
      words +=
          QString(", %1%2 st").arg(shift > 0 ? "+" : "").arg(QString::fromStdString(formatNumber(shift, 2)));
  }
  // A gliding tail sinks below its mark.
  const bool over = s.pair.kick.sound && s.pair.kick.sound->landing.slides();
  drawLabel(p, QPointF(at.x() - 14, at.y() + (over ? -8 : 8)),
            Qt::AlignRight | (over ? Qt::AlignBottom : Qt::AlignTop), words, theme().kick, theme().panel);
}

void PitchField::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || (!s->pair.kick.sound && !s->pair.bass.sound))
    return drawEmpty(p, document().isBusy()
                            ? "Measuring..."
                            : "Drop a kick and a bass in Sounds to see their pitch and spectrum here.");
  const Axes a = axes();
  drawNotes(p, a);
  drawSpectra(p, a);
  drawPaths(p, a);
  drawLegend(p, a);
  drawBand(p, a);
  drawMarker(p, a);
  drawHandles(p, a);
  if (s->pair.kick.sound && !s->pair.kick.sound->landing.noteHz()) {
    p.setFont(bodyFont());
    drawLabel(p, a.left.center(), Qt::AlignCenter,
              "No note can be followed: " + QString::fromStdString(s->pair.kick.sound->landing.reason) +
                  ". Set the search band, or type the landing beneath.",
              theme().off, theme().panel);
  }
}

void PitchField::setTarget(double midi, bool exact, const QString& mergeKey) {
  const double target = std::clamp(exact ? std::round(midi * 100.0) / 100.0 : std::round(midi), 0.0, 127.0);
  if (const auto owner = kickOwner())
    document().edit(setLayerLanding("move landing to " + noteText(target).toStdString(), *owner->part,
                                    *owner->layer, target, mergeKey.toStdString()));
}

void PitchField::keyPressEvent(QKeyEvent* event) {
  const auto midi = shownTarget();
  const int key = event->key();
  if (midi && (key == Qt::Key_Up || key == Qt::Key_Down)) {
    const bool fine = event->modifiers() & Qt::ShiftModifier;
    const double way = key == Qt::Key_Up ? 1.0 : -1.0;
    setTarget(fine ? *midi + 0.01 * way : std::round(*midi) + way, fine, "landing");
  } else if (midi && key == Qt::Key_Delete) {
    if (const auto owner = kickOwner())
      document().edit(takeBackShift("reset kick shift", *owner->part, *owner->layer));
  } else if (recorded() && landingMoment() && (key == Qt::Key_Left || key == Qt::Key_Right)) {
    const double by =
        (key == Qt::Key_Right ? 1.0 : -1.0) * (event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0);
    nameLanding(*landingMoment() + by);
  } else {
    QWidget::keyPressEvent(event);
  }
}

}  // namespace heft::app
