#pragma once
/// The sidechain of a follower or a mirror, over the loop.

#include "core/render/lanes/duck_steps.h"

namespace heft {

/// A part's lane ignoring mutes, a sound at its triggering hits only, or the level of triggering MIDI notes
/// and drawn hits; within the source's detection band. `duck` has its hits. Silence where the source is gone.
Signal heardOf(const DuckSource& source, const ResolvedDuck& duck, const Session& session,
               const DuckSources& from);

}  // namespace heft
