#pragma once
/// Meters while the loop plays: each rendered lane at the playhead, Now or Before, the output, and gain
/// reduction. With peak hold; at rest when the loop stops.

#include <map>
#include <optional>

#include "app/play/transport.h"

namespace heft::app {

struct MeterReading {
  double db = -120.0, heldDb = -120.0;
  bool over = false;     ///< exceeded 0 dBTP since the loop was started
  double takenDb = 0.0;  ///< 0 and up
};

class LaneMeters : public QObject {
  Q_OBJECT
 public:
  LaneMeters(Document& document, Transport& transport, QObject* parent = nullptr);
  /// A part by its id, or kBackingLane; at rest for one that is silenced.
  MeterReading lane(int id) const;
  /// The output ahead of the monitor level.
  MeterReading output() const { return output_.shown; }

 private:
  struct Meter {
    MeterReading shown;
    double heldForMs = 0.0;
  };
  void read();
  static void feed(Meter& meter, double peak, double takenDb, double ms);
  double gainOf(int lane) const;
  Document& document_;
  Transport& transport_;
  std::map<int, Meter> lanes_;
  Meter output_;
  std::optional<double> last_;  ///< quarters
};

}  // namespace heft::app
