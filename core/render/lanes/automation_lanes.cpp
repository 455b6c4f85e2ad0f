#include "core/render/lanes/automation_lanes.h"

#include <algorithm>

#include "core/duck/gain_curve.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_steps.h"
#include "core/sound/elementwise.h"

namespace heft {
namespace {

constexpr size_t kTicksInBlock = kBlockFrames / kAutomationTickFrames;
static_assert(kTicksInBlock * kAutomationTickFrames == kBlockFrames);

double ticksApart(const Track& track) {
  return static_cast<double>(kAutomationTickFrames) / track.framesPerQuarter();
}

// The amounts of one block: those of its ticks and the one after.
std::vector<double> inBlock(const std::vector<double>& atTick, size_t b) {
  const auto first = atTick.begin() + static_cast<ptrdiff_t>(std::min(atTick.size(), b * kTicksInBlock));
  return {first, first + std::min<ptrdiff_t>(kTicksInBlock + 1, atTick.end() - first)};
}

// Calls with(frame of the block, value), straight between ticks.
template <class With>
void straight(const std::vector<double>& ticks, size_t frames, With with) {
  for (size_t i = 0; i < frames; ++i) {
    const size_t tick = i / kAutomationTickFrames;
    const double part = static_cast<double>(i % kAutomationTickFrames) / kAutomationTickFrames;
    with(i, ticks[tick] + part * (ticks[tick + 1] - ticks[tick]));
  }
}

bool allEqual(const std::vector<double>& values) {
  return std::all_of(values.begin(), values.end(), [&](double v) { return v == values.front(); });
}

/// States of a lane, and which it is in at each tick.
struct LaneStates {
  std::vector<Signal> each;
  std::vector<uint32_t> atTick;
  uint32_t at(size_t b, size_t tick) const {
    return atTick[std::min(atTick.size() - 1, b * kTicksInBlock + tick)];
  }
  // Nothing where the block moves from one to another.
  std::optional<uint32_t> only(size_t b) const {
    for (size_t tick = 1; tick <= kTicksInBlock; ++tick)
      if (at(b, tick) != at(b, 0)) return std::nullopt;
    return at(b, 0);
  }
};

// The frames of a block from one tick to the next.
void crossfade(const std::vector<float>& x, const std::vector<float>& y, size_t from, std::vector<float>& out) {
  const size_t end = std::min(from + kAutomationTickFrames, out.size());
  for (size_t i = from; i < end; ++i) {
    const float part = static_cast<float>(i - from) / kAutomationTickFrames;
    out[i] = &x == &y ? x[i] : x[i] + part * (y[i] - x[i]);
  }
}

bool isOfBand(const Automation& a) {
  return a.key.starts_with("band.");
}

// Its section's share at each tick: a border has been reached when the section begins.
double sectionAmount(const Session& s, int duck, double quarters, double ahead) {
  const TrackSection* section = s.sectionAt(quarters + ahead);
  return section ? section->amountOf(duck) : 1.0;
}

}  // namespace

Signal levelAlong(const Signal& x, const Automation& level, const Track& track, StepCache& cache) {
  std::vector<double> gains(ticksOf(track));
  for (size_t tick = 0; tick < gains.size(); ++tick)
    gains[tick] = amplitudeFromDb(
        std::clamp(level.ahead(tickQuarters(tick, track), ticksApart(track)), kLeastLevelDb, kMostLevelDb));
  const auto atTick = std::make_shared<const std::vector<double>>(std::move(gains));
  return blocksOf(
      x, cache,
      [=](size_t b) {
        KeyMaker maker("level along 1");
        for (const double gain : inBlock(*atTick, b)) maker.add(gain);
        return maker.add(x.key(b)).key();
      },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto ticks = inBlock(*atTick, b);
        for (auto& channel : block.channels)
          straight(ticks, channel.size(),
                   [&](size_t i, double gain) { channel[i] *= static_cast<float>(gain); });
        return block;
      });
}

Signal atLevelOf(const Signal& x, const Session& s, const Owner& owner, const std::string& key, double levelDb,
                 StepCache& cache) {
  const Automation* along = heardAutomation(s, owner, key);
  return along ? levelAlong(x, *along, s.track, cache) : levelled(x, levelDb, cache);
}

