#pragma once
/// What a lossy file makes of a loop's low end and its peaks.

#include "core/result.h"
#include "core/sound/lossy.h"

namespace heft {

struct CodedFacts {
  LossyAsk ask;
  double kbps = 0.0;    ///< of the file as encoded
  double lowsDb = 0.0;  ///< energy below 120 Hz after coding re before
  double truePeakDbtp = 0.0;
  double peakRiseDb = 0.0;  ///< of the true peak
};

/// Of a loop in its middle turn of three. Errors: those of throughCodec(); Unwritable for silence. Cost: that
/// of throughCodec() over three turns.
Result<CodedFacts> codedFacts(const AudioBuffer& loop, const LossyAsk& ask);

}  // namespace heft
