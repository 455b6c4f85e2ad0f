#include "core/sound/resample.h"

#include <samplerate.h>

#include <algorithm>
#include <cmath>

namespace heft {
namespace {

// The converter's first output sample is at its first input sample; nothing to compensate.
Result<std::vector<float>> converted(std::span<const float> in, double ratio, ConvertFor use) {
  const auto wanted = static_cast<size_t>(std::lround(static_cast<double>(in.size()) * ratio));
  if (std::all_of(in.begin(), in.end(), [](float x) { return x == 0.0f; }))
    return std::vector<float>(wanted, 0.0f);
  std::vector<float> out(wanted + 16, 0.0f);
  SRC_DATA data{};
  data.data_in = in.data();
  data.input_frames = static_cast<long>(in.size());
  data.data_out = out.data();
  data.output_frames = static_cast<long>(out.size());
  data.src_ratio = ratio;
  data.end_of_input = 1;
  if (const int code =
          src_simple(&data, use == ConvertFor::Hearing ? SRC_SINC_BEST_QUALITY : SRC_SINC_FASTEST, 1))
    return unreadable({}, std::string("rate conversion failed: ") + src_strerror(code));
  out.resize(wanted, 0.0f);
  return out;
}

Result<AudioBuffer> eachChannel(const AudioBuffer& in, double ratio, double rateOut, ConvertFor use) {
  // Doubled mono is common (a mono file spread over two channels), and so is one side alone: both cost half.
  AudioBuffer out;
  out.sampleRate = rateOut;
  for (size_t c = 0; c < in.channelCount(); ++c) {
    if (c > 0 && in.channels[c] == in.channels[0]) {
      out.channels.push_back(out.channels[0]);
      continue;
    }
    auto channel = converted(in.channels[c], ratio, use);
    if (!channel) return Fail(channel.error());
    out.channels.push_back(std::move(*channel));
  }
  return out;
}

}  // namespace

Result<AudioBuffer> resampled(const AudioBuffer& in, double sampleRate, ConvertFor use) {
  if (in.sampleRate == sampleRate) return in;
  const double ratio = sampleRate / in.sampleRate;
  if (!(ratio >= 1.0 / 256.0 && ratio <= 256.0))
    return badUsage("the sample rates are more than 256 to 1 apart");
  return eachChannel(in, ratio, sampleRate, use);
}

}  // namespace heft
