#include "core/ledger/ledger.h"

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"

namespace heft {

const char* stageName(Stage stage) {
  constexpr const char* kNames[] = {"Sounds", "Tune", "Align", "Duck", "Compare", "Export"};
  return kNames[static_cast<int>(stage)];
}

const char* verdictName(Verdict verdict) {
  constexpr const char* kNames[] = {"holds", "watch", "off"};
  return kNames[static_cast<int>(verdict)];
}

const char* verdictWord(Verdict verdict) {
  constexpr const char* kWords[] = {"in range", "watch", "out"};
  return kWords[static_cast<int>(verdict)];
}

int faultsIn(const std::vector<Finding>& findings) {
  constexpr int kWeights[] = {0, 1, 3};
  int out = 0;
  for (const Finding& f : findings)
    if (!f.meantSo) out += kWeights[static_cast<int>(f.verdict)];
  return out;
}

std::vector<Finding> ledger(const Session& session, const Study& study, const Limits& limits) {
  std::vector<Finding> out;
  if (study.empty) return out;
  const LedgerView view{session, study, limits};
  addMutedLines(view, out);
  addTuneLines(view, out);
  addStrainLines(view, out);
  addTailLines(view, out);
  addLayerLines(view, out);
  addAlignLines(view, out);
  addDuckLines(view, out);
  addSpeakerLine(view, out);
  addCompareLines(view, out);
  for (Finding& f : out) f.meantSo = session.meantSo.contains(f.id);
  auto rank = [](const Finding& f) { return f.meantSo ? 3 : 2 - static_cast<int>(f.verdict); };
  std::stable_sort(out.begin(), out.end(),
                   [&](const Finding& a, const Finding& b) { return rank(a) < rank(b); });
  return out;
}

std::optional<Verdict> stageVerdict(const std::vector<Finding>& findings, Stage stage) {
  std::optional<Verdict> worst;
  for (const Finding& f : findings)
    if (f.stage == stage && !f.meantSo && (!worst || f.verdict > *worst)) worst = f.verdict;
  return worst;
}

}  // namespace heft
