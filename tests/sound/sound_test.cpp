// Files in and out, rate conversion, reading between samples, filters and transforms.

#include <gtest/gtest.h>
#include <samplerate.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <csignal>
#include <cstring>
#include <thread>

#include "core/sound/audio_file.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"
#include "core/sound/quiet_stderr.h"
#include "core/sound/resample.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

TEST(AudioFiles, EveryFormatGivesBackWhatWasWritten) {
  TemporaryFolder folder;
  AudioBuffer sound = bufferOf(noise(0.2, 5000, 3), 48000, 2);
  for (float& x : sound.channels[1]) x = -0.5f * x;
  const struct {
    SampleFormat format;
    double tolerance;
  } kRows[] = {{SampleFormat::Wav16, 2.1 / 32768},
               {SampleFormat::Wav24, 1.0 / 8388608},
               {SampleFormat::WavFloat, 0.0},
               {SampleFormat::Flac24, 1.0 / 8388608}};
  for (const auto& row : kRows) {
    const auto path = writeSound(folder, "S\u00f8und \u97f3.dat", sound, row.format);
    const auto back = loadSound(path);
    ASSERT_TRUE(back) << back.error().sentence();
    ASSERT_EQ(back->sound->channelCount(), 2u);
    ASSERT_EQ(back->sound->frames(), 5000u);
    double worst = 0;
    for (size_t c = 0; c < 2; ++c)
      for (size_t i = 0; i < 5000; ++i)
        worst =
            std::max(worst, std::abs(static_cast<double>(back->sound->channels[c][i]) - sound.channels[c][i]));
    EXPECT_LE(worst, row.tolerance);
  }
}

TEST(AudioFiles, SixteenBitsAreDitheredAndNeverWrap) {
  // Half a step of offset: without dither it would be one value; with it the mean keeps it.
  AudioBuffer quiet(48000, 1, 40000);
  for (float& x : quiet.channels[0]) x = 0.5f / 32768;
  auto bytes = encodeSound(quiet, SampleFormat::Wav16);
  ASSERT_TRUE(bytes);
  EXPECT_EQ(*bytes, *encodeSound(quiet, SampleFormat::Wav16)) << "the same input gives the same file";
  const auto back = decodeSound(*bytes, "quiet");
  double mean = 0;
  for (float x : back->sound->channels[0]) mean += x * 32768.0 / 40000;
  EXPECT_NEAR(mean, 0.5, 0.03);
  AudioBuffer loud(48000, 1, 100);
  for (float& x : loud.channels[0]) x = 1.2f;
  for (SampleFormat f : {SampleFormat::Wav16, SampleFormat::Wav24, SampleFormat::Flac24}) {
    const auto held = decodeSound(*encodeSound(loud, f), "loud");
    for (float x : held->sound->channels[0]) EXPECT_GT(x, 0.999f);
  }
}

// RIFF WAVE's sampler chunk: nine little-endian words, the fourth is the unity note, the fifth the fraction of
// a semitone.
TEST(AudioFiles, RootNoteStandsInTheSamplerChunk) {
  const auto bytes = encodeSound(AudioBuffer(48000, 1, 100), SampleFormat::Wav24, RootNote{33.25});
  ASSERT_TRUE(bytes);
  const size_t at = bytes->find("smpl");
  ASSERT_NE(at, std::string::npos);
  uint32_t words[9];
  std::memcpy(words, bytes->data() + at + 8, sizeof words);
  EXPECT_EQ(words[3], 33u);
  EXPECT_NEAR(words[4] / 4294967296.0, 0.25, 0.006);
}

TEST(AudioFiles, HostileFilesGetOneSentenceThatNamesThem) {
  TemporaryFolder folder;
  const std::string good = *encodeSound(bufferOf(sine(55, 0.5, 0.1, 48000), 48000), SampleFormat::Wav16);
  const auto refuse = [&](const std::string& name, const std::string& bytes) {
    writeBytes(folder / name, bytes);
    const auto loaded = loadSound(folder / name);
    ASSERT_FALSE(loaded) << name;
    EXPECT_EQ(loaded.error().kind, ErrorKind::Unreadable);
    EXPECT_NE(loaded.error().sentence().find(name), std::string::npos);
  };
  refuse("empty.wav", "");
  refuse("text.wav", "this is not audio at all, whatever its name says");
  refuse("noise.vox", std::string(4000, '\x5a'));
  refuse("header-only.wav", good.substr(0, 44));
  std::string nan = *encodeSound(AudioBuffer(48000, 1, 50), SampleFormat::WavFloat);
  const float bad = std::nanf("");
  std::memcpy(nan.data() + nan.size() - 40, &bad, 4);
  refuse("nan.wav", nan);
  EXPECT_FALSE(loadSound(folder.path()));
  EXPECT_FALSE(loadSound(folder / "missing.wav"));
}

