#pragma once
/// Audio files in and out through libsndfile. A name never decides a format: content does.

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/sound/whole_file.h"
#include "core/theory/names.h"

namespace heft {

/// A file's bytes, kept so that a session can copy its source unchanged.
using Bytes = std::shared_ptr<const std::string>;

/// A read file, and the reader's warnings.
struct LoadedSound {
  Sound sound;
  Bytes bytes;                              ///< the unchanged file
  std::string hash;                         ///< XXH3-128 of the bytes, 32 hex digits
  std::string format;                       ///< "WAV", "FLAC", ... from the content
  std::vector<std::string> warnings;        ///< sentences, such as a file that ends early
  std::optional<double> wholeSeconds = {};  ///< where only its start was read: the length that the file says
};

/// Limits of reading.
inline constexpr double kLowestRate = 1000.0, kHighestRate = 768000.0;
inline constexpr int kMostChannels = 64;
inline constexpr uint64_t kMostSamples = 400'000'000;  ///< frames times channels

/// Reads WAV, AIFF, FLAC, Ogg Vorbis, Ogg Opus or MP3, any rate and channel count within the limits above. A
/// truncated file gives its intact part and a warning. Errors (Unreadable): no file, a directory, not audio,
/// no audio in it, out of limits, samples that are NaN, infinite or above +60 dBFS; Cancelled.
/// `mostSeconds`: only its start.
Result<LoadedSound> loadSound(const std::string& path, const std::stop_token& stop = {},
                              std::optional<double> mostSeconds = {});
/// The same from bytes; `name` is for messages.
Result<LoadedSound> decodeSound(std::string bytes, const std::string& name, const std::stop_token& stop = {},
                                std::optional<double> mostSeconds = {});

/// XXH3-128 as 32 hex digits.
std::string contentHash(const void* data, size_t size);

enum class SampleFormat { Wav16, Wav24, WavFloat, Flac24 };
template <>
inline constexpr std::array kWordsOf<SampleFormat> = {"wav16", "wav24", "wav-float", "flac24"};
const char* extensionOf(SampleFormat format);  ///< "wav" or "flac"

/// Root note for the WAV sampler chunk.
struct RootNote {
  double midi = 60.0;  ///< fractional; written as a note and 0 to 99 cents above it
};

/// A sound to be written that is nowhere whole.
struct SoundStream {
  double sampleRate = 44100.0;
  size_t channels = 1, frames = 0;
  /// Asked for from first to last, each stretch once.
  std::function<AudioBuffer(size_t first, size_t count)> read;
};
/// Of a sound in memory, which must outlive it.
SoundStream streamOf(const AudioBuffer& buffer);
/// Its file, written to an open one from its start; in memory are 65536 frames of it. The same bytes as
/// encodeSound(). Errors: Unwritable.
Result<void> encodeSoundTo(int fd, const SoundStream& sound, SampleFormat format,
                           std::optional<RootNote> root = {});
/// Bytes of its samples, without the file's header; FLAC needs fewer.
double sampleBytes(const SoundStream& sound, SampleFormat format);

/// The whole file in memory. 16 bits get TPDF dither from a fixed seed (the same input gives the same file);
/// whole-number formats clip at full scale. Errors: Unwritable.
Result<std::string> encodeSound(const AudioBuffer& buffer, SampleFormat format,
                                std::optional<RootNote> root = {});

/// Encodes and writes; the file appears whole or not at all. Errors: Unwritable, naming the file.
Result<void> saveSound(const AudioBuffer& buffer, const std::string& path, SampleFormat format,
                       std::optional<RootNote> root = {});

}  // namespace heft
