// A silent device: real time, its own thread, and its output as a WAV on request.

#include <atomic>
#include <chrono>
#include <thread>

#include "core/sound/audio_file.h"
#include "engine/devices/device.h"

namespace heft {
namespace {

constexpr size_t kFrames = 480;
constexpr size_t kLongestCapture = 48000 * 600;

class SimulatedDevice : public AudioDevice {
 public:
  SimulatedDevice(Player& player, Simulation how) : player_(player), how_(std::move(how)) {
    thread_ = std::jthread([this](std::stop_token stop) { run(stop); });
  }
  ~SimulatedDevice() override {
    thread_.request_stop();
    thread_.join();
    if (how_.capturePath.empty() || captured_.empty()) return;
    AudioBuffer heard(player_.deviceRate(), 2, captured_.size() / 2);
    for (size_t i = 0; i < heard.frames(); ++i)
      for (size_t c = 0; c < 2; ++c) heard.channels[c][i] = captured_[2 * i + c];
    // Nobody is left to report to; the file is just missing.
    (void)saveSound(heard, how_.capturePath, SampleFormat::WavFloat).has_value();
  }
  std::string name() const override { return "Simulated, silent"; }
  double sampleRate() const override { return player_.deviceRate(); }
  bool isSimulated() const override { return true; }
  bool isAlive() const override { return alive_; }

 private:
  void run(const std::stop_token& stop) {
    std::vector<float> out(2 * kFrames);
    auto next = std::chrono::steady_clock::now();
    const auto step = std::chrono::nanoseconds(static_cast<int64_t>(1e9 * kFrames / player_.deviceRate()));
    double seconds = 0.0;
    while (!stop.stop_requested() && seconds < how_.atOnceSeconds.value_or(seconds + 1.0)) {
      player_.process(out.data(), kFrames);
      seconds += static_cast<double>(kFrames) / player_.deviceRate();
      if (!how_.capturePath.empty() && captured_.size() < 2 * kLongestCapture)
        captured_.insert(captured_.end(), out.begin(), out.end());
      if (!how_.atOnceSeconds) std::this_thread::sleep_until(next += step);
    }
    alive_ = false;
  }
  Player& player_;
  const Simulation how_;
  std::vector<float> captured_;
  std::atomic<bool> alive_{true};
  std::jthread thread_;
};

}  // namespace

std::unique_ptr<AudioDevice> openSimulated(Player& player, const Simulation& how) {
  return std::make_unique<SimulatedDevice>(player, how);
}

}  // namespace heft
