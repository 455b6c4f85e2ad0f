#include "core/ledger/study.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kSlowRate = 4000.0;

std::vector<double> monoOf(const Stem& stem, int64_t first, size_t count) {
  const auto left = stem.wrapped(0, first, count);
  std::vector<double> out(left.begin(), left.end());
  if (stem.channels() == 2) {
    const auto right = stem.wrapped(1, first, count);
    for (size_t i = 0; i < count; ++i) out[i] = 0.5 * (out[i] + right[i]);
  }
  return out;
}

// Level of the bass re the kick below 150 Hz over the first `kickSeconds`.
double bassReKick(const std::vector<double>& kick, const std::vector<double>& bass, double rate,
                  double kickSeconds) {
  auto energy = [&](const std::vector<double>& x) {
    const auto slow = decimated(std::span<const double>(x), rate, kSlowRate);
    const auto low = bandLimited(slow.samples, slow.sampleRate, 20.0, 150.0);
    const auto count = std::min(low.size(), static_cast<size_t>(kickSeconds * slow.sampleRate));
    return energyOf(std::span<const double>(low).first(count));
  };
  const double k = energy(kick), b = energy(bass);
  return k > 0.0 && b > 0.0 ? std::max(-120.0, dbFromPower(b) - dbFromPower(k)) : -120.0;
}

void nextNote(HitFacts& hit, const Session& s, double hitQuarters, const SoundFacts& kick,
              const std::vector<double>& envelope) {
  const double loop = s.track.loopQuarters();
  double gap = 1e9;
  for (const Note& n : s.bass.notes) {
    if (n.startQuarters >= loop) continue;
    double ahead = n.startQuarters - hitQuarters;
    while (ahead < 0.02) ahead += loop;
    gap = std::min(gap, ahead);
  }
  if (gap >= loop - 0.02 || envelope.empty()) return;
  hit.nextNoteGapMs = gap * 60000.0 / s.track.tempoBpm;
  const double peak = *std::max_element(envelope.begin(), envelope.end());
  const auto at =
      static_cast<size_t>((kick.onsetSeconds.value_or(0.0) + *hit.nextNoteGapMs / 1000.0) * kick.sampleRate);
  hit.tailAtNextNoteDb =
      at < envelope.size() && peak > 0.0 ? std::max(-120.0, dbFromAmplitude(envelope[at] / peak)) : -120.0;
}

// The picture's waves: a lead before the hit long enough for any delay, and 0.4 s after it.
void addWaves(HitFacts& out, const Session& s, const Stems& stems, int64_t first) {
  const auto& q = s.align.question;
  out.waveLeadSeconds = 0.05 + q.maxDelayMs / 1000.0;
  const auto lead = static_cast<int64_t>(out.waveLeadSeconds * stems.sampleRate);
  const auto count =
      static_cast<size_t>((out.waveLeadSeconds + 0.4 + q.maxDelayMs / 1000.0) * stems.sampleRate);
  auto wave = [&](const Stem& stem) {
    const auto x = monoOf(stem, first - lead, count);
    const auto slow = decimated(std::span<const double>(x), stems.sampleRate, kSlowRate);
    out.waveRate = slow.sampleRate;
    const auto band = bandLimited(slow.samples, slow.sampleRate, q.lowHz, q.highHz);
    return std::vector<float>(band.begin(), band.end());
  };
  out.kickWave = wave(stems.kick);
  out.bassWave = wave(stems.bassPlaced);
}

HitFacts meetingAt(const Session& s, const Stems& stems, size_t index, StepCache& cache, double kickSeconds) {
  HitFacts out;
  out.frame = stems.hitFrames[index];
  const double next = index + 1 < stems.hitFrames.size()
                          ? stems.hitFrames[index + 1]
                          : stems.hitFrames[0] + static_cast<double>(stems.frames);
  // At most two seconds: no tail is judged for longer.
  const auto count = static_cast<size_t>(std::min(next - out.frame, 2.0 * stems.sampleRate));
  const auto first = static_cast<int64_t>(out.frame);
  const auto kick = stems.kick.wrapped(0, first, count), placed = stems.bassPlaced.wrapped(0, first, count);
  KeyMaker maker("meeting 1");
  const auto& q = s.align.question;
  maker.add(q.lowHz).add(q.highHz).add(q.maxDelayMs).add(stems.sampleRate).add(count);
  for (const auto* part : {&kick, &placed})
    maker.add(std::string(reinterpret_cast<const char*>(part->data()), part->size() * sizeof(float)));
  out.curve = *cache.get<AlignCurve>(
      maker.key(),
      [&] {
        const std::vector<double> k(kick.begin(), kick.end()), b(placed.begin(), placed.end());
        return alignCurve({k, b}, stems.sampleRate, q);
      },
      [](const AlignCurve& c) { return 24 * c.size() + 200; });
  addWaves(out, s, stems, first);
  const auto bass = monoOf(stems.bass, first, count);
  out.bassReKickDb = bassReKick(monoOf(stems.kick, first, count), bass, stems.sampleRate, kickSeconds);
  const double hitQuarters = out.frame / s.track.framesPerQuarter();
  for (const Note& n : s.bass.notes)
    if (n.startQuarters < hitQuarters + 0.25 && n.startQuarters + n.lengthQuarters > hitQuarters + 0.02)
      out.noteMidi = n.midi;
  return out;
}

StepKey referenceKey(const AssetRef& ref) {
  return KeyMaker("reference 1").add(ref.hash).key();
}

