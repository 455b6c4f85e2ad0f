#pragma once
/// The tables of fields.h as JSON, both ways. Used only by code that reads and writes files.

#include "core/session/fields.h"
#include "core/session/json_reader.h"

namespace heft {

inline constexpr size_t kMostText = 64'000'000;

/// All rows of an object, in their order.
Json jsonOf(const Table& table, const void* object);
template <class T>
Json jsonOf(const T& object) {
  return jsonOf(tableOf<T>(), &object);
}

/// Reads an object's values, each within its range; missing ones stay. Then its rules (settle.h). Faults go to
/// the reader.
void readInto(const Table& table, void* object, JsonReader& from);
template <class T>
void readInto(T& object, JsonReader& from) {
  readInto(tableOf<T>(), &object, from);
}

}  // namespace heft
