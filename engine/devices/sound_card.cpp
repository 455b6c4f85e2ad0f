#include "engine/devices/sound_card.h"

#include <RtAudio.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <mutex>
#include <thread>
#include <utility>
#include <vector>

#include "core/sound/quiet_stderr.h"
#include "engine/devices/device.h"

namespace heft {
namespace {

struct Api {
  RtAudio::Api api;
  const char* id;
  const char* name;
};
constexpr Api kApis[] = {{RtAudio::UNIX_JACK, "jack", "JACK"},
                         {RtAudio::LINUX_PULSE, "pulse", "Pulse"},
                         {RtAudio::LINUX_ALSA, "alsa", "ALSA"}};

class SoundCard : public AudioDevice {
 public:
  SoundCard(RtAudio::Api api, const CardInfo& info, Player& player)
      : audio_(std::make_unique<RtAudio>(api)),
        link_(std::make_unique<Link>(&player)),
        info_(info),
        player_(player) {}
  ~SoundCard() override {
    const QuietStderr quiet;
    // A server that dies takes the callbacks with it and may hold its locks forever: calls that would wait
    // for it are forbidden then. Its remains are leaked, silent.
    if (started_ && !isCalledWithin(std::chrono::milliseconds(400))) {
      link_->player = nullptr;
      // Kept to the end of the process: destroying it would wait as well.
      static auto* leftBehind = new std::vector<std::pair<std::unique_ptr<RtAudio>, std::unique_ptr<Link>>>;
      static auto* oneAtATime = new std::mutex;
      const std::lock_guard lock(*oneAtATime);
      leftBehind->emplace_back(std::move(audio_), std::move(link_));
      return;
    }
    try {
      // A server that died has closed the stream already; stopping it then would crash.
      if (audio_->isStreamOpen()) {
        if (audio_->isStreamRunning()) audio_->stopStream();
        audio_->closeStream();
      }
    } catch (const RtAudioError&) {
    }
  }
  Result<void> start(unsigned index) {
    RtAudio::StreamParameters out;
    out.deviceId = index;
    out.nChannels = 2;
    unsigned frames = 256;
    RtAudio::StreamOptions options;
    options.streamName = "Heft";
    const QuietStderr quiet;
    try {
      audio_->openStream(&out, nullptr, RTAUDIO_FLOAT32, static_cast<unsigned>(player_.deviceRate()), &frames,
                         &SoundCard::callback, link_.get(), &options);
      audio_->startStream();
      started_ = true;
    } catch (const RtAudioError& error) {
      return unreadable({}, info_.name + " could not be started: " + error.getMessage());
    }
    return {};
  }
  std::string name() const override { return info_.name; }
  double sampleRate() const override { return player_.deviceRate(); }
  bool isSimulated() const override { return false; }
  bool isAlive() const override {
    return audio_->isStreamOpen() && audio_->isStreamRunning() &&
           Clock::now() - link_->lastCall.load() < kLongestPause;
  }

 private:
  using Clock = std::chrono::steady_clock;
  static constexpr std::chrono::seconds kLongestPause{2};
  /// The callback's own references.
  struct Link {
    explicit Link(Player* p) : player(p) {}
    std::atomic<Player*> player;
    std::atomic<Clock::time_point> lastCall{Clock::now()};
  };
  bool isCalledWithin(Clock::duration most) const {
    const auto start = Clock::now();
    while (Clock::now() - start < most) {
      if (link_->lastCall.load() > start) return true;
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    return false;
  }
  static int callback(void* out, void*, unsigned frames, double, RtAudioStreamStatus, void* self) {
    auto* link = static_cast<Link*>(self);
    link->lastCall = Clock::now();
    if (Player* player = link->player)
      player->process(static_cast<float*>(out), frames);
    else
      std::fill_n(static_cast<float*>(out), 2 * frames, 0.0f);
    return 0;
  }
  std::unique_ptr<RtAudio> audio_;
  std::unique_ptr<Link> link_;
  bool started_ = false;
  CardInfo info_;
  Player& player_;
};

}  // namespace

std::vector<CardInfo> soundCards() {
  const QuietStderr quiet;
  std::vector<CardInfo> out;
  for (const Api& api : kApis) {
    try {
      RtAudio audio(api.api);
      audio.showWarnings(false);
      for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
        const auto info = audio.getDeviceInfo(i);
        if (!info.probed || info.outputChannels < 2) continue;
        CardInfo card{std::string(api.id) + ":" + std::to_string(i), std::string(api.name) + ": " + info.name};
        card.isDefault =
            out.empty() || (info.isDefaultOutput && out.size() == 1 && out.front().id.rfind(api.id, 0) == 0);
        if (card.isDefault)
          for (CardInfo& other : out) other.isDefault = false;
        card.fixedRate = api.api == RtAudio::UNIX_JACK;
        card.preferredRate = info.preferredSampleRate ? info.preferredSampleRate : 48000.0;
        for (unsigned rate : info.sampleRates) card.rates.push_back(rate);
        out.push_back(card);
      }
    } catch (const RtAudioError&) {
    }
  }
  return out;
}

Result<std::unique_ptr<AudioDevice>> openSoundCard(const std::string& id, Player& player) {
  for (const CardInfo& card : soundCards()) {
    if (card.id != id && !(id.empty() && card.isDefault)) continue;
    for (const Api& api : kApis)
      if (card.id.rfind(api.id, 0) == 0) {
        auto device = std::make_unique<SoundCard>(api.api, card, player);
        const auto index = static_cast<unsigned>(std::stoul(card.id.substr(card.id.find(':') + 1)));
        if (auto started = device->start(index); !started) return Fail(started.error());
        return device;
      }
  }
  return unreadable({}, "no sound card was found");
}

}  // namespace heft
