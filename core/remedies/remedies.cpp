#include "core/remedies/remedies.h"

#include <algorithm>

#include "core/solve/excerpt.h"
#include "core/remedies/trials.h"

namespace heft {
namespace {

constexpr size_t kMostPresses = 64;

}  // namespace

Result<std::vector<Finding>> judgedSession(const Session& session, const Assets& assets, StepCache& cache,
                                           std::stop_token stop, References references) {
  auto judged = judgedWhole(session, assets, cache, stop, references);
  if (!judged) return Fail(judged.error());
  return std::move(judged->findings);
}

namespace {

using Each = std::function<void(const std::vector<Finding>&)>;

// Of a long track: the excerpt's lines are tried, and what helps one helps the track's line of that id. A line
// that the excerpt does not have keeps its options untried.
Result<std::vector<Finding>> triedOnExcerpt(const Session& session, const Assets& assets,
                                            std::vector<Finding> findings, StepCache& cache,
                                            const std::stop_token& stop, References references,
                                            const Each& each) {
  const Excerpt excerpt = excerptOf(session, findings);
  const auto lines = judgedSession(excerpt.session, assets, cache, stop, references);
  if (!lines) return Fail(lines.error());
  Bench bench{excerpt.session, assets, *lines, cache, stop, references};
  bench.isExcerpt = true;
  for (Finding& f : findings) {
    f.tried = true;
    const auto line =
        std::find_if(lines->begin(), lines->end(), [&](const Finding& l) { return l.id == f.id; });
    if (!needsMending(f) || line == lines->end() || !needsMending(*line)) continue;
    auto one = helpful(bench, *line, Asked::FewerFaults);
    if (one && !*one) one = helpful(bench, *line, Asked::BetterOrder);
    if (!one) return Fail(one.error());
    f.remedy = std::move(*one);
    if (each) each(findings);
  }
  return findings;
}

}  // namespace

Result<std::vector<Finding>> withTriedRemedies(const Session& session, const Assets& assets,
                                               std::vector<Finding> findings, StepCache& cache,
                                               std::stop_token stop, References references, const Each& each) {
  if (needsExcerpt(session.track))
    return triedOnExcerpt(session, assets, std::move(findings), cache, stop, references, each);
  const std::vector<Finding> untried = findings;
  Bench bench{session, assets, untried, cache, stop, references};
  for (Finding& f : findings) {
    f.tried = true;
    if (!needsMending(f) || f.options.empty()) continue;
    auto one = helpful(bench, f, Asked::FewerFaults);
    if (one && !*one) one = helpful(bench, f, Asked::BetterOrder);
    if (!one) return Fail(one.error());
    f.remedy = std::move(*one);
    if (each) each(findings);
  }
  return findings;
}

Result<Remedy> weighed(const Session& session, const Assets& assets, const std::vector<Finding>& findings,
                       Remedy remedy, StepCache& cache, std::stop_token stop, References references) {
  const bool isLong = needsExcerpt(session.track);
  const Excerpt excerpt = isLong ? excerptOf(session, findings) : Excerpt();
  std::vector<Finding> lines = findings;
  if (isLong) {
    auto judged = judgedSession(excerpt.session, assets, cache, stop, references);
    if (!judged) return Fail(judged.error());
    lines = std::move(*judged);
  }
  Bench bench{isLong ? excerpt.session : session, assets, lines, cache, stop, references};
  bench.isExcerpt = isLong;
  auto trial = tried(bench, std::move(remedy));
  if (!trial) return Fail(trial.error());
  trial->remedy.price = priceOf(trial->costs);
  return std::move(trial->remedy);
}

std::string wordsOf(const std::vector<Mended>& mended) {
  std::string out;
  LaneLevels levels;
  auto add = [&](const std::string& words) {
    if (!words.empty()) out += (out.empty() ? "" : "; ") + words;
  };
  for (const Mended& m : mended) add(m.move), levels = levels + m.levels;
  add(levels.words());
  return out;
}

namespace {

bool isAmong(const std::vector<std::string>& ids, const std::string& id) {
  return std::find(ids.begin(), ids.end(), id) != ids.end();
}

Mended stepDone(const Finding& line, const Remedy& move, const std::vector<Finding>& now) {
  const auto after = std::find_if(now.begin(), now.end(), [&](const Finding& f) { return f.id == line.id; });
  Mended out{line.id, move.name(), line.measured, measuredOf(now, line.id), move.move(), move.levels};
  out.label = move.label, out.sentence = line.sentence, out.was = line.value, out.unit = line.unit;
  if (after != now.end()) out.is = after->value;
  out.price = move.price, out.replaces = move.replaces;
  return out;
}

}  // namespace

namespace {

Result<MendedSession> mendShort(const Session& session, const Assets& assets, StepCache& cache,
                                const FixChoice& choice, const std::stop_token& stop, References references,
                                bool isExcerpt) {
  MendedSession out;
  Session present = session;
  std::vector<Mended> steps;
  auto first = judgedSession(present, assets, cache, stop, references);
  if (!first) return Fail(first.error());
  std::vector<Finding> now = *first;
  out.session = session;
  auto wanted = [&](const Finding& f) {
    return needsMending(f) && (choice.only.empty() || isAmong(choice.only, f.id)) &&
           !isAmong(choice.without, f.id);
  };
  while (steps.size() < kMostPresses) {
    // In working order, because earlier steps of the work change later ones.
    std::vector<Finding> lines = now;
    std::stable_sort(lines.begin(), lines.end(),
                     [](const Finding& a, const Finding& b) { return a.stage < b.stage; });
    std::erase_if(lines, [&](const Finding& f) { return !wanted(f); });
    Bench bench{present, assets, now, cache, stop, references};
    bench.isExcerpt = isExcerpt;
    auto step = nextStep(bench, lines, choice.agreed);
    if (!step) return Fail(step.error());
    if (!*step) break;
    present = (*step)->move.applied(present);
    auto after = judgedSession(present, assets, cache, stop, references);
    if (!after) return Fail(after.error());
    steps.push_back(stepDone(*(*step)->line, (*step)->move, *after));
    now = std::move(*after);
    // A later step may undo the side effect of an earlier one: keeps the last state in which no line is newly
    // out.
    if (isFairPrice(*first, now)) out.session = present, out.mended = steps;
  }
  auto last = judgedSession(out.session, assets, cache, stop, references);
  if (!last) return Fail(last.error());
  auto triedLines = withTriedRemedies(out.session, assets, std::move(*last), cache, stop, references);
  if (!triedLines) return Fail(triedLines.error());
  for (Finding& f : *triedLines)
    if (needsMending(f))
      out.left.push_back(std::move(f));
    else
      ++out.inRange;
  return out;
}

// On the excerpt, and then once on the whole: a track that is not better stays as it was.
Result<MendedSession> mendLong(const Session& session, const Assets& assets, StepCache& cache,
                               const FixChoice& choice, const std::stop_token& stop, References references) {
  const auto before = judgedSession(session, assets, cache, stop, references);
  if (!before) return Fail(before.error());
  const Excerpt excerpt = excerptOf(session, *before);
  auto out = mendShort(excerpt.session, assets, cache, choice, stop, references, true);
  if (!out) return out;
  out->session = carriedBack(session, excerpt, out->session);
  const auto after = judgedSession(out->session, assets, cache, stop, references);
  if (!after) return Fail(after.error());
  if (!isBetter(*after, *before)) out->session = session, out->mended.clear();
  out->left.clear(), out->inRange = 0;
  for (const Finding& f : out->mended.empty() ? *before : *after)
    if (needsMending(f))
      out->left.push_back(f);
    else
      ++out->inRange;
  return out;
}

}  // namespace

Result<MendedSession> mendAll(const Session& session, const Assets& assets, StepCache& cache,
                              const FixChoice& choice, std::stop_token stop, References references) {
  return needsExcerpt(session.track) ? mendLong(session, assets, cache, choice, stop, references)
                                     : mendShort(session, assets, cache, choice, stop, references, false);
}

}  // namespace heft
