// Input on the ribbon.

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/sounds/kick_ribbon.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"

namespace heft::app {

void KickRibbon::put(const std::string& name, const std::string& key, const Value& value) {
  if (const auto owner = choice_.layerOwner())
    document().edit(putValue(name, *owner, "built_kick." + key, value, name));
}

void KickRibbon::removePoint(size_t index) {
  if (const auto owner = choice_.layerOwner())
    document().edit(removeFallPoint(*owner->part, *owner->layer, index));
  chosen_ = {Grip::Point, 0};
}

// The end snaps to whole sixty-fourths, unless it is dragged freely.
TimeValue KickRibbon::lengthAt(const QPointF& at, bool free) const {
  const double ms = std::clamp(timeAxis().value(at.x()), kShortestKickMs, kLongestKickMs),
               sixteenth = 15000.0 / track().tempoBpm;
  const auto halves = static_cast<int>(std::max(1.0, std::round(2.0 * ms / sixteenth)));
  if (!free && std::abs(timeAxis().pixel(0.5 * halves * sixteenth) - at.x()) < 8.0) {
    int count = halves, under = 32;
    while (count % 2 == 0 && under > 1) count /= 2, under /= 2;
    return TimeValue::note(count, under);
  }
  return TimeValue::milliseconds(std::round(ms));
}

// The edge's distance from the spine is a level; half way through the decay that is -40 dB / 2^power.
double KickRibbon::decayBendAt(const QPointF& at) const {
  const double half = std::clamp(std::abs(at.y() - spineY(0.5 * (voice()->hold + 1.0))), 0.7, kThickest - 0.1);
  return decayBendThrough(2.0 * dbFromAmplitude(half / kThickest));
}

void KickRibbon::drag(const QPointF& at, bool free) {
  const auto owner = choice_.layerOwner();
  if (!voice() || !owner) return;
  const double part = std::clamp(timeAxis().value(at.x()) / lengthMs(), 0.0, 1.0),
               midi = pitchAxis().value(at.y()), above = midi - voice()->landingMidi;
  const double note = free ? midi : std::round(midi);
  switch (held_.grip) {
    case Grip::Point:
      return document().edit(moveFallPoint(*owner->part, *owner->layer, held_.index, part,
                                           note - voice()->landingMidi, "shape fall"));
    case Grip::Bend:
      return document().edit(bendFallThrough(*owner->part, *owner->layer, held_.index, above, "bend fall"));
    case Grip::LandingAt:
      return document().edit(moveFallEnd(*owner->part, *owner->layer, part, "fall end"));
    case Grip::Landing:
      return put("move landing", "landing_midi", note);
    case Grip::Hold:
      return put("hold kick", "hold", part);
    case Grip::Decay:
      return put("bend decay", "decay_bend", decayBendAt(at));
    case Grip::End:
      return put("set kick length", "length", lengthAt(at, free));
    case Grip::Strike:
    case Grip::None:
      return;
  }
}

void KickRibbon::mousePressEvent(QMouseEvent* event) {
  if (!voice() || event->button() != Qt::LeftButton) return;
  held_ = chosen_ = handleAt(event->position());
  if (held_.grip == Grip::Strike) {
    if (!voice()->strike.on) put("put a strike before the kick", "strike.on", true);
    Q_EMIT strikeChosen();
  } else if (held_.grip != Grip::None) {
    const Axis time = timeAxis(), pitch = pitchAxis();
    heldTime_ = time, heldPitch_ = pitch;
  }
  update();
}

void KickRibbon::mouseMoveEvent(QMouseEvent* event) {
  if (!voice()) return;
  if (held_.grip != Grip::None && held_.grip != Grip::Strike && (event->buttons() & Qt::LeftButton))
    return drag(event->position(), isFree(event->modifiers()));
  const Grip over = handleAt(event->position()).grip;
  setCursor(over == Grip::None                                                   ? Qt::ArrowCursor
            : over == Grip::Strike                                               ? Qt::PointingHandCursor
            : over == Grip::End || over == Grip::LandingAt || over == Grip::Hold ? Qt::SizeHorCursor
            : over == Grip::Point                                                ? Qt::SizeAllCursor
                                                                                 : Qt::SizeVerCursor);
}

void KickRibbon::mouseReleaseEvent(QMouseEvent*) {
  held_ = {};
  document().endDrag();
  update();
}

void KickRibbon::leaveEvent(QEvent*) {
  if (held_.grip == Grip::None) heldTime_.reset(), heldPitch_.reset();
  update();
}

void KickRibbon::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!voice() || handleAt(event->position()).grip == Grip::Point || voice()->fall.size() >= 32) return;
  const double part = timeAxis().value(event->position().x()) / lengthMs();
  if (part <= 0.005 || part >= voice()->landingAt - 0.005) return;
  const auto owner = choice_.layerOwner();
  document().edit(addFallPoint(*owner->part, *owner->layer, part));
  const auto& fall = voice()->fall;
  const auto added =
      std::find_if(fall.begin(), fall.end(), [part](const FallPoint& p) { return p.at == part; });
  chosen_ = {Grip::Point, static_cast<size_t>(added - fall.begin())};
}

