// The player, the devices and the worker: to the bit, without clicks, without touching the heap in the
// callback.

#include <gtest/gtest.h>

#include <atomic>
#include <condition_variable>
#include <random>
#include <thread>

#include "core/sound/filter.h"
#include "engine/devices/device.h"
#include "engine/worker/worker.h"
#include "tests/reference/player_hands.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

// Loudest moment above 200 Hz, in dB: what a click leaves. The sounds themselves are silent there in these
// tests.
double clickDb(const std::vector<double>& x) {
  auto y = x;
  for (int pass = 0; pass < 2; ++pass) {
    Biquad high(Biquad::highPass(48000, 400, 0.707));
    for (double& v : y) v = high.process(v);
  }
  double peak = 1e-9;
  for (size_t i = 2000; i < y.size(); ++i) peak = std::max(peak, std::abs(y[i]));
  return 20 * std::log10(peak);
}

TEST(Player, PlaysWhatWasRenderedSampleForSampleRoundAndRound) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.duck().on = true;
  const auto r = renderedOf(s);
  for (size_t block : {64u, 256u, 1000u}) {
    Player player;
    player.setSnapshot(r.snapshot);
    player.play();
    const auto out = played(player, 2 * r.after.frames + 5000, block);
    for (size_t i = 0; i < out.size() / 2; ++i)
      for (size_t c = 0; c < 2; ++c) ASSERT_EQ(out[2 * i + c], r.after.sum.at(c, i % r.after.frames)) << i;
  }
}

TEST(Player, CountsInWithAClickOnEveryQuarterAndThenPlays) {
  const auto r = renderedOf(theDemo().session);
  const double perQuarter = r.snapshot->framesPerQuarter;
  Player player;
  player.setSnapshot(r.snapshot);
  player.process(std::vector<float>(128).data(), 64);
  player.play(4.0);
  const auto lead = static_cast<size_t>(std::llround(4.0 * perQuarter));
  const auto out = played(player, lead + 20000, 250);
  for (int q = 0; q < 4; ++q) {
    const auto at = static_cast<size_t>(q * perQuarter);
    float click = 0, rest = 0;
    for (size_t i = at; i < at + 400; ++i) click = std::max(click, std::abs(out[2 * i]));
    for (size_t i = at + 9600; i < at + 10000; ++i) rest = std::max(rest, std::abs(out[2 * i]));
    EXPECT_GT(click, 0.15f) << q;
    EXPECT_LT(rest, 1e-4f) << q;
  }
  for (size_t i = 0; i < 19000; ++i) ASSERT_EQ(out[2 * (lead + i)], r.after.sum.at(0, i)) << i;
}

// The click continues over the loop if wanted, on every quarter, at its own level; the sound beneath is the
// same.
TEST(Player, TheClickGoesOnThroughTheLoop) {
  const auto r = renderedOf(theDemo().session);
  Player player;
  player.setSnapshot(r.snapshot);
  player.setClick(0.5f, true);
  player.play();
  const auto with = played(player, 60000, 250);
  const double perQuarter = r.snapshot->framesPerQuarter;
  for (size_t i = 0; i < 60000; ++i) {
    const double since = std::fmod(static_cast<double>(i) + 0.5, perQuarter) - 0.5;
    const double click =
        0.5 * std::sin(2 * 3.14159265358979 * 1500 * since / 48000) * std::exp(-since / 48000 / 0.012);
    ASSERT_NEAR(with[2 * i] - r.after.sum.at(0, i), click, 0.05) << i;
  }
}

// Against the peak of the same sound at 64 times the rate, by an independent way: what is heard is quieter by
// the output's gain, what is measured is not.
TEST(Player, MeasuresWhatItPlaysBetweenSamplesToo) {
  Player player;
  // A quarter of the rate, an eighth of a turn off its samples: they reach 3 dB less than the wave (ITU-R
  // BS.1770-4).
  const auto x = sine(12000, 0.9, 1.0, 48000, 3.14159265358979 / 4);
  player.setOutputGain(0.25f);
  player.process(std::vector<float>(8192).data(), 4096);
  player.takePeak();
  player.playLive(std::make_shared<const AudioBuffer>(bufferOf(x, 48000)), 1.0f);
  const auto out = played(player, 9600, 256);
  EXPECT_NEAR(player.takePeak(), 0.9, 0.03);
  EXPECT_EQ(player.takePeak(), 0.0f) << "asked again there is nothing new";
  float most = 0;
  for (const float v : out) most = std::max(most, std::abs(v));
  EXPECT_NEAR(most, 0.25 * 0.9 / std::sqrt(2.0), 0.002);
  const auto low = sine(100, 0.5, 1.0, 48000);
  player.playLive(std::make_shared<const AudioBuffer>(bufferOf(low, 48000)), 1.0f);
  played(player, 4800, 256);
  player.takePeak();
  played(player, 9600, 256);
  EXPECT_NEAR(player.takePeak(), 0.5, 0.002);
}

