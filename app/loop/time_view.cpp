#include "app/loop/time_view.h"

#include <algorithm>
#include <cmath>

namespace heft::app {

Axis TimeView::axis(double left, double right) const {
  const double shown = quarters_ > 0.0 ? std::min(quarters_, loop()) : loop();
  const double start = std::clamp(start_, 0.0, loop() - shown);
  return {start, start + shown, left, right};
}

void TimeView::zoom(double factor, double aboutQuarters) {
  const double first = from(), last = to(), beat = 4.0 / document_.track().beatUnit;
  const double now = std::clamp((last - first) * factor, std::min(beat, loop()), loop());
  // A place out of sight would carry the view away.
  const bool inSight = aboutQuarters >= first && aboutQuarters <= last;
  const double about = inSight ? aboutQuarters : 0.5 * (first + last);
  const double part = (about - first) / (last - first);
  quarters_ = now >= loop() ? 0.0 : now;
  scrollTo(about - part * now);
}

void TimeView::scrollTo(double startQuarters) {
  start_ = std::clamp(startQuarters, 0.0, std::max(0.0, loop() - shown()));
  Q_EMIT changed();
}

void TimeView::scrollBy(double share) {
  scrollTo(from() + share * shown());
}

void TimeView::showAt(double quarters) {
  constexpr double kMargin = 0.05;
  if (quarters >= from() && quarters < to() - kMargin * shown()) return Q_EMIT changed();
  const double bar = document_.track().barQuarters();
  scrollTo(std::floor(quarters / bar + 1e-6) * bar);
}

void TimeView::showAll() {
  quarters_ = 0.0;
  Q_EMIT changed();
}

void TimeView::follow(double quarters) {
  if (wasLong_ && quarters_ > 0.0 && !axis(0.0, 1.0).holds(quarters)) scrollTo(quarters);
}

void TimeView::fit() {
  constexpr int kShownAtOnce = 8, kFirstShown = 4;  // bars
  const Track& t = document_.track();
  const bool isLong = t.song || t.loopBeats > kShownAtOnce * t.beatsPerBar;
  if (isLong == wasLong_) return;
  wasLong_ = isLong;
  start_ = 0.0, quarters_ = isLong ? std::min(t.loopQuarters(), kFirstShown * t.barQuarters()) : 0.0;
  Q_EMIT changed();
}

void TimeView::reset() {
  start_ = quarters_ = 0.0, wasLong_ = false;
}

}  // namespace heft::app