std::vector<double> amountsAlong(const Session& s, const Duck& duck) {
  Owner owner;
  owner.duck = duck.id;
  const Automation *own = heardAutomation(s, owner, "amount"), *all = heardAutomation(s, {}, "ducking.amount");
  const bool bySection = std::any_of(s.sections.begin(), s.sections.end(),
                                     [&](const TrackSection& t) { return t.amountOf(duck.id) != 1.0; });
  if (!own && !all && !bySection) return {duck.amount * s.ducking.amount};
  const double ahead = ticksApart(s.track);
  std::vector<double> out(ticksOf(s.track));
  for (size_t tick = 0; tick < out.size(); ++tick) {
    const double q = tickQuarters(tick, s.track);
    const double mine = own ? std::clamp(own->ahead(q, ahead), 0.0, 1.0) : duck.amount;
    const double every = all ? std::clamp(all->ahead(q, ahead), 0.0, 1.0) : s.ducking.amount;
    out[tick] = mine * every * sectionAmount(s, duck.id, q, ahead);
  }
  return allEqual(out) ? std::vector<double>{out.front()} : out;
}

Signal gainAtAmounts(const Signal& gain, std::vector<double> amountAtTick, StepCache& cache) {
  if (allEqual(amountAtTick) && amountAtTick.front() == 1.0) return gain;
  const bool one = amountAtTick.size() == 1;
  const auto atTick = std::make_shared<const std::vector<double>>(std::move(amountAtTick));
  return blocksOf(
      gain, cache,
      [=](size_t b) {
        if (one) return KeyMaker("gain at amount 1").add(gain.key(b)).add(atTick->front()).key();
        const auto ticks = inBlock(*atTick, b);
        KeyMaker maker("gain at amounts 1");
        for (const double amount : ticks) maker.add(amount);
        return maker.add(gain.key(b)).key();
      },
      [=](size_t b) {
        Block block = *gain.hold(b);
        auto& channel = block.channels[0];
        const auto ticks = one ? std::vector<double>(kTicksInBlock + 1, atTick->front()) : inBlock(*atTick, b);
        straight(ticks, channel.size(),
                 [&](size_t i, double amount) { channel[i] = atShare(channel[i], amount); });
        return block;
      });
}

std::vector<const Automation*> movementAutomation(const Session& s, const Session& bare, int duck) {
  std::vector<const Automation*> out;
  for (const Automation& a : s.automation)
    if (a.owner.duck == duck && a.key != "amount" && !isOfBand(a) && a.works() &&
        canBeAutomated(bare, a.owner, a.key))
      out.push_back(&a);
  return out;
}

std::vector<const Automation*> bandAutomation(const Session& s, const Session& bare) {
  std::vector<const Automation*> out;
  for (const Automation& a : s.automation)
    if (a.owner.duck && isOfBand(a) && a.works() && canBeAutomated(bare, a.owner, a.key)) out.push_back(&a);
  return out;
}

std::vector<const Automation*> chainAutomation(const Session& s, const Session& bare, std::optional<int> part) {
  std::vector<const Automation*> out;
  for (const Automation& a : s.automation)
    if (a.owner.processor && !a.owner.layer && a.owner.part == part && a.works() &&
        canBeAutomated(bare, a.owner, a.key))
      out.push_back(&a);
  return out;
}

Signal throughStates(std::vector<Signal> each, std::vector<uint32_t> atTick, StepCache& cache) {
  if (each.size() == 1) return each.front();
  size_t channels = 1;
  for (const Signal& x : each) channels = std::max(channels, x.channels());
  const Signal like(each.front().span(), channels);
  const auto states = std::make_shared<const LaneStates>(LaneStates{std::move(each), std::move(atTick)});
  return blocksOf(
      like, cache,
      [=](size_t b) {
        const auto only = states->only(b);
        if (only && states->each[*only].channels() == channels)
          return KeyMaker("one state 1").add(states->each[*only].key(b)).key();
        KeyMaker maker("through states 1");
        for (size_t tick = 0; tick <= kTicksInBlock; ++tick)
          maker.add(states->each[states->at(b, tick)].key(b));
        return maker.add(channels).key();
      },
      [=](size_t b) {
        Block block{std::vector<std::vector<float>>(channels, std::vector<float>(like.blockSize(b)))};
        for (size_t i = 0; i < like.blockSize(b); i += kAutomationTickFrames) {
          const size_t tick = i / kAutomationTickFrames;
          const auto from = states->each[states->at(b, tick)].hold(b),
                     to = states->each[states->at(b, tick + 1)].hold(b);
          for (size_t c = 0; c < channels; ++c)
            crossfade(from->channels[std::min(c, from->channels.size() - 1)],
                      to->channels[std::min(c, to->channels.size() - 1)], i, block.channels[c]);
        }
        return block;
      });
}

}  // namespace heft
