#include "core/solve/sound_fit.h"

#include <cmath>

#include "core/render/cache/until_stopped.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/value_at.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

Result<PairFacts> paired(const Session& s, const Assets& assets, StepCache& cache,
                         const std::stop_token& stop) {
  const auto stems = render(s, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  return studyPair(s, assets, *stems, cache, stop);
}

}  // namespace

Edit placeFitted(const Part& part, const AssetRef& sound, const SoundFit& fit) {
  return {"load " + partWord(part), [id = part.id, sound, fit](Session& s) {
            s = withSoundInstead(std::move(s), id, sound, fit.layer);
            const Part* p = s.part(id);
            const Layer* first = !p                                  ? nullptr
                                 : fit.layer && p->layer(*fit.layer) ? p->layer(*fit.layer)
                                                                     : p->firstLayer();
            if (first && !p->playsNotes() && fit.targetMidi)
              putValue(s, {.part = id, .layer = first->id}, "recorded.target_midi", *fit.targetMidi);
            if (first && fit.length) setLength(*s.part(id)->layer(first->id), *fit.length, s.track.tempoBpm);
            if (fit.align) alignBy(s.bass(), *fit.align).change(s);
          }};
}

std::string fitWords(const SoundFit& fit, const NoteStyle& notes) {
  std::vector<std::string> words;
  if (fit.targetMidi && fit.fromMidi) {
    const double shift = *fit.targetMidi - *fit.fromMidi;
    words.push_back("tuned to " + pitchText(*fit.targetMidi, notes) + " (" + (shift > 0 ? "+" : "") +
                    formatNumber(shift, 2) + " st)");
  }
  if (fit.length) words.push_back("trimmed to " + fit.length->text());
  if (fit.align && std::abs(fit.align->delayMs) >= 0.01)
    words.push_back("bass " + formatNumber(std::abs(fit.align->delayMs), 2) + " ms " +
                    (fit.align->delayMs > 0 ? "later" : "earlier"));
  if (fit.align && fit.align->invert) words.push_back("bass inverted");
  std::string out;
  for (const std::string& word : words) out += (out.empty() ? "" : ", ") + word;
  return out.empty() ? "fits unchanged" : out;
}

Result<SoundFit> fitSound(const Session& session, const Assets& assets, int part, const AssetRef& sound,
                          StepCache& cache, std::stop_token stop, std::optional<int> layer) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop, [&](StepCache& mine) {
      return fitSound(session, assets, part, sound, mine, stop, layer);
    });
  Session s = withSoundInstead(session, part, sound, layer);
  SoundFit fit;
  Part* p = s.part(part);
  const bool further = layer && p && p->layer(*layer) && p->firstLayer()->id != *layer;
  if (further) fit.layer = layer;
  if (p && !p->playsNotes()) {
    Recorded& placed = *(further ? p->layer(*layer) : &p->layers.front())->recorded();
    const auto source = SoundSteps(assets, cache, s.track.sampleRate).facts(placed);
    const auto note = source ? source->landing.noteHz() : std::nullopt;
    if (note) fit.fromMidi = midiFromHz(*note, s.track.notes.a4Hz);
    if (!placed.targetMidi && note && !further)
      placed.targetMidi = easiestTarget(*fit.fromMidi, s.track.key).midi;
    fit.targetMidi = placed.targetMidi;
    constexpr double kLonger = 1.1;
    const double mostMs = tailTargetOf(s).length.toMs(s.track.tempoBpm);
    if (part == s.kick().id && !further && !placed.length && source && source->tailMs > kLonger * mostMs)
      fit.length = placed.length = tailTargetOf(s).length;
  }
  if (further || !s.isOfPair(part)) return fit;
  const auto facts = paired(s, assets, cache, stop);
  if (!facts) return Fail(facts.error());
  if (facts->best.overlap) fit.align = facts->best;
  return fit;
}

}  // namespace heft
