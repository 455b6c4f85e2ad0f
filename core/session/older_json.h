#pragma once
/// Sessions of older versions in today's form. Used by the readers of sessions and presets.

#include <nlohmann/json.hpp>

namespace heft {

/// The same session in today's form; unknown keys stay beside their neighbours. Checks nothing: what is not a
/// session stays as it is. `usualProcessors`: the defaults by kind.
nlohmann::ordered_json fromOlderVersion(nlohmann::ordered_json session, int version,
                                        const nlohmann::ordered_json& usualProcessors);

/// Limiters and soft clips of a tree as they were before version 6: they hold samples and nothing between.
void holdSamplesOnly(nlohmann::ordered_json& tree);

}  // namespace heft
