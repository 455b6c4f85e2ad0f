// Compare: sections of references, their pictures' figures and their facts.

#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <random>

#include "core/compare/bar_fold.h"
#include "core/compare/ceiling.h"
#include "core/compare/coded.h"
#include "core/compare/curves.h"
#include "core/compare/dip_in_mix.h"
#include "core/compare/section_facts.h"
#include "core/compare/section_profile.h"
#include "core/compare/track_profile.h"
#include "core/measure/levels/equal_loudness.h"
#include "core/measure/levels/listening_places.h"
#include "core/measure/levels/loudness.h"
#include "core/sound/audio_file.h"
#include "core/sound/lossy.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

// A made-up mix: a kick of a known note and length on a pattern off the beat, a bass of four notes that dips by
// a known curve, noise above. Its truth is its own making.
struct Mix {
  double bpm = 124.0, kickHz = 49.0, kickMs = 150.0, dipDb = 8.0, holdMs = 40.0, backMs = 110.0;
  std::vector<double> hits;
  AudioBuffer sound{48000.0, 2, 0};
};

Mix mixOf(double bpm, double kickHz, double kickMs, double dipDb, bool withBass = true, bool withKick = true,
          double slowStart = 0.0) {
  Mix m{bpm, kickHz, kickMs, dipDb};
  const double rate = 48000.0, beat = 60.0 / bpm;
  const auto frames = static_cast<size_t>(32.0 * beat * rate);
  std::vector<double> kick(frames, 0.0), gain(frames, 0.0), bass(frames, 0.0), top = noise(0.02, frames, 1);
  for (int bar = 0; bar < 8; ++bar)
    for (const double at : {0.0, 1.5, 2.0, 3.5}) m.hits.push_back((4.0 * bar + at) * beat);
  for (const double t : m.hits) {
    double phase = 0.0;
    for (size_t i = 0; i < static_cast<size_t>(0.001 * kickMs * rate); ++i) {
      const double s = static_cast<double>(i) / rate, left = 0.001 * kickMs - s;
      phase += 2.0 * M_PI * kickHz * std::exp2(1.5 * std::exp(-s / 0.012)) / rate;
      const auto at = static_cast<size_t>(t * rate) + i;
      if (at < frames)
        kick[at] += 0.5 * std::sin(phase) * std::exp(-s / 0.2) * std::min({1.0, s / 0.001, left / 0.015});
    }
    const double down = 0.001 * (m.backMs - m.holdMs);
    for (size_t i = 0; i < static_cast<size_t>(0.001 * m.backMs * rate); ++i) {
      const double s = static_cast<double>(i) / rate, past = (s - 0.001 * m.holdMs) / down;
      const double db = -dipDb * (past <= 0.0 ? 1.0 : 0.5 + 0.5 * std::cos(M_PI * past));
      if (const auto at = static_cast<size_t>(t * rate) + i; at < frames) gain[at] = std::min(gain[at], db);
    }
  }
  // Hats on the eighths.
  for (int eighth = 0; eighth < 64; ++eighth)
    for (size_t i = 0; i < 1200; ++i)
      if (const auto at = static_cast<size_t>(0.5 * eighth * beat * rate) + i; at < frames)
        top[at] *= 1.0 + (eighth % 2 ? 6.0 : 4.0) * std::exp(-static_cast<double>(i) / 300.0);
  const int notes[] = {33, 36, 31, 28};
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / rate, bar = t / (4.0 * beat);
    const double hz = 440.0 * std::exp2((notes[static_cast<size_t>(bar) % 4] - 69) / 12.0);
    const double into = std::fmod(t, 4.0 * beat);
    const double env = std::min({1.0, into / 0.02, (4.0 * beat - into) / 0.02});
    double since = t, start = 1.0;
    if (slowStart > 0.0) {  // notes that start anew with each kick, slowly
      since = t - *std::prev(std::upper_bound(m.hits.begin(), m.hits.end(), t));
      start = std::min(1.0, since / slowStart);
    }
    bass[i] = start * env *
              (0.2 * std::sin(2.0 * M_PI * hz * since) + 0.06 * std::sin(4.0 * M_PI * hz * since + 1.0));
  }
  m.sound = AudioBuffer(rate, 2, frames);
  for (size_t i = 0; i < frames; ++i) {
    const double x =
        (withKick ? kick[i] : 0.0) + (withBass ? bass[i] * amplitudeFromDb(gain[i]) : 0.0) + top[i];
    m.sound.channels[0][i] = m.sound.channels[1][i] = static_cast<float>(x);
  }
  return m;
}