TEST(Player, ALiveNoteSoundsAtOnceOneAtATimeAndFadesWhenLetGo) {
  Player player;
  auto tone = std::make_shared<const AudioBuffer>(bufferOf(sine(110, 0.5, 2.0, 48000), 48000));
  player.playLive(tone, 0.5f);
  auto out = played(player, 4800, 64);
  for (size_t i = 0; i < 4800; ++i) ASSERT_EQ(out[2 * i + 1], 0.5f * tone->channels[0][i]);
  const double clicksBefore = clickDb(leftOf(out));
  player.playLive(std::make_shared<const AudioBuffer>(bufferOf(sine(110, 0.5, 2.0, 48000), 48000)), 0.5f);
  out = played(player, 9600, 64);
  float most = 0;
  for (size_t i = 2000; i < 9600; ++i) most = std::max(most, std::abs(out[2 * i]));
  EXPECT_LE(most, 0.2501f) << "the note before is gone";
  player.releaseLive();
  out = played(player, 4800, 64);
  EXPECT_LT(clickDb(leftOf(out)), std::max(-30.0, clicksBefore + 20));
  for (size_t i = 1200; i < 4800; ++i) ASSERT_EQ(out[2 * i], 0.0f);
}

TEST(Player, NeverTouchesTheHeapInTheCallback) {
  if (isWatched()) GTEST_SKIP() << "sanitizers keep their own books of the heap";
  const auto a = renderedOf(theDemo().session);
  Session other = theDemo().session;
  other.kick().hits.pop_back();
  const auto b = renderedOf(other);
  Player player;
  std::vector<float> out(2 * 256);
  player.setSnapshot(a.snapshot);
  player.play(1.0);
  auto tone = std::make_shared<const AudioBuffer>(bufferOf(sine(110, 0.5, 0.3, 48000), 48000));
  long calls = 0;
  for (int i = 0; i < 400; ++i) {
    if (i % 50 == 10) player.setSnapshot(i % 100 == 10 ? b.snapshot : a.snapshot);
    if (i % 50 == 20) player.setListen({static_cast<ListenKind>(i / 50 % 9)});
    if (i % 50 == 30) player.setBefore(i % 100 == 30);
    if (i % 50 == 40) player.setSilenced(i % 100 == 40 ? SilencedLanes{} : SilencedLanes{1});
    if (i % 25 == 3) player.playLive(tone, 0.5f);
    if (i % 25 == 20) player.releaseLive();
    const long before = heapCalls();
    player.process(out.data(), 256);
    calls += heapCalls() - before;
  }
  EXPECT_EQ(calls, 0);
}

// One thread sends orders, another plays, as in the window; under the thread sanitizer too.
TEST(Player, OrdersFromAnotherThreadLeaveTheSoundWhole) {
  const auto low = toneSnapshot(0.25, 0), high = toneSnapshot(0.5, 1);
  Player player;
  player.setSnapshot(low);
  std::atomic<bool> over{false};
  std::atomic<int> turns{0};
  float most = 0.0f;
  std::thread device([&] {
    std::vector<float> out(2 * 64);
    for (; !over; ++turns, std::this_thread::yield()) {
      player.process(out.data(), 64);
      for (float v : out) most = std::isfinite(v) ? std::max(most, std::abs(v)) : 1e9f;
    }
  });
  const auto note = std::make_shared<const AudioBuffer>(bufferOf(sine(110, 0.25, 0.1, 48000), 48000));
  std::mt19937 random(5);
  // However little time a busy machine gives the other thread.
  for (int n = 0; n < 60000 || turns < 3000; ++n) {
    switch (random() % 8) {
      case 0:
      case 1:
        player.setSnapshot(random() % 2 ? low : high);
        break;
      case 2:
        random() % 4 ? player.play() : player.stop();
        break;
      case 3:
        player.setBefore(random() % 2);
        break;
      case 4:
        player.setSilenced(random() % 2 ? SilencedLanes{} : SilencedLanes{1});
        break;
      case 5:
        player.setListen({static_cast<ListenKind>(random() % 3)});
        break;
      case 6:
        random() % 2 ? player.playLive(note, 1.0f) : player.releaseLive();
        break;
      default:
        player.collect();
    }
    if (n % 10 == 0) std::this_thread::yield();
  }
  over = true;
  device.join();
  EXPECT_GT(most, 0.1f);
  EXPECT_LE(most, 1.26f) << "the louder loop, with a note and the count-in's click at the most";
}

