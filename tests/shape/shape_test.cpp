// Processors against closed forms, published curves and direct sums.

#include "core/measure/levels/loudness.h"
#include "core/shape/body.h"
#include "core/shape/drive.h"
#include "core/shape/dynamics.h"
#include "core/shape/eq.h"
#include "core/shape/strike_sustain.h"
#include "core/sound/convolve.h"
#include "core/sound/fft.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Magnitude of a response at a frequency by a direct sum over the impulse response.
double measuredDb(AudioBuffer impulse, double hz) {
  std::complex<double> sum = 0.0;
  for (size_t i = 0; i < impulse.frames(); ++i)
    sum += static_cast<double>(impulse.channels[0][i]) *
           std::polar(1.0, -kTwoPi * hz * static_cast<double>(i) / impulse.sampleRate);
  return 20 * std::log10(std::abs(sum));
}

double eqDb(const Eq& eq, double hz, double rate = 48000) {
  AudioBuffer impulse(rate, 1, 96000);
  impulse.channels[0][0] = 1.0f;
  applyEq(impulse, eq);
  return measuredDb(impulse, hz);
}

// Cookbook prototypes H(s) (Audio EQ Cookbook, W3C note), s = j tan(w / 2) / tan(w0 / 2) by the bilinear
// transform.
double prototypeDb(const EqBand& b, double hz, double rate) {
  const double pi = std::numbers::pi;
  const std::complex<double> s(0.0, std::tan(pi * hz / rate) / std::tan(pi * b.hz / rate));
  const double a = std::pow(10.0, b.gainDb / 40.0), q = b.q;
  std::complex<double> h;
  if (b.kind == EqBand::Kind::Bell) h = (s * s + s * (a / q) + 1.0) / (s * s + s / (a * q) + 1.0);
  if (b.kind == EqBand::Kind::LowShelf)
    h = a * (s * s + std::sqrt(a) / q * s + a) / (a * s * s + std::sqrt(a) / q * s + 1.0);
  if (b.kind == EqBand::Kind::HighShelf)
    h = a * (a * s * s + std::sqrt(a) / q * s + 1.0) / (s * s + std::sqrt(a) / q * s + a);
  if (b.kind == EqBand::Kind::Notch) h = (s * s + 1.0) / (s * s + s / q + 1.0);
  return 20 * std::log10(std::abs(h));
}

TEST(Equaliser, BandsFollowTheCookbooksClosedForms) {
  for (double rate : {44100.0, 48000.0, 96000.0})
    for (auto kind : {EqBand::Kind::Bell, EqBand::Kind::LowShelf, EqBand::Kind::HighShelf, EqBand::Kind::Notch})
      for (double f0 : {40.0, 320.0, 7000.0}) {
        Eq eq;
        eq.bands[2] = {true, kind, f0, -7.5, 1.4};
        for (double hz : {25.0, 55.0, 300.0, 1000.0, 7700.0})
          EXPECT_NEAR(eqDb(eq, hz, rate), prototypeDb(eq.bands[2], hz, rate), 0.02)
              << nameOf(kind) << " at " << f0 << ", heard at " << hz << ", " << rate;
      }
}

TEST(Equaliser, CutsAreButterworthAtTheirSlope) {
  for (int slope : {12, 24, 36, 48}) {
    const double order = slope / 6.0;
    Eq low, high;
    low.lowCut = {true, 100.0, slope};
    high.highCut = {true, 1000.0, slope};
    // |H|^2 = 1 / (1 + (f / f0)^2n) (Butterworth 1930), frequencies warped by the bilinear transform.
    auto warped = [](double hz) { return std::tan(std::numbers::pi * hz / 48000.0); };
    for (double hz : {60.0, 100.0, 141.0, 700.0, 1000.0, 1900.0}) {
      EXPECT_NEAR(eqDb(low, hz), -10 * std::log10(1 + std::pow(warped(100) / warped(hz), 2 * order)), 0.03)
          << slope << " " << hz;
      EXPECT_NEAR(eqDb(high, hz), -10 * std::log10(1 + std::pow(warped(hz) / warped(1000), 2 * order)), 0.03)
          << slope << " " << hz;
    }
  }
  Eq out;
  out.on = false;
  out.lowCut.on = true;
  EXPECT_FALSE(out.works());
  EXPECT_NEAR(eqDb(out, 20.0), 0.0, 1e-6);
}

