#include "app/pictures/wave.h"

#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "app/pictures/axis.h"
#include "app/theme/theme.h"

namespace heft::app {
namespace {

using LeastMost = std::pair<float, float>;

// Eight at a time, or each comparison waits for the previous one.
LeastMost rangeOf(std::span<const float> x) {
  constexpr size_t kAtOnce = 8;
  std::array<float, kAtOnce> least, most;
  least.fill(x.front()), most.fill(x.front());
  size_t i = 0;
  for (; i + kAtOnce <= x.size(); i += kAtOnce)
    for (size_t k = 0; k < kAtOnce; ++k) {
      least[k] = std::min(least[k], x[i + k]);
      most[k] = std::max(most[k], x[i + k]);
    }
  for (; i < x.size(); ++i) least[0] = std::min(least[0], x[i]), most[0] = std::max(most[0], x[i]);
  return {*std::min_element(least.begin(), least.end()), *std::max_element(most.begin(), most.end())};
}

LeastMost joined(const LeastMost& a, const LeastMost& b) {
  return {std::min(a.first, b.first), std::max(a.second, b.second)};
}

}  // namespace

WaveReader::WaveReader(std::span<const float> samples, float scale) {
  const auto end = static_cast<int64_t>(samples.size());
  at = [=](int64_t i) { return i >= 0 && i < end ? scale * samples[static_cast<size_t>(i)] : 0.0f; };
  range = [=](int64_t from, int64_t to) {
    const int64_t first = std::clamp<int64_t>(from, 0, end), last = std::clamp<int64_t>(to, first, end);
    if (first == last) return LeastMost(0.0f, 0.0f);
    const LeastMost inside =
        rangeOf(samples.subspan(static_cast<size_t>(first), static_cast<size_t>(last - first)));
    const LeastMost scaled(scale * inside.first, scale * inside.second);
    return first == from && last == to ? scaled : joined(scaled, {0.0f, 0.0f});
  };
}

WaveReader::WaveReader(const Signal& stem, size_t channel, float scale) {
  const auto end = static_cast<int64_t>(stem.frames());
  at = [=, &stem](int64_t i) {
    return scale * stem.at(channel, static_cast<size_t>(std::clamp<int64_t>(i, 0, end - 1)));
  };
  range = [=, &stem](int64_t from, int64_t to) {
    const auto first = static_cast<size_t>(std::clamp<int64_t>(from, 0, end - 1)),
               last = static_cast<size_t>(std::clamp<int64_t>(to, static_cast<int64_t>(first) + 1, end));
    const float start = stem.at(channel, first);
    LeastMost out(start, start);
    for (size_t i = first; i < last;) {
      const std::span<const float> block = stem.channel(i / kBlockFrames, channel);
      const size_t in = i % kBlockFrames, count = std::min(block.size() - in, last - i);
      out = joined(out, rangeOf(block.subspan(in, count)));
      i += count;
    }
    return LeastMost(scale * out.first, scale * out.second);
  };
}

WaveReader::WaveReader(const LaneWave& wave, float scale) {
  at = [=, &wave](int64_t i) {
    const auto [least, most] = wave.range(i, i + 1);
    return scale * (std::abs(least) > std::abs(most) ? least : most);
  };
  range = [=, &wave](int64_t from, int64_t to) {
    const auto [least, most] = wave.range(from, to);
    return LeastMost(scale * least, scale * most);
  };
}

void drawWave(QPainter& p, double left, double right, double middle, double height, double first,
              double framesPerPixel, const WaveReader& wave, const QColor& colour) {
  // Only the dirty part, on the same pixels as the whole.
  const double across = framesPerPixel < 1.0 ? 1.0 / framesPerPixel : 1.0, whole = left;
  constexpr double kBeside = 3.0;
  if (p.hasClipping()) {
    const QRectF shown = p.clipBoundingRect();
    right = std::min(right, shown.right() + kBeside + across);
    left += across * std::floor(std::max(0.0, shown.left() - kBeside - across - left) / across);
  }
  auto frameAt = [&](double x) { return static_cast<int64_t>(first + (x - whole) * framesPerPixel); };
  // Close up a wave is a line, else strokes.
  if (framesPerPixel < 40.0) {
    QPolygonF line;
    auto point = [&](double x, float v) { line << QPointF(x, middle - 0.5 * height * v); };
    if (framesPerPixel < 8.0) {
      for (double x = left; x <= right; x += across) point(x, wave.at(frameAt(x)));
    } else {
      // The minimum and maximum of each pixel, in order: no strike is missed with few strokes.
      for (double x = left; x <= right; x += 1.0) {
        int64_t least = frameAt(x), most = least;
        for (int64_t i = least + 1; i < frameAt(x + 1.0); ++i)
          if (wave.at(i) < wave.at(least))
            least = i;
          else if (wave.at(i) > wave.at(most))
            most = i;
        point(x, wave.at(std::min(least, most)));
        if (least != most) point(x + 0.5, wave.at(std::max(least, most)));
      }
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(dataPen(colour));
    drawLineThrough(p, line);
    return;
  }
  std::vector<QLineF> strokes;
  for (double x = left; x < right; x += 1.0) {
    const int64_t from = frameAt(x);
    const auto [least, most] = wave.range(from, std::max(frameAt(x + 1.0), from) + 1);
    const double top = middle - 0.5 * height * most, bottom = middle - 0.5 * height * least;
    strokes.emplace_back(x + 0.5, top - 0.5, x + 0.5, bottom + 0.5);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(colour, 1.0));
  p.drawLines(strokes.data(), static_cast<int>(strokes.size()));
}

}  // namespace heft::app
