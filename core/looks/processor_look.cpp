#include "core/looks/processor_look.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/measure/levels/equal_loudness.h"
#include "core/measure/levels/levels.h"
#include "core/measure/levels/spectrum.h"
#include "core/session/pattern.h"
#include "core/sound/convolve.h"
#include "core/study/pair_lanes.h"

namespace heft {
namespace {

struct Sounding {
  std::vector<float> mono;  // from the lead before the strike
  double rate = 48000.0;
};

std::vector<float> folded(const AudioBuffer& sound, double onsetSeconds) {
  const auto mono = monoFold(sound);
  const auto lead =
      static_cast<int64_t>(std::llround((onsetSeconds - ProcessorLook::kLeadSeconds) * sound.sampleRate));
  const auto most = static_cast<size_t>(ProcessorLook::kLongestSeconds * sound.sampleRate);
  std::vector<float> out;
  for (int64_t i = lead; i < static_cast<int64_t>(mono.size()) && out.size() < most; ++i)
    out.push_back(i < 0 ? 0.0f : static_cast<float>(mono[static_cast<size_t>(i)]));
  return out;
}

// The first `count` of the processors only.
Session upTo(Session s, const Owner& of, size_t count) {
  Chain& chain = *chainOf(s, of);
  chain.list.resize(std::min(count, chain.list.size()));
  return s;
}

std::optional<Sounding> soundOf(const Session& s, const Owner& of, const Assets& assets, StepCache& cache,
                                const std::stop_token& stop) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  const Part* part = of.part ? s.part(*of.part) : nullptr;
  if (of.part && !part) return std::nullopt;
  if (!part || (!of.layer && part->finishOver == FinishOver::Lane)) {
    const auto stems = render(s, assets, cache, stop);
    if (!stems) return std::nullopt;
    const Lane* lane = part ? stems->lane(part->id) : nullptr;
    const Signal& stem = lane ? lane->placed : stems->sum;
    const auto& at = lane ? lane->eventFrames : stems->hitFrames();
    if (stem.frames() == 0) return std::nullopt;
    const auto lead = static_cast<int64_t>(ProcessorLook::kLeadSeconds * stems->sampleRate);
    const auto first = static_cast<int64_t>(at.empty() ? 0.0 : at.front()) - lead;
    const auto count =
        std::min(stem.frames(), static_cast<size_t>(ProcessorLook::kLongestSeconds * stems->sampleRate));
    AudioBuffer out;
    out.sampleRate = stems->sampleRate;
    for (size_t c = 0; c < stem.channels(); ++c) out.channels.push_back(stem.read(c, first, count));
    return Sounding{folded(out, ProcessorLook::kLeadSeconds), stems->sampleRate};
  }
  Part sounding = *part;
  if (const Layer* layer = of.layer ? part->layer(*of.layer) : nullptr) {
    sounding.layers = {*layer}, sounding.finish = {}, sounding.contour.on = false;
    sounding.layers[0].mute = sounding.layers[0].solo = false;
    sounding.layers[0].levelDb = sounding.layers[0].offsetMs = 0.0;
  }
  constexpr double kHeldSeconds = 0.6;
  if (part->playsNotes()) {
    const Keyed note = steps.bassNote(sounding, s.track, mainNote(*part, s.track), kHeldSeconds);
    if (!note.sound || note.sound->frames() == 0) return std::nullopt;
    return Sounding{folded(*note.sound, note.leadSeconds()), note.sound->sampleRate};
  }
  const auto ready = steps.kick(sounding, s.track);
  if (!ready || ready->sound.frames() == 0) return std::nullopt;
  return Sounding{folded(ready->sound, ready->onsetSeconds), ready->sound.sampleRate};
}

std::optional<double> noteOf(const Session& s, const Owner& of, const Assets& assets, StepCache& cache) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  const Part& part = of.part && s.part(*of.part) ? *s.part(*of.part) : s.kick();
  const Layer* layer = of.layer ? part.layer(*of.layer) : nullptr;
  if (part.playsNotes())
    return hzFromMidi(mainNote(part, s.track) + (layer ? layer->semitones : 0.0), s.track.notes.a4Hz);
  Part plain = part;
  if (layer) plain.layers = {*layer};
  // Its landing, whatever follows.
  for (Layer& l : plain.layers) l.chain = {}, l.mute = l.solo = false;
  plain.finish = {};
  const auto facts = steps.kickFacts(plain, s.track);
  return facts ? facts->landing.noteHz() : std::nullopt;
}