LowEnd laneLow(const Stem& stem, double rate, StepCache& cache) {
  return *cache.get<LowEnd>(
      KeyMaker("lane low 1").add(stem.key()).add(rate).key(),
      [&] { return measureLowEnd(stem.toBuffer(rate), true); }, [](const LowEnd&) { return size_t{3000}; });
}

LowEnd soundLow(const AudioBuffer& sound, const StepKey& key, StepCache& cache) {
  return *cache.get<LowEnd>(
      KeyMaker("sound low 1").add(key).key(), [&] { return measureLowEnd(sound); },
      [](const LowEnd&) { return size_t{3000}; });
}

void studyHits(Study& out, const Session& s, const Stems& stems, StepCache& cache) {
  if (!out.kick || !out.kick->onsetSeconds || !out.readyKick) return;
  const auto envelope = slidingPeak(monoFold(out.readyKick->sound), out.readyKick->sound.sampleRate,
                                    envelopeWindowSeconds(out.kick->landing));
  // The half of the tail in which the kick is within 20 dB of its peak.
  const double kickSeconds = std::clamp(0.5 * out.kick->tailLowMs / 1000.0, 0.03, 0.1);
  std::vector<AlignCurve> curves;
  for (size_t i = 0; i < stems.hitFrames.size(); ++i) {
    HitFacts hit = meetingAt(s, stems, i, cache, kickSeconds);
    nextNote(hit, s, hit.frame / s.track.framesPerQuarter(), *out.kick, envelope);
    curves.push_back(hit.curve);
    out.hits.push_back(std::move(hit));
  }
  out.all = combined(curves);
  out.best = bestAlignment(out.all);
  if (out.all.overlap) out.alignedDb = out.all.levelAt(s.align.delayMs, s.align.invert);
  for (HitFacts& hit : out.hits) {
    if (!hit.curve.overlap) continue;
    hit.levelDb = hit.curve.levelAt(s.align.delayMs, s.align.invert);
    hit.bestDb = hit.curve.levelAt(out.best.delayMs, out.best.invert);
  }
}

}  // namespace

bool Study::anyReference() const {
  return std::any_of(references.begin(), references.end(),
                     [](const auto& r) { return r.has_value() && r->integratedLufs; });
}

std::vector<ProgrammeFacts> Study::presentReferences() const {
  std::vector<ProgrammeFacts> out;
  for (const auto& r : references)
    if (r) out.push_back(*r);
  return out;
}

std::optional<ProgrammeFacts> measureReference(const AssetRef& ref, const Assets& assets, StepCache& cache) {
  const Sound sound = assets.sound(ref);
  if (!sound) return std::nullopt;
  return *cache.get<std::optional<ProgrammeFacts>>(
      referenceKey(ref),
      [&]() -> std::optional<ProgrammeFacts> {
        auto facts = measureProgramme(*sound, false, false);
        if (!facts) return std::nullopt;
        return *facts;
      },
      [](const auto&) { return size_t{4000}; });
}

Result<Study> study(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache,
                    std::stop_token stop, References references) {
  Study out;
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  if (s.kickLayer()) {
    out.kickSource = steps.kickSourceFacts(s.kick, s.track);
    out.kick = steps.kickFacts(s.kick, s.track);
    StepKey key;
    out.readyKick = steps.kick(s.kick, s.track, &key);
    if (out.readyKick) out.kickSpectrum = soundLow(out.readyKick->sound, key, cache);
  }
  if (const Layer* layer = s.bassLayer()) {
    const int played = noteUnderMostHits(s);
    out.bassRootMidi = steps.bassRoot(*layer, s.track);
    const double midi = played >= 0 ? played : out.bassRootMidi.value_or(33.0);
    if (layer->isBuilt()) out.bassRootMidi = midi;
    out.bass = steps.bassFacts(s.bass, s.track, midi);
    const Keyed note = steps.bassNote(s.bass, s.track, midi);
    if (note.sound) out.bassSpectrum = soundLow(*note.sound, note.key, cache);
  }
  out.kickLayers = kickLayerFacts(s, steps, cache);
  out.bassLayers = bassLayerFacts(s, steps, cache);
  if (stop.stop_requested()) return cancelled();
  studyHits(out, s, stems, cache);
  if (stop.stop_requested()) return cancelled();
  const auto gain = stems.gain.wrapped(0, 0, stems.frames);
  out.dip = measureDip(gain, stems.triggers, stems.sampleRate);
  out.hasBacking = assets.find(s.backing.asset) != nullptr && !s.backing.mute;
  out.kickLow = laneLow(stems.kick, stems.sampleRate, cache);
  out.bassLow = laneLow(stems.bass, stems.sampleRate, cache);
  auto programme = cache.get<std::optional<ProgrammeFacts>>(
      KeyMaker("programme 1").add(stems.sum.key()).key(),
      [&]() -> std::optional<ProgrammeFacts> {
        auto facts = measureProgramme(stems.sum.toBuffer(stems.sampleRate), true);
        if (!facts) return std::nullopt;
        return *facts;
      },
      [](const auto&) { return size_t{4000}; });
  if (*programme) out.sum = **programme;
  out.empty = !(out.sum.low.totalPower > 0.0);
  for (const AssetRef& ref : s.references) {
    if (stop.stop_requested()) return cancelled();
    const auto known = cache.known<std::optional<ProgrammeFacts>>(referenceKey(ref));
    if (known || references == References::Measure) {
      out.references.push_back(known ? *known : measureReference(ref, assets, cache));
    } else {
      out.references.emplace_back();
      if (assets.find(ref)) out.notMeasured.push_back(ref);
    }
  }
  out.differences = bandDifferences(out.sum, out.presentReferences());
  return out;
}

}  // namespace heft