// A polarity flip at 55 Hz over 20 ms leaves less than -36 dB above the lows; a hard switch leaves over -15 dB.
TEST(Player, ChangesFadeWithoutAClick) {
  auto tried = [](auto change) {
    Player player;
    player.setSnapshot(toneSnapshot(0.5, 0));
    player.play();
    auto out = played(player, 9700);
    change(player);
    const auto more = played(player, 9600);
    out.insert(out.end(), more.begin(), more.end());
    return clickDb(leftOf(out));
  };
  EXPECT_LT(tried([](Player& p) { p.setSnapshot(toneSnapshot(0.5, std::numbers::pi)); }), -36);
  EXPECT_LT(tried([](Player& p) { p.setSilenced(false ? SilencedLanes{} : SilencedLanes{1}); }), -36);
  EXPECT_LT(tried([](Player& p) { p.stop(); }), -36);
  EXPECT_LT(tried([](Player& p) { p.setListen({ListenKind::Mono}); }), -50);
}

TEST(Player, ASwapKeepsTheMusicalPositionAcrossATempoEdit) {
  Session slow = theDemo().session, fast = slow;
  fast.track.tempoBpm = 183;
  const auto a = renderedOf(slow), b = renderedOf(fast);
  Player player;
  player.setSnapshot(a.snapshot);
  player.play();
  played(player, 100000);
  const double before = player.positionQuarters();
  player.setSnapshot(b.snapshot);
  played(player, 1000);
  EXPECT_NEAR(player.positionQuarters(), before + 1000 / slow.track.framesPerQuarter(), 0.05);
  EXPECT_GT(player.positionQuarters(), before);
}

// Fixes of a loop that has since been made longer play as Before for a moment: nothing is read beyond their
// end.
TEST(Player, ABeforeOfAnotherLengthIsTheLoopAsItIs) {
  const Session now = theDemo().session;
  Session shorter = now, faster = now;
  shorter.track.loopBeats = 3;
  faster.track.tempoBpm = 171.0;
  StepCache cache;
  const Stems after = *render(now, theDemo().assets, cache);
  for (const Session& other : {shorter, faster}) {
    const Stems before = *render(other, theDemo().assets, cache);
    ASSERT_LT(before.frames, after.frames);
    for (const double rate : {48000.0, 44100.0}) {
      const auto snapshot = reference::snapshotOf(after, before, now.track.framesPerQuarter(), rate, cache);
      for (size_t i = 0; i < snapshot->lanes; ++i)
        EXPECT_EQ(snapshot->before[i]->frames(), snapshot->frames) << "lane " << i;
      std::vector<float> heard[2];
      for (const bool isBefore : {false, true}) {
        Player player(rate);
        player.setSnapshot(snapshot);
        player.setBefore(isBefore);
        player.play();
        heard[isBefore] = played(player, snapshot->frames);
      }
      EXPECT_EQ(heard[0], heard[1]);
    }
  }
}

TEST(Player, TheNewestOfManySnapshotsWins) {
  Player player;
  for (int i = 0; i < 100; ++i) player.setSnapshot(toneSnapshot(0.01 * i, 0));
  player.play();
  const auto out = leftOf(played(player, 48000));
  EXPECT_NEAR(*std::max_element(out.begin(), out.end()), 0.99, 0.001);
}

TEST(Player, BeforeIsAsLoudAsAfter) {
  Session s = theDemo().session;
  s.duck().on = true;
  s.duck().curve.depthDb = 24;
  const auto r = renderedOf(s);
  Player player;
  player.setSnapshot(r.snapshot);
  player.setSilenced({kBackingLane});
  player.play();
  auto lowLevel = [&] { return rms(bandLimited(leftOf(played(player, r.after.frames)), 48000, 20, 250)); };
  lowLevel();
  const double after = lowLevel();
  player.setBefore(true);
  lowLevel();
  EXPECT_NEAR(20 * std::log10(lowLevel() / after), 0.0, 0.3);
}

