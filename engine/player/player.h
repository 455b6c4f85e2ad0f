#pragma once
/// The loop player: the only part of Heft that runs in the device's callback. It copies, gains and filters
/// rendered sound; process() never locks, allocates or frees.
///
/// Hand-over: one control thread sets a snapshot by exchanging an atomic pointer (the latest wins) and
/// collects retired ones from a single-producer queue. Every change of snapshot, lane gain or listen mode
/// fades over 20 ms.

#include <array>
#include <atomic>
#include <memory>
#include <optional>
#include <utility>

#include "engine/player/handed.h"
#include "engine/player/listening.h"
#include "engine/player/output_meter.h"
#include "engine/player/reference_sound.h"
#include "engine/player/snapshot.h"

namespace heft {

class Player {
 public:
  explicit Player(double deviceRate = 48000.0);
  ~Player();
  Player(const Player&) = delete;
  Player& operator=(const Player&) = delete;

  // Control thread.
  void setSnapshot(std::shared_ptr<const LoopSnapshot> snapshot);
  /// Starts there, after `countInQuarters` of clicks; stops with a fade. A song stops by itself at its end.
  void play(double countInQuarters = 0.0, double fromQuarters = 0.0) {
    countIn_ = countInQuarters, startQuarters_ = fromQuarters, hasStarted_ = false, order_ = Order::Start;
  }
  /// Whether the callback has begun what play() last asked for: until then the position is the one before.
  bool hasStarted() const { return hasStarted_; }
  /// Goes on from there, while it plays, with a crossfade of 20 ms.
  void locate(double quarters) { locate_ = quarters; }
  /// The stretch that repeats, in quarters, with a crossfade of 20 ms where it begins again; nothing: the whole
  /// loop, or the song once. Playback that has passed its end goes on to the loop's or song's end.
  void setRegion(std::optional<std::pair<double, double>> quarters) {
    regionTo_ = -1.0;
    if (!quarters) return;
    regionFrom_ = quarters->first, regionTo_ = quarters->second;
  }
  void stop() { order_ = Order::Stop; }
  bool isPlaying() const { return order_ != Order::Stop; }
  /// Lanes by id (level_match.h); unknown ids are ignored.
  void setSilenced(const SilencedLanes& lanes);
  void setBefore(bool before) { before_ = before; }
  /// Filters everything that is heard, reference and loop alike. Allocates.
  void setListen(const ListenTo& to);
  /// What is heard instead of the loop; null: the loop. Where the tempo of both is known the bars go on, else
  /// the section starts at its beginning.
  void setReference(std::shared_ptr<const ReferenceSound> reference);
  /// Gains that match Before, beyond its snapshot's, and the reference to Now; amplitudes.
  void setMatch(float before, float reference) { beforeMatch_ = before, referenceMatch_ = reference; }
  /// Monitor gain, an amplitude; fades within 20 ms. Meters are ahead of it.
  void setOutputGain(float gain) { outputGain_ = gain; }
  /// The highest level since the last call, between samples too, before the monitor gain.
  float takePeak() { return meter_.takePeak(); }
  /// Click of the count-in, an amplitude, and whether it continues while the loop plays.
  void setClick(float level, bool goesOn) { clickLevel_ = level, clickGoesOn_ = goesOn; }
  /// A note played live: sounds at once over the loop and replaces the previous one. At the device's rate.
  void playLive(std::shared_ptr<const AudioBuffer> sound, float gain);
  /// Releases it with a fade.
  void releaseLive() { liveHeld_ = false; }
  /// Quarter notes from the loop's start of the last block; negative during the count-in.
  double positionQuarters() const { return position_; }
  /// Frees snapshots that the callback has retired.
  void collect();
  /// How often the callback has ended: what it could see before a turn it has let go after it.
  uint64_t turns() const { return turns_; }
  /// Not while a device runs.
  void setDeviceRate(double rate);
  double deviceRate() const { return rate_; }

  // Device thread. Interleaved stereo; silence where there is nothing to play.
  void process(float* out, size_t frames);

