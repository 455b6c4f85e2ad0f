#include "core/session/edits/material.h"

#include <algorithm>

#include "core/session/edits/ducks.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

void withoutLayer(Part& part, int layer) {
  std::erase_if(part.layers, [layer](const Layer& l) { return l.id == layer; });
}

AssetRef assetOf(const Part& part, int layer) {
  const Layer* l = part.layer(layer);
  return l && l->recorded() ? l->recorded()->asset : AssetRef();
}

}  // namespace

Edit playThrough(const Part& part, int layer) {
  return {"play " + partWord(part) + " through", [id = part.id, layer](Session& s) {
            Part* p = s.part(id);
            Layer* l = p ? p->layer(layer) : nullptr;
            Recorded* r = l ? l->recorded() : nullptr;
            if (!r) return;
            r->targetMidi.reset(), r->length.reset(), l->semitones = 0.0;
            r->followNotes = false;
            if (!p->playsNotes()) {
              p->hits = {Hit{}};
              return;
            }
            Note whole;
            whole.midi = mainNote(*p, s.track), whole.lengthQuarters = s.track.loopQuarters();
            p->notes = {whole};
          }};
}

bool isPlayedThrough(const Part& part, const Layer& layer) {
  const Recorded* r = layer.recorded();
  if (!r) return false;
  if (part.playsNotes()) return part.notes.size() == 1 && !r->followNotes;
  return part.hits.size() == 1;
}

Edit useAsBacking(const Part& part, int layer) {
  return {"use as backing", [id = part.id, layer, asset = assetOf(part, layer)](Session& s) {
            Part* p = s.part(id);
            if (!p || asset.empty()) return;
            s.backing.asset = asset, s.backing.offsetSeconds = 0.0, s.backing.mute = false;
            withoutLayer(*p, layer);
          }};
}

Edit useAsTrigger(const Session& session, const Part& part, int layer) {
  const AssetRef asset = assetOf(part, layer);
  Session made = session;
  const Duck* duck = pairDuck(made, freshDuckId(session));
  if (!duck || asset.empty()) return {"use as trigger", [](Session&) {}};
  return allOf("use as trigger", {{"",
                                   [fresh = freshDuckId(session), id = part.id, layer](Session& s) {
                                     if (Duck* d = pairDuck(s, fresh)) d->on = true;
                                     if (Part* p = s.part(id)) withoutLayer(*p, layer);
                                   }},
                                  setTriggerAudio(*duck, asset)});
}

Edit takeOneHit(const Part& part, int layer, double startMs, double lengthMs) {
  return {"take one hit", [id = part.id, layer, startMs, lengthMs](Session& s) {
            Part* p = s.part(id);
            Layer* l = p ? p->layer(layer) : nullptr;
            if (!l || !l->recorded()) return;
            // A trim counts from the onset, which is now that hit's.
            l->recorded()->onsetMs = startMs;
            l->shape.startMs = startMs;
            l->recorded()->length = TimeValue::milliseconds(std::max(kShortestTailMs, lengthMs));
          }};
}

}  // namespace heft
