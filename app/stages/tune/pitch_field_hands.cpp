// Input in the pitch field: the landing, the strike's length and pitch, a drifting tail, the band.

#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/tune/pitch_field.h"
#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kReach = 9.0;

}  // namespace

// Recordings have editable paths; a built kick has its ribbon.
const Layer* PitchField::recorded() const {
  const Layer* layer = document().session().kickLayer();
  return layer && !layer->isBuilt() ? layer : nullptr;
}

std::optional<Owner> PitchField::kickOwner() const {
  const Part& kick = document().session().kick();
  const Layer* layer = kick.firstLayer();
  return layer ? std::optional(Owner{.part = kick.id, .layer = layer->id}) : std::nullopt;
}

void PitchField::put(const std::string& name, const std::string& key, const Value& value,
                     const std::string& merge) {
  if (const auto owner = kickOwner()) document().edit(putValue(name, *owner, key, value, merge));
}

// Where the recording's tail is furthest from its landing: its start or its end.
std::optional<DriftPoint> PitchField::tailDrift() const {
  const Study* s = document().study();
  if (!s || !s->pair.kick.source) return std::nullopt;
  const auto drift = driftOf(*s->pair.kick.source);
  if (drift.size() < 10) return std::nullopt;
  auto meanOf = [&](size_t from) {
    DriftPoint out;
    for (size_t i = from; i < from + 5; ++i)
      out.seconds += drift[i].seconds / 5.0, out.semitones += drift[i].semitones / 5.0;
    return out;
  };
  const DriftPoint first = meanOf(0), last = meanOf(drift.size() - 5);
  return std::abs(first.semitones) > std::abs(last.semitones) ? first : last;
}

std::optional<double> PitchField::landingMoment() const {
  const Layer* layer = recorded();
  const Study* s = document().study();
  if (!layer || !s || !s->pair.kick.source || s->pair.kick.source->landing.path.empty()) return std::nullopt;
  if (layer->recorded()->band.atMs && !layer->recorded()->band.atHz) return layer->recorded()->band.atMs;
  const Landing& landing = s->pair.kick.source->landing;
  const auto& path = landing.path;
  auto away = [&](const PitchPoint& p) { return std::abs(std::log2(p.hz / *landing.noteHz())); };
  constexpr double kOnNote = 0.01;  // octaves
  auto at = std::find_if(path.begin(), path.end(), [&](const PitchPoint& p) { return away(p) < kOnNote; });
  if (at == path.end())
    at = std::min_element(path.begin(), path.end(), [&](auto& a, auto& b) { return away(a) < away(b); });
  return 1000.0 * at->seconds;
}

void PitchField::nameLanding(double ms) {
  if (const auto owner = kickOwner())
    document().edit(nameLandingMoment(*owner->part, *owner->layer, ms, "moment"));
}

QPointF PitchField::spectrumAt(double hz) const {
  const Axes a = axes();
  return {a.right.center().x(), a.note.pixel(midiFromHz(hz, track().notes.a4Hz))};
}

std::optional<QPointF> PitchField::handle(Grip grip) const {
  const Axes a = axes();
  const Layer* layer = recorded();
  const Study* s = document().study();
  if (grip == Grip::Marker) return shownTarget() ? std::optional<QPointF>(markerAt()) : std::nullopt;
  if (!layer || !s || !s->pair.kick.sound || !s->pair.kick.sound->landing.noteHz()) return std::nullopt;
  if (grip == Grip::Landing) {
    const auto ms = landingMoment();
    if (!ms || !s->pair.kick.source) return std::nullopt;
    const auto hz = pathHzAt(s->pair.kick.source->landing.path, *ms / 1000.0);
    if (!hz) return std::nullopt;
    const double x = *ms - 1000.0 * s->pair.kick.source->onsetSeconds.value_or(0.0);
    const double note = midiFromHz(*hz, track().notes.a4Hz);
    return QPointF(a.time.pixel(std::clamp(x, 0.0, a.time.to)),
                   std::clamp(a.note.pixel(note), a.left.top() + 16, a.left.bottom()));
  }
  if (grip == Grip::Length) return QPointF(a.time.pixel(layer->recorded()->strikeMs), a.left.bottom() - 8);
  if (grip == Grip::Raise) {
    const double start = midiFromHz(std::max(10.0, s->pair.kick.sound->landing.startHz), track().notes.a4Hz);
    return QPointF(a.left.left() + 6, std::clamp(a.note.pixel(start), a.left.top() + 8, a.left.bottom() - 8));
  }
  const auto drift = tailDrift();
  const auto target = shownTarget();
  if (grip != Grip::Flatten || !drift || !target || std::abs(drift->semitones) < 0.06) return std::nullopt;
  const double ms = 1000.0 * (drift->seconds - s->pair.kick.source->onsetSeconds.value_or(0.0));
  return QPointF(a.time.pixel(std::min(ms, a.time.to)),
                 a.note.pixel(*target + drift->semitones * (1.0 - layer->recorded()->flatten)));
}

