#include "app/play/monitor_levels.h"

#include <QSettings>
#include <algorithm>
#include <cmath>

#include "engine/player/player.h"

namespace heft::app {
namespace {

constexpr const char *kPreviewKey = "preview level", *kClickKey = "click level", *kClickOnKey = "click goes on";
constexpr double kLeastPreviewDb = -24.0, kMostPreviewDb = 12.0, kLeastClickDb = -40.0;

}  // namespace

MonitorLevels::MonitorLevels(Player& player, QObject* parent) : QObject(parent), player_(player) {
  const QSettings kept;
  previewDb_ = std::clamp(kept.value(kPreviewKey, 0.0).toDouble(), kLeastPreviewDb, kMostPreviewDb);
  clickDb_ = std::clamp(kept.value(kClickKey, clickDb_).toDouble(), kLeastClickDb, 0.0);
  clickGoesOn_ = kept.value(kClickOnKey, true).toBool();
  chooseDevice({});
  applyClick();
}

QString MonitorLevels::outputKey() const {
  return "output level/" + (deviceId_.isEmpty() ? QString("default") : QString(deviceId_).replace('/', '_'));
}

void MonitorLevels::chooseDevice(const QString& id) {
  deviceId_ = id;
  const double kept = QSettings().value(outputKey(), kSafeDb).toDouble();
  outputDb_ = std::isfinite(kept) ? std::clamp(kept, kLeastOutputDb, 0.0) : kSafeDb;
  player_.setOutputGain(outputDb_ <= kLeastOutputDb ? 0.0f : static_cast<float>(amplitudeFromDb(outputDb_)));
}

void MonitorLevels::setOutputDb(double db) {
  QSettings().setValue(outputKey(), std::clamp(db, kLeastOutputDb, 0.0));
  chooseDevice(deviceId_);
  Q_EMIT changed();
}

void MonitorLevels::setPreviewDb(double db) {
  previewDb_ = std::clamp(db, kLeastPreviewDb, kMostPreviewDb);
  QSettings().setValue(kPreviewKey, previewDb_);
  Q_EMIT changed();
}

void MonitorLevels::setClick(double db, bool goesOn) {
  clickDb_ = std::clamp(db, kLeastClickDb, 0.0), clickGoesOn_ = goesOn;
  QSettings settings;
  settings.setValue(kClickKey, clickDb_);
  settings.setValue(kClickOnKey, clickGoesOn_);
  applyClick();
}

void MonitorLevels::letClickGoOn(bool taking) {
  taking_ = taking;
  applyClick();
}

void MonitorLevels::applyClick() {
  player_.setClick(static_cast<float>(amplitudeFromDb(clickDb_)), clickGoesOn_ && taking_);
}

}  // namespace heft::app
