// Moves and words that several lines share.

#include <algorithm>

#include "core/ledger/lines.h"
#include "core/theory/text.h"

namespace heft {

Remedy onLayer(const std::string& label, const std::string& name, bool bass, int id,
               std::function<void(Layer&)> change) {
  return {label, name, [bass, id, change = std::move(change)](const Session& s) {
            Session next = s;
            for (Layer& l : bass ? next.bass().layers : next.kick().layers)
              if (l.id == id) change(l);
            return next;
          }};
}

std::string Remedy::name() const {
  const std::string words = levels.words();
  return move + (move.empty() || words.empty() ? "" : ", ") + words;
}

Remedy levelRemedy(const std::string& label, const LaneLevels& levels) {
  return {label, "", [levels](const Session& s) { return withLevelsMoved(s, levels); }, {}, levels};
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
