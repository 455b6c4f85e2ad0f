#pragma once
/// What a loop, a stem or a track that landed on a layer can be used as instead of being struck like a
/// one-shot.

#include "core/session/edits/edit.h"

namespace heft {

/// Played through: one hit, or one note over the loop at the pitch that was recorded. Its target, root and trim
/// go.
Edit playThrough(const Part& part, int layer);
/// Whether the part plays that layer so.
bool isPlayedThrough(const Part& part, const Layer& layer);
/// Its sound is the backing, and the layer goes.
Edit useAsBacking(const Part& part, int layer);
/// Its hits trigger the ducking of the bass, and the layer goes.
Edit useAsTrigger(const Session& session, const Part& part, int layer);
/// Cut to one hit of it: starts at `startMs`, lasts `lengthMs`. The pattern stays.
Edit takeOneHit(const Part& part, int layer, double startMs, double lengthMs);

}  // namespace heft
