#pragma once
/// Edits of single values, by whose they are and by their name in the file (value_at.h).

#include <vector>

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// A value and what goes with it: a switch that a value turns on, the other end of a band.
struct ValuePut {
  std::string key;
  Value value;
};

/// Puts the values there one after the other; what is gone by then, or of another kind, stays as it is.
Edit putValues(const std::string& name, const Owner& owner, std::vector<ValuePut> values,
               const std::string& mergeKey = {});
Edit putValue(const std::string& name, const Owner& owner, const std::string& key, const Value& value,
              const std::string& mergeKey = {});
/// What is on goes off. Nothing happens where no such switch is.
Edit toggleValue(const std::string& name, const Owner& owner, const std::string& key);

}  // namespace heft
