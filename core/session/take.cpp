#include "core/session/take.h"

#include <algorithm>
#include <cmath>

namespace heft {
namespace {

constexpr double kShortestTaken = 1.0 / 32.0;

}  // namespace

std::optional<Note> Take::press(int midi, double velocity, double at) {
  auto before = end(at);
  Note n;
  n.midi = std::clamp(midi, 0, 127), n.velocity = std::clamp(velocity, 1.0 / 127.0, 1.0);
  const double line = nearestLine(settings_.grid, at);
  n.startQuarters = wrappedQuarters(at + settings_.strength * (line - at), settings_.loopQuarters);
  sounding_ = n;
  pressedAt_ = at;
  return before;
}

std::optional<Note> Take::release(int midi, double at) {
  return sounding_ && sounding_->midi == midi ? end(at) : std::nullopt;
}

std::optional<Note> Take::end(double at) {
  if (!sounding_) return std::nullopt;
  Note out = *sounding_;
  sounding_.reset();
  // A press late in the loop may be released early in its next pass.
  double held = at - pressedAt_;
  if (held < 0.0) held += settings_.loopQuarters;
  out.lengthQuarters = std::clamp(held, kShortestTaken, settings_.loopQuarters);
  return out;
}

void Take::bend(double value, double at) {
  value = std::clamp(value, -1.0, 1.0);
  at = wrappedQuarters(at, settings_.loopQuarters);
  if (wheel_.empty() && value == 0.0) return;
  const bool round = !wheel_.empty() && at < wheel_.back().quarters;
  if (round) wheel_.clear();
  if (wheel_.size() < 10000) wheel_.push_back({at, value});
}

void insertPlayed(std::vector<Hit>& hits, const Hit& played, double loop) {
  if (played.startQuarters >= loop - kSameMoment) return;
  std::erase_if(hits,
                [&](const Hit& h) { return std::abs(h.startQuarters - played.startQuarters) < kSameMoment; });
  if (hits.size() < kMostHits) hits.push_back(played);
  std::stable_sort(hits.begin(), hits.end(),
                   [](const Hit& a, const Hit& b) { return a.startQuarters < b.startQuarters; });
}

void insertPlayed(std::vector<Note>& notes, const Note& played, double loop) {
  const double start = played.startQuarters, end = std::min(played.endQuarters(), loop);
  std::erase_if(notes, [&](const Note& n) {
    return n.startQuarters >= start - kSameMoment && n.startQuarters < end - kSameMoment;
  });
  for (Note& n : notes)
    if (n.startQuarters < start && n.endQuarters() > start)
      n.lengthQuarters = std::max(kShortestTaken, start - n.startQuarters), n.tie = false;
  if (notes.size() < kMostHits) notes.push_back(played);
  std::stable_sort(notes.begin(), notes.end(),
                   [](const Note& a, const Note& b) { return a.startQuarters < b.startQuarters; });
}

void insertPlayed(std::vector<WheelPoint>& wheel, const std::vector<WheelPoint>& played) {
  if (played.empty()) return;
  const double from = played.front().quarters, to = played.back().quarters;
  std::erase_if(wheel, [&](const WheelPoint& p) { return p.quarters >= from && p.quarters <= to; });
  if (wheel.empty() && from > 0.0) wheel.push_back({std::max(0.0, from - 0.01), 0.0});
  wheel.insert(wheel.end(), played.begin(), played.end());
  std::stable_sort(wheel.begin(), wheel.end(),
                   [](const WheelPoint& a, const WheelPoint& b) { return a.quarters < b.quarters; });
}

}  // namespace heft
