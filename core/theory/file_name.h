#pragma once
/// Key and tempo from a file's name.

#include <optional>
#include <string_view>

#include "core/theory/key.h"

namespace heft {

struct NameFacts {
  std::optional<Key> key;
  std::optional<double> tempoBpm;  ///< 40 to 240
};

/// Reads names such as "Night bass_Gmin_128.wav", "loop 140bpm F#m", "Brine-Ebmaj-92 BPM.flac". A lone letter
/// is a key only beside a tempo ("pad_A_120"); years and counts are no tempo: a bare number counts only from
/// 60 to 200, the last one of the name, one marked bpm from 40 to 240.
NameFacts factsOfName(std::string_view path);

}  // namespace heft
