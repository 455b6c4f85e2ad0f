#include "core/solve/two_sounds.h"

#include <algorithm>
#include <cmath>

#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/lane_steps.h"
#include "core/session/edits/pair.h"
#include "core/session/pattern.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"
#include "core/study/pair_lanes.h"

namespace heft {
namespace {

constexpr double kCorrelationHz = 250.0, kRatesPerHz = 14.0;

// The part with that layer alone.
Part alone(Part part, int layer) {
  for (Layer& l : part.layers) l.solo = false, l.mute = l.id != layer;
  return part;
}

struct Heard {
  Signal lane;
  std::vector<double> eventFrames;
  std::optional<double> riseSeconds;  // of its strike, after its event
};

// When the strike first reaches half of its peak, between samples.
std::optional<double> halfRise(const AudioBuffer& sound, double fromSeconds) {
  constexpr double kStrikeSeconds = 0.01, kLeadSeconds = 0.001, kStep = 0.125;
  const auto mono = monoFold(sound);
  const double rate = sound.sampleRate, first = std::max(0.0, (fromSeconds - kLeadSeconds) * rate);
  const auto count = static_cast<size_t>((kStrikeSeconds + kLeadSeconds) * rate / kStep);
  const std::vector<float> narrow(mono.begin(), mono.end());
  const auto read = readAt(narrow, first, kStep, count);
  double peak = 0.0;
  for (const float v : read) peak = std::max(peak, static_cast<double>(std::abs(v)));
  if (!(peak > 1e-5)) return std::nullopt;
  for (size_t i = 1; i < read.size(); ++i) {
    const double before = std::abs(read[i - 1]), now = std::abs(read[i]);
    if (now < 0.5 * peak) continue;
    const double part = now > before ? std::clamp((0.5 * peak - before) / (now - before), 0.0, 1.0) : 1.0;
    return (first + kStep * (static_cast<double>(i - 1) + part)) / rate;
  }
  return std::nullopt;
}

std::optional<double> strikeOf(const Part& part, const SoundRef& ref, const Track& track,
                               const SoundSteps& steps) {
  const Layer* layer = ref.layer ? part.layer(*ref.layer) : nullptr;
  const double later = part.align.delayMs / 1000.0 + (layer ? layer->offsetMs / 1000.0 : 0.0);
  if (!part.playsNotes()) {
    const auto ready = layer ? steps.kickLayer(*layer, track) : steps.kick(part, track);
    const auto rise = ready ? halfRise(ready->sound, ready->onsetSeconds) : std::nullopt;
    if (!rise) return std::nullopt;
    return *rise - ready->onsetSeconds + later;
  }
  Part sounding = layer ? alone(part, *ref.layer) : part;
  for (Layer& l : sounding.layers)
    if (layer) l.offsetMs = 0.0;
  const Keyed note = steps.bassNote(sounding, track, mainNote(part, track));
  const double beat = note.leadSeconds();
  const auto rise = note.sound ? halfRise(*note.sound, beat) : std::nullopt;
  if (!rise) return std::nullopt;
  return *rise - beat + later;
}

std::optional<Heard> heardOf(const Session& s, const SoundRef& ref, const Stems& stems, const SoundSteps& steps,
                             StepCache& cache, const std::stop_token& stop) {
  const Part* part = s.part(ref.part);
  const Lane* lane = stems.lane(ref.part);
  if (!part || !lane || (ref.layer && !part->layer(*ref.layer))) return std::nullopt;
  Heard out{lane->heard, lane->eventFrames, strikeOf(*part, ref, s.track, steps)};
  if (ref.layer)
    out.lane = movedStem(partLane(s, alone(*part, *ref.layer), steps, cache, stop, fadesOf(s, *part)),
                         part->align, stems.sampleRate, cache);
  return out;
}

// Offset of the second after the first, at two events that coincide.
std::optional<double> eventsApartSeconds(const Heard& first, const Heard& second, double rate) {
  constexpr double kTogetherSeconds = 0.05;
  std::optional<double> out;
  for (const double a : first.eventFrames)
    for (const double b : second.eventFrames)
      if (const double apart = (b - a) / rate; std::abs(apart) < std::abs(out.value_or(kTogetherSeconds)))
        out = apart;
  return out;
}

TwoSounds::Wave waveAt(const SlowLane& first, const SlowLane& second, double at, const AlignQuestion& q) {
  constexpr double kLead = TwoSounds::kLeadMs / 1000.0;
  // Beyond the visible part, so that the stretch's end stays out of sight.
  const double seconds = kLead + TwoSounds::kShownMs / 1000.0 + kLead;
  auto of = [&](const SlowLane& lane) {
    const auto band = bandLimited(lane.from(lane.samples, at - kLead, seconds), lane.rate, q.lowHz, q.highHz);
    return std::vector<float>(band.begin(), band.end());
  };
  return {of(first), of(second)};
}

}  // namespace

std::string soundTitle(const Session& s, const SoundRef& sound) {
  const Part* part = s.part(sound.part);
  if (!part) return {};
  if (!sound.layer) return part->title();
  const Layer* layer = part->layer(*sound.layer);
  return layer ? part->title() + ": " + layer->title() : std::string();
}

std::vector<SoundRef> soundsOf(const Session& s) {
  std::vector<SoundRef> out;
  for (const Part& part : s.parts) {
    const auto filled =
        std::count_if(part.layers.begin(), part.layers.end(), [](const Layer& l) { return !l.isEmpty(); });
    if (filled == 0) continue;
    out.push_back({part.id, {}});
    for (const Layer& l : part.layers)
      if (filled > 1 && !l.isEmpty()) out.push_back({part.id, l.id});
  }
  return out;
}

Result<TwoSounds> twoSounds(const Session& s, const Assets& assets, SoundRef first, SoundRef second,
                            StepCache& cache, std::stop_token stop) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return twoSounds(s, assets, first, second, mine, stop); });
  if (first == second) return badUsage("choose two different sounds");
  if (first.part == second.part && !(first.layer && second.layer))
    return badUsage("a part moves with its layers: choose two of its layers, or another part");
  const auto stems = render(s, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  const auto a = heardOf(s, first, *stems, steps, cache, stop),
             b = heardOf(s, second, *stems, steps, cache, stop);
  if (stop.stop_requested()) return cancelled();
  for (const auto& [heard, ref] : {std::pair(&a, first), {&b, second}})
    if (!*heard || (*heard)->eventFrames.empty())
      return badUsage((soundTitle(s, ref).empty() ? "A sound" : soundTitle(s, ref)) +
                      " has no hits or notes in this loop: add some");
  AlignQuestion q = s.part(second.part)->align.question;
  const double slowRate = kRatesPerHz * std::max(q.highHz, kCorrelationHz),
               lead = kLeastLeadSeconds + std::max(q.maxDelayMs, TwoSounds::kLeadMs) / 1000.0;
  auto slow = [&](const Signal& lane) { return slowLane(lane, stems->sampleRate, slowRate, lead, cache); };
  const PairLanes lanes{slow(a->lane), slow(b->lane), slow(b->lane), {}, {}, {}};
  TwoSounds out;
  out.waveRate = lanes.kick->rate;
  AlignCurve all;
  std::vector<Meeting> meetings;
  for (const MeetingSpan& span : meetingSpans(a->eventFrames, *stems)) {
    if (stop.stop_requested()) return cancelled();
    const auto curve = curveAt(lanes, q, span, PairHeard::Plain, cache);
    addTo(all, *curve);
    if (curve->overlap) meetings.push_back(lanes.meeting(span, PairHeard::Plain));
    if (out.waves.size() < TwoSounds::kMostWaves)
      out.waves.push_back(waveAt(*lanes.kick, *lanes.placed, span.atSeconds, q));
  }
  out.best = bestAlignment(all);
  out.nowDb = all.overlap ? all.levelAt(0.0, false) : 0.0;
  out.between = Correlation(meetings, lanes.kick->rate);
  const auto apart =
      first.part == second.part ? std::optional(0.0) : eventsApartSeconds(*a, *b, stems->sampleRate);
  if (apart && a->riseSeconds && b->riseSeconds)
    out.strikesApartMs = 1000.0 * (*apart + *b->riseSeconds - *a->riseSeconds);
  return out;
}

Edit moveSound(const std::string& name, const SoundRef& sound, double byMs, bool turnOver,
               const std::string& mergeKey) {
  return sound.layer ? shiftLayer(name, sound.part, *sound.layer, byMs, turnOver, mergeKey)
                     : shiftPart(name, sound.part, byMs, turnOver, mergeKey);
}

}  // namespace heft
