#include "core/duck/gain_curve.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/sound/midi_file.h"

namespace heft {
namespace {

constexpr float kReturned = 0.94406f;  // -0.5 dB

double slopeUp(double x) {
  return 0.5 - 0.5 * std::cos(std::numbers::pi * std::clamp(x, 0.0, 1.0));
}

}  // namespace

DipPlan::DipPlan(const DrawnDip& dip, std::span<const double> triggerFrames, double sampleRate,
                 size_t loopFrames)
    : low_(gainAtDepth(dip.depthDb)),
      attack_(std::max(0.5, dip.attackMs) / 1000.0 * sampleRate),
      hold_(std::max(0.0, dip.holdMs) / 1000.0 * sampleRate),
      return_(std::max(1.0, dip.returnMs) / 1000.0 * sampleRate) {
  if (!(dip.depthDb > 0.0)) return;
  // Twice round a loop: the second time starts as every later one does.
  const auto loop = static_cast<double>(loopFrames);
  std::vector<Start> all;
  for (int pass = loopFrames ? 0 : 1; pass < 2; ++pass)
    for (double frame : triggerFrames) {
      const double at = pass == 0 ? frame - loop : frame;
      const double from = all.empty() ? 1.0 : gainAt(all.back(), at - all.back().frame);
      all.push_back({at, std::max(from, low_)});
    }
  starts_ = std::move(all);
}

double DipPlan::gainAt(const Start& start, double since) const {
  if (since < attack_) return start.fromGain + (low_ - start.fromGain) * slopeUp(since / attack_);
  if (since < attack_ + hold_) return low_;
  const double x = (since - attack_ - hold_) / return_;
  return x >= 1.0 ? 1.0 : low_ + (1.0 - low_) * slopeUp(x);
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
  const double begin = static_cast<double>(first), end = begin + static_cast<double>(count);
  const double length = attack_ + hold_ + return_;
  return std::none_of(starts_.begin(), starts_.end(),
                      [&](const Start& s) { return s.frame < end && s.frame + length > begin; });
}

std::span<const DipPlan::Start> DipPlan::startsFor(size_t first, size_t count) const {
  const double begin = static_cast<double>(first), end = begin + static_cast<double>(count);
  auto from = std::upper_bound(starts_.begin(), starts_.end(), begin,
                               [](double f, const Start& s) { return f < s.frame; });
  // The last one before is what the stretch starts in; where it is over, it says nothing.
  if (from != starts_.begin() && (from - 1)->frame + attack_ + hold_ + return_ > begin) --from;
  const auto to =
      std::lower_bound(from, starts_.end(), end, [](const Start& s, double f) { return s.frame < f; });
  return {from, to};
}

std::vector<float> drawnGain(const DrawnDip& dip, std::span<const double> triggerFrames, double sampleRate,
                             size_t frames, bool wraps) {
  std::vector<float> out(frames);
  DipPlan(dip, triggerFrames, sampleRate, wraps ? frames : 0).fill(0, out);
  return out;
}

double gainAtDepth(double depthDb) {
  return depthDb >= kSilentDepthDb ? 0.0 : amplitudeFromDb(-depthDb);
}

double depthAtGain(double gain) {
  return gain < 0.01 ? kSilentDepthDb : std::round(-200.0 * std::log10(gain)) / 10.0;
}

DipFacts measureDip(std::span<const float> gain, std::span<const double> triggerFrames, double sampleRate) {
  DipFacts out;
  if (gain.empty()) return out;
  out.depthDb = dbFromAmplitude(*std::min_element(gain.begin(), gain.end()), -kSilentDepthDb);
  for (size_t t = 0; t < triggerFrames.size(); ++t) {
    const auto first = static_cast<size_t>(std::max(0.0, std::ceil(triggerFrames[t])));
    const size_t end = t + 1 < triggerFrames.size()
                           ? std::min(gain.size(), static_cast<size_t>(triggerFrames[t + 1]))
                           : gain.size();
    bool fell = false;
    for (size_t i = first; i < end; ++i)
      if (gain[i] < kReturned) {
        fell = true;
        out.returnMs =
            std::max(out.returnMs, (static_cast<double>(i + 1) - triggerFrames[t]) / sampleRate * 1000.0);
      }
    out.fired += fell ? 1 : 0;
  }
  return out;
}

std::string gainCsv(std::span<const float> gain, double sampleRate) {
  std::string out = "time_s,gain_db\n";
  char row[64];
  auto add = [&](size_t frame) {
    std::snprintf(row, sizeof row, "%.6f,%.4f\n", static_cast<double>(frame) / sampleRate,
                  dbFromAmplitude(gain[frame], -kSilentDepthDb));
    out += row;
  };
  const double step = sampleRate / 1000.0;
  size_t written = 0;
  for (double at = 0.0; at < static_cast<double>(gain.size()); at += step)
    add(written = std::min(gain.size() - 1, static_cast<size_t>(std::lround(at))));
  if (!gain.empty() && written != gain.size() - 1) add(gain.size() - 1);
  return out;
}

std::string gainMidi(std::span<const float> gain, double sampleRate, double tempoBpm,
                     int controller) {
  MidiTrackWriter track(tempoBpm);
  int sent = -1;
  for (size_t i = 0; i < gain.size(); ++i) {
    const int value = static_cast<int>(std::lround(127.0 * std::clamp(gain[i], 0.0f, 1.0f)));
    if (value == sent) continue;
    track.controller(static_cast<double>(i) / sampleRate, controller, value);
    sent = value;
  }
  return track.file();
}

}  // namespace heft
