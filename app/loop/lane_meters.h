#pragma once
/// Levels while the loop plays: of each lane as it was rendered, where the playhead went, Now or Before as it
/// is heard, and of what goes out; what compressors, clips and limiters take. Held for a while, then let go; at
/// rest when the loop stops.

#include <map>
#include <optional>

#include "app/play/transport.h"

namespace heft::app {

struct MeterReading {
  double db = -120.0, heldDb = -120.0;
  bool over = false;     ///< it has passed 0 dBTP since the loop was started
  double takenDb = 0.0;  ///< 0 and up
};

class LaneMeters : public QObject {
  Q_OBJECT
 public:
  LaneMeters(Document& document, Transport& transport, QObject* parent = nullptr);
  /// A part by its id, or kBackingLane; at rest for one that is silenced.
  MeterReading lane(int id) const;
  /// What goes to the device, before the output's own level.
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
