#pragma once
/// Edits of single values, by owner and by their name in the file (value_at.h).

#include <vector>

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// A value and its companions: a switch that it turns on, the other edge of a band.
struct ValuePut {
  std::string key;
  Value value;
};

/// Sets the values in order; skips missing ones and those of another kind. The automation of a value moves with
/// it (putAlong()).
Edit putValues(const std::string& name, const Owner& owner, std::vector<ValuePut> values,
               const std::string& mergeKey = {});
Edit putValue(const std::string& name, const Owner& owner, const std::string& key, const Value& value,
              const std::string& mergeKey = {});
/// Toggles a switch. Does nothing where there is none.
Edit toggleValue(const std::string& name, const Owner& owner, const std::string& key);

}  // namespace heft
