#pragma once
/// Transport: the player, its device, and monitoring. None of it is in the session.

#include <QFuture>
#include <QObject>
#include <QTimer>
#include <memory>

#include "app/document/document.h"
#include "app/play/lane_switches.h"
#include "app/play/monitor_levels.h"
#include "core/sound/audition.h"
#include "engine/devices/device.h"
#include "engine/player/song_feed.h"

namespace heft::app {

class Transport : public QObject {
  Q_OBJECT
 public:
  explicit Transport(Document& document, QObject* parent = nullptr);
  ~Transport() override;

  bool isPlaying() const { return (device_ != nullptr && !soundAlone_) || (opening_ && !alone_); }
  void toggle() { isPlaying() ? stop() : play(); }
  /// From start(), after `countInQuarters` of clicks.
  void play(double countInQuarters = 0.0);
  /// Where Play begins, in quarters: the region's start where it is in none, else where it was put.
  double start() const { return start_; }
  /// Goes there: at once while it plays.
  void locate(double quarters);
  /// The stretch that repeats, in quarters; nothing: all of a loop, a song once.
  const std::optional<std::pair<double, double>>& region() const { return region_; }
  void setRegion(std::optional<std::pair<double, double>> quarters);
  /// A note played live, while the loop plays.
  void playLive(std::shared_ptr<const AudioBuffer> sound, double gain) {
    player_.playLive(std::move(sound), static_cast<float>(gain));
  }
  void releaseLive() { player_.releaseLive(); }
  /// Plays a sound alone, over the loop if that is playing; otherwise opens the device just for it.
  void audition(const Audition& heard);
  double deviceRate() const { return player_.deviceRate(); }
  void stop();
  /// Whether the position is of this playback: the device has begun it.
  bool hasStarted() const { return isPlaying() && !opening_ && player_.hasStarted(); }
  double positionQuarters() const { return isPlaying() ? player_.positionQuarters() : start_; }

  bool isBefore() const { return before_; }
  void setBefore(bool before);
  const ListenTo& listen() const { return listen_; }
  void setListen(const ListenTo& listen);
  /// What is heard instead of the loop; null: the loop. ReferenceEar decides it.
  void setReference(std::shared_ptr<const ReferenceSound> reference) {
    player_.setReference(std::move(reference));
  }
  /// Gains in dB that match Before and the reference to Now.
  void setMatch(double beforeDb, double referenceDb);
  /// Which lanes are heard, and those that are not.
  const LaneSwitches& lanes() const { return lanes_; }
  const SilencedLanes& silenced() const { return silenced_; }
  void setSolo(int lane, bool on);
  void setMuted(int lane, bool on);

  /// The highest level since the last call.
  double takePeak() { return player_.takePeak(); }

  MonitorLevels& monitor() { return monitor_; }
  const MonitorLevels& monitor() const { return monitor_; }

  std::vector<DeviceChoice> devices() const { return deviceChoices(); }
  QString deviceId() const { return deviceId_; }
  /// What plays, or would play: "Simulated, silent".
  QString deviceName() const { return deviceName_; }
  bool isSimulated() const { return simulated_; }
  void chooseDevice(QString id);
  /// Back to the previous output: switches speakers and headphones with one key.
  void swapDevices() { chooseDevice(otherId_); }

 Q_SIGNALS:
  void stateChanged();
  void moved();    ///< the playhead
  void located();  ///< it was put somewhere
  void regionChanged();
  void heardChanged();  ///< lanes, what one listens with, or the device's rate
  void told(const QString& sentence);

 private:
  static constexpr const char* kDefaultName = "Default output";
  void applyHeard();
  void open();
  void playAlone();
  void started(std::shared_ptr<AudioDevice> device);
  void takeSnapshot();
  void tellPlayhead() { document_.setPlayhead(positionQuarters(), before_); }
  void tick();

  Document& document_;
  Player player_;
  MonitorLevels monitor_{player_};
  SongFeed feed_{player_};
  double start_ = 0.0;
  std::optional<std::pair<double, double>> region_;
  std::shared_ptr<AudioDevice> device_;
  QFuture<void> openingTask_;
  QTimer timer_;
  QString deviceId_, otherId_, deviceName_ = kDefaultName;
  double countIn_ = 0.0;
  /// A sound that waits for its device, and whether the device is open for a sound alone.
  std::shared_ptr<const AudioBuffer> alone_;
  double aloneGain_ = 1.0;
  bool soundAlone_ = false;
  uint64_t aloneTurn_ = 0;
  bool simulated_ = false, before_ = false, opening_ = false;
  ListenTo listen_;
  SilencedLanes silenced_;
  LaneSwitches lanes_;
};

}  // namespace heft::app
