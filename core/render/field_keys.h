#pragma once
/// Every value of a layer or a finish into a step's key, by the same lists as the file
/// (session/sound_fields.h).

#include "core/render/step_cache.h"
#include "core/session/fields.h"
#include "core/session/sound_fields.h"

namespace heft {

struct FieldKeys {
  KeyMaker& key;
  double tempoBpm;  ///< for lengths that follow it
  void flag(const char*, bool v, Saved = {}) { key.add(v); }
  void number(const char*, double v, const Range&) { key.add(v); }
  void number(const char* name, const std::optional<double>& v, const Range& r) { level(name, v, r); }
  void level(const char*, const std::optional<double>& v, const Range&) {
    key.add(v.has_value());
    if (v) key.add(*v);
  }
  void whole(const char*, int v, const Range&) { key.add(v); }
  void time(const char*, const TimeValue& v, const Range&) { key.add(v.toMs(tempoBpm)); }
  void choice(const char*, auto v, auto, auto) { key.add(v); }
  void kept(const Unknown&) {}  // nothing sounds by it
  template <class T>
  void object(const char*, const T& v) {
    eachOf(v, *this);
  }
  template <class T>
  void list(const char*, const std::vector<T>& v, size_t) {
    key.add(v.size());
    for (const T& item : v) eachOf(item, *this);
  }
};

/// Adds all of `v`.
template <class T>
void addFields(KeyMaker& key, const T& v, double tempoBpm) {
  FieldKeys fields{key, tempoBpm};
  eachOf(v, fields);
}

}  // namespace heft
