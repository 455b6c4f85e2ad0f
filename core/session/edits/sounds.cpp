#include "core/session/edits/sounds.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/points.h"
#include "core/session/edits/values.h"
#include "core/session/fields.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft {
namespace {

// Of a part's length, between points of a fall.
constexpr double kBetweenPoints = 0.005, kBeforeLanding = 0.02;

Edit onRecorded(const std::string& name, int part, int layer, std::function<void(Recorded&)> change,
                const std::string& mergeKey = {}) {
  return onLayer(
      name, part, layer,
      [change = std::move(change)](Layer& l) {
        if (Recorded* r = l.recorded()) change(*r);
      },
      mergeKey);
}

Edit onKickVoice(const std::string& name, int part, int layer, std::function<void(KickVoice&)> change,
                 const std::string& mergeKey = {}) {
  return onLayer(
      name, part, layer,
      [change = std::move(change)](Layer& l) {
        if (KickVoice* v = l.kickVoice()) change(*v);
      },
      mergeKey);
}

}  // namespace

Edit setLayerLanding(const std::string& name, int part, int layer, double midi, const std::string& mergeKey) {
  return onLayer(
      name, part, layer, [midi](Layer& l) { setLanding(l, rangeOf<Recorded>("target_midi").held(midi)); },
      mergeKey);
}

Edit setLayerLength(const std::string& name, int part, int layer, const TimeValue& length, Lengthen how,
                    const std::string& mergeKey) {
  return {name,
          [=](Session& s) {
            Part* p = s.part(part);
            if (Layer* l = p ? p->layer(layer) : nullptr) setLength(*l, length, s.track.tempoBpm, how);
          },
          mergeKey};
}

Edit nameLandingMoment(int part, int layer, double ms, const std::string& mergeKey) {
  return onRecorded(
      "set landing by hand", part, layer,
      [ms](Recorded& r) {
        r.band.atMs = rangeOf<Recorded>("landing_ms").held(std::round(ms * 10.0) / 10.0);
        r.band.atHz.reset();
      },
      mergeKey);
}

Edit nameLandingPitch(int part, int layer, double hz) {
  return onRecorded("set landing by hand", part, layer, [hz](Recorded& r) {
    r.band.atHz = rangeOf<Recorded>("landing_hz").held(hz);
    r.band.atMs.reset();
  });
}

Edit measureLanding(int part, int layer) {
  return onRecorded("reset landing", part, layer,
                    [](Recorded& r) { r.band.atMs.reset(), r.band.atHz.reset(); });
}

Edit setSearchBand(int part, int layer, double lowHz, double highHz, const std::string& mergeKey) {
  return onRecorded(
      "set search band", part, layer,
      [lowHz, highHz](Recorded& r) {
        const double low = std::clamp(std::round(lowHz), 10.0, std::floor(kHighestBandHz / 1.2));
        r.band.lowHz = low;
        r.band.highHz =
            std::clamp(std::round(highHz), std::ceil(std::max(1.2 * low, low + 5.0)), kHighestBandHz);
      },
      mergeKey);
}

Edit addFallPoint(int part, int layer, double at) {
  return onKickVoice("add point to fall", part, layer, [at](KickVoice& v) {
    if (v.fall.size() >= 32 || at <= kBetweenPoints || at >= v.landingAt - kBetweenPoints) return;
    const double here = fallSemitones(v, at);
    const auto next =
        std::find_if(v.fall.begin(), v.fall.end(), [at](const FallPoint& p) { return p.at > at; });
    v.fall.insert(next, FallPoint{at, here, std::prev(next)->bend});
  });
}

Edit moveFallPoint(int part, int layer, size_t i, double at, double semitones, const std::string& mergeKey) {
  Edit place = onKickVoice({}, part, layer, [=](KickVoice& v) {
    if (i == 0 || i >= v.fall.size()) return;
    const double low = v.fall[i - 1].at + kBetweenPoints;
    const double high = (i + 1 < v.fall.size() ? v.fall[i + 1].at : v.landingAt) - kBetweenPoints;
    v.fall[i].at = std::clamp(at, low, std::max(low, high));
  });
  const std::string key = "built_kick.fall." + std::to_string(i) + ".semitones";
  Edit out = allOf("shape fall", {std::move(place), putValue({}, {part, layer}, key, semitones)});
  out.mergeKey = mergeKey;
  return out;
}

Edit removeFallPoint(int part, int layer, size_t i) {
  return onKickVoice("remove point of fall", part, layer, [i](KickVoice& v) {
    if (i > 0 && i < v.fall.size()) v.fall.erase(v.fall.begin() + static_cast<ptrdiff_t>(i));
  });
}

Edit bendFallThrough(int part, int layer, size_t i, double semitones, const std::string& mergeKey) {
  return onKickVoice(
      "bend fall", part, layer,
      [=](KickVoice& v) {
        if (i >= v.fall.size()) return;
        const double start = v.fall[i].semitones, end = i + 1 < v.fall.size() ? v.fall[i + 1].semitones : 0.0;
        if (std::abs(end - start) >= 0.1) v.fall[i].bend = bendFor((semitones - start) / (end - start));
      },
      mergeKey);
}

Edit moveFallEnd(int part, int layer, double at, const std::string& mergeKey) {
  return onKickVoice(
      "move where the kick lands", part, layer,
      [at](KickVoice& v) {
        v.landingAt = std::clamp(at, std::min(1.0, v.fall.back().at + kBeforeLanding), 1.0);
      },
      mergeKey);
}

