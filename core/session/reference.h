#pragma once
/// A finished track that the session is compared with.

#include <optional>
#include <string>
#include <vector>

#include "core/session/asset_ref.h"
#include "core/theory/key.h"

namespace heft {

inline constexpr size_t kMostReferences = 64, kMostSections = 16;
/// A section lasts at least that long; nothing shorter can be gated (ITU-R BS.1770).
inline constexpr double kShortestSectionSeconds = 1.0, kLongestReferenceSeconds = 3600.0;
/// Of a longer file only the start is read.
inline constexpr double kMostReferenceSeconds = 600.0;

/// A stretch of a reference, in seconds of its file.
struct Section {
  std::string name;  ///< "drop"
  double fromSeconds = 0.0, toSeconds = 0.0;
  Unknown unknown = {};
  bool operator==(const Section&) const = default;
  double seconds() const { return toSeconds - fromSeconds; }
};

struct Reference {
  AssetRef asset;
  bool leftOut = false;           ///< of the median and the span
  std::vector<Section> sections;  ///< at most kMostSections; empty: the whole file
  int chosen = 0;                 ///< index of the section that plays; past the last one: the first
  std::optional<double> tempoBpm, firstBeatSeconds;  ///< 40 to 240; in the file
  std::optional<Key> key;
  bool operator==(const Reference&) const = default;
  /// Nothing where it has no sections.
  const Section* section() const {
    const auto at = static_cast<size_t>(chosen);
    return sections.empty() ? nullptr : at < sections.size() ? &sections[at] : &sections.front();
  }
};

}  // namespace heft
