#pragma once
/// A named change of the document: the one kind of change that the window, the Ledger and the command line
/// make.

#include <functional>
#include <optional>
#include <string>

#include "core/session/session.h"

namespace heft {

/// A single value that an edit turns: for who records turns as automation.
struct TurnedValue {
  Owner owner;
  std::string key;   ///< of value_at.h
  std::string name;  ///< for people
};

struct Edit {
  std::string name;  ///< as Undo shows it: "place kick hit"
  /// Captures values only: callable on any thread.
  std::function<void(Session&)> change;
  std::string mergeKey = {};               ///< consecutive edits with one key merge into one step; empty: never
  std::optional<TurnedValue> turned = {};  ///< where the edit sets one value
  bool silent = false;                     ///< nothing that sounds or is judged changes

  /// The result can be saved and opened again (within.h): clamps values to their ranges, and an edit that
  /// would break a rule across values changes nothing.
  Session applied(const Session& session) const;
};

/// The part as edits call it: "kick", "bass", or its own name.
std::string partWord(const Part& part);

/// A change of one part; does nothing if no part has that id.
Edit onPart(const std::string& name, int part, std::function<void(Part&)> change,
            const std::string& mergeKey = {});
/// The same for one of its layers.
Edit onLayer(const std::string& name, int part, int layer, std::function<void(Layer&)> change,
             const std::string& mergeKey = {});
/// Replaces the document.
Edit become(const std::string& name, const Session& session);
/// One after the other, as one step.
Edit allOf(const std::string& name, std::vector<Edit> edits);

}  // namespace heft
