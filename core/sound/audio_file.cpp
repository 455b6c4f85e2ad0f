#include "core/sound/audio_file.h"

#include <sndfile.h>
#include <xxhash.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <random>

#include "core/sound/memory_file.h"
#include "core/sound/quiet_stderr.h"

namespace heft {
namespace {

constexpr float kLoudest = 1000.0f;  // +60 dBFS

const char* formatName(int format) {
  switch (format & SF_FORMAT_TYPEMASK) {
    case SF_FORMAT_WAV:
    case SF_FORMAT_WAVEX:
    case SF_FORMAT_RF64:
    case SF_FORMAT_W64:
      return "WAV";
    case SF_FORMAT_AIFF:
      return "AIFF";
    case SF_FORMAT_FLAC:
      return "FLAC";
    case SF_FORMAT_OGG:
      return "Ogg";
    case SF_FORMAT_MPEG:
      return "MP3";
    default:
      return nullptr;
  }
}

bool looksLikeMp3(const std::string& bytes) {
  if (bytes.rfind("ID3", 0) == 0) return true;
  return bytes.size() > 2 && static_cast<unsigned char>(bytes[0]) == 0xFF && (bytes[1] & 0xE0) == 0xE0;
}

// The number of frames a RIFF header promises, where it promises more than the file can hold.
bool endsEarly(const std::string& bytes) {
  if (bytes.size() < 12 || bytes.rfind("RIFF", 0) != 0) return false;
  size_t at = 12;
  while (at + 8 <= bytes.size()) {
    uint32_t size = 0;
    std::memcpy(&size, bytes.data() + at + 4, 4);
    if (std::memcmp(bytes.data() + at, "data", 4) == 0) return size > bytes.size() - at - 8;
    at += 8 + static_cast<size_t>(size) + (size & 1);
  }
  return false;
}

Result<AudioBuffer> readFrames(SNDFILE* file, const SF_INFO& info, const std::string& name,
                               const std::stop_token& stop, std::optional<double> mostSeconds) {
  const double most = mostSeconds ? *mostSeconds * info.samplerate : 1e18;
  AudioBuffer buffer;
  buffer.sampleRate = info.samplerate;
  buffer.channels.resize(static_cast<size_t>(info.channels));
  // Read in pieces: memory grows with the data, not with the header's claim.
  const sf_count_t step = 65536;
  std::vector<float> piece(static_cast<size_t>(step * info.channels));
  uint64_t total = 0;
  while (static_cast<double>(buffer.frames()) < most) {
    const auto wanted = static_cast<sf_count_t>(
        std::min(static_cast<double>(step), std::ceil(most - static_cast<double>(buffer.frames()))));
    const sf_count_t got = sf_readf_float(file, piece.data(), wanted);
    if (got <= 0) break;
    if (stop.stop_requested()) return cancelled();
    const size_t count = static_cast<size_t>(got);
    total += count * buffer.channelCount();
    if (total > kMostSamples)
      return unreadable(name, "holds more audio than Heft reads at once; cut it into shorter files");
    for (size_t c = 0; c < buffer.channelCount(); ++c)
      for (size_t i = 0; i < count; ++i) {
        const float x = piece[i * buffer.channelCount() + c];
        if (!(std::abs(x) <= kLoudest))
          return unreadable(name,
                            "holds samples that are not numbers or are far over full scale; export it again");
        buffer.channels[c].push_back(x);
      }
  }
  return buffer;
}

int sndFormat(SampleFormat format) {
  switch (format) {
    case SampleFormat::Wav16:
      return SF_FORMAT_WAV | SF_FORMAT_PCM_16;
    case SampleFormat::Wav24:
      return SF_FORMAT_WAV | SF_FORMAT_PCM_24;
    case SampleFormat::WavFloat:
      return SF_FORMAT_WAV | SF_FORMAT_FLOAT;
    case SampleFormat::Flac24:
      return SF_FORMAT_FLAC | SF_FORMAT_PCM_24;
  }
  return 0;
}

std::vector<float> interleaved(const AudioBuffer& buffer) {
  const size_t channels = buffer.channelCount();
  std::vector<float> out(buffer.frames() * channels);
  for (size_t c = 0; c < channels; ++c)
    for (size_t i = 0; i < buffer.frames(); ++i) out[i * channels + c] = buffer.channels[c][i];
  return out;
}

// Triangular dither of two least significant bits, then rounding (libsndfile's own dither command does
// nothing).
class Dither {
 public:
  std::vector<short> over(const std::vector<float>& in) {
    std::vector<short> out(in.size());
    for (size_t i = 0; i < in.size(); ++i) {
      const double noise = uniform() - uniform();
      out[i] = static_cast<short>(std::clamp(std::round(in[i] * 32768.0 + noise), -32768.0, 32767.0));
    }
    return out;
  }

