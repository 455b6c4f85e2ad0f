#include "engine/player/lane_levels.h"

#include <algorithm>

#include "core/render/cache/at_once.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_steps.h"
#include "engine/player/output_meter.h"

namespace heft {
namespace {

constexpr size_t kStep = LoopLine::kStepFrames;
static_assert(kBlockFrames % kStep == 0);

std::vector<float> peaksOfBlock(const Signal& x, size_t b, double rate) {
  constexpr size_t kRunIn = 16;  // state of the meter's filter
  const AudioBuffer window = windowOf(x, b, kRunIn, 0, rate);
  const auto &left = window.channels.front(), &right = window.channels.back();
  OutputMeter meter;
  for (size_t i = 0; i < kRunIn; ++i) meter.feed(left[i], right[i]);
  meter.publish(), meter.takePeak();
  std::vector<float> out;
  for (size_t i = kRunIn; i < left.size(); i += kStep) {
    for (size_t k = i; k < std::min(left.size(), i + kStep); ++k) meter.feed(left[k], right[k]);
    meter.publish();
    out.push_back(meter.takePeak());
  }
  return out;
}

std::shared_ptr<const std::vector<float>> blockPeaks(const Signal& x, size_t b, double rate,
                                                     const StepCache& cache) {
  KeyMaker maker("peaks of a lane 1");
  maker.add(x.blockSize(b)).add(x.key(b));
  if (x.span().wraps || b > 0) maker.add(x.key((b + x.blockCount() - 1) % x.blockCount()));
  return cache.get<std::vector<float>>(
      maker.key(), [&] { return peaksOfBlock(x, b, rate); }, [](const auto& v) { return 4 * v.size() + 64; });
}

LoopLine peaksOf(const Signal& x, double rate, const StepCache& cache, const std::stop_token& stop) {
  LoopLine out{x.frames(), {}};
  for (size_t b = 0; b < x.blockCount() && !stop.stop_requested(); ++b) {
    const auto block = blockPeaks(x, b, rate, cache);
    out.steps.insert(out.steps.end(), block->begin(), block->end());
  }
  return out;
}

}  // namespace

LanePeaks lanePeaks(const Stems& stems, StepCache& cache) {
  LanePeaks out{{{kBackingLane, peakOf(stems.backing, cache)}}, peakOf(stems.sum, cache)};
  for (const Lane& lane : stems.lanes) out.lanes[lane.part] = peakOf(lane.heard, cache);
  return out;
}

LanePeaks LaneWaves::peaks() const {
  LanePeaks out{{}, sum.peak};
  for (const auto& [id, wave] : lanes) out.lanes[id] = wave.peak;
  return out;
}

LaneWaves laneWaves(const Stems& stems, const StepCache& cache, const std::stop_token& stop) {
  std::vector<const Signal*> heard{&stems.backing, &stems.sum};
  for (const Lane& lane : stems.lanes) heard.push_back(&lane.heard);
  madeAtOnce(stems.sum.blockCount(), cache, stop, [&](size_t b) {
    for (const Signal* x : heard) {
      if (stop.stop_requested()) return 0;
      waveOfBlock(*x, b, cache);
      blockPeaks(*x, b, stems.sampleRate, cache);
    }
    return 0;
  });
  LaneWaves out;
  out.lanes[kBackingLane] = waveOf(stems.backing, cache, stop);
  out.gains[kBackingLane] = waveOf(stems.backingGain, cache, stop);
  out.sum = waveOf(stems.sum, cache, stop);
  for (const Lane& lane : stems.lanes) {
    out.lanes[lane.part] = waveOf(lane.heard, cache, stop);
    out.gains[lane.part] = waveOf(lane.gain, cache, stop);
  }
  return out;
}

LoopLevels levelsOf(const LevelsAsk& ask, StepCache& cache, const std::stop_token& stop) {
  const Stems& stems = ask.stems;
  const SoundSteps steps(ask.assets, cache, stems.sampleRate);
  LoopLevels out;
  for (const Lane& lane : stems.lanes) {
    const Part* part = ask.session.part(lane.part);
    if (!part || stop.stop_requested()) break;
    out.lanes[lane.part] = {peaksOf(lane.heard, stems.sampleRate, cache, stop),
                            takenOf(ask.session, *part, steps, cache, stop)};
  }
  out.lanes[kBackingLane] = {peaksOf(stems.backing, stems.sampleRate, cache, stop), {}};
  const auto heard = heardLanes(stems, ask.silenced);
  if (stems.sumChain.works() && !heard.empty() && !stop.stop_requested())
    out.sumTaken = takenOver(sumOf(heard, cache), stems.sumChain, stems.hitFrames(), stems.sampleRate, cache);
  return out;
}

}  // namespace heft