void KickRibbon::nudge(int x, int y, bool fine) {
  const auto owner = choice_.layerOwner();
  if (!voice() || !owner) return;
  const KickVoice& v = *voice();
  const double dx = x * (fine ? 0.001 : 0.01);
  const size_t i = std::min(chosen_.index, v.fall.size() - 1);
  switch (chosen_.grip) {
    case Grip::Point:
      return document().edit(moveFallPoint(*owner->part, *owner->layer, i, v.fall[i].at + dx,
                                           v.fall[i].semitones + y * (fine ? 0.05 : 1.0), "nudge kick"));
    case Grip::Bend:
      return put("nudge kick", "fall." + std::to_string(i) + ".bend",
                 std::clamp(v.fall[i].bend - y * (fine ? 0.01 : 0.1), -1.0, 1.0));
    case Grip::LandingAt:
      return document().edit(moveFallEnd(*owner->part, *owner->layer, v.landingAt + dx, "fall end"));
    case Grip::Landing:
      return put("nudge landing", "landing_midi", v.landingMidi + (fine ? y * 0.01 : y));
    case Grip::Hold:
      return put("nudge kick", "hold", v.hold + dx);
    case Grip::Decay:
      return put("nudge kick", "decay_bend", v.decayBend + (x + y) * (fine ? 0.01 : 0.05));
    case Grip::End:
      return put("nudge length", "length",
                 TimeValue::milliseconds(
                     std::clamp(std::round(v.length.toMs(track().tempoBpm)) + x * (fine ? 1.0 : 5.0),
                                kShortestKickMs, kLongestKickMs)));
    case Grip::Strike:
    case Grip::None:
      return;
  }
}

// Tab steps through the handles, then to the next widget.
bool KickRibbon::focusNextPrevChild(bool next) {
  const auto all = handles();
  const auto here = std::find(all.begin(), all.end(), chosen_) - all.begin(),
             count = static_cast<ptrdiff_t>(all.size());
  const auto to = here == count ? (next ? 0 : count - 1) : here + (next ? 1 : -1);
  chosen_ = to >= 0 && to < count ? all[static_cast<size_t>(to)] : Handle{};
  update();
  return (to >= 0 && to < count) || Picture::focusNextPrevChild(next);
}

void KickRibbon::keyPressEvent(QKeyEvent* event) {
  if (!voice()) return QWidget::keyPressEvent(event);
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  switch (event->key()) {
    case Qt::Key_Left:
      nudge(-1, 0, fine);
      break;
    case Qt::Key_Right:
      nudge(1, 0, fine);
      break;
    case Qt::Key_Up:
      nudge(0, 1, fine);
      break;
    case Qt::Key_Down:
      nudge(0, -1, fine);
      break;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      if (chosen_.grip == Grip::Point) removePoint(chosen_.index);
      if (chosen_.grip == Grip::Strike) put("take the strike away", "strike.on", false);
      break;
    default:
      return QWidget::keyPressEvent(event);
  }
  event->accept();
  update();
}

}  // namespace heft::app
