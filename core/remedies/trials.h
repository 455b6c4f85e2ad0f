#pragma once
/// How a move is tried on a copy and judged. Used by remedies.cpp.

#include <map>
#include <set>

#include "core/remedies/remedies.h"
#include "core/study/drastic.h"

namespace heft {

/// A session's lines, and its extremes in what a fix asks about.
struct Judged {
  std::vector<Finding> findings;
  Reach reach;
};

struct Trial {
  Remedy remedy;
  Session next;
  std::vector<Finding> after;
  std::vector<std::string> costs;
  bool keeps = true;  // values set by hand, except a ducking's depth

  // How much a fix asks of the user; 0: it can be pressed without thinking.
  int rank() const { return (remedy.asks.empty() ? 0 : 4) + (keeps ? 0 : 2) + (costs.empty() ? 0 : 1); }
};

/// What one line's try needs, and past tries: lines often ask for the same move.
struct Bench {
  const Session& session;
  const Assets& assets;
  const std::vector<Finding>& findings;
  StepCache& cache;
  const std::stop_token& stop;
  References references;
  std::vector<std::pair<Session, Judged>> known = {};
  std::optional<Reach> reach = {};                         // for the session itself, where asked for
  std::optional<std::vector<Remedy>> waysToMakeRoom = {};  // solved once
  bool isExcerpt = false;  // moves of events cannot be carried to the whole track
};

/// Whether as many faults are acceptable, if they are those of later work.
enum class Asked { FewerFaults, BetterOrder };

struct Step {
  const Finding* line;
  Remedy move;
};

bool needsMending(const Finding& finding);
/// A new watch is a fair price for a line that was out; a new out is not.
bool isFairPrice(const std::vector<Finding>& start, const std::vector<Finding>& now);
/// What a line measures; "fixed" where it is gone.
std::string measuredOf(const std::vector<Finding>& findings, const std::string& id);
/// Renders, measures and judges. Errors: Cancelled.
Result<Judged> judgedWhole(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop,
                           References references);
Result<Trial> tried(Bench& bench, Remedy remedy);
std::string priceOf(const std::vector<std::string>& costs);
/// The option that helps and asks the least of the user, the first of equals; or nothing. Errors: Cancelled.
Result<std::optional<Remedy>> helpful(Bench& bench, const Finding& line, Asked asked);
/// Moves without side effects come first, so none of them is missed; moves that leave as many faults come
/// last. Errors: Cancelled.
Result<std::optional<Step>> nextStep(Bench& bench, const std::vector<Finding>& lines,
                                     const std::set<std::string>& agreed);

}  // namespace heft
