#include "core/render/lane_finish.h"

#include <algorithm>
#include <cmath>

#include "core/render/field_keys.h"
#include "core/render/lane_blocks.h"
#include "core/render/lane_steps.h"

namespace heft {
namespace {

// A block of the lane with `before` and `after` frames of its surroundings; the loop goes round.
AudioBuffer windowOf(const Stem& x, size_t b, size_t before, size_t after, double rate) {
  AudioBuffer out;
  out.sampleRate = rate;
  const auto first = static_cast<int64_t>(b * kBlockFrames) - static_cast<int64_t>(before);
  for (size_t c = 0; c < x.channels(); ++c)
    out.channels.push_back(x.wrapped(c, first, before + x.blockSize(b) + after));
  return out;
}

Stem drivenLane(const Stem& x, const Drive& drive, double rate, StepCache& cache) {
  if (!drive.on) return x;
  KeyMaker what("drive");
  addFields(what, drive, 120.0);
  const double settle = driveRemembers(drive) ? 2.0 : 0.0;
  return running(x, what.key(), {kDriveReach, kDriveReach}, settle, rate, cache, x.channels(),
                 [&](size_t b, Memory& memory) {
                   AudioBuffer window = windowOf(x, b, kDriveReach, kDriveReach, rate);
                   Block block;
                   const bool remembers = driveRemembers(drive);
                   if (remembers) memory.resize(3 * x.channels(), 0.0);
                   for (size_t c = 0; c < x.channels(); ++c) {
                     DriveState state;
                     if (remembers)
                       state = {memory[3 * c], memory[3 * c + 1], static_cast<float>(memory[3 * c + 2])};
                     block.channels.push_back(
                         drivenPart(window.channels[c], kDriveReach, x.blockSize(b), drive, rate, state));
                     if (remembers)
                       memory[3 * c] = state.offset, memory[3 * c + 1] = state.untilNext,
                                  memory[3 * c + 2] = state.held;
                   }
                   return block;
                 });
}

Stem compressed(const Stem& x, const Compressor& c, double rate, StepCache& cache) {
  if (!c.on) return x;
  KeyMaker what("compressor");
  addFields(what, c, 120.0);
  const double settle = 0.01 * std::max(c.attackMs, c.releaseMs);
  return running(x, what.key(), {}, settle, rate, cache, x.channels(), [&](size_t b, Memory& memory) {
    AudioBuffer sound;
    sound.sampleRate = rate;
    sound.channels = x.block(b).channels;
    memory.resize(1, 0.0);
    applyCompressor(sound, c, memory[0]);
    return Block{std::move(sound.channels)};
  });
}

Stem clipped(const Stem& x, const SoftClip& clip, double rate, StepCache& cache) {
  if (!clip.on) return x;
  KeyMaker what("soft clip");
  addFields(what, clip, 120.0);
  return running(
      x, what.key(), {kDriveReach, kDriveReach}, 0.0, rate, cache, x.channels(), [&](size_t b, Memory&) {
        AudioBuffer window = windowOf(x, b, kDriveReach, kDriveReach, rate);
        applyRunningSoftClip(window, clip);
        for (auto& channel : window.channels)
          channel.erase(channel.begin(), channel.begin() + kDriveReach), channel.resize(x.blockSize(b));
        return Block{std::move(window.channels)};
      });
}

Stem limited(const Stem& x, const Limiter& l, double rate, StepCache& cache) {
  if (!l.on) return x;
  KeyMaker what("limiter");
  addFields(what, l, 120.0);
  const size_t ahead = limiterAhead(rate);
  return running(x, what.key(), {static_cast<int64_t>(ahead), static_cast<int64_t>(ahead)}, 0.01 * l.releaseMs,
                 rate, cache, x.channels(), [&](size_t b, Memory& memory) {
                   AudioBuffer window = windowOf(x, b, 0, ahead, rate);
                   LimiterState state;
                   if (!memory.empty()) state = {memory.back(), {memory.begin(), memory.end() - 1}};
                   limitPart(window, x.blockSize(b), l, state);
                   memory = std::move(state.held);
                   memory.push_back(state.gain);
                   return Block{std::move(window.channels)};
                 });
}

Stem folded(const Stem& x, double rate, StepCache& cache) {
  if (x.channels() < 2) return x;
  Stem out(x.frames(), 1);
  for (size_t b = 0; b < x.blockCount(); ++b) {
    const StepKey key = KeyMaker("folded 1").add(x.key(b)).key();
    out.push(cache.get<Block>(
                 key,
                 [&] {
                   AudioBuffer sound;
                   sound.sampleRate = rate;
                   sound.channels = x.block(b).channels;
                   const auto mono = monoFold(sound);
                   return Block{{std::vector<float>(mono.begin(), mono.end())}};
                 },
                 bytesOfBlock),
             key);
  }
  return out;
}

}  // namespace

Stem equalised(const Stem& x, const Eq& eq, double rate, StepCache& cache) {
  const auto sections = eqSections(eq, rate);
  if (sections.empty()) return x;
  KeyMaker what("eq");
  addFields(what, eq, 120.0);
  return filteredStem(x, what.key(), sections, 3.0, rate, cache);
}

Stem finishedLane(const Stem& x, const Finish& f, double rate, StepCache& cache) {
  if (!f.works() || x.frames() == 0) return x;
  Stem out = equalised(x, f.eq, rate, cache);
  out = drivenLane(out, f.drive, rate, cache);
  out = compressed(out, f.compressor, rate, cache);
  out = clipped(out, f.softClip, rate, cache);
  out = limited(out, f.limiter, rate, cache);
  return f.mono ? folded(out, rate, cache) : out;
}

}  // namespace heft
