#pragma once
/// The time that signals cover.

#include <cstddef>
#include <cstdint>
#include <optional>

namespace heft {

/// A loop wraps: its end is its start's past, and tails sound in its beginning. A song starts at rest and is
/// silent outside.
struct Span {
  size_t frames = 0;
  bool wraps = true;
  bool operator==(const Span&) const = default;

  /// The frame that sounds there; nothing outside of a song.
  std::optional<size_t> inside(int64_t frame) const {
    const auto n = static_cast<int64_t>(frames);
    if (n == 0) return std::nullopt;
    if (wraps) return static_cast<size_t>(((frame % n) + n) % n);
    return frame >= 0 && frame < n ? std::optional(static_cast<size_t>(frame)) : std::nullopt;
  }
};

}  // namespace heft
