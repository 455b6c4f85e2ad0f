#include "core/study/pair_figures.h"

#include <cmath>

#include "core/compare/curves.h"
#include "core/compare/section_facts.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

std::vector<double> lowLane(const Signal& lane, double rate, double& slowRate, StepCache& cache) {
  auto slow = decimatedLane(lane, Fold::Mid, rate, kLowEndRate, 0, lane.frames(), cache);
  slowRate = slow.sampleRate;
  return bandLimited(slow.samples, slowRate, 20.0, 130.0);
}

// As of the references: what the hits have in common is the kick's lane, and all is all lanes together.
std::optional<Told> lengthOfMine(const Stems& stems, StepCache& cache) {
  constexpr double kMostSeconds = 0.5, kSmooth = 0.02;
  double rate = 1.0;
  const auto kick = lowLane(stems.kick(), stems.sampleRate, rate, cache);
  std::vector<double> all = lowLane(stems.backing, stems.sampleRate, rate, cache);
  for (const Lane& each : stems.lanes) {
    const auto lane = lowLane(each.heard, stems.sampleRate, rate, cache);
    for (size_t k = 0; k < std::min(all.size(), lane.size()); ++k) all[k] += lane[k];
  }
  if (kick.empty() || all.size() != kick.size() || stems.hitFrames().empty()) return std::nullopt;
  const auto count = static_cast<size_t>(kMostSeconds * rate), half = static_cast<size_t>(0.5 * kSmooth * rate);
  const auto fromHits = [&](const std::vector<double>& x) {
    std::vector<double> power(count + half, 0.0);
    for (const double frame : stems.hitFrames())
      for (size_t i = 0; i < power.size(); ++i)
        power[i] +=
            std::pow(x[(static_cast<size_t>(frame / stems.sampleRate * rate) + i + x.size() - half % x.size()) %
                       x.size()],
                     2);
    const auto smooth = movingMean(power, half);
    return std::vector<double>(smooth.begin() + static_cast<ptrdiff_t>(half), smooth.end());
  };
  const double ms = kickLengthMs(fromHits(kick), fromHits(all), rate);
  return ms > 0.0 ? std::optional(Told{ms, 1.0}) : std::nullopt;
}

PairFigures measured(const Stems& stems, const std::optional<FrameRange>& range, StepCache& cache) {
  PairFigures out;
  out.kickMs = lengthOfMine(stems, cache);
  if (!out.kickMs) return out;
  const JudgedStretch where = judgedStretch(stems.sum, stems.sampleRate, cache, range);
  out.kickToBassDb =
      kickToBass(lowEndPartsOf(stems.sum, where, cache), where.within(stems.hitFrames()), out.kickMs->value);
  return out;
}

}  // namespace

PairFigures pairFiguresOf(const Stems& stems, const std::optional<FrameRange>& range, StepCache& cache) {
  KeyMaker key("pair figures 3");
  if (range) key.add(range->from).add(range->to);
  key.add(stems.sum.key()).add(stems.kick().key()).add(stems.sampleRate);
  for (const double frame : stems.hitFrames()) key.add(frame);
  return *cache.get<PairFigures>(
      key.key(), [&] { return measured(stems, range, cache); }, [](const PairFigures&) { return size_t{128}; });
}

}  // namespace heft
