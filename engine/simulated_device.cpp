// A silent device: real time, its own thread, and its output as a WAV on request.

#include <atomic>
#include <chrono>
#include <thread>

#include "core/sound/audio_file.h"
#include "engine/device.h"

namespace heft {
namespace {

constexpr size_t kFrames = 480;
constexpr size_t kLongestCapture = 48000 * 600;

class SimulatedDevice : public AudioDevice {
 public:
  SimulatedDevice(Player& player, std::string capturePath)
      : player_(player), capturePath_(std::move(capturePath)) {
    thread_ = std::jthread([this](std::stop_token stop) { run(stop); });
  }
  ~SimulatedDevice() override {
    thread_.request_stop();
    thread_.join();
    if (capturePath_.empty() || captured_.empty()) return;
    AudioBuffer heard(player_.deviceRate(), 2, captured_.size() / 2);
    for (size_t i = 0; i < heard.frames(); ++i)
      for (size_t c = 0; c < 2; ++c) heard.channels[c][i] = captured_[2 * i + c];
    // Nobody is left to report to; the file is just missing.
    (void)saveSound(heard, capturePath_, SampleFormat::WavFloat).has_value();
  }
  std::string name() const override { return "Simulated, silent"; }
  double sampleRate() const override { return player_.deviceRate(); }
  bool isSimulated() const override { return true; }
  bool isAlive() const override { return true; }

 private:
  void run(const std::stop_token& stop) {
    std::vector<float> out(2 * kFrames);
    auto next = std::chrono::steady_clock::now();
    const auto step = std::chrono::nanoseconds(static_cast<int64_t>(1e9 * kFrames / player_.deviceRate()));
    while (!stop.stop_requested()) {
      player_.process(out.data(), kFrames);
      if (!capturePath_.empty() && captured_.size() < 2 * kLongestCapture)
        captured_.insert(captured_.end(), out.begin(), out.end());
      std::this_thread::sleep_until(next += step);
    }
  }
  Player& player_;
  std::string capturePath_;
  std::vector<float> captured_;
  std::jthread thread_;
};

}  // namespace

std::unique_ptr<AudioDevice> openSimulated(Player& player, const std::string& capturePath) {
  return std::make_unique<SimulatedDevice>(player, capturePath);
}

}  // namespace heft
