#include "core/solve/free_turn.h"

#include <algorithm>
#include <cmath>

#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/lane_steps.h"
#include "core/session/edits/pair.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

constexpr double kAboutSeconds = 0.25, kRunInSeconds = 0.15, kApartSeconds = 0.1;
constexpr size_t kMostStretches = 16;

// What the all-pass rotates and what it does not: nothing else adds to the kick's own peak.
struct Lanes {
  Signal turned;
  std::optional<Signal> rest;
  Signal sum;
};

Lanes lanesOf(const Session& s, const Stems& stems, PeakOf of, StepCache& cache) {
  if (of == PeakOf::Kick) return {stems.kick(), {}, stems.kick()};
  std::vector<const Signal*> pair, rest, all;
  for (const Lane& lane : stems.lanes) (s.isOfPair(lane.part) ? pair : rest).push_back(&lane.heard);
  rest.push_back(&stems.backing);
  all = pair;
  all.insert(all.end(), rest.begin(), rest.end());
  return {sumOf(pair, cache), sumOf(rest, cache), sumOf(all, cache)};
}

// The highest moments of the loop, apart from each other.
std::vector<int64_t> peaksOf(const Signal& sum, double rate, const StepCache& cache) {
  const auto window = static_cast<size_t>(kApartSeconds * rate);
  std::vector<std::pair<float, int64_t>> found;
  for (size_t first = 0; first < sum.frames(); first += window) {
    cache.throwIfStopped();
    const auto x = sum.loudest(static_cast<int64_t>(first), std::min(window, sum.frames() - first));
    const auto most =
        std::max_element(x.begin(), x.end(), [](float a, float b) { return std::abs(a) < std::abs(b); });
    found.emplace_back(std::abs(*most), static_cast<int64_t>(first) + (most - x.begin()));
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<int64_t> out;
  for (const auto& [level, at] : found)
    if (out.size() < kMostStretches && level > 0.5f * found.front().first) out.push_back(at);
  return out;
}

std::vector<std::vector<float>> cutOf(const Signal& x, int64_t first, size_t count, size_t channels) {
  std::vector<std::vector<float>> out;
  for (size_t c = 0; c < channels; ++c) out.push_back(x.read(c, first, count));
  return out;
}

std::vector<PeakStretch> stretchesOf(const Lanes& lanes, double rate, const StepCache& cache) {
  std::vector<PeakStretch> out;
  const auto about = static_cast<int64_t>(kAboutSeconds * rate),
             runIn = static_cast<int64_t>(kRunInSeconds * rate);
  const size_t channels = lanes.sum.channels();
  for (const int64_t at : peaksOf(lanes.sum, rate, cache)) {
    const int64_t first = at - about - runIn;
    const auto count = static_cast<size_t>(2 * about + runIn);
    PeakStretch& s = out.emplace_back();
    s.turned = cutOf(lanes.turned, first, count, channels), s.leadFrames = static_cast<size_t>(runIn);
    if (lanes.rest) s.rest = cutOf(*lanes.rest, first, count, channels);
  }
  return out;
}

std::vector<float> about(const Signal& x, int64_t peak, double rate) {
  const auto first = peak - static_cast<int64_t>(FreeTurn::kLeadMs / 1000.0 * rate);
  const auto count = static_cast<size_t>((FreeTurn::kLeadMs + FreeTurn::kShownMs) / 1000.0 * rate);
  return x.read(x.drawnChannel(first, count), first, count);
}

}  // namespace

Result<std::optional<FreeTurn>> freeTurn(PeakOf of, const Session& session, const Assets& assets,
                                         StepCache& cache, const std::stop_token& stop,
                                         const std::function<void(double)>& progress) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return freeTurn(of, session, assets, mine, stop, progress); });
  Session plain = setFreeTurn(session, {}).applied(session);
  plain.sum.finish = {};
  const auto stems = render(plain, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  const Lanes lanes = lanesOf(plain, *stems, of, cache);
  const double rate = stems->sampleRate;
  const PeakTurn turn = lowestPeak(stretchesOf(lanes, rate, cache), rate, [&](double part) {
    if (progress) progress(part);
    return !stop.stop_requested();
  });
  if (stop.stop_requested()) return cancelled();
  if (turn.stages.empty()) return std::nullopt;
  FreeTurn found{of, turn.stages};
  found.edit = setFreeTurn(session, turn.stages);
  const auto turned = render(found.edit.applied(plain), assets, cache, stop);
  if (!turned) return Fail(turned.error());
  const Signal after = lanesOf(plain, *turned, of, cache).sum;
  found.beforeDbtp = laneTruePeakDbtp(lanes.sum, rate, cache),
  found.afterDbtp = laneTruePeakDbtp(after, rate, cache);
  const int64_t peak = peaksOf(lanes.sum, rate, cache).front();
  found.before = about(lanes.sum, peak, rate), found.after = about(after, peak, rate), found.waveRate = rate;
  Rotation all;
  std::copy(turn.stages.begin(), turn.stages.end(), all.stages.begin());
  found.keptBackMs =
      groupDelayMs(all, rate, hzFromMidi(mainNote(session.bass(), session.track), session.track.notes.a4Hz));
  if (found.gainDb() < kLeastPeakGainDb) return std::nullopt;
  return found;
}

Result<std::vector<FreeTurn>> freeTurns(const Session& session, const Assets& assets, StepCache& cache,
                                        std::stop_token stop, const std::function<void(double)>& progress) {
  std::vector<FreeTurn> out;
  for (const PeakOf of : {PeakOf::Kick, PeakOf::Sum}) {
    const double done = of == PeakOf::Kick ? 0.0 : 0.5;
    auto found = freeTurn(of, session, assets, cache, stop, [&](double part) {
      if (progress) progress(done + 0.5 * part);
    });
    if (!found) return Fail(found.error());
    if (*found) out.push_back(std::move(**found));
  }
  if (progress) progress(1.0);
  return out;
}

}  // namespace heft
