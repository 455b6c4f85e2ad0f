#pragma once
/// Lays a song's blocks out ahead of the playhead and takes those away that it has left. A loop has all of them
/// from the start.

#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>

#include "engine/player/player.h"

namespace heft {

/// What is near a place of a song, in blocks: from a little before it to some seconds after.
struct FedStretch {
  size_t first = 0, end = 0;
};

class SongFeed {
 public:
  /// `player` outlives it.
  explicit SongFeed(Player& player);
  ~SongFeed();

  /// The snapshot that plays next, with what sounds first laid out (layOut()): the rest follows aside. Loops
  /// need nothing.
  void feed(std::shared_ptr<const LoopSnapshot> snapshot);
  /// Lays out what is there, and then lets the player go there where it `jumps`.
  void locate(double quarters, bool jumps);
  /// What sounds first from there, before any other thread knows the snapshot.
  static void layOut(const LoopSnapshot& snapshot, double quarters, double deviceRate, bool before);
  /// Before too is laid out from now on, or no longer.
  void setBefore(bool heard) { before_ = heard; }
  /// A region's start is kept ready as well, in quarters; negative: none.
  void setRegionStart(double quarters) { regionStart_ = quarters; }

  static constexpr double kAheadSeconds = 6.0, kFirstSeconds = 0.4;

 private:
  void run(const std::stop_token& stop);
  void lay(const LoopSnapshot& snapshot, double quarters, double seconds, const std::stop_token& stop);
  void drop(const LoopSnapshot& snapshot, double quarters);
  void freeTaken();

  Player& player_;
  std::atomic<bool> before_{false};
  std::atomic<double> regionStart_{-1.0};
  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::shared_ptr<const LoopSnapshot> snapshot_;
  std::optional<std::pair<double, bool>> goTo_;
  double anchor_ = 0.0;  ///< where the player was last told to go, in quarters: it may not be there yet
  bool asked_ = false;
  std::mutex laying_;
  /// Blocks that the callback may still read, with its turn when they were hidden.
  std::vector<std::pair<uint64_t, std::shared_ptr<const Block>>> taken_;
  std::jthread thread_;
};

}  // namespace heft
