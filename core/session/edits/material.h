#pragma once
/// Uses of a loop, a stem or a track on a layer other than striking it like a one-shot.

#include "core/session/edits/edit.h"

namespace heft {

/// Played through: one hit, or one note over the loop at the pitch that was recorded. Its target, root and trim
/// go.
Edit playThrough(const Part& part, int layer);
/// Whether the part plays that layer so.
bool isPlayedThrough(const Part& part, const Layer& layer);
/// Makes its sound the backing and removes the layer.
Edit useAsBacking(const Part& part, int layer);
/// Makes its hits the trigger of the bass ducking and removes the layer.
Edit useAsTrigger(const Session& session, const Part& part, int layer);
/// Cut to one hit of it: starts at `startMs`, lasts `lengthMs`. The pattern stays.
Edit takeOneHit(const Part& part, int layer, double startMs, double lengthMs);

}  // namespace heft
