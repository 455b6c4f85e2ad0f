#pragma once
/// Sessions of older versions in today's form. Used by the reader of sessions alone.

#include <nlohmann/json.hpp>

namespace heft {

/// The same session in today's form: what is not known stays beside what it stood beside. Nothing is checked
/// here; what is no session stays none. `usualProcessors`: by kind, as each is while untouched.
nlohmann::ordered_json fromOlderVersion(nlohmann::ordered_json session, int version,
                                        const nlohmann::ordered_json& usualProcessors);

}  // namespace heft