SectionFacts factsOfMix(const Mix& m) {
  return factsOf(*profileSection(m.sound));
}

TEST(SectionFacts, AreThoseThatTheMixWasMadeWith) {
  if (isWatched()) GTEST_SKIP() << "a minute of transforms, which other tests watch as well";
  int told = 0;
  for (const auto& [bpm, hz, ms, dip] :
       {std::tuple{124.0, 49.0, 150.0, 8.0}, {96.0, 55.0, 120.0, 4.0}, {140.0, 65.4, 140.0, 6.0}}) {
    SCOPED_TRACE(bpm);
    const Mix m = mixOf(bpm, hz, ms, dip);
    const SectionFacts f = factsOfMix(m);
    ASSERT_TRUE(f.kick);
    size_t found = 0, wrong = 0;
    for (const double t : f.kick->hits)
      std::any_of(m.hits.begin(), m.hits.end(), [t](double h) { return std::abs(h - t) < 0.01; }) ? ++found
                                                                                                  : ++wrong;
    EXPECT_GE(found, m.hits.size() - 1);
    EXPECT_EQ(wrong, 0u);
    ASSERT_TRUE(f.kickHz);
    EXPECT_NEAR(1200.0 * std::log2(f.kickHz->value / hz), 0.0, 30.0);
    ASSERT_TRUE(f.kickMs);
    EXPECT_NEAR(f.kickMs->value, ms, 30.0);
    ASSERT_TRUE(f.dip);
    EXPECT_NEAR(f.dip->depthDb.value, dip, 1.5);
    if (f.dip->backMs) {
      EXPECT_NEAR(f.dip->backMs->value, m.backMs, 20.0);
      ++told;
    }
    std::set<int> notes;
    for (const NoteInMix& n : f.bassNotes) notes.insert(n.midi);
    EXPECT_EQ(notes, (std::set<int>{28, 31, 33, 36}));
  }
  EXPECT_GE(told, 2) << "times back";
}

// A bass whose notes rise slowly with each kick looks ducked, and nothing in the mix tells them apart.
TEST(SectionFacts, ASlowBassIsNotTakenForADip) {
  if (isWatched()) GTEST_SKIP() << "a minute of transforms, which other tests watch as well";
  const SectionFacts f = factsOfMix(mixOf(124, 49, 150, 0, true, true, 0.08));
  ASSERT_TRUE(f.kick);
  EXPECT_FALSE(f.dip);
}

