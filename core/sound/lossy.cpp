#include "core/sound/lossy.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/sound/audio_file.h"
#include "core/sound/fft.h"
#include "core/sound/memory_file.h"
#include "core/sound/quiet_stderr.h"
#include "core/sound/resample.h"
#include "core/theory/text.h"

namespace heft {
namespace {

int formatOf(LossyCodec codec) {
  return codec == LossyCodec::Mp3      ? SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III
         : codec == LossyCodec::Vorbis ? SF_FORMAT_OGG | SF_FORMAT_VORBIS
                                       : SF_FORMAT_OGG | SF_FORMAT_OPUS;
}

SF_INFO infoOf(LossyCodec codec, double rate) {
  SF_INFO info{};
  info.samplerate = static_cast<int>(std::lround(rate)), info.channels = 2, info.format = formatOf(codec);
  return info;
}

// `level`: 0 the finest, 1 the smallest.
std::optional<std::string> encoded(const AudioBuffer& sound, LossyCodec codec, double level) {
  std::string bytes;
  MemoryFile file{&bytes};
  SF_VIRTUAL_IO io = memoryIo();
  SF_INFO info = infoOf(codec, sound.sampleRate);
  SndFile out(sf_open_virtual(&io, SFM_WRITE, &info, &file));
  if (!out) return std::nullopt;
  if (codec == LossyCodec::Mp3) {
    int constant = SF_BITRATE_MODE_CONSTANT;
    sf_command(out.get(), SFC_SET_BITRATE_MODE, &constant, sizeof constant);
  }
  sf_command(out.get(), SFC_SET_COMPRESSION_LEVEL, &level, sizeof level);
  std::vector<float> frames(2 * sound.frames());
  for (size_t i = 0; i < sound.frames(); ++i)
    for (size_t c = 0; c < 2; ++c) frames[2 * i + c] = sound.channels[c][i];
  // In pieces: some encoders take no more at once.
  constexpr size_t kPiece = 4096;
  for (size_t at = 0; at < sound.frames(); at += kPiece) {
    const auto count = static_cast<sf_count_t>(std::min(kPiece, sound.frames() - at));
    if (sf_writef_float(out.get(), frames.data() + 2 * at, count) != count) return std::nullopt;
  }
  out.reset();
  return bytes;
}

// Encoders start late by some hundred frames: where the output correlates best with the input.
size_t delayOf(const AudioBuffer& in, const AudioBuffer& out) {
  constexpr size_t kMost = 4096, kLooked = 1u << 17;
  const size_t count = std::min({in.frames(), out.frames(), kLooked});
  RealFft fft(sharedSize(2 * count + kMost));
  std::vector<std::complex<double>> spectrum;
  for (const AudioBuffer* each : {&in, &out}) {
    std::fill(fft.time().begin(), fft.time().end(), 0.0);
    for (size_t i = 0; i < count; ++i) fft.time()[i] = each->channels[0][i] + each->channels[1][i];
    fft.forward();
    if (spectrum.empty())
      spectrum.assign(fft.bins().begin(), fft.bins().end());
    else
      for (size_t k = 0; k < spectrum.size(); ++k) fft.bins()[k] *= std::conj(spectrum[k]);
  }
  fft.inverse();
  size_t best = 0;
  for (size_t i = 0; i < std::min(kMost, count); ++i)
    if (fft.time()[i] > fft.time()[best]) best = i;
  return best;
}

double rateFor(LossyCodec codec, double rate) {
  if (codec == LossyCodec::Opus) return 48000.0;
  if (codec == LossyCodec::Mp3 && rate != 44100.0 && rate != 32000.0) return 48000.0;
  return rate;
}

double kbpsOf(const std::string& bytes, const AudioBuffer& sound) {
  return 0.008 * static_cast<double>(bytes.size()) / std::max(0.01, sound.seconds());
}

// The file whose rate is nearest to what was asked for.
std::optional<std::string> encodedAt(const AudioBuffer& sound, const LossyAsk& ask) {
  if (ask.codec == LossyCodec::Mp3)
    return encoded(sound, ask.codec, (kMostKbps - ask.kbps) / (kMostKbps - kLeastKbps));
  constexpr int kTurns = 7;
  double fine = 0.0, small = 1.0;
  std::optional<std::string> best;
  for (int turn = 0; turn < kTurns; ++turn) {
    const double level = 0.5 * (fine + small);
    auto bytes = encoded(sound, ask.codec, level);
    if (!bytes) return std::nullopt;
    const double off = kbpsOf(*bytes, sound) - ask.kbps;
    (off > 0.0 ? fine : small) = level;
    if (!best || std::abs(off) < std::abs(kbpsOf(*best, sound) - ask.kbps)) best = std::move(bytes);
  }
  return best;
}

}  // namespace

const char* lossyName(LossyCodec codec) {
  return codec == LossyCodec::Mp3 ? "MP3" : codec == LossyCodec::Vorbis ? "Vorbis" : "Opus";
}

bool canEncode(LossyCodec codec) {
  SF_INFO info = infoOf(codec, 48000.0);
  return sf_format_check(&info) != 0;
}

Result<LossyRun> throughCodec(const AudioBuffer& sound, const LossyAsk& ask) {
  const std::string name = lossyName(ask.codec);
  if (!canEncode(ask.codec)) return unwritable({}, "this libsndfile does not write " + name);
  if (sound.frames() == 0) return LossyRun{sound, 0.0, {}};
  AudioBuffer in = stereoOf(sound);
  if (const double rate = rateFor(ask.codec, in.sampleRate); rate != in.sampleRate) {
    auto converted = resampled(in, rate);
    if (!converted) return Fail(converted.error());
    in = std::move(*converted);
  }
  const QuietStderr hush;
  auto bytes = encodedAt(in, ask);
  const auto decoded = bytes ? decodeSound(*bytes, name) : Result<LoadedSound>(unwritable({}, ""));
  if (!decoded || decoded->sound->channelCount() != 2)
    return unwritable({}, name + " could not be encoded at this rate");
  AudioBuffer out = *decoded->sound;
  const size_t delay = delayOf(in, out);
  for (auto& channel : out.channels) {
    channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(std::min(delay, channel.size())));
    channel.resize(in.frames(), 0.0f);
  }
  LossyRun run{std::move(out), kbpsOf(*bytes, in), std::move(*bytes)};
  if (run.sound.sampleRate != sound.sampleRate) {
    auto back = resampled(run.sound, sound.sampleRate);
    if (!back) return Fail(back.error());
    run.sound = std::move(*back);
  }
  for (auto& channel : run.sound.channels) channel.resize(sound.frames(), 0.0f);
  return run;
}

Result<LossyAsk> parseLossy(const std::string& text) {
  const size_t colon = text.find(':');
  const std::string name = text.substr(0, colon);
  const auto kbps = colon == std::string::npos ? std::optional(128.0) : parseNumber(text.substr(colon + 1));
  for (const auto& [word, codec] :
       {std::pair{"mp3", LossyCodec::Mp3}, {"vorbis", LossyCodec::Vorbis}, {"opus", LossyCodec::Opus}})
    if (name == word && kbps && *kbps >= kLeastKbps && *kbps <= kMostKbps) return LossyAsk{codec, *kbps};
  return badUsage("'" + text +
                  "' is no codec and rate: write mp3:128, vorbis:160 or opus:96 (32 to 320 kbit/s)");
}

}  // namespace heft
