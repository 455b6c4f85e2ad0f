// Judges no loop, stem or track on a layer as a one-shot.

#include "core/judge/lines.h"
#include "core/session/edits/material.h"
#include "core/theory/text.h"

namespace heft {

bool isOfAPiece(const Part& part, const std::shared_ptr<const SoundFacts>& source) {
  const Layer* first = part.firstLayer();
  const Recorded* r = first ? first->recorded() : nullptr;
  return r && source && source->material != Material::OneShot && !r->length && r->split.side == Side::Whole;
}

namespace {

void addMaterial(const Part& part, const std::shared_ptr<const SoundFacts>& source, std::vector<Finding>& out) {
  if (!isOfAPiece(part, source)) return;
  const Layer& layer = *part.firstLayer();
  const bool through = isPlayedThrough(part, layer);
  Finding f{
      .id = part.role + "-material", .stage = Stage::Sounds, .value = source->durationSeconds, .unit = "s"};
  f.verdict = through ? Verdict::Holds : Verdict::Watch;
  const std::string what = source->material == Material::Track ? "a whole track or stem" : "a loop";
  f.sentence = through ? "The " + part.role + " plays " + what + " through"
                       : "The " + part.role + " file is " + what + ", struck on every " +
                             (part.playsNotes() ? "note" : "hit");
  f.measured = formatNumber(source->durationSeconds, 1) + " s, " + std::to_string(source->onsets) + " onsets";
  f.target = "a single hit or note, or played through";
  if (!through) f.options = {remedyOf("Play through", playThrough(part, layer.id))};
  out.push_back(f);
}

}  // namespace

void addMaterialLines(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.pair.kick.muted) addMaterial(v.session.kick(), v.study.pair.kick.source, out);
  if (!v.study.pair.bass.muted) addMaterial(v.session.bass(), v.study.pair.bass.source, out);
}

}  // namespace heft