// What is neither a partial of the tone nor under its band, re the tone: aliases.
double worstAliasDb(DriveKind kind, double driveDb, double rate) {
  // 2 kHz to the nearest whole turn of an odd length: aliases then fall between the partials.
  const size_t n = 30011;
  const double turns = std::round(2000.0 * static_cast<double>(n) / rate);
  AudioBuffer sound(rate, 1, 3 * n);
  for (size_t i = 0; i < 3 * n; ++i)
    sound.channels[0][i] =
        static_cast<float>(std::sin(kTwoPi * turns * static_cast<double>(i) / static_cast<double>(n)));
  applyDrive(sound, {true, kind, 0.0, driveDb, 1.0});
  RealFft fft(n);
  for (size_t i = 0; i < n; ++i) fft.time()[i] = sound.channels[0][n + i];
  fft.forward();
  const auto base = static_cast<size_t>(turns);
  double worst = 0.0;
  for (size_t k = 3; k < fft.bins().size(); ++k)
    if (k % base != 0) worst = std::max(worst, std::abs(fft.bins()[k]));
  return 20 * std::log10(worst / std::abs(fft.bins()[base]));
}

TEST(Drives, KeepAliasesEightyDecibelsUnderATwoKilohertzTone) {
  for (DriveKind kind : kAllDrives)
    if (kind != DriveKind::Rate)
      for (double driveDb : sweep({6.0, 18.0, 30.0}))
        for (double rate : {44100.0, 48000.0})
          EXPECT_LT(worstAliasDb(kind, driveDb, rate), -80.0) << nameOf(kind) << " " << driveDb << " " << rate;
}

TEST(Drives, BendALowToneAsTheirCurveSays) {
  // Slow enough that sixteen times the rate makes no difference: sample by sample the curve itself.
  const auto tone = bufferOf(sine(60.0, 1.0, 0.5, 48000.0), 48000.0);
  for (DriveKind kind : kAllDrives) {
    if (kind == DriveKind::Rate) continue;
    for (double driveDb : {0.0, 12.0, 24.0}) {
      AudioBuffer bent = tone;
      applyDrive(bent, {true, kind, 0.0, driveDb, 1.0});
      double worst = 0.0, offset = 0.0;
      for (size_t i = 12000; i < 12800; ++i)
        offset += (bent.channels[0][i] - driveCurve(kind, driveDb, tone.channels[0][i])) / 800;
      for (size_t i = 12000; i < 12800; ++i)
        worst = std::max(
            worst, std::abs(bent.channels[0][i] - offset - driveCurve(kind, driveDb, tone.channels[0][i])));
      // A pole at 5 Hz removes the offset of asymmetric curves; it shifts 60 Hz by 5 degrees.
      if (kind != DriveKind::Warm && kind != DriveKind::Rise) {
        EXPECT_LT(worst, 0.005) << nameOf(kind) << " " << driveDb;
      } else {
        double mean = 0.0;
        for (size_t i = 20000; i < 20800; ++i) mean += bent.channels[0][i] / 800;
        EXPECT_LT(std::abs(mean), 0.01) << nameOf(kind);
      }
    }
    EXPECT_NEAR(driveCurve(kind, 15.0, 0.0), 0.0, 1e-12);
    if (kind != DriveKind::Fold) EXPECT_NEAR(driveCurve(kind, 15.0, 1.0), 1.0, 1e-9) << nameOf(kind);
    EXPECT_EQ(*parseDrive(nameOf(kind)), kind);
  }
  AudioBuffer dry = tone;
  applyDrive(dry, {true, DriveKind::Hard, 6.0, 20.0, 0.0});
  EXPECT_NEAR(dry.channels[0][100] / tone.channels[0][100], 1.9953, 1e-3) << "input gain is the drive's own";
  AudioBuffer held = tone;
  applyDrive(held, {true, DriveKind::Rate, 0.0, 10.0, 1.0});
  for (size_t i = 0; i < 400; ++i)
    ASSERT_EQ(held.channels[0][i], tone.channels[0][i - i % 4]) << "every fourth sample is held";
}

