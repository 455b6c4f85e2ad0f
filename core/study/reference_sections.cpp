#include "core/study/reference_sections.h"

namespace heft {

StepKey SectionRef::key() const {
  KeyMaker maker("section 1");
  maker.add(asset.hash).add(stretch.has_value());
  if (stretch) maker.add(stretch->fromSeconds).add(stretch->toSeconds);
  return maker.key();
}

std::vector<SectionRef> sectionsOf(const Session& session) {
  std::vector<SectionRef> out;
  for (size_t r = 0; r < session.references.size(); ++r) {
    const Reference& reference = session.references[r];
    const bool counts = !reference.leftOut;
    if (reference.sections.empty()) out.push_back({r, 0, reference.asset, std::nullopt, counts});
    for (size_t k = 0; k < reference.sections.size(); ++k)
      out.push_back({r, k, reference.asset, reference.sections[k], counts});
  }
  return out;
}

ProfilePtr measureSection(const SectionRef& ref, const Assets& assets, StepCache& cache) {
  const Sound sound = assets.sound(ref.asset);
  if (!sound) return nullptr;
  return *cache.get<ProfilePtr>(
      ref.key(),
      [&]() -> ProfilePtr {
        auto profile = profileSection(
            ref.stretch ? stretchOf(*sound, ref.stretch->fromSeconds, ref.stretch->toSeconds) : *sound);
        return profile ? std::make_shared<const SectionProfile>(std::move(*profile)) : nullptr;
      },
      [](const ProfilePtr& made) {
        return made ? 16000 + 8 * (made->low.mid.size() + made->low.side.size()) : size_t{64};
      });
}

std::optional<ProfilePtr> knownSection(const SectionRef& ref, StepCache& cache) {
  const auto known = cache.known<ProfilePtr>(ref.key());
  return known ? std::optional(*known) : std::nullopt;
}

}  // namespace heft
