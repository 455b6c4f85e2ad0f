#include "core/ledger/remedies.h"

#include <algorithm>
#include <map>

namespace heft {
namespace {

constexpr size_t kMostPresses = 64;

bool needsMending(const Finding& f) {
  return f.verdict != Verdict::Holds && !f.meantSo;
}

// Sentences of lines that are worse by a verdict than before, or new and not in range.
std::vector<std::string> worsened(const std::vector<Finding>& before, const std::vector<Finding>& after) {
  std::map<std::string, Verdict> was;
  for (const Finding& f : before) was[f.id] = f.verdict;
  std::vector<std::string> out;
  for (const Finding& f : after) {
    const auto known = was.find(f.id);
    const Verdict had = known == was.end() ? Verdict::Holds : known->second;
    if (needsMending(f) && f.verdict > had) out.push_back(f.sentence);
  }
  return out;
}

Verdict verdictOf(const std::vector<Finding>& findings, const std::string& id) {
  for (const Finding& f : findings)
    if (f.id == id) return f.verdict;
  return Verdict::Holds;  // a line that is gone is mended
}

// The option that helps, or nothing. Errors: Cancelled.
Result<std::optional<Remedy>> helpful(const Session& session, const Assets& assets,
                                      const std::vector<Finding>& findings, const Finding& line, StepCache& cache,
                                      const std::stop_token& stop) {
  const int faults = faultsIn(findings);
  std::optional<Remedy> priced;
  for (const Remedy& option : line.options) {
    const Session next = option.apply(session);
    if (next == session) continue;
    const auto after = judgedSession(next, assets, cache, stop);
    if (!after) return Fail(after.error());
    if (faultsIn(*after) >= faults || verdictOf(*after, line.id) >= line.verdict) continue;
    const auto costs = worsened(findings, *after);
    if (costs.empty()) return std::optional<Remedy>(option);
    if (priced) continue;
    priced = option;
    for (const std::string& sentence : costs) priced->price += (priced->price.empty() ? "" : "; ") + sentence;
  }
  return priced;
}

}  // namespace

Result<std::vector<Finding>> judgedSession(const Session& session, const Assets& assets, StepCache& cache,
                                           std::stop_token stop) {
  const auto stems = render(session, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  const auto facts = study(session, assets, *stems, cache, stop, References::TakeWhatIsKnown);
  if (!facts) return Fail(facts.error());
  return ledger(session, *facts);
}

Result<std::vector<Finding>> withTriedRemedies(const Session& session, const Assets& assets,
                                               std::vector<Finding> findings, StepCache& cache,
                                               std::stop_token stop) {
  std::vector<std::optional<Remedy>> found(findings.size());
  for (size_t i = 0; i < findings.size(); ++i) {
    if (!needsMending(findings[i])) continue;
    auto one = helpful(session, assets, findings, findings[i], cache, stop);
    if (!one) return Fail(one.error());
    found[i] = std::move(*one);
  }
  for (size_t i = 0; i < findings.size(); ++i) findings[i].remedy = std::move(found[i]);
  return findings;
}

Result<MendedSession> mendAll(const Session& session, const Assets& assets, StepCache& cache,
                              const std::vector<std::string>& only, std::stop_token stop) {
  MendedSession out;
  out.session = session;
  auto wanted = [&](const Finding& f) {
    return needsMending(f) && (only.empty() || std::find(only.begin(), only.end(), f.id) != only.end());
  };
  auto now = judgedSession(out.session, assets, cache, stop);
  for (bool again = true; again && out.mended.size() < kMostPresses;) {
    if (!now) return Fail(now.error());
    // In working order: what comes first in the work changes what comes later.
    std::vector<Finding> lines = *now;
    std::stable_sort(lines.begin(), lines.end(),
                     [](const Finding& a, const Finding& b) { return a.stage < b.stage; });
    again = false;
    for (const Finding& line : lines) {
      if (!wanted(line)) continue;
      auto remedy = helpful(out.session, assets, *now, line, cache, stop);
      if (!remedy) return Fail(remedy.error());
      if (!*remedy || !(*remedy)->price.empty()) continue;
      out.session = (*remedy)->apply(out.session);
      now = judgedSession(out.session, assets, cache, stop);
      if (!now) return Fail(now.error());
      std::string after = "mended";
      for (const Finding& f : *now)
        if (f.id == line.id) after = f.measured;
      out.mended.push_back({line.id, (*remedy)->name, line.measured, after});
      again = true;
      break;
    }
  }
  auto tried = withTriedRemedies(out.session, assets, std::move(*now), cache, stop);
  if (!tried) return Fail(tried.error());
  for (Finding& f : *tried)
    if (needsMending(f)) out.left.push_back(std::move(f));
  return out;
}

}  // namespace heft
