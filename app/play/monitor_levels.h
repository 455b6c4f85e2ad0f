#pragma once
/// How loud one listens: the monitor gain of each device, auditions, the click. Remembered in the settings,
/// never in a session.

#include <QObject>
#include <QString>

namespace heft {
class Player;
}

namespace heft::app {

class MonitorLevels : public QObject {
  Q_OBJECT
 public:
  /// `player` must outlive it.
  explicit MonitorLevels(Player& player, QObject* parent = nullptr);

  /// Monitor gain of the chosen device, in dB; a new device starts at kSafeDb.
  double outputDb() const { return outputDb_; }
  void setOutputDb(double db);
  static constexpr double kSafeDb = -12.0, kLeastOutputDb = -60.0;
  /// Takes the level remembered for that device; empty: the default output.
  void chooseDevice(const QString& id);

  /// Level of library auditions above matched.
  double previewDb() const { return previewDb_; }
  void setPreviewDb(double db);

  /// The count-in's click in dB, and whether it continues while recording.
  double clickDb() const { return clickDb_; }
  bool clickGoesOn() const { return clickGoesOn_; }
  void setClick(double db, bool goesOn);
  /// Whether the click continues during the loop: while a take runs.
  void letClickGoOn(bool taking);

 Q_SIGNALS:
  void changed();

 private:
  void applyClick();
  QString outputKey() const;

  Player& player_;
  QString deviceId_;
  double outputDb_ = kSafeDb, previewDb_ = 0.0, clickDb_ = -10.0;
  bool clickGoesOn_ = true, taking_ = false;
};

}  // namespace heft::app
