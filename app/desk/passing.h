#pragma once
/// What the playhead is on.

#include <algorithm>
#include <functional>
#include <optional>
#include <vector>

namespace heft::app {

/// The last of ascending events at or before a frame; nothing before the first. `frameOf`: of an event.
template <class Event, class FrameOf = std::identity>
std::optional<size_t> passing(const std::vector<Event>& events, double frame, FrameOf frameOf = {}) {
  const auto after = std::ranges::upper_bound(events, frame, {}, frameOf);
  if (after == events.begin()) return std::nullopt;
  return static_cast<size_t>(after - events.begin()) - 1;
}

}  // namespace heft::app
