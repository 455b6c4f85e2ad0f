#include "app/loop/lane_meters.h"

#include <algorithm>
#include <cmath>

namespace heft::app {

LaneMeters::LaneMeters(Document& document, Transport& transport, QObject* parent)
    : QObject(parent), document_(document), transport_(transport) {
  connect(&transport_, &Transport::moved, this, &LaneMeters::read);
  connect(&transport_, &Transport::stateChanged, this, [this] {
    if (!transport_.isPlaying()) lanes_.clear(), output_ = {}, last_.reset();
  });
}

void LaneMeters::feed(Meter& meter, double peak, double takenDb, double ms) {
  constexpr double kHoldMs = 1500.0, kFallDbPerMs = 0.03;
  MeterReading& m = meter.shown;
  const double db = dbFromAmplitude(std::max(1e-6, peak));
  m.db = std::max(db, m.db - kFallDbPerMs * ms);
  m.takenDb = std::max(takenDb, m.takenDb - kFallDbPerMs * ms);
  meter.heldForMs += ms;
  if (db >= m.heldDb || meter.heldForMs > kHoldMs) m.heldDb = db, meter.heldForMs = 0.0;
  m.over = m.over || db > 0.0;
}

// Before plays as loud as Now.
double LaneMeters::gainOf(int lane) const {
  const auto snapshot = document_.snapshot();
  if (!transport_.isBefore() || !snapshot) return 1.0;
  HeardLanes heard = 0;
  std::optional<size_t> at;
  for (size_t i = 0; i < snapshot->lanes; ++i) {
    if (!transport_.lanes().isSilenced(snapshot->ids[i])) heard |= HeardLanes{1} << i;
    if (snapshot->ids[i] == lane || snapshot->ids[i] == LoopSnapshot::kWholeSum) at = i;
  }
  return at ? snapshot->beforeGains.of(heard)[*at] : 1.0;
}

void LaneMeters::read() {
  const LoopLevels* levels = document_.levels(transport_.isBefore());
  if (!transport_.isPlaying() || !levels) return;
  const Track& track = document_.track();
  const double now = transport_.positionQuarters(), was = std::exchange(last_, now).value_or(now);
  if (now < 0.0) return;
  const double loop = track.loopQuarters();
  double passed = now - std::max(0.0, was);
  if (passed < 0.0) passed += loop;
  constexpr double kMostQuarters = 2.0;
  if (passed > kMostQuarters) return;  // it jumped
  const double perQuarter = track.framesPerQuarter();
  const auto count = static_cast<size_t>(std::llround(passed * perQuarter));
  const auto first = std::llround(now * perQuarter) - static_cast<int64_t>(count);
  const double ms = passed * 60000.0 / track.tempoBpm;
  feed(output_, transport_.takePeak(), levels->sumTaken.highest(first, count), ms);
  if (count == 0) return;
  for (const auto& [id, level] : levels->lanes)
    feed(lanes_[id], gainOf(id) * level.peak.highest(first, count), level.taken.highest(first, count), ms);
}

MeterReading LaneMeters::lane(int id) const {
  const auto at = lanes_.find(id);
  return at == lanes_.end() || transport_.lanes().isSilenced(id) ? MeterReading() : at->second.shown;
}

}  // namespace heft::app
