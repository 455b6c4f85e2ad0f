// Every format that is read, written here by the format library itself; and the readers' bounds.

#include <gtest/gtest.h>
#include <sndfile.h>

#include "core/measure/events/sound_facts.h"
#include "core/sound/audio_file.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

struct Format {
  const char* name;
  int code;
  int rate;
  double toleranceDb;  ///< of the difference re the sound; lossy formats are judged by their landing alone
};

class Formats : public ::testing::TestWithParam<Format> {};

TEST_P(Formats, AreReadByContentAndKeepTheLanding) {
  const Format format = GetParam();
  TemporaryFolder folder;
  KickRecipe recipe;
  recipe.sampleRate = format.rate;
  recipe.landingHz = 51.9;
  recipe.tailMs = 400;
  const auto kick = makeKick(recipe);
  // The name is wrong.
  const std::string path = folder / "sound.txt";
  SF_INFO info{};
  info.samplerate = format.rate;
  info.channels = 2;
  info.format = format.code;
  SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
  if (!file) GTEST_SKIP() << "this libsndfile cannot write " << format.name;
  std::vector<float> frames(2 * kick.size());
  for (size_t i = 0; i < kick.size(); ++i)
    frames[2 * i] = frames[2 * i + 1] = static_cast<float>(0.8 * kick[i]);
  sf_writef_float(file, frames.data(), static_cast<sf_count_t>(kick.size()));
  sf_close(file);
  const auto loaded = loadSound(path);
  ASSERT_TRUE(loaded) << loaded.error().sentence();
  EXPECT_EQ(loaded->format, format.name);
  EXPECT_EQ(loaded->sound->channelCount(), 2u);
  EXPECT_EQ(loaded->sound->sampleRate, format.rate);
  const auto facts = measureSound(*loaded->sound);
  ASSERT_TRUE(facts.landing.hz);
  EXPECT_NEAR(1200 * std::log2(*facts.landing.hz / 51.9), 0.0, 2.0);
  if (format.toleranceDb == 0.0) return;
  double error = 0.0, energy = 0.0;
  for (size_t i = 0; i < kick.size(); ++i) {
    error += std::pow(loaded->sound->channels[0][i] - 0.8 * kick[i], 2);
    energy += std::pow(0.8 * kick[i], 2);
  }
  EXPECT_LT(10 * std::log10(error / energy + 1e-20), format.toleranceDb);
}

INSTANTIATE_TEST_SUITE_P(All, Formats,
                         ::testing::Values(Format{"WAV", SF_FORMAT_WAV | SF_FORMAT_PCM_16, 44100, -70},
                                           Format{"WAV", SF_FORMAT_WAV | SF_FORMAT_PCM_U8, 22050, -20},
                                           Format{"WAV", SF_FORMAT_WAV | SF_FORMAT_DOUBLE, 96000, -120},
                                           Format{"WAV", SF_FORMAT_RF64 | SF_FORMAT_PCM_24, 48000, -110},
                                           Format{"AIFF", SF_FORMAT_AIFF | SF_FORMAT_PCM_24, 48000, -110},
                                           Format{"AIFF", SF_FORMAT_AIFF | SF_FORMAT_FLOAT, 44100, -120},
                                           Format{"FLAC", SF_FORMAT_FLAC | SF_FORMAT_PCM_16, 44100, -70},
                                           Format{"Ogg", SF_FORMAT_OGG | SF_FORMAT_VORBIS, 44100, 0},
                                           Format{"Ogg", SF_FORMAT_OGG | SF_FORMAT_OPUS, 48000, 0},
                                           Format{"MP3", SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III, 44100, 0}));

TEST(FormatBounds, FormatsThatAreNotOursAreRefused) {
  TemporaryFolder folder;
  for (int code :
       {SF_FORMAT_AU | SF_FORMAT_PCM_16, SF_FORMAT_VOC | SF_FORMAT_PCM_16, SF_FORMAT_PAF | SF_FORMAT_PCM_16}) {
    SF_INFO info{};
    info.samplerate = 44100;
    info.channels = 1;
    info.format = code;
    const std::string path = folder / "other.wav";
    SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
    if (!file) continue;
    const std::vector<float> frames(1000, 0.1f);
    sf_writef_float(file, frames.data(), 1000);
    sf_close(file);
    const auto loaded = loadSound(path);
    ASSERT_FALSE(loaded) << code;
    EXPECT_NE(loaded.error().reason.find("WAV, AIFF, FLAC, Ogg, MP3"), std::string::npos);
  }
}

TEST(FormatBounds, RatesChannelsAndLevelsOutsideTheBoundsAreRefused) {
  const auto patched = [](size_t at, uint32_t value, size_t bytes) {
    std::string wav = *encodeSound(bufferOf(sine(55, 0.5, 0.05, 48000), 48000), SampleFormat::WavFloat);
    for (size_t i = 0; i < bytes; ++i) wav[at + i] = static_cast<char>(value >> (8 * i));
    return decodeSound(wav, "patched.wav");
  };
  for (uint32_t rate : {1u, 500u, 2'000'000u, 0u}) EXPECT_FALSE(patched(24, rate, 4)) << rate;
  for (uint32_t channels : {0u, 2000u, 65535u}) EXPECT_FALSE(patched(22, channels, 2)) << channels;
  AudioBuffer loud(48000, 1, 100);
  loud.channels[0][50] = 5000.0f;
  EXPECT_FALSE(decodeSound(*encodeSound(loud, SampleFormat::WavFloat), "loud.wav"));
  loud.channels[0][50] = 900.0f;
  EXPECT_TRUE(decodeSound(*encodeSound(loud, SampleFormat::WavFloat), "loud.wav"));
}

TEST(FormatBounds, BytesAreReadOnlyUpToTheirLimit) {
  TemporaryFolder folder;
  writeBytes(folder / "big.bin", std::string(5000, 'x'));
  EXPECT_FALSE(readBytes(folder / "big.bin", 4999));
  EXPECT_EQ(readBytes(folder / "big.bin", 5000)->size(), 5000u);
  EXPECT_FALSE(readBytes("/dev/zero", 1000)) << "devices are not files";
}

TEST(FormatBounds, TheHashIsOfTheBytes) {
  EXPECT_EQ(contentHash("abc", 3), contentHash("abc", 3));
  EXPECT_NE(contentHash("abc", 3), contentHash("abd", 3));
  // XXH3-128 of nothing, seed 0, as published with the algorithm: 99aa06d3014798d86001c324468d497f.
  EXPECT_EQ(contentHash("", 0), "99aa06d3014798d86001c324468d497f");
}

}  // namespace
}  // namespace heft
