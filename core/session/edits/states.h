#pragma once
/// Edits of kept states.

#include "core/session/edits/edit.h"

namespace heft {

/// "State 3": the next name that is free.
std::string freshStateName(const Session& session);
/// The session as it is, under that name: in place of the state of that name, if there is one. Nothing at
/// kMostStates.
Edit keepState(const std::string& name);
Edit renameState(size_t index, const std::string& name);
Edit removeState(size_t index);
/// The session becomes that state; the list of states stays. Errors: BadUsage where there is none, Unreadable
/// where the file was tampered with. Cost: reads the state like a file.
Result<Edit> goToState(const Session& session, size_t index);

}  // namespace heft
