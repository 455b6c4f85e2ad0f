#include "core/session/moments.h"

#include <algorithm>
#include <cmath>

#include "core/session/value_at.h"
#include "core/session/versions.h"

namespace heft {
namespace {

template <class Event>
void leaveOutMuted(std::vector<Event>& events, const Session& s, int part) {
  std::erase_if(events, [&](const Event& e) { return s.mutedAt(part, e.startQuarters); });
}

void put(Session& s, const Automation& a, double value) {
  if (const auto now = valueAt(s, a.owner, a.key)) putValue(s, a.owner, a.key, fromNumber(*now, value));
}

Range rangeAt(const Session& s, const Automation& a) {
  const auto value = valueAt(s, a.owner, a.key);
  return value ? value->range : Range();
}

// The part that a session has only for its values.
Part withoutEvents(const Part& part) {
  Part out = part;
  out.hits.clear(), out.notes.clear(), out.wheel.clear();
  return out;
}

}  // namespace

bool mutesBySection(const Session& s) {
  return std::any_of(s.sections.begin(), s.sections.end(), [](const TrackSection& t) {
    return std::any_of(t.parts.begin(), t.parts.end(), [](const SectionPart& p) { return p.mute; });
  });
}

Session asPlayed(const Session& given) {
  Session s = given;
  for (Part& part : s.parts)
    leaveOutMuted(part.hits.own(), s, part.id), leaveOutMuted(part.notes.own(), s, part.id);
  for (TrackSection& t : s.sections)
    for (SectionPart& chosen : t.parts) chosen.mute = false;
  return s;
}

SteppedValue::SteppedValue(const Automation& a, const Range& range) : automation_(&a), range_(range) {
  const auto [low, high] =
      std::minmax_element(a.points.begin(), a.points.end(),
                          [](const AutomationPoint& x, const AutomationPoint& y) { return x.value < y.value; });
  least_ = range.held(low->value), most_ = range.held(high->value);
}

double SteppedValue::at(double quarters, double ahead) const {
  const double value = range_.held(automation_->ahead(quarters, ahead));
  if (!(most_ > least_) || automation_->holds) return value;
  const bool ratios = range_.unit == Unit::Hz && least_ > 0.0;
  const double share =
      ratios ? std::log(value / least_) / std::log(most_ / least_) : (value - least_) / (most_ - least_);
  const double step = std::round(share * kAutomationSteps) / kAutomationSteps;
  return ratios ? least_ * std::pow(most_ / least_, step) : least_ + step * (most_ - least_);
}

PartMoments::PartMoments(const Session& s, const Part& part) : session_(s), part_(part) {
  for (const Automation& a : s.automation) {
    const bool ofSounds =
        a.owner.part == part.id && !(!a.owner.layer && !a.owner.processor && a.key == "level_db");
    // A finish over the lane moves with the lane.
    const bool ofLane = a.owner.processor && !a.owner.layer && part.finishOver == FinishOver::Lane;
    // One that only another version has works where that version plays.
    if (a.works() && ofSounds && !ofLane) automations_.push_back(&a);
  }
  for (const TrackSection& t : s.sections) versions_ = versions_ || !t.ofPart(part.id).version.empty();
  if (!change()) return;
  bare_.track = s.track, bare_.grid = s.grid;
  bare_.parts = {withoutEvents(part)};
}

const Part& PartMoments::at(double quarters) {
  if (!change()) return part_;
  size_t version = static_cast<size_t>(part_.versions.now);
  if (const TrackSection* section = session_.sectionAt(quarters)) {
    const std::string chosen = section->ofPart(part_.id).version;
    const auto& all = part_.versions.all;
    const auto of =
        std::find_if(all.begin(), all.end(), [&](const PartVersion& v) { return v.name == chosen; });
    if (!chosen.empty() && of != all.end()) version = static_cast<size_t>(of - all.begin());
  }
  Session there = bare_;
  switchVersion(there.parts[0], version);
  std::pair<size_t, std::vector<double>> state{version, {}};
  for (const Automation* a : automations_) {
    const bool exists = canBeAutomated(there, a->owner, a->key);
    state.second.push_back(exists ? SteppedValue(*a, rangeAt(there, *a)).at(quarters) : 0.0);
    if (exists) put(there, *a, state.second.back());
  }
  return made_.try_emplace(std::move(state), std::move(there.parts[0])).first->second;
}

size_t ticksOf(const Track& track) {
  return track.span().frames / kAutomationTickFrames + 2;
}

double tickQuarters(size_t tick, const Track& track) {
  if (!track.song && tick >= track.span().frames / kAutomationTickFrames) return 0.0;
  return static_cast<double>(tick * kAutomationTickFrames) / track.framesPerQuarter();
}

StatesAlong statesAlong(const Session& bare, const std::vector<const Automation*>& automations) {
  StatesAlong out;
  if (automations.empty()) return out;
  std::vector<SteppedValue> stepped;
  for (const Automation* a : automations) stepped.emplace_back(*a, rangeAt(bare, *a));
  const double ahead = static_cast<double>(kAutomationTickFrames) / bare.track.framesPerQuarter();
  std::map<std::vector<double>, uint32_t> known;
  for (size_t tick = 0; tick < ticksOf(bare.track); ++tick) {
    const double quarters = tickQuarters(tick, bare.track);
    std::vector<double> values;
    for (const SteppedValue& value : stepped) values.push_back(value.at(quarters, ahead));
    const auto [at, fresh] = known.try_emplace(values, static_cast<uint32_t>(out.states.size()));
    if (fresh) {
      Session& state = out.states.emplace_back(bare);
      for (size_t i = 0; i < automations.size(); ++i) put(state, *automations[i], values[i]);
    }
    out.atTick.push_back(at->second);
  }
  return out;
}

}  // namespace heft
