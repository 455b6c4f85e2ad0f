#pragma once
/// A fix for one section alone: what an edit changes becomes automation there.

#include <optional>

#include "core/session/edits/edit.h"

namespace heft {

/// The edit over that section only: each value that it changes is automated, with steps at the section's ends.
/// Nothing where it changes anything else (canBeAutomated())
/// or nothing at all, or the section is gone.
std::optional<Edit> overSection(const Session& session, const Edit& edit, int section);

}  // namespace heft