TEST(SectionFacts, NothingIsClaimedWithoutEvidence) {
  if (isWatched()) GTEST_SKIP() << "a minute of transforms, which other tests watch as well";
  const SectionFacts quiet = factsOf(*profileSection(AudioBuffer(48000, 2, 480000)));
  EXPECT_FALSE(quiet.kick || quiet.lufs || quiet.dip);
  const SectionFacts alone = factsOfMix(mixOf(124, 49, 150, 0, true, false));
  EXPECT_FALSE(alone.kick) << "a held bass is no kick";
  const SectionFacts hiss = factsOf(*profileSection(bufferOf(noise(0.2, 480000, 7), 48000, 2)));
  EXPECT_FALSE(hiss.kick || hiss.kickHz || hiss.dip);
  EXPECT_TRUE(hiss.bassNotes.size() < 12) << "and notes that are only noise are not listed one by one";
  const SectionFacts drums = factsOfMix(mixOf(124, 49, 150, 0, false, true));
  ASSERT_TRUE(drums.kick);
  EXPECT_FALSE(drums.dip) << "no bass, no dip";
  // Shorter than a bar, at a low rate, clipped all along.
  EXPECT_FALSE(factsOf(*profileSection(stretchOf(mixOf(124, 49, 150, 8).sound, 0.0, 1.0))).kick);
  AudioBuffer low(8000, 1, 80000);
  EXPECT_TRUE(profileSection(low));
  AudioBuffer square(48000, 2, 96000);
  for (auto& c : square.channels)
    for (size_t i = 0; i < c.size(); ++i) c[i] = i / 480 % 2 ? 1.0f : -1.0f;
  EXPECT_TRUE(std::isfinite(factsOf(*profileSection(square)).plr.value_or(0.0)));
}

// A track of an intro without lows, a drop and an outro, at a tempo and on a bar that are known.
TEST(TrackProfile, FindsTempoBarsAndWhereTheLowEndIs) {
  if (isWatched()) GTEST_SKIP() << "a minute of transforms, which other tests watch as well";
  for (const double bpm : {112.0, 140.0}) {
    const Mix m = mixOf(bpm, 49, 140, 6);
    const double bar = 240.0 / bpm;
    AudioBuffer track(48000, 2, 0);
    const auto quiet = noise(0.02, static_cast<size_t>(4.0 * bar * 48000.0), 3);
    for (auto& c : track.channels) {
      for (const double v : quiet) c.push_back(static_cast<float>(v));
      c.insert(c.end(), m.sound.channels[0].begin(), m.sound.channels[0].end());
      for (const double v : quiet) c.push_back(static_cast<float>(v));
    }
    const auto profile = profileTrack(track);
    ASSERT_TRUE(profile && profile->grid);
    EXPECT_NEAR(profile->grid->bpm, bpm, 0.05);
    EXPECT_NEAR(std::remainder(profile->grid->firstBeatSeconds, bar), 0.0, 0.02);
    const Stretch most = mostLowEnd(*profile);
    EXPECT_NEAR(most.fromSeconds, 4.0 * bar, 0.05);
    EXPECT_NEAR(most.toSeconds, 12.0 * bar, 0.05);
    const auto stretches = stretchesOf(*profile);
    ASSERT_EQ(stretches.size(), 3u);
    EXPECT_EQ(stretches[0].name + stretches[1].name + stretches[2].name, "introdropoutro");
    EXPECT_NEAR(stretches[1].fromSeconds, 4.0 * bar, 0.15);
    const auto back = unpackedTrack(packed(*profile));
    ASSERT_TRUE(back);
    EXPECT_EQ(back->peak, profile->peak);
    EXPECT_EQ(back->grid->bpm, profile->grid->bpm);
    EXPECT_EQ(back->key, profile->key);
    std::string torn = packed(*profile);
    torn.resize(torn.size() / 2);
    EXPECT_FALSE(unpackedTrack(torn));
  }
  EXPECT_FALSE(profileTrack(AudioBuffer(44100, 2, 441000))->grid);
  EXPECT_FALSE(profileTrack(bufferOf(noise(0.2, 480000, 5), 48000, 2))->grid);
}