 private:
  double uniform() { return static_cast<double>(random_()) / 4294967296.0; }
  std::mt19937 random_{0x48656674};
};

void setRoot(SNDFILE* file, const RootNote& root) {
  SF_INSTRUMENT instrument{};
  const int note = std::clamp(static_cast<int>(std::floor(root.midi + 0.005)), 0, 127);
  const long cents = std::lround((root.midi - note) * 100.0);
  instrument.gain = 1;
  instrument.basenote = static_cast<char>(note);
  instrument.detune = static_cast<char>(std::clamp<long>(cents, 0, 99));
  instrument.key_lo = 0;
  instrument.key_hi = 127;
  instrument.velocity_lo = 0;
  instrument.velocity_hi = 127;
  sf_command(file, SFC_SET_INSTRUMENT, &instrument, sizeof instrument);
}

}  // namespace

std::string contentHash(const void* data, size_t size) {
  const XXH128_hash_t hash = XXH3_128bits(data, size);
  char text[33];
  std::snprintf(text, sizeof text, "%016llx%016llx", static_cast<unsigned long long>(hash.high64),
                static_cast<unsigned long long>(hash.low64));
  return text;
}

Result<LoadedSound> decodeSound(std::string bytes, const std::string& name, const std::stop_token& stop,
                                std::optional<double> mostSeconds) {
  if (bytes.empty()) return unreadable(name, "is empty");
  LoadedSound out;
  out.hash = contentHash(bytes.data(), bytes.size());
  MemoryFile memory{&bytes};
  SF_VIRTUAL_IO io = memoryIo();
  SF_INFO info{};
  const bool quiet = looksLikeMp3(bytes);
  // MP3 faults print from within the decoder library.
  std::unique_ptr<QuietStderr> hush = quiet ? std::make_unique<QuietStderr>() : nullptr;
  SndFile file(sf_open_virtual(&io, SFM_READ, &info, &memory));
  if (!file || !formatName(info.format))
    return unreadable(name, "is not an audio file that Heft reads (WAV, AIFF, FLAC, Ogg, MP3)");
  if (!(info.samplerate >= kLowestRate && info.samplerate <= kHighestRate))
    return unreadable(name, "has a sample rate outside 1 to 768 kHz");
  if (info.channels < 1 || info.channels > kMostChannels) return unreadable(name, "has more than 64 channels");
  out.format = formatName(info.format);
  auto buffer = readFrames(file.get(), info, name, stop, mostSeconds);
  if (!buffer) return Fail(buffer.error());
  if (buffer->frames() == 0) return unreadable(name, "holds no audio");
  const bool cut = mostSeconds && buffer->seconds() >= *mostSeconds;
  const bool told = info.frames > 0 && info.frames < SF_COUNT_MAX;
  if (cut && told) out.wholeSeconds = static_cast<double>(info.frames) / info.samplerate;
  if (!cut &&
      (endsEarly(bytes) ||
       (info.frames > 0 && info.frames<SF_COUNT_MAX&& static_cast<uint64_t>(info.frames)> buffer->frames())))
    out.warnings.push_back("the file is truncated; Heft used what is there");
  file.reset();
  out.sound = std::make_shared<const AudioBuffer>(std::move(*buffer));
  out.bytes = std::make_shared<const std::string>(std::move(bytes));
  return out;
}

Result<LoadedSound> loadSound(const std::string& path, const std::stop_token& stop,
                              std::optional<double> mostSeconds) {
  auto bytes = readBytes(path);
  if (!bytes) return Fail(bytes.error());
  return decodeSound(std::move(*bytes), path, stop, mostSeconds);
}

const char* extensionOf(SampleFormat format) {
  return format == SampleFormat::Flac24 ? "flac" : "wav";
}

namespace {

// Opens the encoder by `open` and writes all of the sound in pieces.
template <class Open>
Result<void> encode(const SoundStream& sound, SampleFormat format, const std::optional<RootNote>& root,
                    Open open) {
  constexpr size_t kPiece = 65536;  // frames
  SF_INFO info{};
  info.samplerate = static_cast<int>(std::lround(sound.sampleRate));
  info.channels = static_cast<int>(sound.channels);
  info.format = sndFormat(format);
  if (!sf_format_check(&info))
    return unwritable({}, "this sample rate or channel count does not fit the file format");
  SndFile file(open(info));
  if (!file) return unwritable({}, "the encoder could not be started");
  sf_command(file.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
  sf_command(file.get(), SFC_SET_ADD_PEAK_CHUNK, nullptr, SF_FALSE);
  if (root && format != SampleFormat::Flac24) setRoot(file.get(), *root);
  Dither dither;
  for (size_t at = 0; at < sound.frames; at += kPiece) {
    const size_t count = std::min(kPiece, sound.frames - at);
    const auto samples = interleaved(sound.read(at, count));
    const auto frames = static_cast<sf_count_t>(count);
    const sf_count_t wrote = format == SampleFormat::Wav16
                                 ? sf_writef_short(file.get(), dither.over(samples).data(), frames)
                                 : sf_writef_float(file.get(), samples.data(), frames);
    if (wrote != frames) return unwritable({}, "the encoder stopped early");
  }
  if (sf_close(file.release()) != 0) return unwritable({}, "the encoder could not finish the file");
  return {};
}

}  // namespace

SoundStream streamOf(const AudioBuffer& buffer) {
  return {buffer.sampleRate, buffer.channelCount(), buffer.frames(),
          [&buffer](size_t first, size_t count) { return framesOf(buffer, first, count); }};
}

double sampleBytes(const SoundStream& sound, SampleFormat format) {
  const double each = format == SampleFormat::Wav16 ? 2.0 : format == SampleFormat::WavFloat ? 4.0 : 3.0;
  return each * static_cast<double>(sound.channels) * static_cast<double>(sound.frames);
}

Result<void> encodeSoundTo(int fd, const SoundStream& sound, SampleFormat format,
                           std::optional<RootNote> root) {
  errno = 0;
  auto done =
      encode(sound, format, root, [fd](SF_INFO& info) { return sf_open_fd(fd, SFM_WRITE, &info, SF_FALSE); });
  // The encoder does not say why a write failed: a full disk does.
  const int code = errno;
  if (!done && code != 0) return unwritable({}, std::string("cannot be written: ") + std::strerror(code));
  return done;
}

Result<std::string> encodeSound(const AudioBuffer& buffer, SampleFormat format, std::optional<RootNote> root) {
  std::string bytes;
  MemoryFile memory{&bytes};
  SF_VIRTUAL_IO io = memoryIo();
  const auto done = encode(streamOf(buffer), format, root,
                           [&](SF_INFO& info) { return sf_open_virtual(&io, SFM_WRITE, &info, &memory); });
  if (!done) return Fail(done.error());
  return bytes;
}

Result<void> saveSound(const AudioBuffer& buffer, const std::string& path, SampleFormat format,
                       std::optional<RootNote> root) {
  auto bytes = encodeSound(buffer, format, root);
  if (!bytes) return unwritable(path, bytes.error().reason);
  return writeWhole(path, *bytes);
}

}  // namespace heft
