#include "core/ledger/sound_fit.h"

#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/value_at.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

Result<Study> paired(const Session& s, const Assets& assets, StepCache& cache, const std::stop_token& stop) {
  const auto stems = render(s, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  return studyPair(s, assets, *stems, cache, stop);
}

}  // namespace

Edit placeFitted(const Part& part, const AssetRef& sound, const SoundFit& fit) {
  return {"load " + partWord(part), [id = part.id, sound, fit](Session& s) {
            s = withSoundInstead(std::move(s), id, sound);
            const Part* p = s.part(id);
            const Layer* first = p ? p->firstLayer() : nullptr;
            if (first && !p->playsNotes() && fit.targetMidi)
              putValue(s, {.part = id, .layer = first->id}, "recorded.target_midi", *fit.targetMidi);
            if (fit.align) alignBy(s.bass(), *fit.align).change(s);
          }};
}

Result<SoundFit> fitSound(const Session& session, const Assets& assets, int part, const AssetRef& sound,
                          StepCache& cache, std::stop_token stop) {
  Session s = withSoundInstead(session, part, sound);
  SoundFit fit;
  Part* p = s.part(part);
  if (p && !p->playsNotes()) {
    auto& target = p->layers.front().recorded()->targetMidi;
    const auto source = SoundSteps(assets, cache, s.track.sampleRate).kickSourceFacts(*p, s.track);
    if (!target && source && source->landing.hz)
      target = easiestTarget(midiFromHz(*source->landing.hz, s.track.notes.a4Hz), s.track.key).midi;
    fit.targetMidi = target;
  }
  const auto facts = paired(s, assets, cache, stop);
  if (!facts) return Fail(facts.error());
  if (facts->best.overlap) fit.align = facts->best;
  return fit;
}

}  // namespace heft
