#include "core/ledger/sound_fit.h"

#include "core/tune/targets.h"

namespace heft {
namespace {

Result<Study> paired(const Session& s, const Assets& assets, StepCache& cache, const std::stop_token& stop) {
  const auto stems = render(s, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  return studyPair(s, assets, *stems, cache, stop);
}

}  // namespace

Session withSoundFitted(Session session, int part, const AssetRef& sound, const SoundFit& fit) {
  session = withSoundInstead(std::move(session), part, sound);
  if (Part* p = session.part(part); p && !p->playsNotes() && fit.targetMidi)
    p->layers.front().recorded()->targetMidi = fit.targetMidi;
  if (fit.align)
    session.bass().align.delayMs = fit.align->delayMs, session.bass().align.invert = fit.align->invert;
  return session;
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