TEST(Player, LowsOnlyAndMonoDoWhatTheySay) {
  const auto r = renderedOf(theDemo().session);
  Player player;
  player.setSnapshot(r.snapshot);
  player.setListen({ListenKind::Mono});
  player.play();
  played(player, 4800);
  const auto out = played(player, 20000);
  for (size_t i = 0; i < out.size(); i += 2) ASSERT_EQ(out[i], out[i + 1]);
  player.setListen({ListenKind::LowsOnly});
  played(player, 9600);
  const auto low = leftOf(played(player, 96000));
  const auto high = [&] {
    auto y = low;
    for (int k = 0; k < 3; ++k) {
      Biquad f(Biquad::highPass(48000, 1000, 0.7));
      for (double& v : y) v = f.process(v);
    }
    return y;
  }();
  EXPECT_LT(20 * std::log10(rms(high) / rms(low)), -55);
}

TEST(Player, OtherDeviceRatesPlayTheSamePitchAndLength) {
  const auto r = renderedOf(theDemo().session, 44100);
  EXPECT_EQ(r.snapshot->frames, static_cast<size_t>(std::lround(188852 * 44100.0 / 48000)));
  const auto x = r.snapshot->after[1]->signal().read(0, static_cast<int64_t>(2.4 * 24000 * 44100 / 48000), 20000);
  const auto y = r.after.bass().read(0, static_cast<int64_t>(2.4 * 24000), 21769);
  EXPECT_NEAR(frequencyByCrossings(x, 44100), frequencyByCrossings(y, 48000), 0.05);
}

TEST(SimulatedDevice, RunsInRealTimeAndWritesWhatItHears) {
  TemporaryFolder folder;
  const auto r = renderedOf(theDemo().session);
  Player player;
  player.setSnapshot(r.snapshot);
  player.play();
  {
    const auto device = openSimulated(player, {folder / "heard.wav", {}});
    EXPECT_TRUE(device->isSimulated());
    std::this_thread::sleep_for(std::chrono::milliseconds(400));
  }
  const auto heard = loadSound(folder / "heard.wav");
  ASSERT_TRUE(heard) << heard.error().sentence();
  EXPECT_GT(heard->sound->frames(), 4000u);
  for (size_t i = 0; i < heard->sound->frames(); ++i)
    ASSERT_EQ(heard->sound->channels[0][i], r.after.sum.at(0, i % r.after.frames));
}

struct Reports {
  std::mutex mutex;
  std::condition_variable wake;
  std::vector<Outcome> outcomes;
  void add(Outcome o) {
    const std::lock_guard lock(mutex);
    outcomes.push_back(std::move(o));
    wake.notify_all();
  }
  bool waitFor(uint64_t number) {
    std::unique_lock lock(mutex);
    return wake.wait_for(lock, std::chrono::seconds(60), [&] {
      return !outcomes.empty() && outcomes.back().number == number && outcomes.back().study;
    });
  }
};

TEST(Worker, TheNewestRequestWinsAndSoundComesBeforeFigures) {
  Reports reports;
  Worker worker([&](Outcome o) { reports.add(std::move(o)); });
  Session s = theDemo().session;
  for (uint64_t n = 1; n <= 40; ++n) {
    s.duck().on = true;
    s.duck().curve.depthDb = 1.0 + 0.25 * static_cast<double>(n);
    worker.submit({n, s, theDemo().assets, 48000});
  }
  ASSERT_TRUE(reports.waitFor(40));
  const std::lock_guard lock(reports.mutex);
  EXPECT_LT(reports.outcomes.size(), 80u) << "waiting requests were overtaken";
  ASSERT_GE(reports.outcomes.size(), 2u);
  EXPECT_FALSE(reports.outcomes[reports.outcomes.size() - 2].study);
  EXPECT_NEAR(reports.outcomes.back().study->pair.dip.depthDb, -11.0, 0.01);
  EXPECT_FALSE(reports.outcomes.back().findings.empty());
}

// Against a real JACK server with its dummy driver, freewheeling: what the sound card path hands over is
// recorded by a client of the server's and equals what export writes. Skipped only where the server cannot
// start.

}  // namespace
}  // namespace heft
