#include "app/play/transport.h"

#include <algorithm>

#include "app/document/aside.h"

namespace heft::app {
namespace {

constexpr int kTickMs = 25;

}  // namespace

Transport::Transport(Document& document, QObject* parent) : QObject(parent), document_(document) {
  timer_.setInterval(kTickMs);
  connect(&timer_, &QTimer::timeout, this, &Transport::tick);
  connect(&document_, &Document::rendered, this, &Transport::takeSnapshot);
  connect(&document_, &Document::replaced, this, [this] { setRegion({}), locate(0.0); });
  // A region or a start beyond a shortened track's end is none.
  connect(&document_, &Document::changed, this, [this] {
    const double end = document_.track().loopQuarters();
    if (region_ && region_->second > end + 1e-9) setRegion({});
    if (start_ >= end) start_ = 0.0;
    // A part that is new while another one is soloed.
    if (lanes_.silencedOf(document_.session()) != silenced_) applyHeard();
  });
  connect(&monitor_, &MonitorLevels::changed, this, &Transport::stateChanged);
}

Transport::~Transport() {
  // The task writes to the player.
  openingTask_.waitForFinished();
  device_.reset();
}

// Finding sound cards and opening one takes a while, so it happens aside; the simulated device is ready at
// once.
void Transport::play(double countInQuarters) {
  if (isPlaying()) return;
  countIn_ = countInQuarters;
  alone_.reset();
  soundAlone_ = false, ++aloneTurn_;
  device_.reset();
  if (!opening_) open();
}

void Transport::audition(const Audition& heard) {
  const double gain = heard.gain * amplitudeFromDb(monitor_.previewDb());
  if (isPlaying()) return playLive(heard.sound, gain);
  alone_ = heard.sound, aloneGain_ = gain;
  if (device_) return playAlone();
  if (!opening_) open();
}

// Closes the device once the sound has faded.
void Transport::playAlone() {
  const double seconds = alone_->seconds();
  player_.playLive(std::move(alone_), static_cast<float>(aloneGain_));
  alone_.reset();
  soundAlone_ = true;
  QTimer::singleShot(static_cast<int>(1000.0 * std::min(30.0, seconds)) + 400, this,
                     [this, turn = ++aloneTurn_] {
                       if (turn != aloneTurn_ || !soundAlone_) return;
                       device_.reset();
                       soundAlone_ = false;
                       player_.collect();
                     });
}

void Transport::open() {
  const std::string id = deviceId_.toStdString();
  takeSnapshot();
  if (id == "simulated") return started(nullptr);
  opening_ = true;
  Q_EMIT stateChanged();
  struct Opened {
    double rate;
    std::shared_ptr<AudioDevice> device;
    QString fault;
  };
  auto open = [this, id, preferred = document_.track().sampleRate]() -> Opened {
    const double rate = deviceRateFor(id, preferred);
    player_.setDeviceRate(rate);
    auto device = openSoundCard(id, player_);
    if (!device) return {preferred, nullptr, QString::fromStdString(device.error().sentence())};
    return {rate, std::move(*device), {}};
  };
  // Waits for the task itself, not for its follow-up on this thread.
  openingTask_ = runAside(
      this, open,
      [this, id](Opened opened) {
        opening_ = false;
        if (id != deviceId_.toStdString()) {
          // Another output was chosen meanwhile.
          opened.device.reset();
          return this->open();
        }
        // Once: on a machine without a sound card every Play would repeat it.
        if (!opened.device && (!simulated_ || !deviceId_.isEmpty()))
          Q_EMIT told(opened.fault + "; the simulated device plays");
        if (opened.device) document_.setDeviceRate(opened.rate);
        started(std::move(opened.device));
      },
      [this](const QString& fault) {
        opening_ = false;
        Q_EMIT told("Sound card: " + fault + "; the simulated device plays");
        started(nullptr);
      });
}

void Transport::started(std::shared_ptr<AudioDevice> device) {
  if (!device) {
    player_.setDeviceRate(document_.track().sampleRate);
    document_.setDeviceRate(document_.track().sampleRate);
    device = openSimulated(player_, {qEnvironmentVariable("HEFT_CAPTURE").toStdString(), {}});
  }
  device_ = std::move(device);
  // Filters are made for a rate.
  player_.setListen(listen_);
  Q_EMIT heardChanged();
  if (alone_)
    playAlone();
  else
    player_.play(std::exchange(countIn_, 0.0), start_);
  deviceName_ = QString::fromStdString(device_->name());
  simulated_ = device_->isSimulated();
  if (!soundAlone_) timer_.start();
  Q_EMIT stateChanged();
}

void Transport::stop() {
  // A device that is still opening is stopped once it is open.
  if (opening_) {
    QTimer::singleShot(100, this, &Transport::stop);
    return;
  }
  if (!device_) return;
  player_.stop();
  timer_.stop();
  // Lets the fade of 20 ms finish before the device closes.
  QTimer::singleShot(60, this, [this] {
    if (player_.isPlaying()) return;
    device_.reset();
    soundAlone_ = false;
    Q_EMIT stateChanged();
    Q_EMIT moved();
  });
}

void Transport::tick() {
  if (device_ && !device_->isAlive()) {
    Q_EMIT told(QString::fromStdString(device_->name()) + " went away; the simulated device plays");
    device_.reset();
    device_ = openSimulated(player_);
    deviceName_ = QString::fromStdString(device_->name());
    simulated_ = true;
    Q_EMIT stateChanged();
  }
  player_.collect();
  tellPlayhead();
  // A song stops by itself at its end.
  if (device_ && !soundAlone_ && !player_.isPlaying()) stop();
  Q_EMIT moved();
}

void Transport::takeSnapshot() {
  const auto snapshot = document_.snapshot();
  if (!snapshot) return;
  feed_.feed(snapshot);
  player_.setSnapshot(snapshot);
}

void Transport::locate(double quarters) {
  start_ = std::clamp(quarters, 0.0, std::max(0.0, document_.track().loopQuarters() - 1e-6));
  feed_.locate(start_, isPlaying());
  tellPlayhead();
  Q_EMIT moved();
  Q_EMIT located();
}

void Transport::setRegion(std::optional<std::pair<double, double>> quarters) {
  constexpr double kShortest = 0.25;
  if (quarters && quarters->second - quarters->first < kShortest) quarters.reset();
  if (quarters == region_) return;
  region_ = quarters;
  player_.setRegion(region_);
  feed_.setRegionStart(region_ ? region_->first : -1.0);
  if (region_ && !isPlaying()) start_ = region_->first, tellPlayhead();
  Q_EMIT regionChanged();
  Q_EMIT moved();
  if (region_) Q_EMIT located();
}

void Transport::setBefore(bool before) {
  if (before == before_) return;
  before_ = before;
  feed_.setBefore(before);
  tellPlayhead();
  // Of a song Before's level is matched only where it is heard.
  if (before && document_.track().song) document_.renew();
  player_.setBefore(before);
  Q_EMIT stateChanged();
}

void Transport::setListen(const ListenTo& listen) {
  if (listen == listen_) return;
  listen_ = listen;
  player_.setListen(listen);
  document_.setListen(listen);
  Q_EMIT heardChanged();
  Q_EMIT stateChanged();
}

void Transport::setMatch(double beforeDb, double referenceDb) {
  player_.setMatch(static_cast<float>(amplitudeFromDb(beforeDb)),
                   static_cast<float>(amplitudeFromDb(referenceDb)));
}

void Transport::setSolo(int lane, bool on) {
  lanes_.setSolo(lane, on);
  applyHeard();
}

void Transport::setMuted(int lane, bool on) {
  lanes_.setMuted(lane, on);
  applyHeard();
}

void Transport::applyHeard() {
  silenced_ = lanes_.silencedOf(document_.session());
  player_.setSilenced(silenced_);
  document_.setSilenced(silenced_);
  Q_EMIT heardChanged();
  Q_EMIT stateChanged();
}

void Transport::chooseDevice(QString id) {
  const bool playing = isPlaying();
  if (playing) {
    player_.stop();
    device_.reset();
    timer_.stop();
  }
  if (id != deviceId_) otherId_ = std::exchange(deviceId_, id);
  deviceName_ = kDefaultName;
  for (const DeviceChoice& d : deviceChoices())
    if (QString::fromStdString(d.id) == id) deviceName_ = QString::fromStdString(d.name);
  simulated_ = id == "simulated";
  monitor_.chooseDevice(deviceId_);
  if (playing) play();
  Q_EMIT stateChanged();
}

}  // namespace heft::app
