#include "core/render/lanes/lane_chain.h"

#include <algorithm>
#include <cmath>
#include <tuple>

#include "core/measure/levels/k_weighting.h"
#include "core/measure/levels/kept_loudness.h"
#include "core/measure/levels/levels.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_steps.h"
#include "core/render/sounds/field_keys.h"
#include "core/shape/true_peak.h"
#include "core/sound/convolve.h"

namespace heft {
namespace {

// The numbers of a drive's memory, in one order.
constexpr size_t kDriveMemory = 3 + std::tuple_size_v<decltype(DriveState::filters)>;

DriveState driveStateOf(const double* m) {
  DriveState out{m[0], m[1], static_cast<float>(m[2])};
  std::copy_n(m + 3, out.filters.size(), out.filters.begin());
  return out;
}

void remember(const DriveState& state, double* m) {
  m[0] = state.offset, m[1] = state.untilNext, m[2] = state.held;
  std::copy(state.filters.begin(), state.filters.end(), m + 3);
}

Signal drivenLane(const Signal& x, const Drive& drive, double rate, StepCache& cache) {
  if (!drive.on) return x;
  KeyMaker what("drive");
  addFields(what, drive, 120.0);
  const double settle = driveRemembers(drive) ? 2.0 : 0.0;
  auto make = [x, drive, rate](size_t b, Memory& memory) {
    AudioBuffer window = windowOf(x, b, kDriveReach, kDriveReach, rate);
    Block block;
    const bool remembers = driveRemembers(drive);
    if (remembers) memory.resize(kDriveMemory * x.channels(), 0.0);
    for (size_t c = 0; c < x.channels(); ++c) {
      DriveState state;
      if (remembers) state = driveStateOf(&memory[kDriveMemory * c]);
      block.channels.push_back(drivenPart(window.channels[c], kDriveReach, x.blockSize(b), drive, rate, state));
      if (remembers) remember(state, &memory[kDriveMemory * c]);
    }
    return block;
  };
  return running(x, {what.key(), kDriveReach, kDriveReach, settle, rate, x.channels(), make}, cache);
}

// A compressor's run over the lane: `use(sound, reduction)` makes a block of each and leaves the reduction.
template <class Use>
Signal runCompressor(const Signal& x, const char* name, const Compressor& c, double rate, StepCache& cache,
                     size_t channels, Use use) {
  KeyMaker what(name);
  addFields(what, c, 120.0);
  const double settle = 0.01 * std::max(c.attackMs, c.releaseMs);
  auto make = [x, rate, use](size_t b, Memory& memory) {
    AudioBuffer sound;
    sound.sampleRate = rate;
    sound.channels = x.hold(b)->channels;
    memory.resize(1, 0.0);
    return use(sound, memory[0]);
  };
  return running(x, {what.key(), 0, 0, settle, rate, channels, make}, cache);
}

// A limiter's: `use(window, count, state)`; the window extends past its first `count` frames.
template <class Use>
Signal runLimiter(const Signal& x, const char* name, const Limiter& l, double rate, StepCache& cache,
                  size_t channels, Use use) {
  KeyMaker what(name);
  addFields(what, l, 120.0);
  const size_t before = limiterReach(l), ahead = limiterAhead(rate) + before;
  const auto reach = static_cast<int64_t>(ahead);
  auto make = [x, before, ahead, rate, use](size_t b, Memory& memory) {
    AudioBuffer window = windowOf(x, b, before, ahead, rate);
    LimiterState state;
    if (!memory.empty()) state = {memory.back(), {memory.begin(), memory.end() - 1}};
    Block block = use(window, x.blockSize(b), state);
    memory = std::move(state.held);
    memory.push_back(state.gain);
    return block;
  };
  return running(x, {what.key(), reach, reach, 0.01 * l.releaseMs, rate, channels, make}, cache);
}

Signal compressed(const Signal& x, const Compressor& c, double rate, StepCache& cache) {
  if (!c.on) return x;
  return runCompressor(x, "compressor", c, rate, cache, x.channels(),
                       [c](AudioBuffer& sound, double& reduction) {
                         applyCompressor(sound, c, reduction);
                         return Block{std::move(sound.channels)};
                       });
}

Signal clipped(const Signal& x, const SoftClip& clip, double rate, StepCache& cache) {
  if (!clip.on) return x;
  KeyMaker what("soft clip");
  addFields(what, clip, 120.0);
  const auto reach = static_cast<int64_t>(kDriveReach + (clip.truePeak ? truePeakHoldReach(rate) : 0));
  auto make = [x, clip, reach, rate](size_t b, Memory&) {
    AudioBuffer window = windowOf(x, b, static_cast<size_t>(reach), static_cast<size_t>(reach), rate);
    applyRunningSoftClip(window, clip);
    for (auto& channel : window.channels)
      channel.erase(channel.begin(), channel.begin() + reach), channel.resize(x.blockSize(b));
    return Block{std::move(window.channels)};
  };
  return running(x, {what.key(), reach, reach, 0.0, rate, x.channels(), make}, cache);
}

Signal limited(const Signal& x, const Limiter& l, double rate, StepCache& cache) {
  if (!l.on) return x;
  return runLimiter(x, "limiter", l, rate, cache, x.channels(),
                    [l](AudioBuffer& window, size_t count, LimiterState& state) {
                      limitPart(window, limiterReach(l), count, l, state);
                      return Block{std::move(window.channels)};
                    });
}

Signal folded(const Signal& x, StepCache& cache) {
  return blocksOf(
      Signal(x.span(), 1), cache, [=](size_t b) { return KeyMaker("folded 2").add(x.key(b)).key(); },
      [=](size_t b) {
        const auto held = x.hold(b);
        // Mid, even where only one block is mono.
        std::vector<float> mid = held->channels.front();
        const auto& right = held->channels.back();
        for (size_t i = 0; i < mid.size(); ++i) mid[i] = 0.5f * (mid[i] + right[i]);
        return Block{{std::move(mid)}};
      });
}

// The room's output, one response a channel of the result, from the loop's mid or from its own channel, in
// parallel.
Signal convolvedLane(const Signal& x, const StepKey& what, const std::vector<std::vector<float>>& responses,
                     bool ofMiddle, double wet, double rate, StepCache& cache) {
  size_t longest = 0;
  for (const auto& r : responses) longest = std::max(longest, r.size());
  const auto before = static_cast<int64_t>(longest);
  auto make = [=](size_t b, Memory&) {
    const AudioBuffer window = windowOf(x, b, longest, 0, rate);
    Block block;
    for (size_t c = 0; c < responses.size(); ++c) {
      const auto& own = window.channels[std::min(c, window.channels.size() - 1)];
      std::vector<float> from = own;
      if (ofMiddle && window.channels.size() > 1)
        for (size_t i = 0; i < from.size(); ++i)
          from[i] = 0.5f * (window.channels[0][i] + window.channels[1][i]);
      const auto more = convolved(from, responses[c]);
      std::vector<float> out(own.begin() + before, own.end());
      for (size_t i = 0; i < out.size() && longest + i < more.size(); ++i)
        out[i] += static_cast<float>(wet) * more[longest + i];
      block.channels.push_back(std::move(out));
    }
    return block;
  };
  return running(x, {what, before, 0, 0.0, rate, responses.size(), make}, cache);
}

// Through a response about its centre: pre-ringing sounds ahead.
Signal throughLinearPhase(const Signal& x, const ReadyChain::One& one, double rate, StepCache& cache) {
  const size_t reach = one.response->size() / 2;
  const auto side = static_cast<int64_t>(reach);
  const StepKey what = KeyMaker("linear phase over a lane 1").add(one.responseKey).key();
  auto make = [x, response = one.response, reach, side, rate](size_t b, Memory&) {
    const AudioBuffer window = windowOf(x, b, reach, reach, rate);
    Block block;
    for (const auto& channel : window.channels) {
      const auto whole = convolved(channel, *response);
      const auto first = whole.begin() + 2 * side;
      block.channels.emplace_back(first, first + static_cast<ptrdiff_t>(x.blockSize(b)));
    }
    return block;
  };
  return running(x, {what, side, side, 0.0, rate, x.channels(), make}, cache);
}

Signal withBody(const Signal& x, const ReadyChain::One& one, double wet, double rate, StepCache& cache) {
  if (!one.response || one.response->empty() || wet == 0.0) return x;
  const StepKey what = KeyMaker("body over a lane 1").add(one.responseKey).add(wet).key();
  return convolvedLane(x, what, std::vector(x.channels(), *one.response), false, wet, rate, cache);
}

Signal inRoom(const Signal& x, const Room& room, double rate, StepCache& cache) {
  if (room.wet == 0.0) return x;
  KeyMaker what("room over a lane 1");
  addFields(what, room, 120.0);
  const auto responses = roomResponses(room, rate);
  return convolvedLane(x, what.key(), {responses[0], responses[1]}, true, room.wet, rate, cache);
}

// A gain that restarts at each strike: `gainAt` by ms since the latest.
template <class GainAt>
Signal struck(const Signal& x, const StepKey& what, const std::vector<double>& strikes, double rate,
              StepCache& cache, GainAt gainAt) {
  constexpr double kOverMs = 2.0;
  if (strikes.empty()) return x;
  // The strike at or before a frame, and the next one; a loop wraps, before a song's first strike and after its
  // last there is none for longer than anything lasts.
  auto around = [strikes, loop = static_cast<double>(x.frames()), wraps = x.span().wraps](double frame) {
    constexpr double kNever = 1e12;
    const auto next = std::upper_bound(strikes.begin(), strikes.end(), frame);
    return std::pair{next != strikes.begin() ? *(next - 1)
                     : wraps                 ? strikes.back() - loop
                                             : -kNever,
                     next != strikes.end() ? *next
                     : wraps               ? strikes.front() + loop
                                           : kNever};
  };
  return blocksOf(
      x, cache,
      [=](size_t b) {
        const auto first = static_cast<double>(blockStart(b)),
                   end = first + static_cast<double>(x.blockSize(b));
        KeyMaker maker("struck 1");
        maker.add(what).add(x.key(b)).add(rate);
        for (double at = first; at < end;) {
          const auto [from, to] = around(at);
          maker.add(from - first).add(to - first);
          at = to;
        }
        return maker.key();
      },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto first = static_cast<double>(blockStart(b));
        const double over = kOverMs / 1000.0 * rate;
        auto [from, to] = around(first);
        for (size_t i = 0; i < x.blockSize(b); ++i) {
          const double frame = first + static_cast<double>(i);
          if (frame >= to) std::tie(from, to) = around(frame);
          double gain = gainAt((frame - from) / rate * 1000.0);
          if (const double ahead = (to - frame) / over; ahead < 1.0)
            gain += (1.0 - ahead) * (gainAt(0.0) - gain);
          for (auto& channel : block.channels) channel[i] = static_cast<float>(channel[i] * gain);
        }
        return block;
      });
}

// K-weighted power of each block of the loop, as weightedPowers() of a sound.
std::vector<double> lanePowers(const Signal& x, double rate, StepCache& cache) {
  constexpr double kSettleSeconds = 0.5;
  const auto weighting = kWeighting(rate);
  const StepKey what = KeyMaker("K-weighting over a lane 1").key();
  const Signal weighted =
      filteredStem(x, what, {weighting.begin(), weighting.end()}, kSettleSeconds, rate, cache);
  std::vector<double> out;
  for (size_t b = 0; b < weighted.blockCount(); ++b)
    out.push_back(*cache.get<double>(
        KeyMaker("power of a block 1").add(weighted.key(b)).key(),
        [&] {
          double sum = 0.0;
          const auto held = weighted.hold(b);
          for (const auto* channel : {&held->channels.front(), &held->channels.back()})
            sum += energyOf(std::span<const float>(*channel));
          return sum;
        },
        [](double) { return size_t{64}; }));
  return out;
}

struct Run {
  const Signal& x;
  const ReadyChain::One& one;
  const std::vector<double>& strikes;
  double rate;
  StepCache& cache;

