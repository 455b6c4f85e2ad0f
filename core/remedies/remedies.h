#pragma once
/// Which fixes help: each is tried on a copy of the session, rendered and judged like the session itself,
/// before it is offered. Heft offers only what improves the whole, so no press does nothing and none cycles:
/// after every press isBetter() holds.

#include <functional>
#include <set>
#include <stop_token>

#include "core/judge/ledger.h"

namespace heft {

/// Tracks of more than sixteen bars are tried on the eight with the most faults (excerpt.h).
///
/// Fills `remedy` of each finding that is neither in range nor intended: the first of its options that
/// improves the whole and makes no other line worse by a verdict; else the first that improves the whole,
/// with its price. Tries render through `cache`. Cost: a render and a study per option; `each` gets the
/// results so far after every line. Errors: Cancelled.
Result<std::vector<Finding>> withTriedRemedies(
    const Session& session, const Assets& assets, std::vector<Finding> findings, StepCache& cache,
    std::stop_token stop = {}, References references = References::Measure,
    const std::function<void(const std::vector<Finding>&)>& each = {});

/// Renders, measures and judges; remedies are not tried. Errors: Cancelled.
Result<std::vector<Finding>> judgedSession(const Session& session, const Assets& assets, StepCache& cache,
                                           std::stop_token stop = {},
                                           References references = References::Measure);

/// A remedy tried by itself on a copy: with its side effect, what it replaces and why it asks. `findings`:
/// those of the session. Errors: Cancelled and those of a render.
Result<Remedy> weighed(const Session& session, const Assets& assets, const std::vector<Finding>& findings,
                       Remedy remedy, StepCache& cache, std::stop_token stop,
                       References references = References::TakeWhatIsKnown);

/// One fix that was applied.
struct Mended {
  std::string id, name;       ///< of the line and of the move
  std::string before, after;  ///< what the line measured; "fixed" where it is gone
  std::string move = {};      ///< what it did besides levels
  LaneLevels levels = {};
  std::string label = {}, sentence = {};  ///< the fix as on its button, and the line's sentence
  double was = 0.0;                       ///< the line's figure, in `unit`
  std::optional<double> is = {};          ///< nothing where the line is gone
  std::string unit = {}, price = {};
  std::vector<std::string> replaces = {};
};

/// Which lines Fix all is about.
struct FixChoice {
  std::vector<std::string> only = {};     ///< ids of lines; empty: all
  std::vector<std::string> without = {};  ///< ids of lines left as they are
  std::set<std::string> agreed = {};      ///< ids of lines whose fix is done though it asks (drastic.h)
};

/// All that was done, with levels added up: "trim kick to 1/8; tune kick to F2; raise bass by 11 dB".
std::string wordsOf(const std::vector<Mended>& mended);

struct MendedSession {
  Session session;
  std::vector<Mended> mended;
  std::vector<Finding> left;  ///< lines neither in range nor intended, with what would still help at a price
  size_t inRange = 0;         ///< lines that are
};

/// Applies remedies, each of which improves the whole: free ones first, in working order, then those with a
/// price, as long as no line ends up newly out (a later step may undo the side effect of an earlier one; a
/// watch is a fair price for an out). What is intended stays. A fix that asks (drastic.h) needs consent:
/// without it, its line stays among those left, with the fix. Errors: Cancelled.
Result<MendedSession> mendAll(const Session& session, const Assets& assets, StepCache& cache,
                              const FixChoice& choice = {}, std::stop_token stop = {},
                              References references = References::Measure);

}  // namespace heft
