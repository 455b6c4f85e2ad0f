#include "app/transport.h"

namespace heft::app {
namespace {

constexpr int kTickMs = 25;

}  // namespace

Transport::Transport(Document& document, QObject* parent) : QObject(parent), document_(document) {
  timer_.setInterval(kTickMs);
  connect(&timer_, &QTimer::timeout, this, &Transport::tick);
  connect(&document_, &Document::rendered, this, [this] {
    if (document_.snapshot()) player_.setSnapshot(document_.snapshot());
  });
}

Transport::~Transport() {
  device_.reset();
}

void Transport::play() {
  if (device_) return;
  const std::string id = deviceId_.toStdString();
  const double rate = deviceRateFor(id, document_.track().sampleRate);
  player_.setDeviceRate(rate);
  document_.setDeviceRate(rate);
  if (document_.snapshot()) player_.setSnapshot(document_.snapshot());
  player_.play();
  if (id != "simulated") {
    auto opened = openSoundCard(id, player_);
    if (opened)
      device_ = std::move(*opened);
    else if (!deviceId_.isEmpty())
      Q_EMIT told(QString::fromStdString(opened.error().sentence()) + "; the simulated device plays");
  }
  if (!device_) device_ = openSimulated(player_, qEnvironmentVariable("HEFT_CAPTURE").toStdString());
  deviceName_ = QString::fromStdString(device_->name());
  simulated_ = device_->isSimulated();
  timer_.start();
  Q_EMIT stateChanged();
}

void Transport::stop() {
  if (!device_) return;
  player_.stop();
  timer_.stop();
  // The fade of 20 ms is let out before the device goes.
  QTimer::singleShot(60, this, [this] {
    if (player_.isPlaying()) return;
    device_.reset();
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
  Q_EMIT moved();
}

void Transport::setBefore(bool before) {
  if (before == before_) return;
  before_ = before;
  player_.setBefore(before);
  Q_EMIT stateChanged();
}

void Transport::setListen(Listen listen) {
  if (listen == listen_) return;
  listen_ = listen;
  player_.setListen(listen);
  Q_EMIT stateChanged();
}

void Transport::setSolo(Lane lane, bool on) {
  if (on)
    solo_.insert(lane);
  else
    solo_.erase(lane);
  applyHeard();
}

void Transport::setMuted(Lane lane, bool on) {
  if (on)
    muted_.insert(lane);
  else
    muted_.erase(lane);
  applyHeard();
}

void Transport::applyHeard() {
  for (Lane lane : {Lane::Kick, Lane::Bass, Lane::Backing})
    player_.setLaneHeard(lane, !muted_.contains(lane) && (solo_.empty() || solo_.contains(lane)));
  Q_EMIT stateChanged();
}

void Transport::chooseDevice(const QString& id) {
  const bool playing = isPlaying();
  if (playing) {
    player_.stop();
    device_.reset();
    timer_.stop();
  }
  deviceId_ = id;
  for (const DeviceChoice& d : deviceChoices())
    if (QString::fromStdString(d.id) == id) deviceName_ = QString::fromStdString(d.name);
  simulated_ = id == "simulated";
  if (playing) play();
  Q_EMIT stateChanged();
}

}  // namespace heft::app
