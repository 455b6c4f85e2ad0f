#pragma once
/// The rows of Compare's facts: a figure of each track, and the target that it can be taken as.

#include <QString>
#include <functional>
#include <optional>
#include <vector>

#include "core/looks/compare_detail.h"
#include "core/session/edits/edit.h"

namespace heft::app {

/// A track as its facts were measured.
struct TrackFacts {
  const SectionFacts& facts;
  const SectionProfile& profile;
  std::optional<Told> swing;
  size_t hits = 0;
};

struct FactRow {
  QString name, unit, tip;
  int digits = 0;
  std::function<std::optional<Told>(const TrackFacts&)> of;
  /// Instead of a number: empty where it cannot be told.
  std::function<QString(const TrackFacts&, const NoteStyle&)> words = {};
  bool isPitch = false;  ///< of() is a frequency, shown as a note
  /// Where it can be a target: the one that is set, and an edit to set it or, with nothing, to clear it.
  std::function<std::optional<double>(const Targets&)> target = {};
  std::function<Edit(std::optional<double>, const std::string& mergeKey)> setTarget = {};
  /// "85 ms", "A1 +4 ct", a dash for nothing.
  QString text(const std::optional<Told>& told, const NoteStyle& style) const;
  QString number(double value) const;
};

/// In their order; a row for each compared band at the end.
std::vector<FactRow> factRows(const Targets& targets);

}  // namespace heft::app
