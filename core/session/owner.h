#pragma once
/// Whose a value is.

#include <optional>

namespace heft {

/// What a value's key begins at: the session, or one of its parts, of a part's layers, of its duckings, or of
/// the processors of a layer, a part or the sum, by id.
struct Owner {
  std::optional<int> part = {};
  std::optional<int> layer = {};  ///< of that part
  std::optional<int> duck = {};
  std::optional<int> processor =
      {};  ///< of that layer, of that part where no layer is said, of the sum where none is
  bool operator==(const Owner&) const = default;
};

}  // namespace heft