TEST(Bodies, ConvolutionIsTheDirectSum) {
  const auto x = noise(0.3, 700, 3), h = noise(0.3, 333, 4);
  const std::vector<float> xf(x.begin(), x.end()), hf(h.begin(), h.end());
  const auto y = convolved(xf, hf);
  ASSERT_EQ(y.size(), x.size() + h.size() - 1);
  for (size_t i = 0; i < y.size(); ++i) {
    double sum = 0.0;
    for (size_t k = 0; k < hf.size(); ++k)
      if (i >= k && i - k < xf.size()) sum += static_cast<double>(hf[k]) * xf[i - k];
    ASSERT_NEAR(y[i], sum, 1e-5);
  }
}

TEST(Bodies, ResponseDecaysIsDampedAndRoomLeavesTheBottomMono) {
  const double rate = 48000.0;
  const auto source = bufferOf(noise(0.2, 48000, 9), rate, 2);
  const auto response = bodyResponse(source, {0.25, 100.0, 1500.0});
  EXPECT_NEAR(energyOf(std::span<const float>(response)), 1.0, 1e-4);
  EXPECT_NEAR(static_cast<double>(response.size()), 0.1 * rate, 2.0);
  const std::vector<double> r(response.begin(), response.end());
  EXPECT_GT(directBandPower(r, rate, 200, 1000) / 800, 50 * directBandPower(r, rate, 10000, 10800) / 800);
  AudioBuffer kick = bufferOf(sine(55.0, 0.5, 0.3, rate), rate);
  const auto dry = kick.channels[0];
  applyBody(kick, response, 0.5);
  EXPECT_EQ(kick.frames(), dry.size() + response.size() - 1);
  double sum = 0.0;
  for (size_t k = 0; k <= 3000; ++k) sum += static_cast<double>(response[k]) * dry[3000 - k];
  EXPECT_NEAR(kick.channels[0][3000], dry[3000] + 0.5 * sum, 1e-4);

  AudioBuffer top = bufferOf(noise(0.2, 4800, 8), rate);
  applyRoom(top, {true, 0.5, 80.0, 6000.0});
  ASSERT_EQ(top.channelCount(), 2u);
  std::vector<double> side, mid;
  for (size_t i = 0; i < top.frames(); ++i) {
    side.push_back(top.channels[0][i] - top.channels[1][i]);
    mid.push_back(top.channels[0][i] + top.channels[1][i]);
  }
  EXPECT_LT(directBandPower(side, rate, 20, 100), 0.001 * directBandPower(mid, rate, 20, 100)) << "mono below";
  EXPECT_GT(directBandPower(side, rate, 1000, 2000), 0.01 * directBandPower(mid, rate, 1000, 2000))
      << "wide above";
}

// Giannoulis, Massberg, Reiss, JAES 60(6), 2012, equation 4, written out anew with its three cases.
double paperCurve(double x, double threshold, double ratio, double knee) {
  if (2 * (x - threshold) < -knee) return x;
  if (2 * std::abs(x - threshold) <= knee)
    return x + (1 / ratio - 1) * std::pow(x - threshold + knee / 2, 2) / (2 * knee);
  return threshold + (x - threshold) / ratio;
}

