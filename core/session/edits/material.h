#pragma once
/// Uses of a loop, a stem or a track on a layer other than striking it like a one-shot.

#include "core/session/edits/edit.h"

namespace heft {

/// Plays it through: one hit, or one note over the loop at its recorded pitch. Clears its target, root and
/// trim.
Edit playThrough(const Part& part, int layer);
/// Whether the part plays that layer through.
bool isPlayedThrough(const Part& part, const Layer& layer);
/// Makes the layer's sound the backing and removes the layer.
Edit useAsBacking(const Part& part, int layer);
/// Makes the layer's hits the trigger of the bass ducking and removes the layer.
Edit useAsTrigger(const Session& session, const Part& part, int layer);
/// Cuts it to one of its hits: starts at `startMs`, lasts `lengthMs`. The pattern stays.
Edit takeOneHit(const Part& part, int layer, double startMs, double lengthMs);

}  // namespace heft
