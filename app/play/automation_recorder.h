#pragma once
/// Records values that are turned while the track plays, by a controller or by hand, as automation.

#include <QTimer>
#include <vector>

#include "app/play/transport.h"
#include "core/session/edits/automation.h"

namespace heft::app {

class AutomationRecorder : public QObject {
  Q_OBJECT
 public:
  AutomationRecorder(Document& document, Transport& transport, QObject* parent);
  bool isOn() const { return on_; }
  /// Off: what is being recorded is kept.
  void setOn(bool on);

 Q_SIGNALS:
  void changed();

 private:
  /// One value from the first turn until it rests for a second, the playhead jumps back, or Stop.
  struct Take {
    AutomationOf of;
    Value before;                         ///< the value itself
    std::optional<Automation> automated;  ///< as it was
    std::vector<AutomationPoint> points;
  };
  void turning(const TurnedValue& value);
  void turned(const TurnedValue& value);
  void end();
  void endWhereItJumped();
  Take* takeOf(const TurnedValue& value);

  Document& document_;
  Transport& transport_;
  std::vector<Take> takes_;
  QTimer still_;
  bool on_ = false;
  double last_ = 0.0;  ///< quarters
};

}  // namespace heft::app
