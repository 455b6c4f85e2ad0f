#include "core/duck/gain_curve.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/sound/raised_cosine.h"
#include "core/voices/bend.h"

namespace heft {
namespace {

constexpr float kReturned = 0.94406f;  // -0.5 dB

}  // namespace

std::vector<DipPoint> pointsOf(const DrawnDip& dip) {
  if (dip.hasPoints()) return dip.points;
  const double whole = std::max(1.5, dip.wholeMs()), attack = std::max(0.5, dip.attackMs);
  return {{0, 0, 0}, {attack / whole, 1, 0}, {(attack + std::max(0.0, dip.holdMs)) / whole, 1, 0}, {1, 0, 0}};
}

DipPlan::DipPlan(const DrawnDip& dip, std::span<const Trigger> triggers, double sampleRate, const Span& over)
    : dip_(dip),
      low_(gainAtDepth(dip.depthDb)),
      attack_(std::max(0.5, dip.attackMs) / 1000.0 * sampleRate),
      hold_(std::max(0.0, dip.holdMs) / 1000.0 * sampleRate),
      return_(std::max(1.0, dip.returnMs) / 1000.0 * sampleRate),
      least_(0.0005 * sampleRate) {
  if (!(dip.depthDb > 0.0) || triggers.empty()) return;
  if (dip.hasPoints()) hold_ = std::max(1.0, dip.lengthMs) / 1000.0 * sampleRate, attack_ = return_ = 0.0;
  // Twice around the loop: the second pass starts like every later one.
  const auto loop = over.wraps ? static_cast<double>(over.frames) : 0.0;
  std::vector<Start> all;
  for (int pass = over.wraps ? 0 : 1; pass < 2; ++pass)
    for (size_t i = 0; i < triggers.size(); ++i) {
      const double at = pass == 0 ? triggers[i].frame - loop : triggers[i].frame;
      const double next = i + 1 < triggers.size() ? triggers[i + 1].frame : triggers[0].frame + loop;
      Start start = startOf(triggers[i], at, next - triggers[i].frame);
      if (dip_.anew)
        start.fromGain = 1.0 - (dip_.hasPoints() ? dip_.points.front().taken * (1.0 - start.low) : 0.0);
      else if (!all.empty())
        start.fromGain = std::max(gainAt(all.back(), at - all.back().frame), start.low);
      all.push_back(start);
    }
  starts_ = std::move(all);
}

DipPlan::Start DipPlan::startOf(const Trigger& trigger, double at, double gap) const {
  Start out{at, 1.0, low_, attack_ + hold_ + return_};
  const double less = dip_.velocityToDepth * (1.0 - trigger.velocity);
  if (less > 0.0) out.low = 1.0 - (1.0 - low_) * (1.0 - less);
  if (dip_.toNext && gap > attack_ + 2.0 * least_) out.length = gap;
  return out;
}

double DipPlan::gainAt(const Start& start, double since) const {
  if (dip_.hasPoints()) return throughPoints(start, since);
  if (since < attack_) return start.fromGain + (start.low - start.fromGain) * raisedCosine(since / attack_);
  const double scale = dip_.toNext ? (start.length - attack_) / (hold_ + return_) : 1.0;
  if (since < attack_ + scale * hold_) return start.low;
  const double x = (since - attack_ - scale * hold_) / (scale * return_);
  return x >= 1.0 ? 1.0 : start.low + (1.0 - start.low) * raisedCosine(x);
}

double DipPlan::throughPoints(const Start& start, double since) const {
  const auto& points = dip_.points;
  const double u = since / start.length, taken = 1.0 - start.low;
  const auto next =
      std::upper_bound(points.begin(), points.end(), u, [](double at, const DipPoint& p) { return at < p.at; });
  double share = points.back().taken;
  if (next == points.begin()) share = next->taken;
  if (next != points.begin() && next != points.end()) {
    const DipPoint &a = *(next - 1), &b = *next;
    // No slope is shorter than half a millisecond.
    const double width = std::max(b.at - a.at, least_ / start.length);
    share = a.taken + (b.taken - a.taken) * raisedCosine(bentWay(std::min(1.0, (u - a.at) / width), a.bend));
  }
  const double gain = 1.0 - share * taken;
  // From the present gain into the curve: over the first slope, or over two milliseconds where it starts low.
  const double off = start.fromGain - (1.0 - points.front().taken * taken);
  if (off == 0.0) return gain;
  const double over = points.front().taken > 0.0 ? 4.0 * least_ : std::max(least_, points[1].at * start.length);
  return std::clamp(gain + off * (1.0 - raisedCosine(since / over)), 0.0, 1.0);
}

double DipPlan::reachOf(const Start& start) const {
  const bool stays = dip_.hasPoints() && dip_.points.back().taken > 0.0;
  return stays ? std::numeric_limits<double>::infinity() : std::max(start.length, 4.0 * least_);
}

void DipPlan::fill(size_t first, std::span<float> out) const {
  const auto begin = static_cast<double>(first);
  auto next = std::upper_bound(starts_.begin(), starts_.end(), begin,
                               [](double f, const Start& s) { return f < s.frame; });
  for (size_t i = 0; i < out.size(); ++i) {
    const double now = begin + static_cast<double>(i);
    while (next != starts_.end() && next->frame <= now) ++next;
    out[i] = next == starts_.begin() ? 1.0f : static_cast<float>(gainAt(*(next - 1), now - (next - 1)->frame));
  }
}

bool DipPlan::rests(size_t first, size_t count) const {
  return startsFor(first, count).empty();
}

std::span<const DipPlan::Start> DipPlan::startsFor(size_t first, size_t count) const {
  const double begin = static_cast<double>(first), end = begin + static_cast<double>(count);
  auto from = std::upper_bound(starts_.begin(), starts_.end(), begin,
                               [](double f, const Start& s) { return f < s.frame; });
  // The last trigger before the stretch sets its start; once its curve has ended it has no effect.
  if (from != starts_.begin() && (from - 1)->frame + reachOf(*(from - 1)) > begin) --from;
  const auto to =
      std::lower_bound(from, starts_.end(), end, [](const Start& s, double f) { return s.frame < f; });
  return {from, to};
}

std::vector<float> drawnGain(const DrawnDip& dip, std::span<const Trigger> triggers, double sampleRate,
                             size_t frames, bool wraps) {
  std::vector<float> out(frames);
  DipPlan(dip, triggers, sampleRate, Span{frames, wraps}).fill(0, out);
  return out;
}

double gainAtDepth(double depthDb) {
  return depthDb >= kSilentDepthDb ? 0.0 : amplitudeFromDb(-depthDb);
}

double depthAtGain(double gain) {
  return gain < 0.01 ? kSilentDepthDb : std::round(-200.0 * std::log10(gain)) / 10.0;
}

namespace {

// From a trigger to the next. Lookahead of the next one counts as the next one's.
TriggerFacts factsAfter(std::span<const float> gain, double at, size_t first, size_t end, double sampleRate) {
  constexpr float kDeep = 0.70795f;  // -3 dB
  const double perMs = sampleRate / 1000.0;
  TriggerFacts out;
  size_t own = end;
  if (end > first && gain[end % gain.size()] < kReturned)
    while (own > first && gain[(own - 1) % gain.size()] < kReturned) --own;
  // Only where the gain had returned before; otherwise the next trigger meets this one's own return.
  bool fell = false;
  for (size_t i = first; i < own && !fell; ++i) fell = gain[i % gain.size()] < kReturned;
  if (!fell) own = end;
  float least = 1.0f;
  for (size_t i = first; i < own; ++i) {
    const float g = gain[i % gain.size()];
    least = std::min(least, g);
    if (g < kReturned) out.returnMs = (static_cast<double>(i + 1) - at) / perMs;
    if (g < kDeep) out.under3DbMs += 1.0 / perMs;
  }
  out.depthDb = dbFromAmplitude(least, -kSilentDepthDb);
  return out;
}

}  // namespace

DipFacts measureDip(std::span<const float> gain, std::span<const Trigger> triggers, double sampleRate,
                    bool loops) {
  DipFacts out;
  if (gain.empty()) return out;
  out.depthDb = dbFromAmplitude(*std::min_element(gain.begin(), gain.end()), -kSilentDepthDb);
  for (size_t t = 0; t < triggers.size(); ++t) {
    const double at = triggers[t].frame;
    const auto first = static_cast<size_t>(std::max(0.0, std::ceil(at)));
    const size_t end = t + 1 < triggers.size() ? static_cast<size_t>(triggers[t + 1].frame)
                       : loops                 ? gain.size() + static_cast<size_t>(triggers[0].frame)
                                               : gain.size();
    const TriggerFacts facts =
        factsAfter(gain, at, first, loops ? end : std::min(end, gain.size()), sampleRate);
    out.returnMs = std::max(out.returnMs, facts.returnMs);
    out.fired += facts.fired() ? 1 : 0;
    out.each.push_back(facts);
  }
  return out;
}

}  // namespace heft