PitchField::Grip PitchField::gripAt(const QPointF& at) const {
  for (Grip grip : {Grip::Landing, Grip::Flatten, Grip::Raise, Grip::Length})
    if (const auto place = handle(grip)) {
      const QPointF away = *place - at;
      const bool onLine = grip == Grip::Length && std::abs(away.x()) < 5.0 && axes().left.contains(at);
      if (std::hypot(away.x(), away.y()) < kReach || onLine) return grip;
    }
  const Axes a = axes();
  const auto midi = shownTarget();
  if (midi && std::abs(at.y() - a.note.pixel(*midi)) < 12.0 && at.x() < a.left.right() + 6) return Grip::Marker;
  return recorded() && a.right.contains(at) ? Grip::Band : Grip::None;
}

void PitchField::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  pressed_ = event->position();
  grip_ = gripAt(pressed_);
  if (const Layer* layer = recorded(); layer && grip_ == Grip::Raise)
    gripValue_ = layer->recorded()->strikeSemitones;
  update();
}

void PitchField::dragTo(const QPointF& at, bool free) {
  const Axes a = axes();
  const double a4 = track().notes.a4Hz;
  if (grip_ == Grip::Marker) return setTarget(a.note.value(at.y()), free, "landing");
  if (grip_ == Grip::Length)
    return put("set strike length", "recorded.strike_ms", std::round(a.time.value(at.x()) * 10.0) / 10.0,
               "strike");
  if (grip_ == Grip::Raise) {
    const double to = gripValue_ + a.note.value(at.y()) - a.note.value(pressed_.y());
    return put("set strike pitch", "recorded.strike_semitones",
               free ? std::round(to * 10.0) / 10.0 : std::round(to), "raise");
  }
  if (grip_ == Grip::Landing)
    return nameLanding(a.time.value(at.x()) +
                       1000.0 * document().study()->pair.kick.source->onsetSeconds.value_or(0.0));
  if (grip_ == Grip::Flatten) {
    const auto drift = tailDrift();
    const auto target = shownTarget();
    if (!drift || !target || drift->semitones == 0.0) return;
    const double left = std::clamp((a.note.value(at.y()) - *target) / drift->semitones, 0.0, 1.0);
    // Snaps to the note when near it.
    const double flat = left < 0.15 && !free ? 1.0 : 1.0 - left;
    return put("straighten tail", "recorded.flatten", flat, "flatten");
  }
  if (grip_ != Grip::Band || std::abs(at.y() - pressed_.y()) < 6.0) return;
  auto hz = [&](double y) { return hzFromMidi(a.note.value(y), a4); };
  if (const auto owner = kickOwner())
    document().edit(setSearchBand(*owner->part, *owner->layer, hz(std::max(at.y(), pressed_.y())),
                                  hz(std::min(at.y(), pressed_.y())), "band"));
}

void PitchField::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ != Grip::None) return dragTo(event->position(), isFree(event->modifiers()));
  const Grip over = gripAt(event->position());
  setCursor(over == Grip::None                              ? Qt::ArrowCursor
            : over == Grip::Length || over == Grip::Landing ? Qt::SizeHorCursor
            : over == Grip::Band                            ? Qt::CrossCursor
                                                            : Qt::SizeVerCursor);
}

void PitchField::mouseReleaseEvent(QMouseEvent*) {
  grip_ = Grip::None;
  document().endDrag();
  update();
}