Edit placeFadePoint(int part, int layer, double at, double gain) {
  return onLayer("place a point of the fade", part, layer, [at, gain](Layer& l) {
    Recorded* r = l.recorded();
    if (!r || r->fade.points.size() >= kMostFadePoints) return;
    r->fade.shape = FadeShape::Drawn;
    const auto next = std::find_if(r->fade.points.begin(), r->fade.points.end(),
                                   [at](const FadePoint& p) { return p.at > at; });
    r->fade.points.insert(next, {rangeOf<FadePoint>("at").held(at), rangeOf<FadePoint>("gain").held(gain)});
  });
}

Edit moveFadePoint(int part, int layer, size_t index, double at, double gain, const std::string& mergeKey) {
  return onLayer(
      "move a point of the fade", part, layer,
      [=](Layer& l) {
        Recorded* r = l.recorded();
        if (!r || index >= r->fade.points.size()) return;
        auto& points = r->fade.points;
        points[index] = {betweenNeighbours(points, index, at), rangeOf<FadePoint>("gain").held(gain)};
      },
      mergeKey);
}

Edit removeFadePoint(int part, int layer, size_t index) {
  return onLayer("remove a point of the fade", part, layer, [index](Layer& l) {
    Recorded* r = l.recorded();
    if (r && index < r->fade.points.size())
      r->fade.points.erase(r->fade.points.begin() + static_cast<ptrdiff_t>(index));
  });
}

Edit cutLayerLows(const std::string& name, int part, int layer, double hz, int slope) {
  return onLayer(name, part, layer, [hz, slope](Layer& l) {
    if (Eq* eq = l.chain.need<Eq>()) eq->cutBelow(hz, slope);
  });
}

namespace {

Cut& sideOf(Eq& eq, CutSide side) {
  return side == CutSide::Low ? eq.lowCut : eq.highCut;
}

}  // namespace

Edit setLayerCut(int part, int layer, CutSide side, std::optional<double> hz, const std::string& mergeKey) {
  const std::string name =
      std::string(hz ? "set " : "remove ") + (side == CutSide::Low ? "low" : "high") + " cut";
  return onLayer(
      name, part, layer,
      [side, hz](Layer& l) {
        const bool hasEq = l.chain.first<Eq>() != nullptr;
        Eq* eq = hz || hasEq ? l.chain.need<Eq>() : nullptr;
        if (!eq) return;
        Cut& cut = sideOf(*eq, side);
        // Bands that were off with the whole EQ stay off.
        if (hz && !eq->on) {
          for (EqBand& band : eq->bands) band.on = false;
          eq->lowCut.on = eq->highCut.on = false, eq->on = true;
        }
        cut.on = hz.has_value();
        if (hz) cut.hz = *hz;
      },
      mergeKey);
}

std::optional<double> layerCutHz(const Layer& layer, CutSide side) {
  const Eq* eq = layer.chain.first<Eq>();
  if (!eq || !eq->on || !layer.chain.on) return std::nullopt;
  const Cut& cut = side == CutSide::Low ? eq->lowCut : eq->highCut;
  return cut.on ? std::optional(cut.hz) : std::nullopt;
}

bool putEqBand(Eq& eq, const EqBand& band) {
  for (EqBand& place : eq.bands)
    if (!eq.on || !place.on) {
      // Cuts that were off with the whole EQ stay off.
      if (!eq.on)
        for (EqBand& other : eq.bands) other.on = false;
      if (!eq.on) eq.lowCut.on = eq.highCut.on = false, eq.on = true;
      place = band;
      return true;
    }
  return false;
}

bool putEqBand(Chain& chain, const EqBand& band) {
  for (Processor& p : chain.list)
    if (Eq* eq = p.as<Eq>(); eq && putEqBand(*eq, band)) return true;
  const auto id = chain.put({0, Eq()});
  return id && putEqBand(*chain.find(*id)->as<Eq>(), band);
}

Edit cutPeak(int part, int layer, const EqBand& band) {
  return onLayer("cut the peak at " + formatNumber(band.hz, 0) + " Hz", part, layer,
                 [band](Layer& l) { putEqBand(l.chain, band); });
}

Edit easeDrive(int part, int layer) {
  return onLayer("halve the drive", part, layer, [](Layer& l) {
    if (l.kickVoice()) l.kickVoice()->drive.driveDb *= 0.5;
    for (Processor& p : l.chain.list)
      if (Drive* drive = p.as<Drive>(); drive && drive->on) drive->driveDb *= 0.5;
  });
}

Edit raiseStrike(int part, int layer, double byDb) {
  return onLayer("raise the strike", part, layer, [byDb](Layer& l) {
    StrikeSustain* s = l.chain.need<StrikeSustain>();
    if (!s) return;
    s->strikeDb = rangeOf<StrikeSustain>("strike_db").held((s->on ? s->strikeDb : 0.0) + byDb);
    s->on = true;
  });
}

Edit takeBackShift(const std::string& name, int part, int layer) {
  return putValues(name, {part, layer}, {{"recorded.target_midi", Value()}, {"semitones", 0.0}});
}

Edit setPlaysOn(int part, int layer, PlaysOn on) {
  return {"choose where layer plays", [=](Session& s) {
            Part* p = s.part(part);
            if (!p || !p->layer(layer)) return;
            const double bar = s.track.beatsPerBar * 4.0 / s.track.beatUnit;
            auto set = [&](auto& events) {
              double last = -1.0;
              for (auto& e : events) {
                const double here = std::floor(e.startQuarters / bar + 1e-9);
                const bool first = here != std::exchange(last, here);
                std::erase(e.without, layer);
                const bool plays = on == PlaysOn::EveryOne || first == (on == PlaysOn::FirstOfBar);
                if (!plays) e.without.push_back(layer);
              }
            };
            set(p->hits), set(p->notes);
          }};
}

}  // namespace heft
