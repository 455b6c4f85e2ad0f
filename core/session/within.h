#pragma once
/// What an edit leaves is a session that opens: every value within its range (fields.h), every rule of settle.h
/// kept.

#include "core/session/session.h"

namespace heft {

/// Holds numbers, texts and lists to their ranges (NaN: the low end) and settles each object as reading does.
/// False where a rule across values is broken and no nearest valid session exists: then the former state
/// stays. Cost: a pass over all values.
bool keepWithin(Session& session);

}  // namespace heft