TEST(Dynamics, CompressorFollowsTheStaticCurveAndItsTimes) {
  const Compressor c{true, -20.0, 4.0, 8.0, 10.0, 80.0, 0.0};
  for (double x = -60; x <= 0; x += 0.5) EXPECT_NEAR(compressedDb(c, x), paperCurve(x, -20, 4, 8), 1e-9);
  // A step of level: after one attack the reduction has gone 1 - 1/e of its way, after one release the same
  // back.
  const double rate = 48000.0;
  std::vector<double> level(48000, -100.0);
  std::fill(level.begin() + 4800, level.begin() + 24000, 0.0);
  const auto gain = compressorGainDb(c, level, rate);
  const double full = compressedDb(c, 0.0), e = 1.0 - std::exp(-1.0);
  EXPECT_NEAR(gain[4800 + 480 - 1], full * e, 0.02);
  EXPECT_NEAR(gain[23999], full, 0.01);
  EXPECT_NEAR(gain[24000 + 3840 - 1], full * (1 - e), 0.02);
  AudioBuffer loud = bufferOf(sine(1000.0, 1.0, 0.5, rate), rate, 2);
  applyCompressor(loud, {true, -20.0, 100.0, 0.0, 0.0, 5000.0, 6.0});
  EXPECT_NEAR(dbFromAmplitude(peakOf(loud)), -14.0 + 0.2, 0.25) << "100:1 with 6 dB made up";
}

TEST(Dynamics, LimiterHoldsTheCeilingAndLeavesTheRestAlone) {
  const double rate = 48000.0;
  AudioBuffer x = bufferOf(noise(0.1, 48000, 12), rate, 2);
  x.channels[0][0] = 1.4f, x.channels[1][20000] = -3.0f, x.channels[0][47999] = 2.0f;
  AudioBuffer y = x;
  applyLimiter(y, {true, -6.0, 20.0});
  EXPECT_LE(peakOf(y), amplitudeFromDb(-6.0) + 1e-7);
  EXPECT_NEAR(y.channels[1][20000], -amplitudeFromDb(-6.0), 1e-4) << "and no lower than it must";
  for (size_t i = 15000; i < 19000; ++i) ASSERT_NEAR(y.channels[0][i], x.channels[0][i], 2e-3);
  double step = 0.0;
  for (size_t i = 19500; i < 22000; ++i)
    if (std::abs(x.channels[0][i]) > 0.02 && std::abs(x.channels[0][i + 1]) > 0.02)
      step = std::max<double>(
          step, std::abs(y.channels[0][i + 1] / x.channels[0][i + 1] - y.channels[0][i] / x.channels[0][i]));
  EXPECT_LT(step, 0.02) << "the gain moves smoothly";
  const SoftClip clip{true, 6.0, -1.0};
  EXPECT_EQ(softClipCurve(clip, 0.3), 0.3);
  EXPECT_LT(softClipCurve(clip, 50.0), amplitudeFromDb(-1.0) + 1e-9);
  EXPECT_EQ(softClipCurve(clip, -0.8), -softClipCurve(clip, 0.8));
  AudioBuffer soft = bufferOf(sine(60.0, 1.0, 0.2, rate), rate);
  applySoftClip(soft, clip);
  EXPECT_NEAR(soft.channels[0][3200 + 200], softClipCurve(clip, 1.0), 1e-3) << "at the tone's peak";
}

