#include "engine/player/song_feed.h"

#include <algorithm>
#include <chrono>
#include <cmath>

namespace heft {
namespace {

constexpr double kBehindSeconds = 1.0;
constexpr auto kEvery = std::chrono::milliseconds(60);

FedStretch stretchAt(const LoopSnapshot& song, double quarters, double behindSeconds, double aheadSeconds,
                     double rate) {
  const double frame = std::max(0.0, quarters * song.framesPerQuarter);
  const double first = std::max(0.0, frame - behindSeconds * rate), end = frame + aheadSeconds * rate;
  const size_t all = (song.frames + kBlockFrames - 1) / kBlockFrames;
  return {std::min(all, static_cast<size_t>(first) / kBlockFrames),
          std::min(all, static_cast<size_t>(end) / kBlockFrames + 1)};
}

}  // namespace

SongFeed::SongFeed(Player& player) : player_(player) {
  thread_ = std::jthread([this](std::stop_token stop) { run(stop); });
}

SongFeed::~SongFeed() {
  thread_.request_stop();
  wake_.notify_all();
}

void SongFeed::feed(std::shared_ptr<const LoopSnapshot> snapshot) {
  {
    const std::lock_guard lock(mutex_);
    snapshot_ = std::move(snapshot), asked_ = true;
  }
  wake_.notify_all();
}

void SongFeed::locate(double quarters, bool jumps) {
  {
    const std::lock_guard lock(mutex_);
    goTo_ = {quarters, jumps}, asked_ = true;
  }
  wake_.notify_all();
}

void SongFeed::layOut(const LoopSnapshot& song, double quarters, double deviceRate, bool before) {
  if (song.span.wraps || song.frames == 0) return;
  const FedStretch stretch = stretchAt(song, quarters, 0.1, kFirstSeconds, deviceRate);
  for (size_t b = stretch.first; b < stretch.end; ++b)
    for (size_t i = 0; i < song.lanes; ++i) {
      song.after[i]->fill(b);
      if (before) song.before[i]->fill(b);
    }
}

// Nearest first, the lanes of a block together.
void SongFeed::lay(const LoopSnapshot& song, double quarters, double seconds, const std::stop_token& stop) {
  const FedStretch stretch = stretchAt(song, quarters, 0.1, seconds, player_.deviceRate());
  for (size_t b = stretch.first; b < stretch.end && !stop.stop_requested(); ++b)
    for (size_t i = 0; i < song.lanes; ++i) {
      const std::lock_guard lock(laying_);
      song.after[i]->fill(b);
      if (before_) song.before[i]->fill(b);
    }
}

void SongFeed::drop(const LoopSnapshot& song, double quarters) {
  const double rate = player_.deviceRate(), start = regionStart_;
  const FedStretch near = stretchAt(song, quarters, kBehindSeconds, 2.0 * kAheadSeconds, rate);
  const FedStretch again = start >= 0.0 ? stretchAt(song, start, 0.1, kAheadSeconds, rate) : FedStretch{};
  const FedStretch asked = stretchAt(song, anchor_, 0.1, kFirstSeconds, rate);
  auto keeps = [&](size_t b) {
    for (const FedStretch& s : {near, again, asked})
      if (b >= s.first && b < s.end) return true;
    return false;
  };
  const std::lock_guard lock(laying_);
  for (size_t i = 0; i < song.lanes; ++i)
    for (PlayedLane* lane : {song.after[i].get(), song.before[i].get()})
      for (size_t b = 0; b < lane->signal().blockCount(); ++b)
        if (lane->has(b) && (!keeps(b) || (lane == song.before[i].get() && !before_)))
          taken_.emplace_back(player_.turns(), lane->take(b));
}

// A callback that ran when a block was hidden has ended two turns later.
void SongFeed::freeTaken() {
  const uint64_t now = player_.turns();
  std::erase_if(taken_, [now](const auto& t) { return now >= t.first + 2; });
}

void SongFeed::run(const std::stop_token& stop) {
  while (!stop.stop_requested()) {
    std::shared_ptr<const LoopSnapshot> song;
    std::optional<std::pair<double, bool>> goTo;
    {
      std::unique_lock lock(mutex_);
      wake_.wait_for(lock, stop, kEvery, [this] { return asked_; });
      asked_ = false;
      song = snapshot_;
      goTo = std::exchange(goTo_, std::nullopt);
    }
    try {
      if (!song || song->span.wraps || song->frames == 0) {
        if (goTo && goTo->second) player_.locate(goTo->first);
        continue;
      }
      if (goTo) {
        anchor_ = goTo->first;
        lay(*song, anchor_, kFirstSeconds, stop);
        if (goTo->second) player_.locate(goTo->first);
      }
      const double at = player_.positionQuarters(), start = regionStart_;
      lay(*song, at, kAheadSeconds, stop);
      lay(*song, anchor_, kFirstSeconds, stop);
      if (start >= 0.0) lay(*song, start, kAheadSeconds, stop);
      drop(*song, at);
      freeTaken();
    } catch (const std::exception&) {
      // A block that cannot be made is silent; the worker says why.
    }
  }
}

}  // namespace heft
