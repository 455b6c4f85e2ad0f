#pragma once
/// Sections of the session's references, measured once each.

#include <memory>
#include <optional>
#include <vector>

#include "core/compare/section_profile.h"
#include "core/render/cache/step_cache.h"
#include "core/session/assets.h"

namespace heft {

/// A stretch of a reference's file.
struct SectionRef {
  size_t reference = 0, section = 0;  ///< indices in the session
  AssetRef asset;
  std::optional<Section> stretch;  ///< nothing: the whole file
  bool counts = true;              ///< part of the median and the span
  /// Of its content; equal for equal sounds.
  StepKey key() const;
};

/// All of them, in the session's order: at least one a reference.
std::vector<SectionRef> sectionsOf(const Session& session);

using ProfilePtr = std::shared_ptr<const SectionProfile>;

/// A section's figures, kept in the cache; nothing where its file is missing or it cannot be measured. See
/// profileSection() for the cost.
ProfilePtr measureSection(const SectionRef& ref, const Assets& assets, StepCache& cache);
/// Those in the cache: null where it was tried and cannot be measured, nothing where it was not tried yet.
std::optional<ProfilePtr> knownSection(const SectionRef& ref, StepCache& cache);

/// A section with its figures.
struct MeasuredSection {
  SectionRef of;
  ProfilePtr profile;  ///< nothing for a missing file, or one that cannot be measured
  explicit operator bool() const { return profile != nullptr; }
  bool isLoud() const { return profile && profile->facts.integratedLufs; }
};

}  // namespace heft
