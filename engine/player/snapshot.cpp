#include "engine/player/snapshot.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_steps.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

struct NamedLane {
  int id = 0;
  const Signal* stem = nullptr;
};

std::vector<NamedLane> lanesOf(const Stems& stems) {
  std::vector<NamedLane> out;
  for (const Lane& lane : stems.lanes) out.push_back({lane.part, &lane.heard});
  out.push_back({kBackingLane, &stems.backing});
  return out;
}

// The finished sum of the audible lanes.
Signal heardSum(const Stems& stems, const SilencedLanes& silenced, StepCache& cache) {
  const auto all = heardLanes(stems, silenced);
  if (all.empty()) return gainAtRest(Span{}, cache);
  return chainedLane(sumOf(all, cache), stems.sumChain, stems.hitFrames(), stems.sampleRate, cache);
}

// A finished sum as it is heard under a limiter or as a lossy file.
Signal sumThrough(const Signal& sum, double rate, const ListenTo& to, StepCache& cache) {
  if (!to.isPrepared() || sum.frames() == 0) return sum;
  const StepKey key = KeyMaker("heard through 1")
                          .add(sum.key())
                          .add(rate)
                          .add(listenText(to))
                          .add(to.ceilingDb)
                          .add(to.releaseMs)
                          .key();
  const auto heard = cache.get<AudioBuffer>(
      key, [&] { return heardThrough(stereoOf(sum.toBuffer(rate)), true, to); },
      [](const AudioBuffer& b) { return 4 * b.channelCount() * b.frames() + 64; });
  const Signal like(sum.span(), heard->channelCount());
  return blocksOf(
      like, cache, [=](size_t b) { return KeyMaker("block heard through 1").add(key).add(b).key(); },
      [=](size_t b) { return Block{framesOf(*heard, b * kBlockFrames, like.blockSize(b)).channels}; });
}

/// The lanes of both renders beside each other.
struct Pairs {
  std::vector<int> ids;
  std::vector<Signal> after, before;
};

Pairs pairsOf(const SnapshotAsk& ask, StepCache& cache) {
  Pairs out;
  if (ask.after.sumChain.works() || ask.before.sumChain.works() || ask.listen.isPrepared()) {
    out.ids = {LoopSnapshot::kWholeSum};
    for (auto [stems, into] : {std::pair{&ask.after, &out.after}, std::pair{&ask.before, &out.before}}) {
      Signal sum = heardSum(*stems, ask.silenced, cache);
      into->push_back(sum.frames() ? sumThrough(sum, stems->sampleRate, ask.listen, cache)
                                   : gainAtRest(stems->span, cache, 0.0f));
    }
    return out;
  }
  const auto now = lanesOf(ask.after), then = lanesOf(ask.before);
  auto find = [](const std::vector<NamedLane>& lanes, int id) {
    return std::find_if(lanes.begin(), lanes.end(), [id](const NamedLane& l) { return l.id == id; });
  };
  for (const NamedLane& lane : now) {
    const auto was = find(then, lane.id);
    out.ids.push_back(lane.id);
    out.after.push_back(*lane.stem);
    out.before.push_back(was != then.end() ? *was->stem : gainAtRest(ask.before.span, cache, 0.0f));
  }
  for (const NamedLane& lane : then) {
    if (find(now, lane.id) != now.end() || out.ids.size() >= kMostLanes) continue;
    out.ids.push_back(lane.id);
    out.after.push_back(gainAtRest(ask.after.span, cache, 0.0f));
    out.before.push_back(*lane.stem);
  }
  return out;
}

}  // namespace

std::vector<const Signal*> heardLanes(const Stems& stems, const SilencedLanes& silenced) {
  std::vector<const Signal*> out;
  for (const NamedLane& lane : lanesOf(stems))
    if (!silenced.contains(lane.id)) out.push_back(lane.stem);
  return out;
}