// What strikes at once, what is worst between its samples (a quarter of the rate, an eighth of a turn off
// them), noise to the top, in two channels: the true peak of BS.1770 as libebur128 has it lies within 0.1 dB of
// the ceiling, from the first sample on, and what was under it stays to the bit.
TEST(Dynamics, LimiterAndSoftClipHoldTruePeak) {
  for (const double rate : reference::sweep({48000, 44100, 96000})) {
    KickRecipe recipe;
    recipe.sampleRate = rate, recipe.clickDb = 0.0;
    std::vector<std::vector<double>> sounds = {
        makeKick(recipe), sine(rate / 4, 1.0, 0.3, rate, std::numbers::pi / 4),
        noise(0.5, static_cast<size_t>(0.3 * rate), 5), std::vector<double>(4800, 0.0)};
    sounds[3][0] = 1.0, sounds[3][1] = -1.0, sounds[3][900] = 0.9, sounds[3][901] = 0.9;
    for (size_t i = 0; i < sounds.size(); ++i)
      for (const double ceilingDb : {-1.0, -9.0}) {
        AudioBuffer in = bufferOf(sounds[i], rate, 2);
        for (float& x : in.channels[0]) x *= 2.0f;
        AudioBuffer limitedSound = in, clippedSound = in, quiet = in;
        applyLimiter(limitedSound, {.on = true, .ceilingDb = ceilingDb});
        applySoftClip(clippedSound, {.on = true, .ceilingDb = ceilingDb});
        EXPECT_LE(dbFromAmplitude(*truePeakOf(limitedSound)), ceilingDb + 0.1)
            << "limiter, sound " << i << ", " << rate;
        EXPECT_LE(dbFromAmplitude(*truePeakOf(clippedSound)), ceilingDb + 0.1)
            << "soft clip, sound " << i << ", " << rate;
        EXPECT_GT(dbFromAmplitude(*truePeakOf(limitedSound)), ceilingDb - 1.5)
            << "limiter, sound " << i << ", " << rate;
        for (auto& channel : quiet.channels)
          for (float& x : channel) x *= 0.02f;
        AudioBuffer untouched = quiet;
        applyLimiter(untouched, {.on = true, .ceilingDb = ceilingDb});
        EXPECT_EQ(untouched.channels, quiet.channels);
      }
  }
}

// A strike at the first sample is lowered whole, as if the gain had been down before it, and not cut flat.
TEST(Dynamics, ALimiterIsDownAlreadyWhereASoundBegins) {
  AudioBuffer in = bufferOf(sine(400, 1.0, 0.1, 48000, std::numbers::pi / 2), 48000), out = in;
  applyLimiter(out, {.on = true, .ceilingDb = -6.0, .releaseMs = 2000.0});
  // Its edge overshoots between samples, so the gain is a little lower than the samples need.
  const float gain = out.channels[0][0] / in.channels[0][0];
  EXPECT_LT(gain, std::pow(10, -6.0 / 20) + 1e-3);
  EXPECT_GT(gain, 0.8 * std::pow(10, -6.0 / 20));
  for (size_t i = 0; i < 480; ++i) EXPECT_NEAR(out.channels[0][i], in.channels[0][i] * gain, 0.003) << i;
}

TEST(Dynamics, AStereoSoundKeepsItsBalanceUnderCompressorAndLimiter) {
  AudioBuffer x(48000, 2, 9600);
  for (size_t i = 0; i < 9600; ++i) {
    const auto v = static_cast<float>(std::sin(kTwoPi * 200 * static_cast<double>(i) / 48000));
    x.channels[0][i] = 0.9f * v, x.channels[1][i] = 0.3f * v;
  }
  AudioBuffer y = x, z = x;
  applyCompressor(y, {true, -30, 8, 6, 1, 50, 3});
  applyLimiter(z, {true, -12, 30});
  for (size_t i = 100; i < 9600; ++i)
    if (std::abs(x.channels[1][i]) > 0.01f) {
      ASSERT_NEAR(y.channels[0][i] / y.channels[1][i], 3.0, 1e-3) << "one gain for both";
      ASSERT_NEAR(z.channels[0][i] / z.channels[1][i], 3.0, 1e-3);
    }
}

TEST(Dynamics, StrikeAndSustainMoveByTheirDecibels) {
  AudioBuffer x(48000, 1, 9600);
  std::fill(x.channels[0].begin(), x.channels[0].end(), 0.1f);
  applyStrikeSustain(x, {true, 6.0, -12.0, 20.0}, 0.05);
  EXPECT_NEAR(x.channels[0][2400 + 400], 0.1 * std::pow(10, 6 / 20.0), 1e-5) << "8 ms after the onset";
  EXPECT_NEAR(x.channels[0][2400 + 1500], 0.1 * std::pow(10, -12 / 20.0), 1e-5) << "31 ms after it";
  for (size_t i = 1; i < 9600; ++i) ASSERT_LT(std::abs(x.channels[0][i] - x.channels[0][i - 1]), 5e-4f);
}

}  // namespace
}  // namespace heft
