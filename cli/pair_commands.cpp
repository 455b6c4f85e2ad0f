// align: kick and bass together.

#include <cmath>

#include "cli/commands.h"
#include "core/align/align.h"
#include "core/sound/audio_file.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

// Later by whole and part samples, or earlier: then its start is cut off.
AudioBuffer moved(const AudioBuffer& bass, double samples, bool invert) {
  const double whole = std::floor(samples);
  AudioBuffer out = samples == whole ? bass : fractionLater(bass, samples - whole, 33);
  for (auto& channel : out.channels) {
    if (whole > 0) channel.insert(channel.begin(), static_cast<size_t>(whole), 0.0f);
    if (whole < 0)
      channel.erase(channel.begin(),
                    channel.begin() + std::min<ptrdiff_t>(static_cast<ptrdiff_t>(-whole),
                                                          static_cast<ptrdiff_t>(channel.size())));
    if (channel.empty()) channel.push_back(0.0f);
    if (invert)
      for (float& x : channel) x = -x;
  }
  return out;
}

}  // namespace

Result<Json> align(const AlignOptions& o) {
  AlignQuestion q;
  const auto low = numberOption("--low", o.low, 10, 990, q.lowHz),
             high = numberOption("--high", o.high, 11, 1000, q.highHz),
             most = numberOption("--max-delay-ms", o.maxDelayMs, 0, 200, q.maxDelayMs);
  for (const auto* r : {&low, &high, &most})
    if (!*r) return Fail(r->error());
  if (*low >= *high)
    return badUsage("--low: " + formatNumber(*low, 2) + " Hz is not below --high " + formatNumber(*high, 2) +
                    " Hz");
  q = {*low, *high, *most};
  const auto kick = loadSound(o.kick), bass = loadSound(o.bass);
  if (!kick) return Fail(kick.error());
  if (!bass) return Fail(bass.error());
  const double rate = kick->sound->sampleRate;
  const auto converted = resampled(*bass->sound, rate);
  if (!converted) return unreadable(o.bass, converted.error().reason);
  const auto k = monoFold(*kick->sound), b = monoFold(*converted);
  const auto answer = bestAlignment(alignCurve({k, b}, rate, q));
  const double samples = answer.delayMs / 1000.0 * rate;
  if (!o.output.empty())
    if (auto saved = saveSound(moved(*converted, samples, answer.invert), o.output, SampleFormat::WavFloat);
        !saved)
      return Fail(saved.error());
  Json j = {{"delay_ms", number(answer.delayMs)},
            {"invert", answer.invert},
            {"before_db", nullptr},
            {"after_db", nullptr},
            {"samples", number(samples)}};
  if (answer.overlap) j["before_db"] = number(answer.beforeDb), j["after_db"] = number(answer.afterDb);
  j["warnings"] = Json::array();
  if (!answer.overlap) j["warnings"].push_back("kick and bass never sound together in this band");
  return j;
}

}  // namespace heft::cli
