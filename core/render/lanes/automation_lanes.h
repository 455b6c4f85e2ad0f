#pragma once
/// Automation of lanes: values that move while sounds ring. All move on ticks of kAutomationTickFrames (21 ms
/// at 48 kHz), straight between them, so that no step can click; a step has been reached at its moment.

#include "core/render/lanes/signal.h"
#include "core/session/moments.h"

namespace heft {

/// The lane at a level in dB that moves. Between ticks the amplitude is straight: within 0.03 dB for up to 60
/// dB a second.
Signal levelAlong(const Signal& x, const Automation& level, const Track& track, StepCache& cache);

/// A ducking's amount along the track: its own times that of all, each automated or not, times its section's.
/// One value where that never changes.
std::vector<double> amountsAlong(const Session& session, const Duck& duck);
/// At the level of an owner's value, automated or not; exactly x at 0 dB.
Signal atLevelOf(const Signal& x, const Session& session, const Owner& owner, const std::string& key,
                 double levelDb, StepCache& cache);
/// Scales the gain reduction by amounts at each tick, or by one; exactly the gain at 1.
Signal gainAtAmounts(const Signal& gain, std::vector<double> amountAtTick, StepCache& cache);

/// A lane in each of several states, crossfaded (linearly) from the state of each tick to that of the next.
/// Only states that a block needs are made. Exactly the state's own block where it stays in one.
Signal throughStates(std::vector<Signal> each, std::vector<uint32_t> atTick, StepCache& cache);

/// What is heard of automation of the bands of the duckings in `bare`.
std::vector<const Automation*> bandAutomation(const Session& session, const Session& bare);
/// What is heard of a ducking's automation but that of its amount and its band.
std::vector<const Automation*> movementAutomation(const Session& session, const Session& bare, int duck);
/// What is heard of automation of the processors over a part's lane, or over the sum.
std::vector<const Automation*> chainAutomation(const Session& session, const Session& bare,
                                               std::optional<int> part);

/// A lane that `make` gives for a bare session, along the states of its automation; make(bare) without any.
template <class Make>
Signal alongTrack(const Session& bare, const std::vector<const Automation*>& automation, StepCache& cache,
                  Make make) {
  if (automation.empty()) return make(bare);
  StatesAlong states = statesAlong(bare, automation);
  std::vector<Signal> each;
  for (const Session& state : states.states) each.push_back(make(state));
  return throughStates(std::move(each), std::move(states.atTick), cache);
}

}  // namespace heft
