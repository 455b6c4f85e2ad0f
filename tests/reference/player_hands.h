#pragma once
/// The demo as the player takes it, and what the player makes of it.

#include "engine/player/player.h"
#include "scenario/make_demo.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft::reference {

struct Rendered {
  Stems after, before;
  std::shared_ptr<const LoopSnapshot> snapshot;
};

inline Rendered renderedOf(const Session& s, double rate = 48000) {
  StepCache cache;
  Rendered out{*render(s, theDemo().assets, cache), *render(withoutMoves(s), theDemo().assets, cache), {}};
  out.snapshot = reference::snapshotOf(out.after, out.before, s.track.framesPerQuarter(), rate, cache);
  return out;
}

inline std::vector<float> played(Player& player, size_t frames, size_t block = 256) {
  std::vector<float> out(2 * frames);
  for (size_t at = 0; at < frames; at += block)
    player.process(out.data() + 2 * at, std::min(block, frames - at));
  return out;
}

inline std::vector<double> leftOf(const std::vector<float>& x) {
  std::vector<double> out;
  for (size_t i = 0; i < x.size(); i += 2) out.push_back(x[i]);
  return out;
}

inline std::shared_ptr<const LoopSnapshot> toneSnapshot(double amplitude, double phase) {
  Stems stems;
  stems.span = {48000}, stems.frames = 48000;
  const auto x = sine(50, amplitude, 1.0, 48000, phase);
  auto stemOf = [&](bool silent) {
    Signal stem({48000}, 1);
    for (size_t b = 0; b < stem.blockCount(); ++b) {
      Block block{{std::vector<float>(stem.blockSize(b), 0.0f)}};
      for (size_t i = 0; i < stem.blockSize(b) && !silent; ++i)
        block.channels[0][i] = static_cast<float>(x[b * kBlockFrames + i]);
      stem.push(std::make_shared<const Block>(std::move(block)),
                KeyMaker("t").add(amplitude).add(phase).add(b).add(silent).key());
    }
    return stem;
  };
  stems.sum = stemOf(false), stems.backing = stemOf(true);
  stems.lanes = {{1, stems.sum, stems.sum, {}, {}}, {2, stems.backing, stems.backing, {}, {}}};
  StepCache cache;
  return reference::snapshotOf(stems, stems, 24000, 48000, cache);
}

}  // namespace heft::reference