TEST(AudioFiles, WhatIsReadableOfATruncatedFileIsUsedWithAWarning) {
  const std::string good = *encodeSound(bufferOf(sine(55, 0.5, 0.5, 48000), 48000), SampleFormat::Wav16);
  const auto half = decodeSound(good.substr(0, good.size() / 2), "half.wav");
  ASSERT_TRUE(half);
  EXPECT_GT(half->sound->frames(), 10000u);
  EXPECT_EQ(half->warnings.size(), 1u);
  std::string lying = good;
  lying[40] = lying[41] = lying[42] = '\xff';
  const auto more = decodeSound(lying, "lying.wav");
  ASSERT_TRUE(more);
  EXPECT_EQ(more->sound->frames(), 24000u);
  EXPECT_EQ(more->warnings.size(), 1u);
}

// Every mutation of a small file is either read or refused; nothing crashes, hangs or returns NaN.
TEST(AudioFiles, MutatedFilesNeverGetPastTheDoor) {
  std::mt19937 random(20);
  for (SampleFormat format : {SampleFormat::Wav24, SampleFormat::WavFloat, SampleFormat::Flac24}) {
    const std::string good = *encodeSound(bufferOf(noise(0.1, 400, 5), 44100, 2), format, RootNote{40});
    for (int i = 0; i < 300; ++i) {
      std::string bad = good;
      for (int k = 0; k < 3; ++k)
        bad[random() % std::min<size_t>(bad.size(), k ? bad.size() : 80)] = static_cast<char>(random());
      const auto loaded = decodeSound(bad, "mutated");
      if (!loaded) continue;
      for (const auto& c : loaded->sound->channels)
        for (float x : c) ASSERT_TRUE(std::isfinite(x));
    }
  }
}

TEST(AudioFiles, UnwritableTargetsLeaveNothingBehind) {
  TemporaryFolder folder;
  EXPECT_FALSE(writeWhole(folder.path(), "x"));
  EXPECT_FALSE(writeWhole(folder / "no/such/folder/x.wav", "x"));
  writeBytes(folder / "old.wav", "old");
  ASSERT_TRUE(writeWhole(folder / "old.wav", "new"));
  EXPECT_EQ(contentsOf(folder / "old.wav"), "new");
  size_t files = 0;
  for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path())) ++files;
  EXPECT_EQ(files, 1u);
}

// Longer than a piece of the encoder: every sample comes back within the format's step (with dither one and a
// half), and a file written to disk is the one in memory.
TEST(Encoding, LongSoundsAreWholeAcrossPieces) {
  TemporaryFolder folder;
  const AudioBuffer in = bufferOf(noise(0.1, 150001, 9), 48000, 2);
  for (const auto& [format, step] : {std::pair(SampleFormat::Wav16, 1.5 / 32768),
                                     {SampleFormat::Wav24, 1.0 / 8388608},
                                     {SampleFormat::WavFloat, 0.0},
                                     {SampleFormat::Flac24, 1.0 / 8388608}}) {
    const auto bytes = encodeSound(in, format, RootNote{33.0});
    ASSERT_TRUE(bytes);
    const auto back = decodeSound(*bytes, "long");
    ASSERT_TRUE(back);
    ASSERT_EQ(back->sound->frames(), in.frames());
    double worst = 0.0;
    for (size_t c = 0; c < 2; ++c)
      for (size_t i = 0; i < in.frames(); ++i)
        worst = std::max(worst, static_cast<double>(std::abs(back->sound->channels[c][i] - in.channels[c][i])));
    EXPECT_LE(worst, step * 1.001) << static_cast<int>(format);
    FileBytes file{folder / "long", nullptr};
    file.write = [&, format = format](int fd) {
      return encodeSoundTo(fd, streamOf(in), format, RootNote{33.0});
    };
    ASSERT_TRUE(writeAllWhole({file}));
    EXPECT_EQ(contentsOf(folder / "long"), *bytes) << static_cast<int>(format);
  }
}