void PitchField::drawHandles(QPainter& p, const Axes& a) const {
  const Layer* layer = recorded();
  const Theme& t = theme();
  if (!layer) return;
  p.save();
  if (const auto at = handle(Grip::Length);
      at && (layer->recorded()->method != TuneMethod::Varispeed || layer->recorded()->strikeSemitones != 0.0)) {
    p.setPen(QPen(t.ink, 1.0, Qt::DashLine));
    const double x = std::round(at->x()) + 0.5;
    p.drawLine(QPointF(x, a.left.top()), QPointF(x, a.left.bottom()));
    p.setFont(axisFont());
    drawLabel(p, QPointF(x + 5, a.left.bottom() - 9), Qt::AlignLeft | Qt::AlignVCenter,
              "strike " + QString::fromStdString(formatNumber(layer->recorded()->strikeMs, 1)) + " ms", t.ink,
              t.panel);
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.ink, 1.0));
  p.setBrush(t.panel);
  if (const auto at = handle(Grip::Raise)) {
    drawGrip(p, *at, false);
    if (layer->recorded()->strikeSemitones != 0.0) {
      p.setFont(axisFont());
      drawLabel(p, *at + QPointF(10, 0), Qt::AlignLeft | Qt::AlignVCenter,
                QString("strike %1%2 st")
                    .arg(layer->recorded()->strikeSemitones > 0 ? "+" : "")
                    .arg(layer->recorded()->strikeSemitones),
                t.ink, t.panel);
      p.setPen(QPen(t.ink, 1.0));
      p.setBrush(t.panel);
    }
  }
  if (const auto at = handle(Grip::Landing)) {
    // A flag on the path.
    p.drawLine(*at, *at - QPointF(0, 16));
    p.drawPolygon(QPolygonF({*at - QPointF(0, 16), *at + QPointF(9, -12), *at - QPointF(0, 8)}));
    if (layer->recorded()->band.byHand()) {
      p.setFont(axisFont());
      drawLabel(p, *at + QPointF(12, -14), Qt::AlignLeft | Qt::AlignVCenter, "landing by hand", t.ink, t.panel);
      p.setPen(QPen(t.ink, 1.0));
      p.setBrush(t.panel);
    }
  }
  if (const auto at = handle(Grip::Flatten)) {
    // A bar across the tail.
    p.drawRect(QRectF(*at - QPointF(2.5, 7), QSizeF(5, 14)));
    p.setFont(axisFont());
    const auto cents = static_cast<int>(std::lround(100.0 * tailDrift()->semitones));
    const bool right = at->x() < a.left.center().x();
    // Above it: the landing's words are below.
    drawLabel(p, *at + QPointF(right ? 10 : -10, -13),
              (right ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
              layer->recorded()->flatten > 0.0
                  ? QString("tail straightened by %1 %").arg(std::lround(100.0 * layer->recorded()->flatten))
                  : QString("tail drifts %1%2 ct").arg(cents > 0 ? "+" : "").arg(cents),
              t.ink, t.panel);
  }
  p.restore();
}

// Veils everything outside the search band.
void PitchField::drawBand(QPainter& p, const Axes& a) const {
  const Layer* layer = recorded();
  if (!layer || (layer->recorded()->band.lowHz == LandingOptions().lowHz &&
                 layer->recorded()->band.highHz == LandingOptions().highHz))
    return;
  const double a4 = track().notes.a4Hz;
  const double low = std::clamp(a.note.pixel(midiFromHz(layer->recorded()->band.lowHz, a4)), a.right.top(),
                                a.right.bottom()),
               high = std::clamp(a.note.pixel(midiFromHz(layer->recorded()->band.highHz, a4)), a.right.top(),
                                 a.right.bottom());
  const QColor veil = withAlpha(theme().panel, 0.75);
  p.fillRect(QRectF(a.right.topLeft(), QPointF(a.right.right(), high)), veil);
  p.fillRect(QRectF(QPointF(a.right.left(), low), a.right.bottomRight()), veil);
  p.setPen(QPen(theme().ink, 1.0, Qt::DashLine));
  for (double y : {low, high}) p.drawLine(QPointF(a.right.left(), y), QPointF(a.right.right(), y));
}

}  // namespace heft::app
