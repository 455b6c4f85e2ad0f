// Keyboards, and a real sound server: what plays over it is what Export writes.

#include <gtest/gtest.h>
#include <jack/jack.h>
#include <jack/midiport.h>
#include <jack/ringbuffer.h>
#include <sys/wait.h>
#include <unistd.h>

#include <atomic>
#include <condition_variable>
#include <cstdlib>
#include <thread>

#include "engine/devices/device.h"
#include "engine/devices/key_events.h"
#include "engine/devices/port_watch.h"
#include "tests/reference/player_hands.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

TEST(Keyboard, MessagesBecomeEvents) {
  // MIDI 1.0: 9n note on (velocity 0 is its end), 8n note off, En pitch bend with its centre at 0x2000.
  EXPECT_EQ(keyEventOf({0x93, 33, 127}), (KeyEvent{KeyEvent::Kind::Press, 33, 1.0, 4}));
  EXPECT_EQ(keyEventOf({0x90, 33, 0}), (KeyEvent{KeyEvent::Kind::Release, 33, 0.0}));
  EXPECT_EQ(keyEventOf({0x85, 40, 64}), (KeyEvent{KeyEvent::Kind::Release, 40, 0.0, 6}));
  EXPECT_EQ(keyEventOf({0xe0, 0, 0x40}), (KeyEvent{KeyEvent::Kind::Wheel, 0, 0.0}));
  EXPECT_EQ(keyEventOf({0xe0, 0, 0}), (KeyEvent{KeyEvent::Kind::Wheel, 0, -1.0}));
  EXPECT_EQ(keyEventOf({0xef, 0x7f, 0x7f}), (KeyEvent{KeyEvent::Kind::Wheel, 0, 1.0, 16}));
  // Bn: a controller; 120 to 127 are channel mode messages.
  EXPECT_EQ(keyEventOf({0xb2, 21, 127}), (KeyEvent{KeyEvent::Kind::Controller, 21, 1.0, 3}));
  for (const std::vector<unsigned char>& other :
       {std::vector<unsigned char>{}, {0x90}, {0x90, 200, 10}, {0xb0, 123, 0}, {0xf8}})
    EXPECT_FALSE(keyEventOf(other));
  // Names of ALSA's ports, and other names.
  EXPECT_EQ(addressOf("Keys 3:Keys 3 MIDI 1 24:0"), (PortAddress{24, 0}));
  for (const char* other : {"system:midi_capture_1", "Keys", "", "Keys 24:", "Keys :0", "24:0 keys"})
    EXPECT_FALSE(addressOf(other)) << other;
  EXPECT_FALSE(openMidiPort("no such keyboard", [](const KeyEvent&) {}));
}

TEST(KeyEvents, AreReadLineByLineOrRefusedWithTheLinesNumber) {
  const auto events = parseKeyEvents(
      "# a dive\n0.5 press 33 0.8\n\n0.75 release 33 # let go\n0.6 wheel -0.5\n"
      "2 controller 21 0.25\n3 gone\n",
      "x.keys");
  ASSERT_TRUE(events) << events.error().sentence();
  using Kind = KeyEvent::Kind;
  EXPECT_EQ(*events, (std::vector<TimedKeyEvent>{{0.5, {Kind::Press, 33, 0.8}},
                                                 {0.6, {Kind::Wheel, 0, -0.5}},
                                                 {0.75, {Kind::Release, 33, 0.0}},
                                                 {2.0, {Kind::Controller, 21, 0.25}},
                                                 {3.0, {Kind::Gone}}}));
  for (const char* bad :
       {"0.5 press 33", "0.5 press 33 nan", "-1 press 33 1", "0 press 128 1", "0 press 3.5 1", "0 wheel 2",
        "0 strum 3 1", "0 controller 120 1", "0 controller 1", "1 gone 1", "inf release 3", "press 33 1 0"}) {
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
  const double begunAt = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  (*keyboard)->begin(0.05);
  for (int i = 0; i < 500 && count() < 3; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  (*keyboard)->begin(0.0);
  for (int i = 0; i < 500 && count() < 6; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  keyboard->reset();  // does not wait for the event a minute off
  const std::lock_guard lock(mutex);
  ASSERT_EQ(heard.size(), 6u);
  for (size_t i = 0; i < 3; ++i) EXPECT_EQ(heard[i].second, heard[i + 3].second);
  // Late on a busy machine, never early.
  const std::vector<double> due = {0.0, 0.1, 0.15};
  for (size_t i = 0; i < due.size(); ++i) EXPECT_GE(heard[i].first, begunAt + 0.05 + due[i]) << i;
}

class JackServer {
 public:
  JackServer() {
    // One name a build: a server that was killed under it is cleared away when the next one takes its place.
    name_ = "heft-test-" + std::to_string(std::hash<std::string>()(heftCli()) % 1000);
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
    // A server on a machine without time to spare may refuse a client, or drop it at once.
    auto device = openSoundCard(id, player);
    for (int i = 0; i < 20 && !(device && (*device)->isAlive()); ++i) {
      if (device) device->reset();
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

TEST(Jack, AKeyboardIsHeardOverTheServersMidiUntilItGoes) {
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
  // Another port that disappears is not ours.
  jack_port_unregister(keyboard.client, jack_port_register(keyboard.client, "other", JACK_DEFAULT_MIDI_TYPE,
                                                           JackPortIsOutput, 0));
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  jack_deactivate(keyboard.client);
  jack_port_unregister(keyboard.client, keyboard.port);
  for (int i = 0; i < 100; ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(30));
    const std::lock_guard lock(mutex);
    if (heard.size() >= 4) break;
  }
  const std::lock_guard lock(mutex);
  ASSERT_EQ(heard.size(), 4u);
  EXPECT_EQ(heard[3], KeyEvent{KeyEvent::Kind::Gone}) << "once, when it went";
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
