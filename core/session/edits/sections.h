#pragma once
/// Edits of the track's sections, and of patterns by section.

#include <optional>

#include "core/session/edits/edit.h"

namespace heft {

/// A section over that stretch: others make room, and one that it lies in ends where it begins. Nothing where
/// the stretch is shorter than a sixteenth or beyond the track's end.
Edit addSection(const std::string& name, double fromQuarters, double toQuarters);
Edit renameSection(int id, const std::string& name);
/// Its borders, as far as its neighbours and the track allow.
Edit moveSection(int id, double fromQuarters, double toQuarters, const std::string& mergeKey = {});
Edit removeSection(int id);
/// The first section's events of all parts into the other, again and again up to its end, in place of those
/// that start there.
Edit fillSection(int from, int to);

/// The section that is compared with the references; nothing: all of the track.
Edit compareSection(std::optional<int> id);

/// What it chooses, in words: "kick muted, bass Short, ducking 50 %"; "" where that is nothing.
std::string choicesOf(const Session& session, const TrackSection& section);

/// "Intro", then "Drop", "Break", "Outro", then "Section 5": the next name that is free.
std::string freshSectionName(const Session& session);

}  // namespace heft
