#pragma once
/// The render worker: a thread that renders the newest session it was given and then measures it.

#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/looks/layer_looks.h"
#include "core/remedies/remedies.h"
#include "core/session/assets.h"
#include "engine/player/lane_levels.h"

namespace heft {

/// What to render.
struct Request {
  uint64_t number = 0;
  Session session;
  Assets assets;
  double deviceRate = 48000.0;
  References references = References::Measure;
  Edit before = leaveOut();       ///< the session behind Before
  SilencedLanes silenced = {};    ///< while one listens
  double playheadQuarters = 0.0;  ///< of a song: where it is heard next
  bool beforeIsHeard = false;     ///< of a song: only then is Before's level matched
  ListenTo listen = {};           ///< and through what
};

/// Result of a request. `snapshot` comes first, so that an edit plays at once; then again with lane levels,
/// with the figures, and as remedies have been tried.
struct Outcome {
  uint64_t number = 0;
  std::shared_ptr<const Stems> stems;
  std::shared_ptr<const LoopSnapshot> snapshot;
  std::shared_ptr<const std::vector<LayerSound>> layers;  ///< without figures in the first report
  std::shared_ptr<const LanePeaks> peaks;                 ///< of a song not in the first report
  std::shared_ptr<const LaneWaves> waves;  ///< of a song: how its lanes are drawn; not in the first report
  /// Meters of the lanes' heads, Now and Before; empty in the first report.
  std::shared_ptr<const LoopLevels> levels, levelsBefore;
  std::shared_ptr<const Study> study;  ///< nothing in the first two reports
  std::vector<Finding> findings;
  bool triedAll = false;  ///< every remedy was tried: this is the last report
  std::string fault;      ///< why the session cannot be rendered; then all else is empty
};

class Worker {
 public:
  /// `report` runs on the worker's thread, once with the sound, once with the levels, once with the figures,
  /// and once after each line whose remedies were tried; not for cancelled requests. A session that cannot be
  /// rendered is reported once, with its fault; so is one that throws.
  explicit Worker(std::function<void(Outcome)> report,
                  std::shared_ptr<StepCache> cache = std::make_shared<StepCache>());
  ~Worker();

  /// The newest request wins: an older waiting one is dropped, a running one is cancelled.
  void submit(Request request);

 private:
  void run(const std::stop_token& stop);
  void work(const Request& request, const std::stop_token& stop);

  std::function<void(Outcome)> report_;
  std::shared_ptr<StepCache> cache_;  ///< others may fill it too
  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::optional<Request> waiting_;
  std::stop_source current_;
  std::jthread thread_;
};

}  // namespace heft
