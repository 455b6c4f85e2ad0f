#include "engine/devices/midi_input.h"

#include <RtMidi.h>

#include <algorithm>
#include <optional>

#include "core/sound/quiet_stderr.h"
#include "engine/devices/jack_port_watch.h"
#include "engine/devices/port_watch.h"

namespace heft {
namespace {

constexpr const char* kClient = "Heft";

std::unique_ptr<RtMidiIn> inputOf(RtMidi::Api api) {
  auto input = std::make_unique<RtMidiIn>(api, kClient);
  // Errors are returned, not printed.
  input->setErrorCallback([](RtMidiError::Type, const std::string&, void*) {});
  return input;
}

class RtInput final : public MidiInput {
 public:
  RtInput(std::unique_ptr<RtMidiIn> input, std::string name, KeyListener listener)
      : name_(std::move(name)), listener_(std::move(listener)), input_(std::move(input)) {
    input_->setCallback(&RtInput::heard, this);
    const auto gone = [this] { listener_({KeyEvent::Kind::Gone}); };
    if (input_->getCurrentApi() == RtMidi::UNIX_JACK) jackWatch_.emplace(name_, gone);
    if (input_->getCurrentApi() != RtMidi::LINUX_ALSA) return;
    if (const auto address = addressOf(name_)) watch_.emplace(*address, gone);
  }
  ~RtInput() override { input_->cancelCallback(); }
  std::string name() const override { return name_; }

 private:
  static void heard(double, std::vector<unsigned char>* message, void* self) {
    if (!message) return;
    if (const auto event = keyEventOf(*message)) static_cast<RtInput*>(self)->listener_(*event);
  }
  std::string name_;
  KeyListener listener_;
  std::unique_ptr<RtMidiIn> input_;
  // Last, so that they end first.
  std::optional<PortWatch> watch_;
  std::optional<JackPortWatch> jackWatch_;
};

std::vector<RtMidi::Api> systems() {
  std::vector<RtMidi::Api> out;
  RtMidi::getCompiledApi(out);
  return out;
}

}  // namespace

std::optional<KeyEvent> keyEventOf(const std::vector<unsigned char>& m) {
  if (m.size() < 3 || ((m[1] | m[2]) & 0x80)) return std::nullopt;
  const int kind = m[0] & 0xf0, channel = (m[0] & 0x0f) + 1;
  if (kind == 0x90 && m[2] > 0) return KeyEvent{KeyEvent::Kind::Press, m[1], m[2] / 127.0, channel};
  if (kind == 0x80 || kind == 0x90) return KeyEvent{KeyEvent::Kind::Release, m[1], 0.0, channel};
  if (kind == 0xb0 && m[1] < 120) return KeyEvent{KeyEvent::Kind::Controller, m[1], m[2] / 127.0, channel};
  if (kind != 0xe0) return std::nullopt;
  const int value = (m[2] << 7 | m[1]) - 8192;
  return KeyEvent{KeyEvent::Kind::Wheel, 0, value / (value < 0 ? 8192.0 : 8191.0), channel};
}

std::vector<std::string> midiPorts() {
  const QuietStderr hush;
  std::vector<std::string> out;
  for (RtMidi::Api api : systems()) try {
      const auto input = inputOf(api);
      for (unsigned i = 0; i < input->getPortCount(); ++i)
        if (const std::string name = input->getPortName(i); name.find(kClient) == std::string::npos)
          out.push_back(name);
    } catch (const RtMidiError&) {
      // A system that does not run has no ports.
    }
  return out;
}

Result<std::unique_ptr<MidiInput>> openMidiPort(const std::string& port, KeyListener listener) {
  const QuietStderr hush;
  for (RtMidi::Api api : systems()) try {
      auto input = inputOf(api);
      for (unsigned i = 0; i < input->getPortCount(); ++i)
        if (input->getPortName(i) == port) {
          input->openPort(i, "keys");
          if (!input->isPortOpen()) break;
          input->ignoreTypes(true, true, true);
          return std::unique_ptr<MidiInput>(
              std::make_unique<RtInput>(std::move(input), port, std::move(listener)));
        }
    } catch (const RtMidiError&) {
    }
  return unreadable(port, "this MIDI keyboard was disconnected; choose another");
}

}  // namespace heft