Signal convertedLoop(const Signal& stem, double fromRate, double toRate, StepCache& cache) {
  if (fromRate == toRate || stem.frames() == 0) return stem;
  const auto frames = static_cast<size_t>(std::lround(static_cast<double>(stem.frames()) * toRate / fromRate));
  const double step = static_cast<double>(stem.frames()) / static_cast<double>(frames);
  const auto pad = static_cast<int64_t>(std::ceil(40.0 * std::max(1.0, step)));
  // Start of a block in its source, and the range that it reads.
  auto at = [step](size_t b) { return static_cast<double>(b * kBlockFrames) * step; };
  auto first = [at, pad](size_t b) { return static_cast<int64_t>(std::floor(at(b))) - pad; };
  const Signal shape(Span{frames, stem.span().wraps}, stem.channels());
  auto count = [=](size_t b) {
    return static_cast<size_t>(std::ceil(static_cast<double>(shape.blockSize(b)) * step)) +
           2 * static_cast<size_t>(pad);
  };
  return blocksOf(
      shape, cache,
      [=](size_t b) {
        KeyMaker maker("converted 2");
        maker.add(step).add(at(b) - std::floor(at(b))).add(shape.blockSize(b));
        addSpan(maker, stem, first(b), static_cast<int64_t>(count(b)));
        return maker.key();
      },
      [=](size_t b) {
        Block block;
        for (size_t c = 0; c < stem.channels(); ++c)
          block.channels.push_back(readAt(stem.read(c, first(b), count(b)),
                                          at(b) - static_cast<double>(first(b)), step, shape.blockSize(b)));
        return block;
      });
}

namespace {

// Some seconds of a song from the block at `frame` on, as a stretch of its own.
Signal excerptOf(const Signal& x, double frame, double rate) {
  constexpr double kSeconds = 16.0;
  const size_t all = x.blockCount(), wanted = static_cast<size_t>(kSeconds * rate / kBlockFrames) + 1;
  const size_t first =
      std::min(static_cast<size_t>(std::max(0.0, frame)) / kBlockFrames, all - std::min(all, wanted));
  const size_t end = std::min(all, first + wanted);
  const size_t frames = (end == all ? x.frames() : end * kBlockFrames) - first * kBlockFrames;
  Signal out(Span{frames, false}, x.channels());
  for (size_t b = first; b < end; ++b) out.push(x.hold(b), x.key(b));
  return out;
}

// At the device's rate; of a loop all blocks are there.
std::shared_ptr<PlayedLane> played(const Signal& lane, const SnapshotAsk& ask, StepCache& cache) {
  auto out = std::make_shared<PlayedLane>(convertedLoop(lane, ask.after.sampleRate, ask.deviceRate, cache));
  if (lane.span().wraps) out->fillAll();
  return out;
}

}  // namespace

std::shared_ptr<const LoopSnapshot> makeSnapshot(const SnapshotAsk& ask, StepCache& cache) {
  if (ask.before.frames != ask.after.frames || ask.before.sampleRate != ask.after.sampleRate)
    return makeSnapshot({ask.after, ask.after, ask.framesPerQuarter, ask.deviceRate, ask.silenced, ask.listen},
                        cache);
  auto out = std::make_shared<LoopSnapshot>();
  const Pairs pairs = pairsOf(ask, cache);
  std::vector<const Signal*> now, then;
  HeardLanes heard = 0;
  out->lanes = pairs.ids.size();
  for (size_t i = 0; i < pairs.ids.size(); ++i) {
    out->ids[i] = pairs.ids[i];
    out->after[i] = played(pairs.after[i], ask, cache);
    out->before[i] = played(pairs.before[i], ask, cache);
    now.push_back(&pairs.after[i]), then.push_back(&pairs.before[i]);
    if (!ask.silenced.contains(pairs.ids[i])) heard |= HeardLanes{1} << i;
  }
  out->span = out->after[0]->signal().span(), out->frames = out->judgedFrames = out->span.frames;
  out->framesPerQuarter = ask.framesPerQuarter * ask.deviceRate / ask.after.sampleRate;
  // Of a song over what is asked for: nothing holds all of it in memory.
  if (ask.after.span.wraps) {
    out->beforeGains = matchedGains(now, then, ask.after.sampleRate, heard, cache);
    return out;
  }
  const double rate = ask.after.sampleRate, at = ask.judgedFromQuarters * ask.framesPerQuarter;
  const Signal nowHere = excerptOf(*now[0], at, rate);
  out->judgedFirst = static_cast<size_t>(at * ask.deviceRate / rate);
  out->judgedFrames = static_cast<size_t>(static_cast<double>(nowHere.frames()) * ask.deviceRate / rate);
  if (!ask.matchesBefore) return out;
  std::vector<Signal> excerpts;
  for (const auto* lanes : {&now, &then})
    for (const Signal* lane : *lanes) excerpts.push_back(excerptOf(*lane, at, rate));
  std::vector<const Signal*> here, there;
  for (size_t i = 0; i < now.size(); ++i)
    here.push_back(&excerpts[i]), there.push_back(&excerpts[now.size() + i]);
  out->beforeGains = matchedGains(here, there, rate, heard, cache);
  return out;
}

}  // namespace heft
