#pragma once
/// Every value of a layer or a finish into a step's key, by the same tables as the file (session/table.h).

#include "core/render/cache/step_cache.h"
#include "core/session/fields.h"

namespace heft {

/// Adds all rows but those that nothing sounds by (what a newer Heft wrote). `tempoBpm`: for lengths that
/// follow it.
void addFields(KeyMaker& key, const Table& table, const void* object, double tempoBpm);
template <class T>
void addFields(KeyMaker& key, const T& object, double tempoBpm) {
  addFields(key, tableOf<T>(), &object, tempoBpm);
}

}  // namespace heft
