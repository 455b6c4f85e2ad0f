// The player, the devices and the worker: to the bit, without clicks, without touching the heap in the
// callback.

#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <atomic>
#include <condition_variable>
#include <cstdlib>
#include <thread>

#include "core/sound/filter.h"
#include "engine/device.h"
#include "engine/key_events.h"
#include "engine/worker.h"
#include "scenario/make_demo.h"
#include "tests/heap_counter.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

const demo::Demo& theDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

struct Rendered {
  Stems after, before;
  std::shared_ptr<const LoopSnapshot> snapshot;
};

Rendered renderedOf(const Session& s, double rate = 48000) {
  StepCache cache;
  Rendered out{*render(s, theDemo().assets, cache), *render(withoutMoves(s), theDemo().assets, cache), {}};
  out.snapshot = reference::snapshotOf(out.after, out.before, s.track.framesPerQuarter(), rate, cache);
  return out;
}

std::vector<float> played(Player& player, size_t frames, size_t block = 256) {
  std::vector<float> out(2 * frames);
  for (size_t at = 0; at < frames; at += block)
    player.process(out.data() + 2 * at, std::min(block, frames - at));
  return out;
}

std::vector<double> leftOf(const std::vector<float>& x) {
  std::vector<double> out;
  for (size_t i = 0; i < x.size(); i += 2) out.push_back(x[i]);
  return out;
}

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

