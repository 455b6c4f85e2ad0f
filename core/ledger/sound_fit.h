#pragma once
/// A sound in place of a part's first layer, fitted to the session as a library is tried through: tuned as the
/// layer before it (a kick without a target to the note that it needs least for), trimmed and ducked as that
/// was, and aligned by the move that suits all hits best.

#include <optional>
#include <stop_token>

#include "core/ledger/study.h"
#include "core/session/edits/edit.h"

namespace heft {

struct SoundFit {
  std::optional<double> targetMidi;       ///< of a kick: where it is to land
  std::optional<AlignAnswer> align;       ///< nothing where the pair never sounds together
  std::optional<double> leftDb() const {  ///< what the pair loses even then, re perfect phase
    return align ? std::optional<double>(align->afterDb) : std::nullopt;
  }
};

/// Puts the sound in its place and makes these moves.
Edit placeFitted(const Part& part, const AssetRef& sound, const SoundFit& fit);

/// Works out the moves. Costs a render and the hits' figures, both twice for a kick that had no target; any thread. Errors:
/// Cancelled and those of a render.
Result<SoundFit> fitSound(const Session& session, const Assets& assets, int part, const AssetRef& sound,
                          StepCache& cache, std::stop_token stop = {});

}  // namespace heft