// Frames until it stays 40 dB under its peak; 0 for silence.
size_t soundingFrames(const std::vector<float>& x) {
  constexpr float kDown = 0.01f;
  float peak = 0.0f;
  for (const float v : x) peak = std::max(peak, std::abs(v));
  size_t last = peak > 0.0f ? x.size() : 0;
  while (last > 0 && std::abs(x[last - 1]) < kDown * peak) --last;
  return last;
}

struct LookSpan {
  size_t first = 0, count = 0;
};

// After the strike, for as long as it sounds: silence after a short hit would not count.
LookSpan partialsSpan(const ProcessorLook& look) {
  constexpr double kFrom = ProcessorLook::kLeadSeconds + 0.03, kLeastSeconds = 0.05, kMostSeconds = 0.4;
  const auto first = static_cast<size_t>(kFrom * look.rate);
  if (look.before.size() <= first + 64) return {};
  const double sounds =
      static_cast<double>(std::max(soundingFrames(look.before), soundingFrames(look.after))) / look.rate;
  const double seconds = std::clamp(sounds - kFrom, kLeastSeconds, kMostSeconds);
  return {first, std::min(look.before.size() - first, static_cast<size_t>(seconds * look.rate))};
}

// A partial's level there, through a Hann window.
double levelAt(const std::vector<float>& x, const LookSpan& span, double rate, double hz) {
  if (span.count == 0) return -120.0;
  std::complex<double> sum;
  double weight = 0.0;
  for (size_t i = 0; i < span.count; ++i) {
    const double turn = 2.0 * std::numbers::pi * static_cast<double>(i);
    const double w = 0.5 - 0.5 * std::cos(turn / static_cast<double>(span.count));
    sum += std::polar(w * x[span.first + i], -turn * hz / rate), weight += w;
  }
  return dbFromAmplitude(std::max(1e-6, 2.0 * std::abs(sum) / weight));
}

void addPartials(ProcessorLook& out) {
  constexpr int kMost = 16;
  constexpr double kHighest = 5000.0;
  if (!out.noteHz) return;
  std::vector<std::optional<double>> after;
  const LookSpan span = partialsSpan(out);
  for (int k = 1; k <= kMost && k * *out.noteHz < std::min(kHighest, 0.45 * out.rate); ++k) {
    const double hz = k * *out.noteHz;
    out.partials.push_back(
        {hz, levelAt(out.before, span, out.rate, hz), levelAt(out.after, span, out.rate, hz)});
    after.push_back(out.partials.back().afterDb);
  }
  for (const PartialHeard& p : heardOnSmallSpeaker(*out.noteHz, after))
    if (static_cast<size_t>(p.number) <= out.partials.size())
      out.partials[static_cast<size_t>(p.number - 1)].heard = p.audible;
}

// Over the part within 40 dB of the peak: the silence after a short hit would not count.
double crestDb(const std::vector<float>& x) {
  const size_t last = soundingFrames(x);
  if (last == 0) return 0.0;
  float peak = 0.0f;
  for (const float v : x) peak = std::max(peak, std::abs(v));
  const double energy = energyOf(std::span<const float>(x).first(last));
  return dbFromAmplitude(peak / std::sqrt(energy / static_cast<double>(std::max<size_t>(1, last))));
}

