#include "core/compare/coded.h"

#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/measure/levels/low_end.h"

namespace heft {

Result<CodedFacts> codedFacts(const AudioBuffer& loop, const LossyAsk& ask) {
  constexpr Band kLows = {20.0, 120.0};
  const auto before = measureLowEnd(loop, true);
  const auto peak = truePeakOf(repeated(loop, 2));
  if (!(before.powerIn(kLows) > 0.0) || !peak) return Fail(unwritable("", "there are no lows to code"));
  const auto run = throughCodec(repeated(loop, 3), ask);
  if (!run) return Fail(run.error());
  const AudioBuffer after = framesOf(run->sound, loop.frames(), loop.frames());
  CodedFacts out{ask, run->kbps};
  out.lowsDb = dbFromPower(measureLowEnd(after, true).powerIn(kLows)) - dbFromPower(before.powerIn(kLows));
  out.truePeakDbtp = dbFromAmplitude(truePeakOf(repeated(after, 2)).value_or(0.0));
  out.peakRiseDb = out.truePeakDbtp - dbFromAmplitude(*peak);
  return out;
}

}  // namespace heft