// Percentiles by sorting (Hyndman and Fan 1996, type 7), band powers by direct sums of a transform.
TEST(SectionProfile, PercentilesAndWidthByIndependentSums) {
  std::mt19937 random(3);
  std::vector<double> values;
  for (int i = 0; i < 101; ++i) values.push_back(static_cast<double>(random() % 1000));
  auto sorted = values;
  std::sort(sorted.begin(), sorted.end());
  EXPECT_EQ(percentile(values, 0.1), sorted[10]);
  EXPECT_EQ(percentile(values, 0.9), sorted[90]);
  // Left and right tones of known width: 50 Hz in both, 1 kHz left alone.
  const auto low = sine(50, 0.3, 4, 48000), high = sine(1000, 0.3, 4, 48000);
  AudioBuffer wide(48000, 2, low.size());
  for (size_t i = 0; i < low.size(); ++i)
    wide.channels[0][i] = static_cast<float>(low[i] + high[i]),
    wide.channels[1][i] = static_cast<float>(low[i]);
  const auto profile = profileSection(wide);
  for (const auto& band : profile->width.bands) {
    if (std::abs(std::log2(band.hz / 1000.0)) < 0.08) {
      EXPECT_NEAR(band.sideDb(), 0.0, 0.1) << "one channel alone: as much side as mid";
      EXPECT_NEAR(band.lossDb(), -3.01, 0.1) << "half of its power is lost in mono";
    }
    if (std::abs(std::log2(band.hz / 50.0)) < 0.08) EXPECT_LT(band.sideDb(), -60.0);
  }
  ASSERT_TRUE(profile->width.monoBelowHz());
  EXPECT_GT(*profile->width.monoBelowHz(), 50.0);
  EXPECT_LT(*profile->width.monoBelowHz(), 1000.0);
  EXPECT_LT(*profile->width.sideBelowDb(300.0), -40.0);
  EXPECT_NEAR(*profile->width.sideBelowDb(5000.0), 10.0 * std::log10(1.0 / 5.0), 0.2)
      << "of 2 x 0.09 + 0.045 + 0.045";
}

TEST(SectionProfile, ASteadyToneHasNoSpreadAndStandsOnItsNote) {
  const auto profile = profileSection(bufferOf(sine(55, 0.4, 10, 48000), 48000, 2));
  const OverTime& t = profile->overTime;
  ASSERT_FALSE(t.empty());
  for (size_t i = 0; i < t.low.size(); ++i)
    if (profileHz()[i] > 45 && profileHz()[i] < 65) EXPECT_NEAR(t.high[i] - t.low[i], 0.0, 0.3);
  const ByNote& notes = profile->byNote;
  EXPECT_GT(notes.semitoneDb(33), notes.semitoneDb(35) + 30.0);
  const double power = profile->facts.low.bandPower[1];
  EXPECT_NEAR(notes.semitoneDb(33), 10.0 * std::log10(power) - *profile->facts.integratedLufs, 0.1);
}

// A level of -12 dB for a quarter of each beat stands there, whatever bar it is found in.
TEST(BarFold, ShowsWhereTheLowEndIsAndFindsTheBar) {
  const double beat = 0.5, rate = 3000.0;
  LowEndParts low;
  low.rate = rate, low.power = 1.0;
  for (size_t i = 0; i < static_cast<size_t>(16.0 * beat * rate); ++i) {
    const double t = static_cast<double>(i) / rate, into = std::fmod(t, 4.0 * beat);
    low.mid.push_back((into < 0.5 * beat ? 0.25 : 1.0) * std::sin(2.0 * M_PI * 60.0 * t));
  }
  FoldAsk ask;
  ask.secondsPerQuarter = beat;
  const BarFold fold = foldOver(low, ask);
  ASSERT_EQ(fold.size(), kFoldSteps);
  const auto at = [&](double quarters) { return fold[static_cast<size_t>(quarters / 4.0 * kFoldSteps)]; };
  EXPECT_NEAR(at(2.0) - at(0.25), 12.04, 0.4);
  ask.firstBeatSeconds = beat;
  const BarFold later = foldOver(low, ask);
  EXPECT_EQ(quartersApart(later, fold, 4.0), 3);
  const BarFold again = startedLater(later, 3, 4.0);
  for (size_t i = 0; i < fold.size(); i += 7) EXPECT_NEAR(again[i], fold[i], 0.3) << i;
  low.mid.assign(low.mid.size(), 0.0);
  EXPECT_TRUE(foldOver(low, ask).empty());
}