// The highest sample within half a period of the note, smoothed over as long, every millisecond, dB.
std::vector<float> levelLine(const std::vector<float>& x, double rate, double noteHz) {
  constexpr double kFloor = 1e-4;
  const auto half = std::max<int64_t>(1, std::llround(rate / noteHz / 4.0)), n = static_cast<int64_t>(x.size());
  if (n == 0) return {};
  const auto peaks = slidingPeak(std::vector<double>(x.begin(), x.end()), rate, 0.5 / noteHz);
  std::vector<double> sums(peaks.size() + 1, 0.0);
  for (size_t i = 0; i < peaks.size(); ++i) sums[i + 1] = sums[i] + peaks[i];
  std::vector<float> out;
  for (double ms = 0.0; ms / 1000.0 * rate < static_cast<double>(n); ms += ProcessorLook::kLevelStepMs) {
    const auto at = static_cast<int64_t>(ms / 1000.0 * rate);
    const auto from = static_cast<size_t>(std::max<int64_t>(0, at - half)),
               to = static_cast<size_t>(std::min(n, at + half));
    const double mean = (sums[to] - sums[from]) / static_cast<double>(to - from);
    out.push_back(static_cast<float>(dbFromAmplitude(std::max(kFloor, mean))));
  }
  return out;
}

// The most gain reduction, and how long until it is under 1 dB, within 50 dB of the sound's peak.
void addTaken(ProcessorLook& out) {
  constexpr float kQuiet = 50.0f, kBack = 1.0f;
  if (out.beforeLevelDb.empty()) return;
  const float loudest = *std::max_element(out.beforeLevelDb.begin(), out.beforeLevelDb.end());
  auto taken = [&](size_t i) { return out.beforeLevelDb[i] - out.afterLevelDb[i]; };
  std::optional<size_t> most;
  for (size_t i = 0; i < out.beforeLevelDb.size(); ++i)
    if (out.beforeLevelDb[i] > loudest - kQuiet && (!most || taken(i) > taken(*most))) most = i;
  if (!most || taken(*most) < 0.05f) return;
  out.takenDb = taken(*most);
  out.takenAtMs =
      ProcessorLook::kLevelStepMs * static_cast<double>(*most) - 1000.0 * ProcessorLook::kLeadSeconds;
  for (size_t i = *most; out.takenDb > kBack && i < out.beforeLevelDb.size(); ++i)
    if (taken(i) < kBack && out.beforeLevelDb[i] > loudest - kQuiet) {
      out.backAfterMs = ProcessorLook::kLevelStepMs * static_cast<double>(i - *most);
      return;
    }
}

// Length and level of the pre-ringing: sound before the input's first moment within 40 dB of its peak.
std::optional<LookRinging> ringingOf(const Eq& eq, const std::vector<float>& before, double rate) {
  constexpr float kHeard = 0.01f;
  if (!eq.linearPhase || !eq.works()) return std::nullopt;
  const auto response = linearPhaseResponse(eq, rate);
  const auto after = convolved(before, response);
  auto peak = [](const auto& x) {
    float most = 0.0f;
    for (const float v : x) most = std::max(most, std::abs(v));
    return most;
  };
  auto firstOver = [](const auto& x, float level) {
    return std::find_if(x.begin(), x.end(), [level](float v) { return std::abs(v) >= level; }) - x.begin();
  };
  const float was = peak(before), is = peak(after);
  if (!(was > 0.0f) || !(is > 0.0f)) return std::nullopt;
  const auto strike = firstOver(before, kHeard * was) + static_cast<ptrdiff_t>(response.size() / 2);
  const auto rings = firstOver(after, kHeard * is);
  if (rings >= strike) return LookRinging{};
  const auto ahead = std::span(after).subspan(static_cast<size_t>(rings), static_cast<size_t>(strike - rings));
  return LookRinging{1000.0 * static_cast<double>(strike - rings) / rate, dbFromAmplitude(peak(ahead) / is)};
}

