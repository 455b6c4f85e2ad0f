// Cost of a way to make room, and the ducking it installs.

#include <algorithm>
#include <cmath>

#include "core/render/lanes/figure_steps.h"
#include "core/session/edits/ducks.h"
#include "core/solve/ways.h"

namespace heft {
namespace {

constexpr double kBellOctaves = 1.0;

}  // namespace

WayCost costBetween(const Stems& before, const Stems& after, StepCache& cache) {
  WayCost out;
  const double rate = after.sampleRate;
  const auto had = laneLoudness(before.bass(), rate, cache), has = laneLoudness(after.bass(), rate, cache);
  if (had && has) out.loudnessLostDb = *had - *has;
  std::vector<Trigger> hits;
  for (const double f : after.hitFrames()) hits.push_back({f});
  const auto dip = measureDip(after.gain().read(0, 0, after.frames), hits, rate, true);
  for (const TriggerFacts& f : dip.each) out.under3DbMs += f.under3DbMs / static_cast<double>(dip.each.size());
  const double was = laneTruePeakDbtp(before.sum, rate, cache), is = laneTruePeakDbtp(after.sum, rate, cache);
  if (was > -120.0 && is > -120.0) out.peakDb = is - was;
  return out;
}

double WayCost::sum() const {
  return std::max(0.0, loudnessLostDb) + under3DbMs / 100.0 + 0.5 * shiftSemitones + shorterMs / 100.0 +
         std::max(0.0, peakDb);
}

Edit makeRoomBy(const Session& session, WayKind kind, double by, DuckShape shape) {
  const bool keeps = shape == DuckShape::Kept && isDuckedBy(session, kind);
  return {"make room", [fresh = freshDuckId(session), kind, by, keeps](Session& s) {
            Duck* made = pairDuck(s, fresh);
            if (!made) return;
            Duck& d = *made;
            const Duck plain;
            d.on = true;
            if (keeps) return void(d.curve.depthDb = by);
            d.amount = 1.0;
            d.curve = plain.curve, d.band = plain.band;
            d.movement = kind == WayKind::Mirror ? Movement::Mirror : Movement::Curve;
            d.curve.depthDb = by, d.curve.lasts = CurveLasts::AsSource;
            if (kind == WayKind::Mirror) d.mirror = plain.mirror, d.mirror.withinDb = by;
            if (kind == WayKind::LowBand) d.band.kind = DuckBandKind::Below, d.band.belowHz = kWayCrossoverHz;
            if (kind == WayKind::Bell)
              d.band.kind = DuckBandKind::Bell, d.band.at = BellAt::Source, d.band.octaves = kBellOctaves;
          }};
}

bool isDuckedBy(const Session& session, WayKind kind) {
  const Duck& d = session.duck();
  if (!session.isOfPair(d) || !session.acts(d) || d.movement != Movement::Curve) return false;
  switch (d.band.kind) {
    case DuckBandKind::Below:
      return kind == WayKind::LowBand;
    case DuckBandKind::Bell:
      return kind == WayKind::Bell;
    default:
      return kind == WayKind::Full;
  }
}

LaneLevels balanceBy(const Session& session, double db) {
  const double up = std::floor(db) / 2.0;
  return laneBy(session, session.kick().id, up) + laneBy(session, session.bass().id, up - db);
}

}  // namespace heft
