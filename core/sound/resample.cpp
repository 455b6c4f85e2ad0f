#include "core/sound/resample.h"

#include <samplerate.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <string>

namespace heft {
namespace {

using Converter = std::unique_ptr<SRC_STATE, decltype(&src_delete)>;

Fail failed(int code) {
  return unreadable({}, std::string("rate conversion failed: ") + src_strerror(code));
}

// In pieces, which gives the samples of one go; a look at `stop` between them. The converter's first output
// sample is at its first input sample; nothing to compensate.
Result<std::vector<float>> converted(std::span<const float> in, double ratio, ConvertFor use,
                                     const std::stop_token& stop) {
  constexpr size_t kPiece = 16384;
  const auto wanted = static_cast<size_t>(std::lround(static_cast<double>(in.size()) * ratio));
  if (std::all_of(in.begin(), in.end(), [](float x) { return x == 0.0f; }))
    return std::vector<float>(wanted, 0.0f);
  int code = 0;
  const Converter converter(
      src_new(use == ConvertFor::Hearing ? SRC_SINC_BEST_QUALITY : SRC_SINC_FASTEST, 1, &code), src_delete);
  if (!converter) return failed(code);
  std::vector<float> out(wanted + 16, 0.0f);
  size_t read = 0, written = 0;
  while (written < out.size()) {
    if (stop.stop_requested()) return cancelled();
    SRC_DATA data{};
    const size_t count = std::min(kPiece, in.size() - read);
    data.data_in = in.data() + read, data.input_frames = static_cast<long>(count);
    data.data_out = out.data() + written, data.output_frames = static_cast<long>(out.size() - written);
    data.src_ratio = ratio;
    data.end_of_input = read + count == in.size();
    if ((code = src_process(converter.get(), &data))) return failed(code);
    read += static_cast<size_t>(data.input_frames_used), written += static_cast<size_t>(data.output_frames_gen);
    if (data.input_frames_used == 0 && data.output_frames_gen == 0) break;
  }
  out.resize(wanted, 0.0f);
  return out;
}

Result<AudioBuffer> eachChannel(const AudioBuffer& in, double ratio, double rateOut, ConvertFor use,
                                const std::stop_token& stop) {
  // Doubled mono is common (a mono file spread over two channels), and so is one side alone: both cost half.
  AudioBuffer out;
  out.sampleRate = rateOut;
  for (size_t c = 0; c < in.channelCount(); ++c) {
    if (c > 0 && in.channels[c] == in.channels[0]) {
      out.channels.push_back(out.channels[0]);
      continue;
    }
    auto channel = converted(in.channels[c], ratio, use, stop);
    if (!channel) return Fail(channel.error());
    out.channels.push_back(std::move(*channel));
  }
  return out;
}

}  // namespace

Result<AudioBuffer> resampled(const AudioBuffer& in, double sampleRate, ConvertFor use,
                              const std::stop_token& stop) {
  if (in.sampleRate == sampleRate) return in;
  const double ratio = sampleRate / in.sampleRate;
  if (!(ratio >= 1.0 / 256.0 && ratio <= 256.0))
    return badUsage("the sample rates are more than 256 to 1 apart");
  return eachChannel(in, ratio, sampleRate, use, stop);
}

}  // namespace heft
