#pragma once
/// Draws waves: a line close up, else a stroke per pixel from its minimum to its maximum.

#include <QColor>
#include <functional>
#include <span>
#include <utility>

#include "core/render/lanes/lane_wave.h"
#include "core/render/lanes/signal.h"

class QPainter;

namespace heft::app {

/// Source of a wave: a sample, and the minimum and maximum of a range, `from` to before `to`, at least one
/// frame. Must not outlive the samples.
struct WaveReader {
  std::function<float(int64_t)> at;
  std::function<std::pair<float, float>(int64_t from, int64_t to)> range;

  /// For samples computed on demand: slow over long ranges.
  template <class At>
  WaveReader(At sample) : at(sample) {
    range = [sample](int64_t from, int64_t to) {
      std::pair<float, float> out(sample(from), sample(from));
      for (int64_t i = from + 1; i < to; ++i) {
        const float x = sample(i);
        out.first = std::min(out.first, x), out.second = std::max(out.second, x);
      }
      return out;
    };
  }
  /// A sound; silence outside. Cost: a second of range in some 20 us.
  WaveReader(std::span<const float> samples, float scale);
  /// A lane's channel, with its ends held outside.
  WaveReader(const Signal& stem, size_t channel, float scale);
  /// A song's lane, from its steps: no sample is read.
  WaveReader(const LaneWave& wave, float scale);
};

/// From frame `first` at `left` on. With a clipped painter it reads and draws only the visible part.
void drawWave(QPainter& painter, double left, double right, double middle, double height, double first,
              double framesPerPixel, const WaveReader& wave, const QColor& colour);

}  // namespace heft::app
