#include "core/session/edits/ducks.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/session/edits/points.h"
#include "core/session/edits/values.h"
#include "core/session/fields.h"
#include "core/theory/text.h"

namespace heft {
namespace {

Owner ownerOf(const Duck& duck) {
  return {.duck = duck.id};
}

TimeValue fixedTime(double ms) {
  return TimeValue::milliseconds(rangeOf<DuckCurve>("attack").held(std::round(ms * 10.0) / 10.0));
}

std::string whoseLane(const Session& s, const DuckTarget& target) {
  if (target.kind == DuckTargetKind::Backing) return "the backing";
  const Part* part = s.part(target.part);
  if (!part) return "a part that is gone";
  const Layer* layer = target.kind == DuckTargetKind::Layer ? part->layer(target.layer) : nullptr;
  return partWord(*part) +
         (layer ? ", layer " + std::to_string(layer - part->layers.data() + 1) : std::string());
}

std::string byWhat(const Session& s, const DuckSource& source) {
  switch (source.kind) {
    case TriggerKind::Part: {
      const Part* part = s.part(source.part);
      return part ? "the " + partWord(*part) : "a part that is gone";
    }
    case TriggerKind::Audio:
      return source.asset.empty() ? "a sound" : source.asset.name;
    case TriggerKind::Midi:
      return source.midiName.empty() ? "a MIDI file" : source.midiName;
    case TriggerKind::Drawn:
      break;
  }
  return "drawn hits";
}

}  // namespace

Edit onDuck(const std::string& name, const Duck& duck, std::function<void(Duck&)> change,
            const std::string& mergeKey) {
  return {name,
          [id = duck.id, change = std::move(change)](Session& s) {
            for (Duck& d : s.ducks)
              if (d.id == id) return change(d);
          },
          mergeKey};
}

int freshDuckId(const Session& session) {
  int id = 1;
  for (const Duck& d : session.ducks) id = std::max(id, d.id + 1);
  return id;
}

int unducked(const Session& s) {
  const auto isDucked = [&](const Part& part) {
    return std::any_of(s.ducks.begin(), s.ducks.end(), [&](const Duck& d) {
      return d.source.kind == TriggerKind::Part && d.source.part == s.kick().id &&
             d.target.kind != DuckTargetKind::Backing && d.target.part == part.id;
    });
  };
  if (!isDucked(s.bass())) return s.bass().id;
  for (const bool notes : {true, false})
    for (const Part& part : s.parts)
      if (part.id != s.kick().id && part.playsNotes() == notes && !isDucked(part)) return part.id;
  return s.bass().id;
}

Edit addDuck(int id, int targetPart) {
  return {"add ducking", [id, targetPart](Session& s) {
            if (s.ducks.size() >= kMostDucks) return;
            Duck duck;
            duck.id = id, duck.on = true;
            duck.source.part = s.kick().id, duck.target.part = targetPart;
            s.ducks.push_back(duck);
          }};
}

Edit duplicateDuck(const Duck& duck, int id) {
  return {"duplicate ducking", [duck, id](Session& s) {
            if (s.ducks.size() >= kMostDucks) return;
            s.ducks.push_back(duck);
            s.ducks.back().id = id;
          }};
}

Edit removeDuck(const Duck& duck) {
  return {"remove ducking", [id = duck.id](Session& s) {
            std::erase_if(s.ducks, [id](const Duck& d) { return d.id == id; });
            if (s.ducks.empty()) s.ducks.resize(1);
          }};
}

Edit setDucking(const Duck& duck, bool on) {
  return putValue(on ? "duck" : "take the ducking out", ownerOf(duck), "on", on);
}

std::string duckWord(const Session& s, const Duck& duck) {
  if (!duck.name.empty()) return duck.name;
  if (duck.isOfItsOwn() && duck.target.kind == DuckTargetKind::Part) return whoseLane(s, duck.target) + " tail";
  return whoseLane(s, duck.target) + " by " + byWhat(s, duck.source);
}

Edit setDipTime(const Duck& duck, DipTime which, const TimeValue& time, const std::optional<DrawnDip>& acting,
                const std::string& mergeKey) {
  constexpr const char* kWords[] = {"attack", "hold", "release"};
  constexpr const char* kKeys[] = {"curve.attack", "curve.hold", "curve.return"};
  std::vector<ValuePut> puts;
  if (acting && which != DipTime::Attack)
    puts = {{"curve.lasts", std::string("as_set")},
            {"curve.hold", fixedTime(acting->holdMs)},
            {"curve.return", fixedTime(acting->returnMs)}};
  puts.push_back({kKeys[static_cast<size_t>(which)], time});
  return putValues(std::string("set ducking ") + kWords[static_cast<size_t>(which)], ownerOf(duck),
                   std::move(puts), mergeKey);
}

Edit setDepth(const Duck& duck, double depthDb, const std::string& mergeKey) {
  return putValue("set ducking depth", ownerOf(duck), "curve.depth_db", depthDb, mergeKey);
}

Duck* pairDuck(Session& s, int id) {
  if (!s.isOfPair(s.duck())) {
    if (s.ducks.size() >= kMostDucks) return nullptr;
    Duck added;
    added.id = id, added.source.part = s.kick().id, added.target.part = s.bass().id;
    s.ducks.insert(s.ducks.begin(), added);
  }
  return &s.duck();
}

Edit duckBy(const Session& session, double depthDb) {
  return {"duck bass by " + formatNumber(depthDb, 1) + " dB under the kick",
          [fresh = freshDuckId(session), depthDb](Session& s) {
            Duck* made = pairDuck(s, fresh);
            if (!made) return;
            Duck& d = *made;
            d.curve.depthDb = std::max(depthDb, d.on ? d.curve.depthDb : 0.0);
            d.on = true, d.movement = Movement::Curve, d.curve.lasts = CurveLasts::AsSource, d.amount = 1.0;
          }};
}

Edit duckAsSource(const Duck& duck) {
  return putValue("match release to kick tail", ownerOf(duck), "curve.lasts", std::string("as_source"));
}

Edit shortenDucking(const Duck& duck, double factor) {
  return {"shorten the ducking", [id = duck.id, factor](Session& s) {
            for (Duck& d : s.ducks) {
              if (d.id != id) continue;
              for (TimeValue* t : {&d.curve.hold, &d.curve.release, &d.curve.length})
                *t = TimeValue::milliseconds(std::round(factor * t->toMs(s.track.tempoBpm)));
              d.curve.lasts = CurveLasts::AsSet;
            }
          }};
}

Edit startCurve(const Duck& duck, DuckNeed need) {
  constexpr const char* kNames[] = {"duck the strike only", "duck for a sixteenth", "duck to the next beat",
                                    "duck audibly"};
  return onDuck(kNames[static_cast<size_t>(need)], duck, [need](Duck& d) {
    DuckCurve c;
    c.attack = TimeValue::milliseconds(need == DuckNeed::Heard ? 5.0 : 2.0);
    switch (need) {
      case DuckNeed::StrikeOnly:
        c.depthDb = 12.0, c.hold = TimeValue::milliseconds(12.0), c.release = TimeValue::milliseconds(25.0);
        break;
      case DuckNeed::Sixteenth:
        c.depthDb = 12.0, c.hold = c.release = TimeValue::note(1, 32);
        break;
      case DuckNeed::NextBeat:
        c.depthDb = 12.0, c.hold = c.release = TimeValue::note(1, 8);
        break;
      case DuckNeed::Heard:
        c.depthDb = 24.0, c.hold = TimeValue::note(1, 16), c.release = TimeValue::note(3, 16);
        break;
    }
    c.velocityToDepth = d.curve.velocityToDepth;
    d.curve = c, d.movement = Movement::Curve, d.on = true;
  });
}

Edit placeDipPoint(const Duck& duck, const DrawnDip& acting, double at, double taken) {
  return onDuck("place a point of the ducking", duck, [acting, at, taken](Duck& d) {
    auto points = pointsOf(acting);
    if (points.size() >= kMostDipPoints) return;
    if (!acting.hasPoints()) d.curve.length = fixedTime(acting.wholeMs());
    const auto next = std::upper_bound(points.begin(), points.end() - 1, at,
                                       [](double x, const DipPoint& p) { return x < p.at; });
    points.insert(std::max(next, points.begin() + 1),
                  {std::clamp(at, 0.0, points.back().at), rangeOf<DipPoint>("taken").held(taken), 0.0});
    d.curve.points = std::move(points);
  });
}

Edit moveDipPoint(const Duck& duck, size_t index, double at, double taken, const std::string& mergeKey) {
  return onDuck(
      "move a point of the ducking", duck,
      [index, at, taken](Duck& d) {
        auto& points = d.curve.points;
        if (index >= points.size()) return;
        if (index > 0 && index + 1 < points.size()) points[index].at = betweenNeighbours(points, index, at);
        points[index].taken = rangeOf<DipPoint>("taken").held(taken);
      },
      mergeKey);
}

Edit bendDip(const Duck& duck, size_t index, double bend, const std::string& mergeKey) {
  return onDuck(
      "bend the ducking", duck,
      [index, bend](Duck& d) {
        if (index + 1 < d.curve.points.size())
          d.curve.points[index].bend = rangeOf<DipPoint>("bend").held(bend);
      },
      mergeKey);
}

Edit removeDipPoint(const Duck& duck, size_t index) {
  return onDuck("remove a point of the ducking", duck, [index](Duck& d) {
    auto& points = d.curve.points;
    if (points.size() > 3 && index > 0 && index + 1 < points.size())
      points.erase(points.begin() + static_cast<ptrdiff_t>(index));
  });
}

Edit clearDipPoints(const Duck& duck) {
  return onDuck("duck by its four dimensions", duck, [](Duck& d) { d.curve.points.clear(); });
}

Edit drawDip(const Duck& duck, const DrawnDip& drawn) {
  return onDuck("convert ducking to curve", duck, [drawn](Duck& d) {
    d.curve.depthDb = drawn.depthDb;
    d.curve.points = pointsOf(drawn);
    d.curve.length = TimeValue::milliseconds(std::round(drawn.wholeMs() * 10.0) / 10.0);
    d.curve.lasts = CurveLasts::AsSet, d.curve.velocityToDepth = 0.0;
    d.movement = Movement::Curve;
  });
}

Edit setThreshold(const Duck& duck, double thresholdDb) {
  return putValue("set the follower's threshold", ownerOf(duck), "follower.threshold_db", thresholdDb);
}

Edit setDuckBelow(const Duck& duck, std::optional<double> crossoverHz, const std::string& mergeKey) {
  if (!crossoverHz) return putValue("duck full band", ownerOf(duck), "band.kind", std::string("all"), mergeKey);
  return putValues("set ducking band", ownerOf(duck),
                   {{"band.kind", std::string("below")}, {"band.below_hz", *crossoverHz}}, mergeKey);
}

Edit setBellNote(const Duck& duck, double midi, const Key& key) {
  return putValues("set the bell's note", ownerOf(duck),
                   {{"band.kind", std::string("bell")},
                    {"band.at", std::string("key")},
                    {"band.semitones", midi - lowTonic(key)}});
}

Edit addBandStep(const Duck& duck) {
  return onDuck("add a band", duck, [](Duck& d) {
    auto& steps = d.band.steps;
    d.band.kind = DuckBandKind::Several;
    if (steps.size() >= kMostBandSteps) return;
    const double hz = steps.empty() ? 120.0 : std::min(4000.0, std::round(1.6 * steps.back().belowHz));
    if (steps.empty() || hz > steps.back().belowHz) steps.push_back({hz, d.band.aboveShare});
  });
}

Edit removeBandStep(const Duck& duck, size_t index) {
  return onDuck("remove a band", duck, [index](Duck& d) {
    auto& steps = d.band.steps;
    if (index < steps.size() && steps.size() > 1) steps.erase(steps.begin() + static_cast<ptrdiff_t>(index));
  });
}

Edit moveBandStep(const Duck& duck, size_t index, double hz, const std::string& mergeKey) {
  return onDuck(
      "move a band's edge", duck,
      [index, hz](Duck& d) {
        auto& steps = d.band.steps;
        if (index >= steps.size()) return;
        const double low = index > 0 ? steps[index - 1].belowHz + 1.0 : 30.0,
                     high = index + 1 < steps.size() ? steps[index + 1].belowHz - 1.0 : 4000.0;
        if (low <= high) steps[index].belowHz = std::clamp(hz, low, high);
      },
      mergeKey);
}

Edit setDuckTarget(const Duck& duck, const DuckTarget& target) {
  return onDuck("set what is ducked", duck, [target](Duck& d) { d.target = target; });
}

}  // namespace heft
