#pragma once
/// The Ledger's lines, stage by stage. Used by ledger.cpp.

#include "core/ledger/ledger.h"

namespace heft {

struct LedgerView {
  const Session& session;
  const Study& study;
  const Limits& limits;
};

void addTuneLines(const LedgerView& view, std::vector<Finding>& out);
void addTailLines(const LedgerView& view, std::vector<Finding>& out);
void addLayerLines(const LedgerView& view, std::vector<Finding>& out);
void addAlignLines(const LedgerView& view, std::vector<Finding>& out);
void addDuckLines(const LedgerView& view, std::vector<Finding>& out);
void addCompareLines(const LedgerView& view, std::vector<Finding>& out);

/// Holds up to the first limit, watch up to the second, off beyond.
inline Verdict judged(double value, double holds, double watch) {
  return value <= holds ? Verdict::Holds : value <= watch ? Verdict::Watch : Verdict::Off;
}

}  // namespace heft
