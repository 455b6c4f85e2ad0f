#include "core/sound/stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>

namespace heft {
namespace {

using Channels = std::vector<std::vector<float>>;
using RubberBand::RubberBandStretcher;

// The library's ring buffers drop the excess (with a message on stderr) when more is passed at once.
constexpr size_t kPiece = 4096;
constexpr double kLeastSpeed = 0.2;

size_t padFrames(double sampleRate) {
  return static_cast<size_t>(0.1 * sampleRate);
}

// Silence before and behind, so that nothing is lost in its first and last windows.
Channels withSilenceAround(const AudioBuffer& in) {
  const size_t pad = padFrames(in.sampleRate);
  Channels out(in.channelCount(), std::vector<float>(in.frames() + 2 * pad, 0.0f));
  for (size_t c = 0; c < out.size(); ++c)
    std::copy(in.channels[c].begin(), in.channels[c].end(), out[c].begin() + static_cast<ptrdiff_t>(pad));
  return out;
}

void takeWhatIsThere(RubberBandStretcher& stretcher, Channels& out) {
  for (int left; (left = stretcher.available()) > 0;) {
    const size_t had = out[0].size(), most = static_cast<size_t>(left);
    std::vector<float*> to;
    for (auto& c : out) c.resize(had + most), to.push_back(c.data() + had);
    const size_t got = stretcher.retrieve(to.data(), most);
    for (auto& c : out) c.resize(had + got);
    if (got == 0) return;
  }
}

// Passes all pieces in turn; `take` gets the pointers, their length and whether they are the last.
template <class Take>
void inPieces(const Channels& in, Take take) {
  const size_t frames = in[0].size();
  for (size_t at = 0; at < frames; at += kPiece) {
    std::vector<const float*> from;
    for (const auto& c : in) from.push_back(c.data() + at);
    const size_t count = std::min(kPiece, frames - at);
    take(from.data(), count, at + count == frames);
  }
}

Channels stretched(const Channels& in, double sampleRate, double speed) {
  RubberBandStretcher stretcher(
      static_cast<size_t>(std::lround(sampleRate)), in.size(),
      RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionEngineFiner |
          RubberBandStretcher::OptionThreadingNever | RubberBandStretcher::OptionChannelsTogether,
      1.0, speed);
  stretcher.setMaxProcessSize(kPiece);
  stretcher.setExpectedInputDuration(in[0].size());
  inPieces(in, [&](const float* const* from, size_t count, bool last) { stretcher.study(from, count, last); });
  Channels out(in.size());
  inPieces(in, [&](const float* const* from, size_t count, bool last) {
    stretcher.process(from, count, last);
    takeWhatIsThere(stretcher, out);
  });
  takeWhatIsThere(stretcher, out);
  return out;
}

}  // namespace

Result<AudioBuffer> pitchedKeepingLength(const AudioBuffer& in, double speed) {
  if (speed == 1.0 || in.frames() == 0) return in;
  speed = std::clamp(speed, 1.0 / 32.0, 32.0);
  const auto padded = withSilenceAround(in);
  Channels out = padded;
  // Below about -28 semitones in one step the library (3.1.2) reads uninitialised memory, and its output is
  // NaN at times.
  const double passes = std::ceil(std::max(1.0, std::log(speed) / std::log(kLeastSpeed)));
  for (int pass = 0; pass < static_cast<int>(passes); ++pass) {
    out = stretched(out, in.sampleRate, std::pow(speed, 1.0 / passes));
    if (out.empty() || out[0].empty()) break;
    for (auto& c : out) c.resize(std::min(c.size(), padded[0].size()));
  }
  for (const auto& c : out)
    if (!std::all_of(c.begin(), c.end(), [](float x) { return std::isfinite(x); }))
      return unreadable({}, "its length cannot be kept at this shift; retune it by speed instead");
  const size_t pad = padFrames(in.sampleRate);
  if (out.empty() || out[0].size() < in.frames() + pad)
    return unreadable({}, "its length cannot be kept: the stretcher gave " +
                              std::to_string(out.empty() ? 0 : out[0].size()) + " of " +
                              std::to_string(padded[0].size()) + " frames; retune it by speed instead");
  AudioBuffer result(in.sampleRate, in.channelCount(), in.frames());
  for (size_t c = 0; c < in.channelCount(); ++c)
    std::copy_n(out[c].begin() + static_cast<ptrdiff_t>(pad), in.frames(), result.channels[c].begin());
  return result;
}

}  // namespace heft
