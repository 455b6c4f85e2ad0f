#include "core/compare/difference.h"

#include <algorithm>

namespace heft {

namespace {

// Only of those with a loudness.
std::vector<double> levelsOf(const std::vector<ProgrammeFacts>& references, const Band& band) {
  std::vector<double> out;
  for (const ProgrammeFacts& r : references)
    if (const auto level = r.bandReLufs(band)) out.push_back(*level);
  return out;
}

}  // namespace

std::optional<BandSpan> spanOf(const std::vector<ProgrammeFacts>& references, const Band& band) {
  const auto levels = levelsOf(references, band);
  if (levels.empty()) return std::nullopt;
  const auto [least, most] = std::minmax_element(levels.begin(), levels.end());
  return BandSpan{*least, *most};
}

BandDifference bandDifference(const ProgrammeFacts& mix, const std::vector<ProgrammeFacts>& references,
                              const Band& band, std::optional<double> targetDb) {
  BandDifference out{.band = band};
  std::vector<double> power;
  for (const ProgrammeFacts& r : references) power.push_back(r.low.bandDb(band));
  out.levelDb = mix.low.bandDb(band) - median(power);
  const auto levels = levelsOf(references, band);
  const double middle = levels.empty() ? targetDb.value_or(0.0) : median(levels);
  if (targetDb)
    out.span = BandSpan{*targetDb - middle, *targetDb - middle};
  else if (const auto all = spanOf(references, band))
    out.span = BandSpan{all->least - middle, all->most - middle};
  const auto mine = mix.bandReLufs(band);
  if (!mine || !out.span) return out;
  out.hasTarget = targetDb.has_value();
  out.levelReLufsDb = *mine - targetDb.value_or(middle);
  out.beyondDb = out.span->beyondDb(*mine - middle);
  return out;
}

std::vector<BandDifference> bandDifferences(const ProgrammeFacts& mix,
                                            const std::vector<ProgrammeFacts>& references) {
  std::vector<BandDifference> out;
  for (const Band& band : kBands) out.push_back(bandDifference(mix, references, band));
  return out;
}

}  // namespace heft
