// Moves and words that several lines share.

#include <algorithm>

#include "core/ledger/lines.h"
#include "core/theory/text.h"

namespace heft {

Remedy onLayer(const std::string& label, const std::string& name, bool bass, int id,
               std::function<void(Layer&)> change) {
  return {label, name, [bass, id, change = std::move(change)](const Session& s) {
            Session next = s;
            for (Layer& l : bass ? next.bass.layers : next.kick.layers)
              if (l.id == id) change(l);
            return next;
          }};
}

Session withLevelMoved(Session s, bool bass, double db) {
  Finish& finish = bass ? s.bass.finish : s.kick.finish;
  const bool driven = finish.on && (finish.drive.on || finish.compressor.on || finish.softClip.on || finish.limiter.on);
  if (!driven) {
    for (Layer& l : bass ? s.bass.layers : s.kick.layers) l.levelDb = std::clamp(l.levelDb + db, -60.0, 24.0);
    return s;
  }
  // A compressor of ratio 1 is a plain gain.
  if (!finish.compressor.on) finish.compressor = {}, finish.compressor.on = true, finish.compressor.ratio = 1.0;
  finish.compressor.makeupDb = std::clamp(finish.compressor.makeupDb + db, -24.0, 24.0);
  return s;
}

std::optional<int> landingLayerId(const LedgerView& v) {
  const auto& layers = v.study.kickLayers;
  const auto most = std::max_element(layers.begin(), layers.end(), [](const LayerFacts& a, const LayerFacts& b) {
    return a.lowTailDb < b.lowTailDb;
  });
  return most == layers.end() ? std::nullopt : std::optional<int>(most->id);
}

std::string plainDb(double value) {
  return fixedNumber(value, 1) + " dB";
}

std::string signedDb(double value) {
  return (value > 0.04 ? "+" : "") + plainDb(value);
}

}  // namespace heft