  template <class P>
  StepKey keyOf(const char* name, const P& p) const {
    KeyMaker what(name);
    addFields(what, p, 120.0);
    return what.key();
  }
  Signal operator()(const AmpEnvelope& p) const {
    return struck(x, keyOf("envelope", p), strikes, rate, cache,
                  [p](double ms) { return envelopeGain(p, ms); });
  }
  Signal operator()(const StrikeSustain& p) const {
    return struck(x, keyOf("strike and sustain", p), strikes, rate, cache,
                  [p](double ms) { return amplitudeFromDb(strikeSustainDb(p, ms)); });
  }
  Signal operator()(const Eq& p) const {
    return one.response ? throughLinearPhase(x, one, rate, cache) : equalised(x, p, rate, cache);
  }
  Signal operator()(const Drive& p) const { return drivenLane(x, p, rate, cache); }
  Signal operator()(const Compressor& p) const { return compressed(x, p, rate, cache); }
  Signal operator()(const SoftClip& p) const { return clipped(x, p, rate, cache); }
  Signal operator()(const Limiter& p) const { return limited(x, p, rate, cache); }
  Signal operator()(const Body& p) const { return withBody(x, one, p.response.wet, rate, cache); }
  Signal operator()(const Room& p) const { return inRoom(x, p, rate, cache); }
  Signal operator()(const Width& p) const { return widened(x, p, rate, cache); }
  Signal operator()(const Gain& p) const { return levelled(x, p.db, cache); }
};

}  // namespace

