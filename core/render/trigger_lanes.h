#pragma once
/// The sidechain of a follower or a mirror, over the loop.

#include "core/render/duck_steps.h"

namespace heft {

/// A part's lane whatever is muted, a sound at its hits that fire alone, or the level of MIDI notes and drawn
/// hits that fire; within the source's detection band. `duck` has its hits. Silence where the source is gone.
Stem heardOf(const DuckSource& source, const ResolvedDuck& duck, const Session& session,
             const DuckSources& from);

}  // namespace heft
