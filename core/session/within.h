#pragma once
/// Every edit leaves a session that opens: all values within their ranges (fields.h), all rules of settle.h
/// kept.

#include "core/session/session.h"

namespace heft {

/// Clamps numbers, texts and lists to their ranges (NaN: the low end) and settles each object like reading
/// does. False where a rule across values is broken and no nearest valid session exists: then the former
/// state stays. Cost: a pass over all values.
bool keepWithin(Session& session);

}  // namespace heft
