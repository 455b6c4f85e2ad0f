#include "core/ledger/remedies.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/ledger/ways.h"

namespace heft {
namespace {

constexpr size_t kMostPresses = 64;
constexpr int kMostFollowUps = 2;

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

// How the line stands after a move.
Verdict stillAt(const std::vector<Finding>& after, const Finding& line) {
  const auto now = std::find_if(after.begin(), after.end(), [&](const Finding& f) { return f.id == line.id; });
  if (line.ofANote && (now == after.end() || !now->ofANote)) return line.verdict;
  return verdictOf(after, line.id);
}

// Lines of single hits stand for all hits that lose alike, so that a move may part one into two: they are one
// matter.
std::string matterOf(const std::string& id) {
  const std::string hits = "pair-hit-";
  return id.starts_with(hits) ? hits : id;
}

std::map<std::string, Verdict> worstByMatter(const std::vector<Finding>& findings) {
  std::map<std::string, Verdict> out;
  for (const Finding& f : findings) {
    Verdict& worst = out.try_emplace(matterOf(f.id), Verdict::Holds).first->second;
    worst = std::max(worst, f.verdict);
  }
  return out;
}

// A line to watch is a fair price for one that was out; a line that goes out is none.
bool isFairPrice(const std::vector<Finding>& start, const std::vector<Finding>& now) {
  auto was = worstByMatter(start);
  return std::none_of(now.begin(), now.end(), [&](const Finding& f) {
    return needsMending(f) && f.verdict == Verdict::Off && was[matterOf(f.id)] != Verdict::Off;
  });
}

std::string measuredOf(const std::vector<Finding>& findings, const std::string& id) {
  for (const Finding& f : findings)
    if (f.id == id) return f.measured;
  return "fixed";
}

struct Trial {
  Remedy remedy;
  Session next;
  std::vector<Finding> after;
  std::vector<std::string> costs;
};

// What one line needs to be tried, and what was tried already: lines often ask for the same move.
struct Bench {
  const Session& session;
  const Assets& assets;
  const std::vector<Finding>& findings;
  StepCache& cache;
  const std::stop_token& stop;
  References references;
  std::vector<std::pair<Session, std::vector<Finding>>> known = {};
  std::optional<std::vector<Remedy>> waysToMakeRoom = {};  // solved once
};

Result<Trial> tried(Bench& b, Remedy remedy) {
  Trial out{std::move(remedy), {}, {}, {}};
  out.next = out.remedy.applied(b.session);
  if (out.next == b.session) {
    out.after = b.findings;
    return out;
  }
  const auto before =
      std::find_if(b.known.begin(), b.known.end(), [&](const auto& k) { return k.first == out.next; });
  if (before != b.known.end()) {
    out.after = before->second;
  } else {
    auto after = judgedSession(out.next, b.assets, b.cache, b.stop, b.references);
    if (!after && after.error().kind == ErrorKind::Cancelled) return Fail(after.error());
    // A move after which nothing can be rendered helps nobody.
    out.after = after ? std::move(*after) : b.findings;
    b.known.emplace_back(out.next, out.after);
  }
  out.costs = worsened(b.findings, out.after);
  return out;
}

// Two moves as one.
Remedy bothOf(const Remedy& first, const Remedy& then) {
  Remedy out{first.label, first.moves, first.levels + then.levels};
  out.moves.insert(out.moves.end(), then.moves.begin(), then.moves.end());
  return out;
}

// What is intended stays: no move for another line takes it away, or changes what it says by a quarter.
bool keepsIntended(const std::vector<Finding>& before, const std::vector<Finding>& after) {
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

// Whether as many faults will do, if they are those of later work.
enum class Asked { FewerFaults, BetterOrder };

bool helps(const Bench& b, const Finding& line, const Trial& t, Asked asked) {
  const bool better =
      asked == Asked::FewerFaults ? faultsIn(t.after) < faultsIn(b.findings) : isBetter(t.after, b.findings);
  return better && keepsIntended(b.findings, t.after) && stillAt(t.after, line) < line.verdict;
}

// What a move made worse may be set right by that line's own first move: a kick that was trimmed is aligned
// anew.
Result<Trial> setRight(Bench& b, Trial trial) {
  for (int follow = 0; follow < kMostFollowUps && !trial.costs.empty(); ++follow) {
    const auto worse = std::find_if(trial.after.begin(), trial.after.end(), [&](const Finding& f) {
      return needsMending(f) && !f.options.empty() && f.verdict > verdictOf(b.findings, f.id);
    });
    if (worse == trial.after.end()) break;
    const Remedy& then = worse->options.front();
    // Where the second move leaves nothing of the first it is the whole move.
    const Remedy both = bothOf(trial.remedy, then);
    auto next = tried(b, then.applied(b.session) == both.applied(b.session) ? then : both);
    if (!next) return next;
    if (next->costs.size() >= trial.costs.size() || faultsIn(next->after) > faultsIn(trial.after)) break;
    trial = std::move(*next);
  }
  return trial;
}

const char* labelOf(WayKind kind) {
  switch (kind) {
    case WayKind::Octave:
      return "Octave";
    case WayKind::Shorter:
      return "Trim";
    case WayKind::Align:
      return "Align";
    case WayKind::Together:
      return "Make room";
    default:
      return "Duck";
  }
}

// What may mend a line, in the order in which it is tried. Errors: Cancelled.
Result<std::vector<Remedy>> optionsOf(Bench& b, const Finding& line) {
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

// The option that helps, or nothing. Errors: Cancelled.
Result<std::optional<Remedy>> helpful(Bench& b, const Finding& line, Asked asked) {
  std::optional<Trial> priced;
  const auto options = optionsOf(b, line);
  if (!options) return Fail(options.error());
  for (const Remedy& option : *options) {
    auto trial = tried(b, option);
    if (trial && stillAt(trial->after, line) < line.verdict && !trial->costs.empty())
      trial = setRight(b, std::move(*trial));
    if (!trial) return Fail(trial.error());
    if (!helps(b, line, *trial, asked)) continue;
    if (trial->costs.empty()) return std::optional<Remedy>(std::move(trial->remedy));
    if (!priced) priced = std::move(*trial);
  }
  if (!priced) return std::optional<Remedy>();
  const size_t more = priced->costs.size() - 1;
  priced->remedy.price = priced->costs.front();
  if (more > 0)
    priced->remedy.price += ", and " + std::to_string(more) + (more == 1 ? " line more" : " lines more");
  return std::optional<Remedy>(std::move(priced->remedy));
}

struct Step {
  const Finding* line;
  Remedy move;
};

// What costs nothing comes first, so that what is kept has none of it left; what leaves as many faults last.
// Errors: Cancelled.
Result<std::optional<Step>> nextStep(Bench& b, const std::vector<Finding>& lines) {
  for (Asked asked : {Asked::FewerFaults, Asked::BetterOrder}) {
    std::optional<Step> chosen;
    for (const Finding& line : lines) {
      auto remedy = helpful(b, line, asked);
      if (!remedy) return Fail(remedy.error());
      if (!*remedy || (chosen && !(*remedy)->price.empty())) continue;
      chosen = Step{&line, std::move(**remedy)};
      if (chosen->move.price.empty()) break;
    }
    if (chosen) return chosen;
  }
  return std::optional<Step>();
}

}  // namespace

Result<std::vector<Finding>> judgedSession(const Session& session, const Assets& assets, StepCache& cache,
                                           std::stop_token stop, References references) {
  const auto stems = render(session, assets, cache, stop);
  if (!stems) return Fail(stems.error());
  const auto facts = study(session, assets, *stems, cache, stop, references);
  if (!facts) return Fail(facts.error());
  return ledger(session, *facts);
}

Result<std::vector<Finding>> withTriedRemedies(const Session& session, const Assets& assets,
                                               std::vector<Finding> findings, StepCache& cache,
                                               std::stop_token stop, References references,
                                               const std::function<void(const std::vector<Finding>&)>& each) {
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

Result<MendedSession> mendAll(const Session& session, const Assets& assets, StepCache& cache,
                              const std::vector<std::string>& only, std::stop_token stop,
                              References references) {
  MendedSession out;
  Session present = session;
  std::vector<Mended> steps;
  auto first = judgedSession(present, assets, cache, stop, references);
  if (!first) return Fail(first.error());
  std::vector<Finding> now = *first;
  out.session = session;
  auto wanted = [&](const Finding& f) {
    return needsMending(f) && (only.empty() || std::find(only.begin(), only.end(), f.id) != only.end());
  };
  while (steps.size() < kMostPresses) {
    // In working order: what comes first in the work changes what comes later.
    std::vector<Finding> lines = now;
    std::stable_sort(lines.begin(), lines.end(),
                     [](const Finding& a, const Finding& b) { return a.stage < b.stage; });
    std::erase_if(lines, [&](const Finding& f) { return !wanted(f); });
    Bench bench{present, assets, now, cache, stop, references};
    auto step = nextStep(bench, lines);
    if (!step) return Fail(step.error());
    if (!*step) break;
    const Finding* chosen = (*step)->line;
    const Remedy* move = &(*step)->move;
    present = move->applied(present);
    auto after = judgedSession(present, assets, cache, stop, references);
    if (!after) return Fail(after.error());
    const std::string measured = chosen->measured;
    const std::string id = chosen->id;
    now = std::move(*after);
    steps.push_back({id, move->edit().name, measured, measuredOf(now, id), move->move(), move->levels});
    // What one step cost a later one may set right: kept is where no line has gone out that was not.
    if (isFairPrice(*first, now)) out.session = present, out.mended = steps;
  }
  auto last = judgedSession(out.session, assets, cache, stop, references);
  if (!last) return Fail(last.error());
  auto triedLines = withTriedRemedies(out.session, assets, std::move(*last), cache, stop, references);
  if (!triedLines) return Fail(triedLines.error());
  for (Finding& f : *triedLines)
    if (needsMending(f)) out.left.push_back(std::move(f));
  return out;
}

}  // namespace heft
