#pragma once
/// A sound in place of a part's first layer, fitted to the session as the library auditions it: tuned like
/// the layer it replaces (a kick without a target to the note that needs the smallest shift), trimmed like it
/// or, where it has no trim and the tail outlasts the kick's target by more than a tenth, to that target,
/// aligned by the move that suits all hits best, and ducked as the session ducks. For a further layer and for
/// other parts the bass stays where it is, and a further layer keeps only its own target.

#include <optional>
#include <stop_token>

#include "core/session/edits/edit.h"
#include "core/study/study.h"

namespace heft {

struct SoundFit {
  std::optional<int> layer = {};          ///< in place of that layer; nothing: of the first
  std::optional<double> targetMidi;       ///< for a kick: the note to land on
  std::optional<double> fromMidi = {};    ///< and where it lands, or sounds, unshifted
  std::optional<TimeValue> length = {};   ///< for a kick: its trim
  std::optional<AlignAnswer> align;       ///< nothing where the pair never sounds together
  std::optional<double> leftDb() const {  ///< the pair's remaining loss re perfect phase
    return align ? std::optional<double>(align->afterDb) : std::nullopt;
  }
};

/// The changes, for a list's details: "tuned to A1 (+0.86 st), trimmed to 1/16, bass 1.2 ms later, inverted".
std::string fitWords(const SoundFit& fit, const NoteStyle& notes);

/// Puts the sound in its place and makes these moves.
Edit placeFitted(const Part& part, const AssetRef& sound, const SoundFit& fit);

/// Works out the moves. Cost: a render and the hits' figures, both twice for a kick without a target; any
/// thread. Errors: Cancelled and those of a render.
Result<SoundFit> fitSound(const Session& session, const Assets& assets, int part, const AssetRef& sound,
                          StepCache& cache, std::stop_token stop = {}, std::optional<int> layer = {});

}  // namespace heft
