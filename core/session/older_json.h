#pragma once
/// Sessions of versions 1 and 2 in the form of version 3. Used by the reader of sessions alone.

#include <nlohmann/json.hpp>

namespace heft {

/// The same session in today's form: what is not known stays beside what it stood beside. Nothing is checked
/// here; what is no session stays none.
nlohmann::ordered_json fromOlderVersion(nlohmann::ordered_json session, int version);

}  // namespace heft
