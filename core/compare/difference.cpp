#include "core/compare/difference.h"

#include <algorithm>

namespace heft {

std::array<BandDifference, kBands.size()> bandDifferences(const ProgrammeFacts& mix,
                                                          const std::vector<ProgrammeFacts>& references) {
  std::array<BandDifference, kBands.size()> out;
  for (size_t b = 0; b < kBands.size(); ++b) {
    std::vector<double> power, loudness;
    for (const ProgrammeFacts& r : references) {
      power.push_back(r.low.bandDb(b));
      if (const auto level = r.bandReLufs(b)) loudness.push_back(*level);
    }
    out[b].levelDb = mix.low.bandDb(b) - median(power);
    const auto mine = mix.bandReLufs(b);
    if (!mine || loudness.empty()) continue;
    out[b].levelReLufsDb = *mine - median(loudness);
    const auto [least, most] = std::minmax_element(loudness.begin(), loudness.end());
    out[b].beyondDb = *mine > *most ? *mine - *most : *mine < *least ? *mine - *least : 0.0;
  }
  return out;
}

std::vector<double> medianCurveDb(const std::vector<ProgrammeFacts>& references) {
  std::vector<double> out;
  if (references.empty()) return out;
  for (size_t i = 0; i < profileHz().size(); ++i) {
    std::vector<double> values;
    for (const ProgrammeFacts& r : references) values.push_back(r.low.curveDb[i]);
    out.push_back(median(values));
  }
  return out;
}

}  // namespace heft
