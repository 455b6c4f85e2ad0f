#pragma once
/// Edits of references and their sections, by index in the session. An index that is not there changes nothing.

#include "core/session/edits/edit.h"

namespace heft {

Edit leaveOutReference(size_t index, bool leftOut);
Edit setReferenceKey(size_t index, const std::optional<Key>& key);
/// Nothing: not known.
Edit setReferenceTempo(size_t index, std::optional<double> bpm, const std::string& mergeKey = {});
/// Seconds of its file at which a bar starts.
Edit setReferenceFirstBeat(size_t index, double seconds, const std::string& mergeKey = {});
Edit chooseSection(size_t index, size_t section);
/// Moves one, at least kShortestSectionSeconds long and within `fileSeconds`.
Edit moveSection(size_t index, size_t section, double fromSeconds, double toSeconds, double fileSeconds,
                 const std::string& mergeKey = {});
/// Adds one after the others and chooses it.
Edit addSection(size_t index, const Section& section);
/// Keeps at least one.
Edit removeSection(size_t index, size_t section);
Edit nameSection(size_t index, size_t section, const std::string& name);

}  // namespace heft
