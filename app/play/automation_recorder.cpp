#include "app/play/automation_recorder.h"

#include <algorithm>

namespace heft::app {
namespace {

constexpr int kTakeStillMs = 1000;

}  // namespace

AutomationRecorder::AutomationRecorder(Document& document, Transport& transport, QObject* parent)
    : QObject(parent), document_(document), transport_(transport) {
  still_.setSingleShot(true), still_.setInterval(kTakeStillMs);
  connect(&still_, &QTimer::timeout, this, &AutomationRecorder::end);
  connect(&document_, &Document::turning, this, &AutomationRecorder::turning);
  connect(&document_, &Document::turned, this, &AutomationRecorder::turned);
  connect(&document_, &Document::replaced, this, [this] { takes_.clear(), still_.stop(); });
  connect(&transport_, &Transport::moved, this, &AutomationRecorder::endWhereItJumped);
  connect(&transport_, &Transport::stateChanged, this, [this] {
    if (!transport_.isPlaying()) end();
  });
}

void AutomationRecorder::setOn(bool on) {
  if (on == on_) return;
  if (!on) end();
  on_ = on;
  if (on) document_.tell("Automation is recorded while the track plays: turn a value or its controller.");
  Q_EMIT changed();
}

AutomationRecorder::Take* AutomationRecorder::takeOf(const TurnedValue& value) {
  const auto at = std::find_if(takes_.begin(), takes_.end(), [&](const Take& t) {
    return t.of.owner == value.owner && t.of.key == value.key;
  });
  return at == takes_.end() ? nullptr : &*at;
}

void AutomationRecorder::turning(const TurnedValue& value) {
  const Session& s = document_.session();
  if (!on_ || !transport_.isPlaying() || takeOf(value) || !canBeAutomated(s, value.owner, value.key)) return;
  const ValueAt before = *valueAt(s, value.owner, value.key);
  Take take{{value.owner, value.key, value.name}, before.now, {}, {}};
  const Automation* known = automationOf(s, value.owner, value.key);
  if (known) take.automated = *known, take.of.name = known->name;
  last_ = transport_.positionQuarters();
  const auto number = asNumber(before, s.track.tempoBpm);
  if (known && known->works())
    take.points.push_back({last_, known->at(last_)});
  else if (number)
    take.points.push_back({last_, *number});
  takes_.push_back(std::move(take));
}

void AutomationRecorder::turned(const TurnedValue& value) {
  Take* take = takeOf(value);
  const auto now = take ? valueAt(document_.session(), value.owner, value.key) : std::nullopt;
  if (!now) return;
  const auto number = asNumber(*now, document_.track().tempoBpm);
  if (!number) return;
  take->points.push_back({transport_.positionQuarters(), *number});
  still_.start();
}

// In a loop, a region, or after a press elsewhere.
void AutomationRecorder::endWhereItJumped() {
  const double now = transport_.positionQuarters();
  if (!takes_.empty() && now < last_ - 0.05) end();
  last_ = now;
}

// The values go back to what they were: the automation holds what was turned.
void AutomationRecorder::end() {
  still_.stop();
  for (const Take& take : std::exchange(takes_, {})) {
    if (take.points.size() < 2) continue;
    document_.endDrag();
    document_.edit(recordAutomation(take.of, take.before, take.automated,
                                    thinnedFor(document_.session(), take.of, take.points)));
  }
}

}  // namespace heft::app