std::optional<LookPair> pairOf(const Session& s, const Owner& of, int id, double hz, const Assets& assets,
                               StepCache& cache, const std::stop_token& stop) {
  const Eq* eq = chainOf(s, of)->find(id)->as<Eq>();
  if (!eq || !eq->works() || !chainOf(s, of)->on || !of.part || !s.isOfPair(*of.part)) return std::nullopt;
  LookPair out;
  out.turnDegrees = eqTurnDegrees(*eq, s.track.sampleRate, hz);
  Session without = s;
  chainOf(without, of)->find(id)->switchOn(false);
  for (const Session* which : {&s, static_cast<const Session*>(&without)}) {
    const auto stems = render(*which, assets, cache, stop);
    if (!stems) return std::nullopt;
    const PairLanes lanes = pairLanes(*which, *stems, cache);
    const AlignMove& move = which->bass().align;
    AlignCurve all;
    for (const MeetingSpan& span : meetingSpans(*stems))
      addTo(all, *curveAt(lanes, move.question, span, PairHeard::AsDucked, cache));
    if (!all.overlap) return std::nullopt;
    (which == &s ? out.withDb : out.withoutDb) = all.levelAt(move.delayMs, move.invert);
    if (which == &s) out.alignedDb = bestAlignment(all).afterDb;
  }
  return out;
}

// Compared with the same without that gain.
std::optional<double> keptDb(const Session& s, const Owner& of, int id, const std::vector<float>& after,
                             const Assets& assets, StepCache& cache, const std::stop_token& stop) {
  const Chain& chain = *chainOf(s, of);
  const Processor& p = *chain.find(id);
  if (!p.keepsLoudness || !canKeepLoudness(p.what.index()) || !p.works() || !chain.on) return std::nullopt;
  size_t place = 0;
  while (chain.list[place].id != id) ++place;
  Session plain = upTo(s, of, place + 1);
  chainOf(plain, of)->find(id)->keepsLoudness = false;
  const auto without = soundOf(plain, of, assets, cache, stop);
  if (!without) return std::nullopt;
  const double was = energyOf(std::span<const float>(without->mono)),
               is = energyOf(std::span<const float>(after));
  return was > 0.0 && is > 0.0 ? std::optional(dbFromPower(is / was)) : std::nullopt;
}

}  // namespace

std::optional<ProcessorLook> lookAt(const Session& s, const Owner& of, int id, const Assets& assets,
                                    StepCache& cache, const std::stop_token& stop) {
  const Chain* chain = chainOf(s, of);
  if (!chain || !chain->find(id)) return std::nullopt;
  size_t place = 0;
  while (chain->list[place].id != id) ++place;
  const auto before = soundOf(upTo(s, of, place), of, assets, cache, stop);
  const auto after = before ? soundOf(upTo(s, of, place + 1), of, assets, cache, stop) : std::nullopt;
  if (!after || stop.stop_requested()) return std::nullopt;
  ProcessorLook out;
  out.rate = before->rate;
  out.before = before->mono, out.after = after->mono;
  const size_t longest = std::max(out.before.size(), out.after.size());
  out.before.resize(longest, 0.0f), out.after.resize(longest, 0.0f);
  out.noteHz = noteOf(s, of, assets, cache);
  out.beforeDb = spectrumOf(out.before, out.rate), out.afterDb = spectrumOf(out.after, out.rate);
  constexpr double kUsualHz = 50.0;
  const double hz = std::clamp(out.noteHz.value_or(kUsualHz), 25.0, 200.0);
  out.beforeLevelDb = levelLine(out.before, out.rate, hz),
  out.afterLevelDb = levelLine(out.after, out.rate, hz);
  addTaken(out);
  addPartials(out);
  if (const Eq* eq = chain->find(id)->as<Eq>()) out.ringing = ringingOf(*eq, out.before, out.rate);
  out.keptDb = keptDb(s, of, id, out.after, assets, cache, stop);
  out.crestBeforeDb = crestDb(out.before), out.crestAfterDb = crestDb(out.after);
  if (out.noteHz) out.pair = pairOf(s, of, id, *out.noteHz, assets, cache, stop);
  return out;
}

std::optional<HeardSpectrum> heardSpectrum(const Session& s, const Owner& of, const Assets& assets,
                                           StepCache& cache, const std::stop_token& stop) {
  const auto sound = soundOf(s, of, assets, cache, stop);
  if (!sound || stop.stop_requested()) return std::nullopt;
  return HeardSpectrum{spectrumOf(sound->mono, sound->rate), noteOf(s, of, assets, cache)};
}

}  // namespace heft