 private:
  using Held = std::shared_ptr<const LoopSnapshot>;
  struct Gains {
    LaneGains after{}, before{};
    bool operator==(const Gains&) const = default;
  };
  void takePending();
  bool retire(Held* held);
  Gains wanted(const Held* snapshot) const;
  void fadeGains();
  Gains gainsNow(size_t lanes);
  void advance();
  void jumpTo(double frame);
  void goOver(const LoopSnapshot& now, const Gains& later, float& left, float& right);
  void mix(const LoopSnapshot& snapshot, const Gains& gains, size_t frame, float& left, float& right) const;
  void listenTo(float& left, float& right);
  using HeldReference = std::shared_ptr<const ReferenceSound>;
  void takeReference();
  static bool isSound(const HeldReference* held) { return held && *held && (*held)->sound; }
  /// Nothing of the loop is heard.
  bool onlyReference() const { return isSound(reference_) && !nextReference_; }
  double referenceStart(const HeldReference& of) const;
  void mixReference(const HeldReference* held, double& frame, float& left, float& right) const;
  void oneFrame(const Gains& later, float& left, float& right);
  void heardFrame(const Gains& later, float& left, float& right);
  float fadeStep() const { return 1.0f / fadeFrames_; }
  /// One note played by the callback.
  struct Live {
    std::shared_ptr<const AudioBuffer> sound;
    float gain = 1.0f;
    size_t frame = 0;
    float level = 1.0f;
  };
  void takeLive();
  bool retireLive(Live* live);
  void mixLive(Live*& live, bool fading, float& left, float& right);
  float click() const;
  void putOut(float left, float right, float* out);

  std::atomic<Held*> pending_{nullptr};
  static constexpr size_t kRetired = 16;
  std::array<std::atomic<Held*>, kRetired> retired_{};

  std::atomic<Live*> livePending_{nullptr};
  std::array<std::atomic<Live*>, kRetired> retiredLive_{};
  std::atomic<bool> liveHeld_{false};
  std::atomic<double> countIn_{0.0}, startQuarters_{0.0};
  std::atomic<bool> hasStarted_{false};
  static constexpr double kNowhere = -1.0;
  std::atomic<double> locate_{kNowhere}, regionFrom_{0.0}, regionTo_{kNowhere};
  std::atomic<uint64_t> turns_{0};
  std::atomic<float> outputGain_{1.0f}, clickLevel_{0.3f};
  std::atomic<bool> clickGoesOn_{false};

  /// One word for starting and going on: the callback turns Start into Go, so that it can never see half an
  /// order.
  enum class Order { Stop, Start, Go };
  std::atomic<Order> order_{Order::Stop};
  std::atomic<bool> before_{false};
  /// Ids of lanes that are silenced; kNoLane where a place is free.
  static constexpr int kNoLane = -1000;
  std::array<std::atomic<int>, kMostLanes> silenced_;
  Handed<ListenChain> listens_;
  Handed<HeldReference> references_;
  std::atomic<float> beforeMatch_{1.0f}, referenceMatch_{1.0f};
  std::atomic<double> position_{0.0};

  // Only the device thread touches what follows.
  std::atomic<double> rate_;  // the callback and the control thread both ask
  float fadeFrames_;
  Held* current_ = nullptr;
  Held* next_ = nullptr;
  float swap_ = 0.0f;  // 0: current only, 1: next only
  double frame_ = 0.0;
  double leftFrame_ = 0.0;  // where a jump came from, while it fades
  float jumpFade_ = 1.0f;
  double countInEnd_ = 0.0;  // until there only clicks are heard
  float master_ = 0.0f;
  Gains from_{}, to_{};
  float gainFade_ = 1.0f;
  ListenChain* listen_ = nullptr;
  ListenChain* nextListen_ = nullptr;
  float listenFade_ = 1.0f;
  HeldReference* reference_ = nullptr;
  HeldReference* nextReference_ = nullptr;
  float referenceFade_ = 1.0f, referenceNow_ = 1.0f;
  double referenceFrame_ = 0.0, nextReferenceFrame_ = 0.0;
  double quarters_ = 0.0;  // since the start, in the time of what is heard
  float outputNow_ = 1.0f;
  OutputMeter meter_;
  Live* live_ = nullptr;
  Live* leaving_ = nullptr;  // the previous note, fading out
};

}  // namespace heft