// A file that cannot grow (the limit on sizes stands for a full disk) is told with why, and nothing is left.
TEST(Encoding, AFullDiskIsToldAndLeavesNothing) {
  TemporaryFolder folder;
  const AudioBuffer in = bufferOf(noise(0.1, 300000, 4), 48000);
  FileBytes file{folder / "full.wav", nullptr};
  file.write = [&](int fd) { return encodeSoundTo(fd, streamOf(in), SampleFormat::Wav24); };
  rlimit before{};
  ASSERT_EQ(getrlimit(RLIMIT_FSIZE, &before), 0);
  const auto handler = std::signal(SIGXFSZ, SIG_IGN);
  const rlimit small{400000, before.rlim_max};
  ASSERT_EQ(setrlimit(RLIMIT_FSIZE, &small), 0);
  const auto wrote = writeAllWhole({file});
  setrlimit(RLIMIT_FSIZE, &before), std::signal(SIGXFSZ, handler);
  ASSERT_FALSE(wrote);
  EXPECT_EQ(wrote.error().kind, ErrorKind::Unwritable);
  EXPECT_EQ(wrote.error().sentence(), folder / "full.wav" + ": cannot be written: File too large");
  EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

// A sine through the converter is the same sine at the other rate: error at least 100 dB down away from the
// ends.
TEST(Resampling, KeepsATone) {
  for (double to : {44100.0, 96000.0, 22050.0}) {
    const auto out = resampled(bufferOf(sine(997, 0.5, 0.5, 48000), 48000), to);
    ASSERT_TRUE(out);
    const auto want = sine(997, 0.5, 0.5, to);
    double error = 0;
    for (size_t i = want.size() / 4; i < want.size() * 3 / 4; ++i)
      error = std::max(error, std::abs(out->channels[0][i] - want[i]));
    EXPECT_LT(20 * std::log10(error / 0.5), -100) << to;
  }
}

// The library's own conversion in one go (libsamplerate, src_simple), to the bit: pieces, and looks at a stop,
// change nothing. A stop ends it.
TEST(Resampling, InPiecesIsTheLibrarysOneGoAndEndsByAStop) {
  const AudioBuffer in = bufferOf(noise(0.5, 70001, 3), 44100);
  for (const double to : {48000.0, 96000.0, 32000.0, 44101.0}) {
    std::vector<float> want(static_cast<size_t>(70001.0 * to / 44100.0) + 64);
    SRC_DATA data{};
    data.data_in = in.channels[0].data(), data.input_frames = 70001;
    data.data_out = want.data(), data.output_frames = static_cast<long>(want.size());
    data.src_ratio = to / 44100.0;
    ASSERT_EQ(src_simple(&data, SRC_SINC_BEST_QUALITY, 1), 0);
    const auto out = resampled(in, to);
    ASSERT_TRUE(out);
    for (size_t i = 0; i < out->frames(); ++i) ASSERT_EQ(out->channels[0][i], want[i]) << to << " " << i;
  }
  std::stop_source stop;
  stop.request_stop();
  const auto ended = resampled(in, 48000, ConvertFor::Hearing, stop.get_token());
  ASSERT_FALSE(ended);
  EXPECT_EQ(ended.error().kind, ErrorKind::Cancelled);
}

TEST(Interpolation, ReadsATonesTrueValuesBetweenItsSamples) {
  const double rate = 48000;
  for (double hz : {55.0, 1000.0, 12000.0, 18000.0}) {
    const auto x = bufferOf(sine(hz, 0.8, 0.2, rate), rate);
    for (double step : {0.5, 0.97, 1.0}) {
      const auto out = readAt(x.channels[0], 1000.37, step, 2000);
      double error = 0;
      for (size_t i = 0; i < out.size(); ++i)
        error = std::max(
            error,
            std::abs(out[i] - 0.8 * std::sin(kTwoPi * hz * (1000.37 + step * static_cast<double>(i)) / rate)));
      EXPECT_LT(20 * std::log10(error / 0.8), hz < 15000 ? -75 : -58) << hz << " Hz, step " << step;
    }
  }
}

TEST(Interpolation, ReadingFasterLeavesNoAliases) {
  // 18 kHz read 1.5 times as fast would fold to 21 kHz.
  const auto out = readAt(bufferOf(sine(18000, 0.8, 0.2, 48000), 48000).channels[0], 500, 1.5, 4000);
  double peak = 0;
  for (float x : out) peak = std::max(peak, std::abs(static_cast<double>(x)));
  EXPECT_LT(20 * std::log10(peak), -75);
}

TEST(Fft, AgreesWithADirectTransform) {
  const auto x = noise(1.0, 360, 11);
  RealFft fft(360);
  std::copy(x.begin(), x.end(), fft.time().begin());
  fft.forward();
  for (size_t k = 0; k <= 180; ++k) {
    std::complex<double> sum = 0;
    for (size_t i = 0; i < x.size(); ++i)
      sum += x[i] * std::polar(1.0, -kTwoPi * static_cast<double>(k * i % 360) / 360.0);
    EXPECT_NEAR(std::abs(fft.bins()[k] - sum), 0.0, 1e-9);
  }
  fft.inverse();
  for (size_t i = 0; i < x.size(); ++i) EXPECT_NEAR(fft.time()[i], x[i], 1e-12);
}

// Audio EQ Cookbook (R. Bristow-Johnson): the analogue prototypes |H| at w0 equal Q for both, through the
// bilinear transform's warped frequency w = tan(pi f / fs) / tan(pi f0 / fs): low-pass |H|^2 = 1 / ((1 - w^2)^2
// + (w / Q)^2).
TEST(Filters, SectionsHaveTheCookbooksResponse) {
  const double rate = 48000, f0 = 120, q = 0.9;
  for (double hz : {20.0, 60.0, 119.0, 240.0, 1000.0, 9000.0}) {
    auto measured = [&](Biquad filter) {
      double re = 0, im = 0;
      for (int i = 0; i < 96000; ++i) {
        const double y = filter.process(i == 0 ? 1.0 : 0.0);
        re += y * std::cos(kTwoPi * hz * i / rate), im -= y * std::sin(kTwoPi * hz * i / rate);
      }
      return std::hypot(re, im);
    };
    const double w = std::tan(std::numbers::pi * hz / rate) / std::tan(std::numbers::pi * f0 / rate);
    const double under = std::sqrt(std::pow(1 - w * w, 2) + std::pow(w / q, 2));
    EXPECT_NEAR(measured(Biquad(Biquad::lowPass(rate, f0, q))), 1 / under, 1e-6) << hz;
    EXPECT_NEAR(measured(Biquad(Biquad::highPass(rate, f0, q))), w * w / under, 1e-6) << hz;
  }
}

TEST(Filters, TheBandLimitIsFlatInsideAndTurnsNoPhase) {
  const auto x = sine(55, 1.0, 1.0, 8000, 0.7);
  const auto y = bandLimited(x, 8000, 20, 150);
  for (size_t i = 2000; i < 6000; ++i) EXPECT_NEAR(y[i], x[i], 2e-3);
  EXPECT_LT(rms(bandLimited(sine(400, 1.0, 1.0, 8000), 8000, 20, 150)), 0.02);
}

// Short and long readings go two ways, tap by tap and by rows of taps made beforehand: they are the same to
// -100 dB.
TEST(Reading, ShortAndLongReadingsAgree) {
  std::vector<float> x;
  for (double v : noise(0.5, 20000, 9)) x.push_back(static_cast<float>(v));
  for (double step : {1.06, 1.5, 2.0, 3.7}) {
    const auto brief = readAt(x, 150.3, step, 2000), all = readAt(x, 150.3, step, 5000);
    for (size_t i = 0; i < brief.size(); ++i) ASSERT_NEAR(brief[i], all[i], 1e-5) << step << " at " << i;
  }
}

// Several threads hide the libraries' messages at once; the last one restores stderr, the same file as
// before.
TEST(QuietStderr, TheLastOneGivesItBack) {
  struct stat before {
  }, hushed{}, after{};
  ASSERT_EQ(fstat(STDERR_FILENO, &before), 0);
  auto first = std::make_unique<QuietStderr>();
  std::thread([] {
    for (int i = 0; i < 50; ++i) const QuietStderr other;
  }).join();
  auto second = std::make_unique<QuietStderr>();
  first.reset();
  ASSERT_EQ(fstat(STDERR_FILENO, &hushed), 0);
  second.reset();
  ASSERT_EQ(fstat(STDERR_FILENO, &after), 0);
  struct stat nowhere {};
  ASSERT_EQ(stat("/dev/null", &nowhere), 0);
  EXPECT_EQ(hushed.st_ino, nowhere.st_ino);
  EXPECT_EQ(after.st_ino, before.st_ino);
  EXPECT_EQ(after.st_dev, before.st_dev);
}

}  // namespace
}  // namespace heft
