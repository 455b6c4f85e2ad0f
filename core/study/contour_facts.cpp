#include "core/study/contour_facts.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/lane_steps.h"
#include "core/sound/buffer.h"

namespace heft {
namespace {

constexpr double kLowsHz = 120.0;

struct LowLevels {
  double energy = 0.0, peak = 0.0;
};

LowLevels lowLevels(const Signal& lane, double rate, StepCache& cache) {
  const Signal low = lowStem(lane, rate, kLowsHz, cache);
  LowLevels out;
  for (size_t b = 0; b < low.blockCount(); ++b) {
    const auto block = cache.get<LowLevels>(
        KeyMaker("low levels 1").add(low.key(b)).key(),
        [&] {
          LowLevels of;
          const auto held = low.hold(b);
          for (const auto& channel : held->channels)
            for (const float v : channel) {
              of.energy += static_cast<double>(v) * v;
              of.peak = std::max(of.peak, static_cast<double>(std::abs(v)));
            }
          return of;
        },
        [](const LowLevels&) { return sizeof(LowLevels) + 64; });
    out.energy += block->energy, out.peak = std::max(out.peak, block->peak);
  }
  return out;
}

}  // namespace

std::vector<ContourFacts> contourFacts(const Session& s, const SoundSteps& steps, const Stems& stems,
                                       StepCache& cache, const std::stop_token& stop) {
  std::vector<ContourFacts> out;
  for (const Part& part : s.parts) {
    const Lane* lane = stems.lane(part.id);
    if (!lane || !part.playsNotes() || !part.contour.works()) continue;
    Part without = part;
    without.contour.on = false;
    Signal plain = partLane(s, without, steps, cache, stop, fadesOf(s, part));
    if (stop.stop_requested()) return out;
    const LowLevels with = lowLevels(lane->placed, stems.sampleRate, cache),
                    was = lowLevels(plain, stems.sampleRate, cache);
    if (!(with.energy > 0.0) || !(was.energy > 0.0)) continue;
    out.push_back({part.id, std::move(plain), dbFromPower(was.energy / with.energy),
                   dbFromAmplitude(with.peak / was.peak)});
  }
  return out;
}

}  // namespace heft
