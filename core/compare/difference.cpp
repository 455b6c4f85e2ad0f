#include "core/compare/difference.h"

#include <algorithm>

namespace heft {

namespace {

// Only of those with a loudness.
std::vector<double> levelsOf(const std::vector<ProgrammeFacts>& references, size_t band) {
  std::vector<double> out;
  for (const ProgrammeFacts& r : references)
    if (const auto level = r.bandReLufs(band)) out.push_back(*level);
  return out;
}

}  // namespace

std::optional<BandSpan> spanOf(const std::vector<ProgrammeFacts>& references, size_t band) {
  const auto levels = levelsOf(references, band);
  if (levels.empty()) return std::nullopt;
  const auto [least, most] = std::minmax_element(levels.begin(), levels.end());
  return BandSpan{*least, *most};
}

std::array<BandDifference, kBands.size()> bandDifferences(const ProgrammeFacts& mix,
                                                          const std::vector<ProgrammeFacts>& references) {
  std::array<BandDifference, kBands.size()> out;
  for (size_t b = 0; b < kBands.size(); ++b) {
    std::vector<double> power;
    for (const ProgrammeFacts& r : references) power.push_back(r.low.bandDb(b));
    out[b].levelDb = mix.low.bandDb(b) - median(power);
    const auto mine = mix.bandReLufs(b);
    const auto span = spanOf(references, b);
    if (!mine || !span) continue;
    out[b].levelReLufsDb = *mine - median(levelsOf(references, b));
    out[b].beyondDb = span->beyondDb(*mine);
  }
  return out;
}

}  // namespace heft
