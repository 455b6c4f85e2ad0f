#pragma once
/// Edits of how a part's lane stands against the others: its delay, its polarity, its dips.

#include "core/align/align.h"
#include "core/session/edits/edit.h"

namespace heft {

Edit setDelay(const Part& part, double delayMs, const std::string& mergeKey = {});
Edit setPolarity(const Part& part, bool invert);
/// Both as an answer has them.
Edit alignBy(const Part& part, const AlignAnswer& answer);
/// Where the pair is judged.
Edit setAlignBand(const Part& part, double lowHz, double highHz);

enum class DipTime { Attack, Hold, Return };
/// `acting`: the dip as it acts while it lasts as long as its source's sound; hold or return set by hand makes
/// it last as set, and the other of the two stays as it acted.
Edit setDipTime(const Duck& duck, DipTime which, const TimeValue& time,
                const std::optional<DrawnDip>& acting = {}, const std::string& mergeKey = {});
Edit setDepth(const Duck& duck, double depthDb, const std::string& mergeKey = {});
Edit setDucking(const Duck& duck, bool on);
/// By that depth at the least, as long as its source sounds.
Edit duckBy(const Duck& duck, double depthDb);
Edit duckAsSource(const Duck& duck);
/// Hold and return by that factor, to last as set.
Edit shortenDucking(const Duck& duck, double factor);
/// Only what lies below dips; nothing: all of the lane.
Edit setDuckBand(const Duck& duck, std::optional<double> crossoverHz, const std::string& mergeKey = {});

}  // namespace heft