// A limiter that has nothing to take loses nothing; one that must take 6 dB of a low tone loses about 6 dB.
TEST(Ceiling, LosesWhatTheLimiterTakes) {
  const auto sum = bufferOf(sine(60, 0.25, 4, 48000), 48000, 2);
  const double lufs = *measureLoudness(sum)->integratedLufs;
  const auto free = underCeiling(sum, true, {lufs, -1.0, 60.0}, {0.0, 1.0}, 150.0);
  ASSERT_TRUE(free);
  EXPECT_NEAR(free->lostDb, 0.0, 1e-6);
  const auto pressed = underCeiling(sum, true, {lufs + 17.04, -1.0, 60.0}, {0.0, 1.0}, 150.0);
  ASSERT_TRUE(pressed);
  EXPECT_NEAR(pressed->gainDb, 17.04, 1e-6);
  EXPECT_NEAR(pressed->lostDb, -6.0, 0.4) << "5 dB over full scale, under a ceiling of -1 dB";
  EXPECT_NEAR(*pressed->truePeakDbtp, -1.0, 0.1);
  ASSERT_EQ(pressed->hits.size(), 2u);
  for (const CeilingHit& h : pressed->hits) EXPECT_NEAR(h.lostDb, pressed->lostDb, 0.3);
  EXPECT_FALSE(underCeiling(AudioBuffer(48000, 2, 48000), true, {}, {}, 100.0));
}

// Read back by another reader: what comes out is in step with what went in, and lows survive.
TEST(Lossy, KeepsTimeAndLows) {
  if (isWatched()) GTEST_SKIP() << "a minute of transforms, which other tests watch as well";
  AudioBuffer in = bufferOf(sine(55, 0.3, 3, 48000), 48000, 2);
  const auto burst = noise(0.1, 4800, 9);
  for (auto& c : in.channels)
    for (size_t i = 0; i < burst.size(); ++i) c[72000 + i] += static_cast<float>(burst[i]);
  for (const LossyCodec codec : {LossyCodec::Mp3, LossyCodec::Vorbis, LossyCodec::Opus}) {
    if (!canEncode(codec)) continue;
    SCOPED_TRACE(lossyName(codec));
    const auto run = throughCodec(in, {codec, 128.0});
    ASSERT_TRUE(run) << run.error().sentence();
    EXPECT_EQ(run->sound.frames(), in.frames());
    EXPECT_EQ(run->sound.sampleRate, in.sampleRate);
    if (codec == LossyCodec::Mp3) EXPECT_NEAR(run->kbps, 128.0, 4.0);
    double product = 0.0, a = 0.0, b = 0.0;
    for (size_t i = 10000; i < 130000; ++i)
      product += in.channels[0][i] * run->sound.channels[0][i], a += std::pow(in.channels[0][i], 2),
          b += std::pow(run->sound.channels[0][i], 2);
    EXPECT_GT(product / std::sqrt(a * b), 0.98) << "in step";
    EXPECT_NEAR(10.0 * std::log10(b / a), 0.0, 0.6) << "LAME lowers what it codes at low rates by 0.45 dB";
  }
  const auto loop = bufferOf(sine(60, 0.5, 2, 48000), 48000, 2);
  const auto coded = codedFacts(loop, {LossyCodec::Vorbis, 128.0});
  ASSERT_TRUE(coded) << coded.error().sentence();
  EXPECT_NEAR(coded->lowsDb, 0.0, 0.3);
  EXPECT_NEAR(coded->truePeakDbtp, -6.02, 0.4);
  EXPECT_NEAR(coded->peakRiseDb, coded->truePeakDbtp + 6.02, 0.1);
  EXPECT_FALSE(codedFacts(AudioBuffer(48000, 2, 48000), {})) << "silence has no lows";
  EXPECT_FALSE(parseLossy("mp3:1000"));
  EXPECT_FALSE(parseLossy("flac:128"));
  EXPECT_EQ(parseLossy("opus:96")->kbps, 96.0);
}