Signal equalised(const Signal& x, const Eq& eq, double rate, StepCache& cache) {
  const auto sections = eqSections(eq, rate);
  if (sections.empty()) return x;
  KeyMaker what("eq");
  addFields(what, eq, 120.0);
  return filteredStem(x, what.key(), sections, 3.0, rate, cache);
}

Signal widened(const Signal& x, const Width& width, double rate, StepCache& cache) {
  if (!width.works() || x.channels() < 2) return x;
  if (width.width == 0.0) return folded(x, cache);
  KeyMaker what("width 1");
  addFields(what, width, 120.0);
  const size_t remembered = 2 * sideSections(width, rate).size();
  auto make = [x, width, remembered, rate](size_t b, Memory& memory) {
    AudioBuffer sound;
    sound.sampleRate = rate;
    sound.channels = x.hold(b)->channels;
    memory.resize(remembered, 0.0);
    applyWidth(sound, width, memory.data());
    return Block{std::move(sound.channels)};
  };
  return running(x, {what.key(), 0, 0, remembered > 0 ? 2.0 : 0.0, rate, 2, make}, cache);
}

std::optional<Signal> takenFromLane(const Signal& x, const Processor& p, double rate, StepCache& cache) {
  if (const auto* c = p.as<Compressor>())
    return runCompressor(
        x, "taken by a compressor", *c, rate, cache, 1,
        [c = *c](AudioBuffer& sound, double& reduction) { return Block{{takenDb(sound, c, reduction)}}; });
  if (const auto* l = p.as<Limiter>())
    return runLimiter(x, "taken by a limiter", *l, rate, cache, 1,
                      [l = *l](AudioBuffer& window, size_t count, LimiterState& state) {
                        return Block{{takenDb(window, limiterReach(l), count, l, state)}};
                      });
  const auto* clip = p.as<SoftClip>();
  if (!clip) return std::nullopt;
  KeyMaker what("taken by a soft clip");
  addFields(what, *clip, 120.0);
  auto make = [x, rate, clip = *clip](size_t b, Memory&) {
    return Block{{takenDb(windowOf(x, b, 0, 0, rate), clip)}};
  };
  return running(x, {what.key(), 0, 0, 0.0, rate, 1, make}, cache);
}

Signal chainedLane(const Signal& x, const ReadyChain& chain, const std::vector<double>& strikeFrames,
                   double rate, StepCache& cache) {
  Signal out = x;
  if (x.frames() == 0) return out;
  for (const auto& one : chain.all) {
    const Signal before = out;
    out = std::visit(
        [&](const auto& p) {
          return Run{before, one, strikeFrames, rate, cache}(p);
        },
        one.processor.what);
    if (one.keepsLoudness())
      out = levelled(out, keptLoudnessDb(lanePowers(before, rate, cache), lanePowers(out, rate, cache)), cache);
  }
  return out;
}

}  // namespace heft
