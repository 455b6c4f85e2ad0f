#include "core/looks/layer_joint.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/levels.h"
#include "core/render/sounds/layer_sum.h"
#include "core/session/edits/split.h"

namespace heft {
namespace {

// Whole and untrimmed where possible, else as heard.
Layer uncut(Layer layer) {
  layer.recorded()->split.side = Side::Whole;
  return layer;
}

struct LaidLayer {
  std::shared_ptr<const ReadyKick> ready;
  double gain = 1.0, laterSeconds = 0.0;
};

}  // namespace

std::optional<JointFacts> jointOf(const Part& part, const Layer& layer, const Track& track,
                                  const SoundSteps& steps, StepCache& cache) {
  const Layer* other = otherSideOf(part, layer);
  if (!other) return std::nullopt;
  const bool isStrike = layer.recorded()->split.side == Side::Strike;
  const Layer &strike = isStrike ? layer : *other, &body = isStrike ? *other : layer;
  KeyMaker maker("joint 1");
  std::vector<LaidLayer> laid;
  double lead = 0.0;
  for (const Layer& l : {strike, body, uncut(strike), uncut(body)}) {
    StepKey key;
    const auto ready = steps.kickLayer(l, track, 1.0, &key);
    if (!ready || ready->sound.frames() == 0) return std::nullopt;
    laid.push_back({ready, amplitudeFromDb(l.levelDb), l.offsetMs / 1000.0});
    lead = std::max(lead, ready->onsetSeconds - laid.back().laterSeconds);
    maker.add(key).add(l.levelDb).add(l.offsetMs);
  }
  const SoundSide& cut = body.recorded()->split;
  maker.add(cut.atMs).add(cut.joinMs);
  return *cache.get<JointFacts>(
      maker.key(),
      [&] {
        const double rate = laid.front().ready->sound.sampleRate;
        auto together = [&](std::initializer_list<size_t> which) {
          std::vector<LaidSound> sounds;
          for (const size_t i : which) {
            const LaidLayer& l = laid[i];
            const double at = lead - l.ready->onsetSeconds + l.laterSeconds;
            sounds.push_back({&l.ready->sound, std::max<int64_t>(0, std::llround(at * rate)), l.gain});
          }
          return laidOver(sounds, rate);
        };
        return measureJoint(together({0, 1}), together({2}), together({3}),
                            lead + laid[1].laterSeconds + cut.atMs / 1000.0, cut.joinMs / 1000.0);
      },
      [](const JointFacts&) { return sizeof(JointFacts); });
}

}  // namespace heft
