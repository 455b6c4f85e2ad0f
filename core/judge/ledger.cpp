#include "core/judge/ledger.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/moments.h"

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

namespace {

// All faults first, then those of each stage.
std::array<int, 7> faultsByStage(const std::vector<Finding>& findings) {
  std::array<int, 7> out{};
  for (const Finding& f : findings) {
    const int weight = weightOf(f);
    out[0] += weight;
    out[1 + static_cast<size_t>(f.stage)] += weight;
  }
  return out;
}

}  // namespace

int weightOf(const Finding& f) {
  constexpr int kWeights[] = {0, 1, 3};
  constexpr size_t kFew = 4;  // one hit in so many
  if (f.meantSo || f.verdict == Verdict::Holds || (f.isPrice && f.verdict == Verdict::Watch)) return 0;
  const auto bad = static_cast<size_t>(std::count_if(
      f.hits.begin(), f.hits.end(), [](const HitLine& h) { return h.verdict != Verdict::Holds; }));
  return kWeights[static_cast<int>(f.verdict)] + (kFew * bad > f.hits.size() ? 1 : 0);
}

int faultsIn(const std::vector<Finding>& findings) {
  return faultsByStage(findings)[0];
}

bool isBetter(const std::vector<Finding>& findings, const std::vector<Finding>& than) {
  return faultsByStage(findings) < faultsByStage(than);
}

std::vector<Finding> ledger(const Session& session, const Study& study, const Limits& limits) {
  if (mutesBySection(session)) return ledger(asPlayed(session), study, limits);
  std::vector<Finding> out;
  if (study.empty) return out;
  const LedgerView view{session, study, limits};
  addMutedLines(view, out);
  addMaterialLines(view, out);
  addTuneLines(view, out);
  addPartLines(view, out);
  addStrainLines(view, out);
  addTailLines(view, out);
  addLayerLines(view, out);
  addAlignLines(view, out);
  addDuckLines(view, out);
  addDuckingLines(view, out);
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
