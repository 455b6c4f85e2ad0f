#include "core/remedies/trials.h"

#include <algorithm>
#include <cmath>

#include "core/solve/excerpt.h"
#include "core/session/replaced.h"
#include "core/solve/ways.h"

namespace heft {

constexpr int kMostFollowUps = 2;

bool needsMending(const Finding& f) {
  return f.verdict != Verdict::Holds && !f.meantSo;
}

// Sentences of lines whose verdict is worse than before, or that are new and not in range.
static std::vector<std::string> worsened(const std::vector<Finding>& before,
                                         const std::vector<Finding>& after) {
  std::map<std::string, std::pair<Verdict, int>> was;
  for (const Finding& f : before) was[f.id] = {f.verdict, weightOf(f)};
  std::vector<std::string> out;
  for (const Finding& f : after) {
    const auto known = was.find(f.id);
    const auto had = known == was.end() ? std::pair(Verdict::Holds, 0) : known->second;
    if (needsMending(f) && (f.verdict > had.first || weightOf(f) > had.second)) out.push_back(f.sentence);
  }
  return out;
}

static Verdict verdictOf(const std::vector<Finding>& findings, const std::string& id) {
  for (const Finding& f : findings)
    if (f.id == id) return f.verdict;
  return Verdict::Holds;  // a line that is gone is fixed
}

// Whether the line is better after a move; one that is gone is fixed.
static bool isEased(const std::vector<Finding>& after, const Finding& line) {
  const auto now = std::find_if(after.begin(), after.end(), [&](const Finding& f) { return f.id == line.id; });
  if (now == after.end()) return !line.ofANote;
  if (line.ofANote && !now->ofANote) return false;
  return now->verdict < line.verdict || (now->verdict == line.verdict && weightOf(*now) < weightOf(line));
}

// A new watch is a fair price for a line that was out; a new out is not.
bool isFairPrice(const std::vector<Finding>& start, const std::vector<Finding>& now) {
  return std::none_of(now.begin(), now.end(), [&](const Finding& f) {
    return needsMending(f) && f.verdict == Verdict::Off && verdictOf(start, f.id) != Verdict::Off;
  });
}

std::string measuredOf(const std::vector<Finding>& findings, const std::string& id) {
  for (const Finding& f : findings)
    if (f.id == id) return f.measured;
  return "fixed";
}

Result<Judged> judgedWhole(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop,
                           References references) {
  const auto stems = render(session, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  const auto facts = study(session, assets, *stems, cache, stop, references);
  if (!facts) return Fail(facts.error());
  return Judged{ledger(session, *facts), reachOf(session, *facts)};
}

static Result<Judged> judgedOnce(Bench& b, const Session& next) {
  const auto known =
      std::find_if(b.known.begin(), b.known.end(), [&](const auto& k) { return k.first == next; });
  if (known != b.known.end()) return known->second;
  auto after = judgedWhole(next, b.assets, b.cache, b.stop, b.references);
  if (!after && after.error().kind == ErrorKind::Cancelled) return after;
  // A move that leaves nothing to render is no fix.
  if (!after) after = Judged{b.findings, {}};
  b.known.emplace_back(next, *after);
  return after;
}

Result<Trial> tried(Bench& b, Remedy remedy) {
  Trial out{std::move(remedy), {}, {}, {}, true};
  out.next = out.remedy.applied(b.session);
  if (out.next == b.session || (b.isExcerpt && !keepsEvents(b.session, out.next))) {
    out.after = b.findings;
    return out;
  }
  if (!b.reach) {
    const auto now = judgedOnce(b, b.session);
    if (!now) return Fail(now.error());
    b.reach = now->reach;
  }
  auto after = judgedOnce(b, out.next);
  if (!after) return Fail(after.error());
  out.after = std::move(after->findings);
  out.costs = worsened(b.findings, out.after);
  out.remedy.replaces = replacedBy(b.session, out.next), out.keeps = keepsWhatWasSet(b.session, out.next);
  out.remedy.asks = asksBefore(b.session, *b.reach, out.next, after->reach);
  return out;
}

// Two moves as one.
static Remedy bothOf(const Remedy& first, const Remedy& then) {
  // A label that names one level no longer says it all.
  const bool twoLevels = !first.levels.isNone() && !then.levels.isNone();
  Remedy out{twoLevels ? "Balance levels" : first.label, first.moves, first.levels + then.levels};
  out.moves.insert(out.moves.end(), then.moves.begin(), then.moves.end());
  return out;
}

// What is intended stays: no move for another line removes it or changes its figure by a quarter.
static bool keepsIntended(const std::vector<Finding>& before, const std::vector<Finding>& after) {
  auto least = [](const std::string& unit) {
    return unit == "dB" || unit == "dBTP" ? 1.0 : unit == "cents" ? 10.0 : 0.0;
  };
  for (const Finding& f : before) {
    if (!f.meantSo || f.verdict == Verdict::Holds) continue;
    const auto now = std::find_if(after.begin(), after.end(), [&](const Finding& a) { return a.id == f.id; });
    if (now == after.end()) return false;
    if (std::abs(now->value - f.value) > std::max(least(f.unit), 0.25 * std::abs(f.value))) return false;
  }
  return true;
}

static bool helps(const Bench& b, const Finding& line, const Trial& t, Asked asked) {
  const bool better =
      asked == Asked::FewerFaults ? faultsIn(t.after) < faultsIn(b.findings) : isBetter(t.after, b.findings);
  return better && keepsIntended(b.findings, t.after) && isEased(t.after, line);
}

// A line that a move made worse may be fixed by its own first move: a trimmed kick is aligned again.
static Result<Trial> setRight(Bench& b, Trial trial) {
  for (int follow = 0; follow < kMostFollowUps && !trial.costs.empty(); ++follow) {
    const auto worse = std::find_if(trial.after.begin(), trial.after.end(), [&](const Finding& f) {
      return needsMending(f) && !f.options.empty() && f.verdict > verdictOf(b.findings, f.id);
    });
    if (worse == trial.after.end()) break;
    const Remedy& then = worse->options.front();
    // Where the second move undoes all of the first, it is the whole move.
    const Remedy both = bothOf(trial.remedy, then);
    auto next = tried(b, then.applied(b.session) == both.applied(b.session) ? then : both);
    if (!next) return next;
    if (next->costs.size() >= trial.costs.size() || faultsIn(next->after) > faultsIn(trial.after)) break;
    trial = std::move(*next);
  }
  return trial;
}

static const char* labelOf(WayKind kind) {
  switch (kind) {
    case WayKind::Level:
      return "Balance levels";
    case WayKind::Octave:
      return "Shift octave";
    case WayKind::Shorter:
      return "Trim kick";
    case WayKind::Align:
      return "Align bass";
    case WayKind::Together:
      return "Make room";
    default:
      return "Duck bass";
  }
}

// What may fix a line, in the order in which it is tried. Errors: Cancelled.
static Result<std::vector<Remedy>> optionsOf(Bench& b, const Finding& line) {
  if (!line.byWaysToMakeRoom) return line.options;
  if (!b.waysToMakeRoom) {
    b.waysToMakeRoom.emplace();
    const auto ways = waysToMakeRoom(b.session, b.assets, b.cache, b.stop);
    if (!ways && ways.error().kind == ErrorKind::Cancelled) return Fail(ways.error());
    if (ways)
      for (const RoomWay& way : ways->ways) b.waysToMakeRoom->push_back({labelOf(way.kind), {way.edit}});
  }
  auto out = *b.waysToMakeRoom;
  out.insert(out.end(), line.options.begin(), line.options.end());
  return out;
}

std::string priceOf(const std::vector<std::string>& costs) {
  if (costs.empty()) return "";
  const size_t more = costs.size() - 1;
  return costs.front() +
         (more > 0 ? ", and " + std::to_string(more) + (more == 1 ? " line more" : " lines more") : "");
}

// The option that helps and asks the least of the user, the first of equals; or nothing. Errors: Cancelled.
Result<std::optional<Remedy>> helpful(Bench& b, const Finding& line, Asked asked) {
  std::optional<Trial> best;
  const auto options = optionsOf(b, line);
  if (!options) return Fail(options.error());
  for (const Remedy& option : *options) {
    auto trial = tried(b, option);
    if (trial && isEased(trial->after, line) && !trial->costs.empty()) trial = setRight(b, std::move(*trial));
    if (!trial) return Fail(trial.error());
    if (!helps(b, line, *trial, asked)) continue;
    if (!best || trial->rank() < best->rank()) best = std::move(*trial);
    if (best->rank() == 0) break;
  }
  if (!best) return std::optional<Remedy>();
  best->remedy.price = priceOf(best->costs);
  return std::optional<Remedy>(std::move(best->remedy));
}

// Moves without side effects come first, so none of them is missed; moves that leave as many faults come
// last. Errors: Cancelled.
Result<std::optional<Step>> nextStep(Bench& b, const std::vector<Finding>& lines,
                                     const std::set<std::string>& agreed) {
  for (Asked asked : {Asked::FewerFaults, Asked::BetterOrder}) {
    std::optional<Step> chosen;
    for (const Finding& line : lines) {
      auto remedy = helpful(b, line, asked);
      if (!remedy) return Fail(remedy.error());
      if (!*remedy || (chosen && !(*remedy)->price.empty())) continue;
      if (!(*remedy)->asks.empty() && !agreed.contains(line.id)) continue;
      chosen = Step{&line, std::move(**remedy)};
      if (chosen->move.price.empty()) break;
    }
    if (chosen) return chosen;
  }
  return std::optional<Step>();
}

}  // namespace heft
