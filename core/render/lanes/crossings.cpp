#include "core/render/lanes/crossings.h"

#include "core/render/lanes/place.h"
#include "core/render/sounds/phrases.h"

namespace heft {

std::vector<Crossing> crossingsOf(const Session& s) {
  constexpr double kWithHit = 0.02;
  const auto hits = hitsInLoop(s.kick(), s.track);
  const auto phrases = phrasesOf(s.bass(), s.track);
  const double loop = s.track.loopQuarters() * 60.0 / s.track.tempoBpm, quarter = 60.0 / s.track.tempoBpm;
  const double later = (s.bass().align.delayMs - s.kick().align.delayMs) / 1000.0;
  std::vector<Crossing> out;
  for (size_t i = 0; i < hits.size(); ++i) {
    const double next = i + 1 < hits.size() ? (hits[i + 1].startQuarters - hits[i].startQuarters) * quarter
                        : s.track.song      ? 1e9
                                            : (hits[0].startQuarters - hits[i].startQuarters) * quarter + loop;
    std::optional<Crossing> first;
    for (size_t n = 0; n < phrases.size(); ++n) {
      double ahead = (phrases[n].startQuarters - hits[i].startQuarters) * quarter + later;
      while (!s.track.song && ahead < kWithHit) ahead += loop;
      if (ahead >= kWithHit && ahead < next - kWithHit && (!first || ahead < first->afterSeconds))
        first = Crossing{i, n, ahead};
    }
    if (first) out.push_back(*first);
  }
  return out;
}

LaneFades fadesOf(const Session& s, const Part& part) {
  LaneFades out;
  if (!s.handOver.on || !s.isOfPair(part.id)) return out;
  out.handOver = s.handOver;
  const bool kick = part.id == s.kick().id;
  if (kick)
    out.outAfterSeconds.resize(hitsInLoop(part, s.track).size());
  else
    out.in.resize(phrasesOf(part, s.track).size(), false);
  for (const Crossing& c : crossingsOf(s))
    if (kick)
      out.outAfterSeconds[c.hit] = c.afterSeconds;
    else
      out.in[c.phrase] = true;
  return out;
}

}  // namespace heft
