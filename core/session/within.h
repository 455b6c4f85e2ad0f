#pragma once
/// What an edit leaves is a session that opens: every value within its range (fields.h), every rule of settle.h kept.

#include "core/session/session.h"

namespace heft {

/// Puts numbers, texts and lists within their ranges (no number: the low end) and settles each object as reading
/// does. False where a rule across values is broken that has no nearest session that keeps it: then what was there
/// before the edit stays. Cost: a look at every value.
bool keepWithin(Session& session);

}  // namespace heft
