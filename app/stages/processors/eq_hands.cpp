// Input in the picture of an EQ.

#include <QKeyEvent>
#include <QMouseEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/processors/eq_picture.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/sounds.h"
#include "core/session/fields.h"

namespace heft::app {
namespace {

std::string keyOf(size_t place) {
  return place == 0               ? "eq.low_cut."
         : place + 1 == kEqPlaces ? "eq.high_cut."
                                  : "eq.band_" + std::to_string(place) + ".";
}

}  // namespace

std::vector<size_t> EqPicture::placesIn() const {
  std::vector<size_t> out;
  for (size_t place = 0; eq() && place < kEqPlaces; ++place)
    if (isPlaceOn(*eq(), place)) out.push_back(place);
  return out;
}

std::optional<size_t> EqPicture::placeAt(const QPointF& at) const {
  std::optional<size_t> out;
  double nearest = 10.0;
  for (const size_t place : placesIn()) {
    const auto end = handleOf(place);
    const double far = end ? std::hypot(end->x() - at.x(), end->y() - at.y()) : 1e9;
    if (far < nearest) nearest = far, out = place;
  }
  return out;
}

// For a cut the gain is its resonance, above -3 dB.
void EqPicture::move(size_t place, double hertz, double gainDb, bool dragged) {
  const std::string key = keyOf(place);
  const bool isCut = place == 0 || place == kHighCut;
  std::vector<ValuePut> values{{key + "hz", hertz}};
  const double rounded = std::round(10.0 * gainDb) / 10.0;
  if (isCut)
    values.push_back({key + "resonance_db", std::max(0.0, rounded + 3.0)});
  else if (eq()->bands[place - 1].kind != EqBand::Kind::Notch)
    values.push_back({key + "gain_db", rounded / std::max(0.05, eq()->amount)});
  put(isCut ? "move a cut" : "move a band", std::move(values), dragged);
}

void EqPicture::narrow(size_t place, double factor) {
  if (place == 0 || place == kHighCut) {
    const int slope = place == 0 ? eq()->lowCut.slopeDbPerOctave : eq()->highCut.slopeDbPerOctave;
    put("set the slope",
        {{keyOf(place) + "slope_db",
          static_cast<int>(heft::rangeOf<Cut>("slope_db").held(slope + (factor > 1.0 ? 12 : -12)))}});
    return;
  }
  const double q = eq()->bands[place - 1].q * factor;
  put("set the width", {{keyOf(place) + "q", std::round(100.0 * heft::rangeOf<EqBand>("q").held(q)) / 100.0}},
      true);
}

void EqPicture::addBell(double hertz, double gainDb) {
  for (size_t b = 0; b < eq()->bands.size(); ++b) {
    if (eq()->bands[b].on) continue;
    const std::string key = keyOf(b + 1);
    place_ = b + 1;
    return put("add bell", {{"eq.on", true},
                            {key + "kind", std::string(nameOf(EqBand::Kind::Bell))},
                            {key + "hz", hertz},
                            {key + "gain_db", std::round(10.0 * gainDb) / 10.0},
                            {key + "q", 1.4},
                            {key + "on", true}});
  }
  document().tell("All four bands of this EQ are in use: remove one first, or add another EQ.");
}

void EqPicture::takeOut(size_t place) {
  put(place == 0 || place == kHighCut ? "remove cut" : "remove band", {{keyOf(place) + "on", false}});
  const auto places = placesIn();
  place_ = places.empty() ? std::nullopt : std::optional(places.front());
}

void EqPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !eq() || !look()) return;
  if (const auto place = placeAt(event->position())) {
    place_ = held_ = place;
    heldAxes_ = std::pair(level(), beforeAt(placeHz(*eq(), *place)));
    return update();
  }
  if (const auto peak = peakAt(event->position())) {
    choosePeak(*peak);
    return cutPeakAt(*peak);
  }
  place_.reset();
  update();
}

void EqPicture::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  if (held_ && eq()) {
    const double hertz = caughtHz(track(), hz(), at.x(), isFree(event->modifiers()));
    heldAxes_->second = beforeAt(hertz);
    return move(*held_, hertz, level().value(at.y()) - heldAxes_->second, true);
  }
  const auto peak = peakAt(at);
  setCursor(placeAt(at) ? Qt::SizeAllCursor : peak ? Qt::PointingHandCursor : Qt::ArrowCursor);
  if (peak) choosePeak(*peak);
}

void EqPicture::mouseReleaseEvent(QMouseEvent*) {
  if (!held_) return;
  held_.reset(), heldAxes_.reset();
  endDrag();
  findPeaks();
  update();
}

void EqPicture::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!eq() || !look() || placeAt(event->position()) || !plot().contains(event->position())) return;
  const double hertz = caughtHz(track(), hz(), event->position().x(), isFree(event->modifiers()));
  addBell(hertz, heft::rangeOf<EqBand>("gain_db").held(level().value(event->position().y()) - beforeAt(hertz)));
}

void EqPicture::wheelEvent(QWheelEvent* event) {
  const auto place = placeAt(event->position());
  if (!place && !place_) return event->ignore();
  if (place) place_ = place;
  narrow(*place_, event->angleDelta().y() > 0 ? 1.1 : 1.0 / 1.1);
}

void EqPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool fine = event->modifiers() & Qt::ShiftModifier, ctrl = event->modifiers() & Qt::ControlModifier;
  const auto places = placesIn();
  if (!eq() || !look()) return QWidget::keyPressEvent(event);
  if ((key == Qt::Key_PageDown || key == Qt::Key_PageUp) && !places.empty()) {
    const auto now = place_ ? std::find(places.begin(), places.end(), *place_) : places.end();
    const auto at =
        now == places.end() ? std::nullopt : std::optional(static_cast<size_t>(now - places.begin()));
    place_ = places[steppedPoint(at, key == Qt::Key_PageDown ? 1 : -1, places.size())];
    return update();
  }
  const int side = key == Qt::Key_Right ? 1 : key == Qt::Key_Left ? -1 : 0;
  const int up = key == Qt::Key_Up ? 1 : key == Qt::Key_Down ? -1 : 0;
  if (place_ && isPlaceOn(*eq(), *place_) && (side || up)) {
    if (ctrl && up) return narrow(*place_, up > 0 ? 1.1 : 1.0 / 1.1);
    const double hertz = placeHz(*eq(), *place_) * std::exp2(side * (fine ? 0.1 : 1.0) / 12.0);
    const bool isCut = *place_ == 0 || *place_ == kHighCut;
    const double gain = isCut ? (*place_ == 0 ? eq()->lowCut : eq()->highCut).resonanceDb - 3.0
                              : eq()->amount * eq()->bands[*place_ - 1].gainDb;
    return move(*place_, hertz, gain + up * (fine ? 0.1 : 0.5), false);
  }
  if (side && stepPeak(side)) return;
  if (key == Qt::Key_Insert) return addBell(look()->noteHz.value_or(55.0), 0.0);
  if (key == Qt::Key_Delete && place_) return takeOut(*place_);
  if (key == Qt::Key_Escape && place_) return place_.reset(), update();
  if (key == Qt::Key_Return || key == Qt::Key_Enter) return cutChosen();
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
