#pragma once
/// Which remedies help: each is tried on a copy of the session, rendered and judged as the session itself,
/// before it is offered. One that makes the whole no better is not offered, so that no press does nothing and
/// none goes round in a circle: after every press isBetter() holds.

#include <functional>
#include <set>
#include <stop_token>

#include "core/ledger/ledger.h"

namespace heft {

/// Fills `remedy` of each finding that is not in range and not intended: the first of its options that makes
/// the whole better and no other line worse by a verdict; else the first that makes the whole better, with its
/// price. What is tried is rendered through `cache`. Cost: a render and a study an option; `each` gets what is
/// known after every line. Errors: Cancelled.
Result<std::vector<Finding>> withTriedRemedies(
    const Session& session, const Assets& assets, std::vector<Finding> findings, StepCache& cache,
    std::stop_token stop = {}, References references = References::Measure,
    const std::function<void(const std::vector<Finding>&)>& each = {});

/// Renders, measures and judges; remedies are not tried. Errors: Cancelled.
Result<std::vector<Finding>> judgedSession(const Session& session, const Assets& assets, StepCache& cache,
                                           std::stop_token stop = {},
                                           References references = References::Measure);

/// One fix that was applied.
struct Mended {
  std::string id, name;       ///< of the line and of the move
  std::string before, after;  ///< what the line measured; "fixed" where it is gone
  std::string move = {};      ///< what it did besides levels
  LaneLevels levels = {};
  std::string label = {}, sentence = {};  ///< the fix as its button names it, and what the line said
  double was = 0.0;                       ///< the line's figure, in `unit`
  std::optional<double> is = {};          ///< nothing where the line is gone
  std::string unit = {}, price = {};
  std::vector<std::string> replaces = {};
};

/// Which lines Fix all is about.
struct FixChoice {
  std::vector<std::string> only = {};     ///< ids of lines; empty: all
  std::vector<std::string> without = {};  ///< ids of lines that stay as they are
  std::set<std::string> agreed = {};      ///< ids of lines whose fix is done though it asks (drastic.h)
};

/// All that was done, levels added up: "trim kick to 1/8; tune kick to F2; raise bass by 11 dB".
std::string wordsOf(const std::vector<Mended>& mended);

struct MendedSession {
  Session session;
  std::vector<Mended> mended;
  std::vector<Finding>
      left;  ///< lines that are not in range and not intended, with what would still help at a price
  size_t inRange = 0;  ///< lines that are
};

/// Applies remedies, each of which makes the whole better: those that cost nothing first, in working order,
/// then those at a price, as far as no line is out in the end that was not at the start (what one step costs a
/// later one may set right; a line to watch is a fair price for one that was out). What is intended stays.
/// Neither is a fix that asks (drastic.h) applied unless it was agreed to: its line is among those left, with
/// it. Errors: Cancelled.
Result<MendedSession> mendAll(const Session& session, const Assets& assets, StepCache& cache,
                              const FixChoice& choice = {}, std::stop_token stop = {},
                              References references = References::Measure);

}  // namespace heft