std::shared_ptr<const LoopSnapshot> toneSnapshot(double amplitude, double phase) {
  Stems stems;
  stems.frames = 48000;
  const auto x = sine(50, amplitude, 1.0, 48000, phase);
  auto stemOf = [&](bool silent) {
    Stem stem(48000, 1);
    for (size_t b = 0; b < stem.blockCount(); ++b) {
      Block block{{std::vector<float>(stem.blockSize(b), 0.0f)}};
      for (size_t i = 0; i < stem.blockSize(b) && !silent; ++i)
        block.channels[0][i] = static_cast<float>(x[b * kBlockFrames + i]);
      stem.push(std::make_shared<const Block>(std::move(block)),
                KeyMaker("t").add(amplitude).add(phase).add(b).add(silent).key());
    }
    return stem;
  };
  stems.sum = stemOf(false), stems.backing = stemOf(true);
  stems.lanes = {{1, stems.sum, stems.sum, {}, {}}, {2, stems.backing, stems.backing, {}, {}}};
  StepCache cache;
  return reference::snapshotOf(stems, stems, 24000, 48000, cache);
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

TEST(Keyboard, MessagesBecomeEvents) {
  // MIDI 1.0: 9n note on (velocity 0 is its end), 8n note off, En pitch bend with its centre at 0x2000.
  EXPECT_EQ(keyEventOf({0x93, 33, 127}), (KeyEvent{KeyEvent::Kind::Press, 33, 1.0}));
  EXPECT_EQ(keyEventOf({0x90, 33, 0}), (KeyEvent{KeyEvent::Kind::Release, 33, 0.0}));
  EXPECT_EQ(keyEventOf({0x85, 40, 64}), (KeyEvent{KeyEvent::Kind::Release, 40, 0.0}));
  EXPECT_EQ(keyEventOf({0xe0, 0, 0x40}), (KeyEvent{KeyEvent::Kind::Wheel, 0, 0.0}));
  EXPECT_EQ(keyEventOf({0xe0, 0, 0}), (KeyEvent{KeyEvent::Kind::Wheel, 0, -1.0}));
  EXPECT_EQ(keyEventOf({0xef, 0x7f, 0x7f}), (KeyEvent{KeyEvent::Kind::Wheel, 0, 1.0}));
  for (const std::vector<unsigned char>& other :
       {std::vector<unsigned char>{}, {0x90}, {0x90, 200, 10}, {0xb0, 7, 100}, {0xf8}})
    EXPECT_FALSE(keyEventOf(other));
  EXPECT_FALSE(openMidiPort("no such keyboard", [](const KeyEvent&) {}));
}

TEST(KeyEvents, AreReadLineByLineOrRefusedWithTheLinesNumber) {
  const auto events =
      parseKeyEvents("# a dive\n0.5 press 33 0.8\n\n0.75 release 33 # let go\n0.6 wheel -0.5\n", "x.keys");
  ASSERT_TRUE(events) << events.error().sentence();
  using Kind = KeyEvent::Kind;
  EXPECT_EQ(*events, (std::vector<TimedKeyEvent>{{0.5, {Kind::Press, 33, 0.8}},
                                                 {0.6, {Kind::Wheel, 0, -0.5}},
                                                 {0.75, {Kind::Release, 33, 0.0}}}));
  for (const char* bad : {"0.5 press 33", "0.5 press 33 nan", "-1 press 33 1", "0 press 128 1", "0 press 3.5 1",
                          "0 wheel 2", "0 strum 3 1", "inf release 3", "press 33 1 0"}) {
    const auto refused = parseKeyEvents(std::string("0 wheel 0\n") + bad, "x.keys");
    ASSERT_FALSE(refused) << bad;
    EXPECT_NE(refused.error().sentence().find("x.keys: line 2"), std::string::npos) << bad;
  }
  EXPECT_FALSE(parseKeyEvents("# nothing\n", "x.keys"));
}

TEST(KeyEvents, PlayInOrderAtTheirTimesAndStartOver) {
  TemporaryFolder folder;
  reference::writeBytes(folder / "line.keys",
                        "0.00 press 33 1\n0.10 release 33\n0.15 wheel -1\n60 press 40 1\n");
  std::mutex mutex;
  std::vector<std::pair<double, KeyEvent>> heard;
  const auto start = std::chrono::steady_clock::now();
  auto keyboard = openKeyEvents(folder / "line.keys", [&](const KeyEvent& e) {
    const std::lock_guard lock(mutex);
    heard.emplace_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(), e);
  });
  ASSERT_TRUE(keyboard) << keyboard.error().sentence();
  auto count = [&] {
    const std::lock_guard lock(mutex);
    return heard.size();
  };
  std::this_thread::sleep_for(std::chrono::milliseconds(50));
  EXPECT_EQ(count(), 0u) << "not before it is told to begin";
  (*keyboard)->begin(0.05);
  for (int i = 0; i < 500 && count() < 3; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  (*keyboard)->begin(0.0);
  for (int i = 0; i < 500 && count() < 6; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  keyboard->reset();  // does not wait for the event a minute off
  const std::lock_guard lock(mutex);
  ASSERT_EQ(heard.size(), 6u);
  for (size_t i = 0; i < 3; ++i) EXPECT_EQ(heard[i].second, heard[i + 3].second);
  EXPECT_GE(heard[0].first, 0.05 + 0.05) << "never early";
  EXPECT_GE(heard[1].first - heard[0].first, 0.08);
}

TEST(Player, NeverTouchesTheHeapInTheCallback) {
  if (heapCalls() < 0) GTEST_SKIP() << "the heap cannot be counted under the address sanitizer";
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
    if (i % 50 == 20) player.setListen(static_cast<Listen>(i / 50 % 3));
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
  EXPECT_LT(tried([](Player& p) { p.setListen(Listen::Mono); }), -50);
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
  s.duck().depthDb = 24;
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
  player.setListen(Listen::Mono);
  player.play();
  played(player, 4800);
  const auto out = played(player, 20000);
  for (size_t i = 0; i < out.size(); i += 2) ASSERT_EQ(out[i], out[i + 1]);
  player.setListen(Listen::LowsOnly);
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
  const auto x = r.snapshot->after[1].wrapped(0, static_cast<int64_t>(2.4 * 24000 * 44100 / 48000), 20000);
  const auto y = r.after.bass().wrapped(0, static_cast<int64_t>(2.4 * 24000), 21769);
  EXPECT_NEAR(frequencyByCrossings(x, 44100), frequencyByCrossings(y, 48000), 0.05);
}

TEST(SimulatedDevice, RunsInRealTimeAndWritesWhatItHears) {
  TemporaryFolder folder;
  const auto r = renderedOf(theDemo().session);
  Player player;
  player.setSnapshot(r.snapshot);
  player.play();
  {
    const auto device = openSimulated(player, folder / "heard.wav");
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
    s.duck().depthDb = 1.0 + 0.25 * static_cast<double>(n);
    worker.submit({n, s, theDemo().assets, 48000});
  }
  ASSERT_TRUE(reports.waitFor(40));
  const std::lock_guard lock(reports.mutex);
  EXPECT_LT(reports.outcomes.size(), 80u) << "waiting requests were overtaken";
  ASSERT_GE(reports.outcomes.size(), 2u);
  EXPECT_FALSE(reports.outcomes[reports.outcomes.size() - 2].study);
  EXPECT_NEAR(reports.outcomes.back().study->dip.depthDb, -11.0, 0.01);
  EXPECT_FALSE(reports.outcomes.back().findings.empty());
}

// Against a real JACK server with its dummy driver, freewheeling: what the sound card path hands over is
// recorded by a client of the server's and equals what export writes. Skipped only where the server cannot
// start.
class JackServer {
 public:
  JackServer() {
    // One name a build: a server that was killed under it is cleared away when the next one takes its place.
    name_ = "heft-test-" + std::to_string(std::hash<std::string>()(HEFT_CLI) % 1000);
    setenv("JACK_DEFAULT_SERVER", name_.c_str(), 1);
    setenv("JACK_NO_START_SERVER", "1", 1);
    setenv("JACK_NO_AUDIO_RESERVATION", "1", 1);
    pid_ = fork();
    if (pid_ == 0) {
      if (!std::freopen("/dev/null", "w", stdout) || !std::freopen("/dev/null", "w", stderr)) _exit(126);
      execlp("jackd", "jackd", "-n", name_.c_str(), "-r", "-t5000", "-ddummy", "-r48000", "-p1024",
             static_cast<char*>(nullptr));
      _exit(127);
    }
    for (int i = 0; i < 60 && !isUp(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  ~JackServer() {
    kill(pid_, SIGTERM);
    waitpid(pid_, nullptr, 0);
    unsetenv("JACK_DEFAULT_SERVER");
  }
  bool isUp() const {
    if (waitpid(pid_, nullptr, WNOHANG) != 0) return false;
    return !choices().empty();
  }
  void stop() { kill(pid_, SIGTERM); }
  // A busy machine may answer a client too late: it asks again.
  static Result<std::unique_ptr<AudioDevice>> opened(const std::string& id, Player& player) {
    auto device = openSoundCard(id, player);
    for (int i = 0; i < 20 && !device; ++i) {
      std::this_thread::sleep_for(std::chrono::milliseconds(250));
      device = openSoundCard(id, player);
    }
    return device;
  }
  static std::vector<DeviceChoice> choices() {
    std::vector<DeviceChoice> out;
    for (const DeviceChoice& d : deviceChoices())
      if (d.id.rfind("jack", 0) == 0) out.push_back(d);
    return out;
  }

 private:
  std::string name_;
  pid_t pid_ = -1;
};

}  // namespace
}  // namespace heft

#include <jack/jack.h>
#include <jack/midiport.h>
#include <jack/ringbuffer.h>

namespace heft {
namespace {

struct Recorder {
  jack_client_t* client = nullptr;
  jack_port_t* ports[2] = {};
  std::vector<float> taken[2];
  std::atomic<size_t> count{0};

  static int process(jack_nframes_t frames, void* self) {
    auto& r = *static_cast<Recorder*>(self);
    const size_t at = r.count;
    if (at + frames > r.taken[0].size()) return 0;
    for (int c = 0; c < 2; ++c)
      std::copy_n(static_cast<const float*>(jack_port_get_buffer(r.ports[c], frames)), frames,
                  r.taken[c].begin() + static_cast<ptrdiff_t>(at));
    r.count = at + frames;
    return 0;
  }
  bool open() {
    client = jack_client_open("recorder", JackNoStartServer, nullptr);
    if (!client) return false;
    for (int c = 0; c < 2; ++c) {
      taken[c].resize(48000 * 30);
      ports[c] = jack_port_register(client, c ? "right" : "left", JACK_DEFAULT_AUDIO_TYPE, JackPortIsInput, 0);
    }
    jack_set_process_callback(client, &Recorder::process, this);
    return jack_activate(client) == 0;
  }
  bool connectToHeft() {
    for (int tries = 0; tries < 50; ++tries) {
      const char** outs = jack_get_ports(client, "Heft.*", JACK_DEFAULT_AUDIO_TYPE, JackPortIsOutput);
      int found = 0;
      for (; outs && outs[found] && found < 2; ++found)
        jack_connect(client, outs[found], jack_port_name(ports[found]));
      jack_free(outs);
      if (found == 2) return true;
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return false;
  }
  ~Recorder() {
    if (client) jack_client_close(client);
  }
};

TEST(Jack, WhatIsRecordedEqualsWhatExportWrites) {
  JackServer server;
  if (!server.isUp()) GTEST_SKIP() << "a JACK server with its dummy driver could not be started here";
  const auto r = renderedOf(theDemo().session);
  const std::string id = "jack:0";
  Player player(deviceRateFor(id, 48000));
  ASSERT_EQ(player.deviceRate(), 48000);
  player.setSnapshot(r.snapshot);
  auto device = JackServer::opened(id, player);
  ASSERT_TRUE(device) << device.error().sentence();
  EXPECT_TRUE((*device)->isAlive());
  Recorder recorder;
  ASSERT_TRUE(recorder.open());
  ASSERT_TRUE(recorder.connectToHeft());
  ASSERT_EQ(jack_set_freewheel(recorder.client, 1), 0);
  player.play();
  for (int i = 0; i < 3000 && recorder.count < 48000 * 12; ++i)
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
  jack_set_freewheel(recorder.client, 0);
  ASSERT_GT(recorder.count, r.after.frames + 96000);
  // The start is the first sample that is not silent; the loop's own first sound stands where it stands.
  size_t first = 0, own = 0;
  while (first < recorder.count && recorder.taken[0][first] == 0.0f && recorder.taken[1][first] == 0.0f)
    ++first;
  while (own < r.after.frames && r.after.sum.at(0, own) == 0.0f && r.after.sum.at(1, own) == 0.0f) ++own;
  ASSERT_LT(first, recorder.count.load());
  size_t compared = 0;
  for (size_t i = first; i < recorder.count && compared < r.after.frames + 20000; ++i, ++compared)
    for (size_t c = 0; c < 2; ++c)
      ASSERT_EQ(recorder.taken[c][i], r.after.sum.at(c, (own + i - first) % r.after.frames)) << compared;
  EXPECT_EQ(compared, r.after.frames + 20000);
}

// A keyboard that is a client of the server's: presses and lets go of A1, then bends.
struct Keyboard {
  jack_client_t* client = nullptr;
  jack_port_t* port = nullptr;
  std::atomic<bool> speaks{false};
  size_t said = 0;

  static int process(jack_nframes_t frames, void* self) {
    auto& k = *static_cast<Keyboard*>(self);
    void* buffer = jack_port_get_buffer(k.port, frames);
    jack_midi_clear_buffer(buffer);
    static constexpr jack_midi_data_t kMessages[3][3] = {{0x90, 33, 100}, {0x80, 33, 0}, {0xe0, 0, 0x20}};
    if (k.speaks && k.said < 3) jack_midi_event_write(buffer, 0, kMessages[k.said++], 3);
    return 0;
  }
  bool open() {
    client = jack_client_open("keyboard", JackNoStartServer, nullptr);
    if (!client) return false;
    port = jack_port_register(client, "out", JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput, 0);
    jack_set_process_callback(client, &Keyboard::process, this);
    return jack_activate(client) == 0;
  }
  ~Keyboard() {
    if (client) jack_client_close(client);
  }
};

TEST(Jack, AKeyboardIsHeardOverTheServersMidi) {
  JackServer server;
  if (!server.isUp()) GTEST_SKIP() << "a JACK server with its dummy driver could not be started here";
  Keyboard keyboard;
  ASSERT_TRUE(keyboard.open());
  std::string name;
  for (int i = 0; i < 40 && name.empty(); ++i) {
    for (const std::string& port : midiPorts())
      if (port.find("keyboard") != std::string::npos) name = port;
    if (name.empty()) std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  ASSERT_FALSE(name.empty());
  std::mutex mutex;
  std::vector<KeyEvent> heard;
  auto input = openMidiPort(name, [&](const KeyEvent& event) {
    const std::lock_guard lock(mutex);
    heard.push_back(event);
  });
  ASSERT_TRUE(input) << input.error().sentence();
  std::this_thread::sleep_for(std::chrono::milliseconds(200));
  keyboard.speaks = true;
  for (int i = 0; i < 100; ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(30));
    const std::lock_guard lock(mutex);
    if (heard.size() >= 3) break;
  }
  const std::lock_guard lock(mutex);
  ASSERT_EQ(heard.size(), 3u);
  EXPECT_EQ(heard[0], (KeyEvent{KeyEvent::Kind::Press, 33, 100 / 127.0}));
  EXPECT_EQ(heard[1], (KeyEvent{KeyEvent::Kind::Release, 33, 0.0}));
  EXPECT_EQ(heard[2], (KeyEvent{KeyEvent::Kind::Wheel, 0, -0.5}));
}

TEST(Jack, AServerThatDiesIsNoticedAndHarmless) {
  JackServer server;
  if (!server.isUp()) GTEST_SKIP() << "a JACK server with its dummy driver could not be started here";
  Player player;
  player.setSnapshot(toneSnapshot(0.1, 0));
  auto device = JackServer::opened("jack:0", player);
  ASSERT_TRUE(device) << device.error().sentence();
  player.play();
  server.stop();
  for (int i = 0; i < 100 && (*device)->isAlive(); ++i)
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  EXPECT_FALSE((*device)->isAlive());
  device->reset();
  const auto standIn = openSimulated(player);
  EXPECT_TRUE(standIn->isAlive());
}

}  // namespace
}  // namespace heft
