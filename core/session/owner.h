#pragma once
/// Whose a value is.

#include <optional>

namespace heft {

/// The owner of a value's key: the session, a part, a layer, a ducking, or a processor of a layer, a part or
/// the sum, by id.
struct Owner {
  std::optional<int> part = {};
  std::optional<int> layer = {};  ///< of that part
  std::optional<int> duck = {};
  std::optional<int> processor =
      {};  ///< of that layer; without a layer of that part, without a part of the sum
  bool operator==(const Owner&) const = default;
};

}  // namespace heft