// What another reader makes of a coded file: libmad and libvorbisfile through sox, opusfile through opusdec.
AudioBuffer readByAnother(const LossyRun& run, LossyCodec codec, const TemporaryFolder& folder) {
  const std::string in = folder / (codec == LossyCodec::Mp3 ? "coded.mp3" : "coded.ogg"),
                    out = folder / "read.wav";
  std::ofstream(in, std::ios::binary) << run.bytes;
  const std::string command = codec == LossyCodec::Opus ? "opusdec --quiet --float " + in + " " + out
                                                        : "sox " + in + " -e float -b 32 " + out;
  EXPECT_EQ(std::system((command + " 2>/dev/null").c_str()), 0) << command;
  const auto read = loadSound(out);
  return read ? *read->sound : AudioBuffer();
}

TEST(Lossy, AnotherReaderHearsTheSame) {
  if (isWatched()) GTEST_SKIP() << "other programs' work, which other tests watch as well";
  const TemporaryFolder folder;
  auto x = sine(49, 0.3, 3, 48000);
  const auto burst = noise(0.1, 4800, 9);
  for (size_t i = 0; i < burst.size(); ++i) x[72000 + i] += burst[i];
  const AudioBuffer in = bufferOf(x, 48000, 2);
  for (const LossyCodec codec : {LossyCodec::Mp3, LossyCodec::Vorbis, LossyCodec::Opus}) {
    SCOPED_TRACE(lossyName(codec));
    ASSERT_TRUE(canEncode(codec));
    const auto run = throughCodec(in, {codec, 96.0});
    ASSERT_TRUE(run);
    const AudioBuffer read = readByAnother(*run, codec, folder);
    ASSERT_EQ(read.channelCount(), 2u);
    const auto& ours = run->sound.channels[0];
    const auto& theirs = read.channels[0];
    auto offDb = [&](size_t delay, size_t from, size_t to) {
      double off = 0.0, all = 0.0;
      for (size_t i = from; i < to; ++i)
        off += std::pow(ours[i] - theirs[i + delay], 2), all += std::pow(ours[i], 2);
      return 10.0 * std::log10(off / all + 1e-30);
    };
    // Another reader may keep the encoder's delay: found by the burst.
    size_t delay = 0;
    for (size_t d = 0; d < 3000; ++d)
      if (offDb(d, 72000, 74000) < offDb(delay, 72000, 74000)) delay = d;
    EXPECT_LT(offDb(delay, 20000, 120000), -60.0) << "dB";
  }
}

// The contours themselves are checked by their table where they are made; here, the change between two of them.
TEST(ListeningPlaces, QuietListeningFollowsTheContours) {
  for (const double quiet : {50.0, 60.0, 70.0}) {
    double worst = 0.0;
    const auto filters = quietFilters(80.0, quiet, 48000.0);
    for (double hz = 25.0; hz < 8000.0; hz *= 1.1) {
      double db = 0.0;
      for (const auto& f : filters) db += Biquad::responseDb(f, 48000.0, hz);
      worst = std::max(worst, std::abs(db - quietDb(hz, 80.0, quiet)));
    }
    EXPECT_LT(worst, 1.1) << quiet;
    EXPECT_LT(quietDb(50, 80.0, quiet), -3.0) << "quieter, the lows go first";
    EXPECT_NEAR(quietDb(1000, 80.0, quiet), 0.0, 0.05);
  }
  for (const Place place : kAllPlaces) {
    double db = 0.0;
    for (const auto& f : placeFilters(place, 48000.0)) db += Biquad::responseDb(f, 48000.0, 120.0);
    EXPECT_NEAR(db, placeDb(place, 120.0), 0.2) << placeWord(place);
  }
  EXPECT_LT(placeDb(Place::Laptop, 100.0), -20.0);
  EXPECT_GT(placeDb(Place::Car, 40.0), 5.0);
}

}  // namespace
}  // namespace heft
