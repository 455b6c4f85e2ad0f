#include "core/session/edits/pair.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft {
namespace {

Owner ownerOf(const Part& part) {
  return {.part = part.id};
}
Owner ownerOf(const Duck& duck) {
  return {.duck = duck.id};
}

TimeValue fixedTime(double ms) {
  return TimeValue::milliseconds(std::clamp(std::round(ms * 10.0) / 10.0, 0.0, 5000.0));
}

}  // namespace

Edit setDelay(const Part& part, double delayMs, const std::string& mergeKey) {
  // No negative zero: it would be another document.
  return putValue("delay " + partWord(part), ownerOf(part), "align.delay_ms", delayMs == 0.0 ? 0.0 : delayMs,
                  mergeKey);
}

Edit setPolarity(const Part& part, bool invert) {
  return putValue(invert ? "invert " + partWord(part) : partWord(part) + " polarity normal", ownerOf(part),
                  "align.invert", invert);
}

Edit alignBy(const Part& part, const AlignAnswer& answer) {
  return putValues("align " + partWord(part), ownerOf(part),
                   {{"align.delay_ms", answer.delayMs}, {"align.invert", answer.invert}});
}

Edit setAlignBand(const Part& part, double lowHz, double highHz) {
  return putValues("set align band", ownerOf(part), {{"align.low_hz", lowHz}, {"align.high_hz", highHz}});
}

Edit setDipTime(const Duck& duck, DipTime which, const TimeValue& time, const std::optional<DrawnDip>& acting,
                const std::string& mergeKey) {
  constexpr const char* kWords[] = {"attack", "hold", "release"};
  constexpr const char* kKeys[] = {"attack", "hold", "return"};
  std::vector<ValuePut> puts;
  if (acting && which != DipTime::Attack)
    puts = {{"as_source", false}, {"hold", fixedTime(acting->holdMs)}, {"return", fixedTime(acting->returnMs)}};
  puts.push_back({kKeys[static_cast<size_t>(which)], time});
  return putValues(std::string("set ducking ") + kWords[static_cast<size_t>(which)], ownerOf(duck),
                   std::move(puts), mergeKey);
}

Edit setDepth(const Duck& duck, double depthDb, const std::string& mergeKey) {
  return putValue("set ducking depth", ownerOf(duck), "depth_db", depthDb, mergeKey);
}

Edit setDucking(const Duck& duck, bool on) {
  return putValue(on ? "duck bass" : "take the ducking out", ownerOf(duck), "on", on);
}

Edit duckBy(const Duck& duck, double depthDb) {
  return {"duck bass by " + formatNumber(depthDb, 1) + " dB under the kick",
          [id = duck.id, depthDb](Session& s) {
            for (Duck& d : s.ducks) {
              if (d.id != id) continue;
              d.depthDb = std::max(depthDb, d.on ? d.depthDb : 0.0);
              d.on = d.asSource = true;
            }
          }};
}

Edit duckAsSource(const Duck& duck) {
  return putValue("release as the kick", ownerOf(duck), "as_source", true);
}

Edit shortenDucking(const Duck& duck, double factor) {
  return {"shorten the ducking", [id = duck.id, factor](Session& s) {
            for (Duck& d : s.ducks) {
              if (d.id != id) continue;
              for (TimeValue* t : {&d.hold, &d.release})
                *t = TimeValue::milliseconds(std::round(factor * t->toMs(s.track.tempoBpm)));
              d.asSource = false;
            }
          }};
}

Edit setDuckBand(const Duck& duck, std::optional<double> crossoverHz, const std::string& mergeKey) {
  return putValue(crossoverHz ? "set ducking band" : "duck all of the bass", ownerOf(duck), "crossover_hz",
                  crossoverHz ? Value(*crossoverHz) : Value(), mergeKey);
}

}  // namespace heft
