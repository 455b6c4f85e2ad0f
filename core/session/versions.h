#pragma once
/// Versions of a part: make, name, switch, remove. Each returns a changed part; undo is up to the history.

#include <string>

#include "core/session/session.h"

namespace heft {

/// How many there are, at least 1.
template <class Part>
size_t versionCount(const Part& part) {
  return std::max<size_t>(1, part.versions.all.size());
}

template <class Part>
std::string versionName(const Part& part, size_t i) {
  return i < part.versions.all.size() ? part.versions.all[i].name : "First";
}

/// Switches versions: stores the present sound under its name and loads the other.
template <class Part>
void switchVersion(Part& part, size_t to) {
  auto& v = part.versions;
  if (to >= v.all.size() || to == static_cast<size_t>(v.now)) return;
  PartVersion& from = v.all[static_cast<size_t>(v.now)];
  from.layers = std::move(part.layers), from.finish = part.finish;
  part.layers = std::move(v.all[to].layers), part.finish = v.all[to].finish;
  v.all[to].layers.clear(), v.all[to].finish = {};
  v.now = static_cast<int>(to);
}

/// Adds a copy of the present version and switches to it. Nothing at the limit.
template <class Part>
void addVersion(Part& part, const std::string& name) {
  auto& v = part.versions;
  if (v.all.empty()) v.all.push_back({"First", {}, {}});
  if (v.all.size() >= kMostVersions) return;
  v.all.push_back({name, part.layers, part.finish});
  switchVersion(part, v.all.size() - 1);
}

template <class Part>
void renameVersion(Part& part, size_t i, const std::string& name) {
  if (part.versions.all.empty() && i == 0) part.versions.all.push_back({"First", {}, {}});
  if (i < part.versions.all.size() && !name.empty()) part.versions.all[i].name = name.substr(0, 200);
}

/// Removes a version; removing the present one switches to its neighbour. The last one stays.
template <class Part>
void removeVersion(Part& part, size_t i) {
  auto& v = part.versions;
  if (i >= v.all.size() || v.all.size() < 2) return;
  if (i == static_cast<size_t>(v.now)) switchVersion(part, i > 0 ? i - 1 : 1);
  v.all.erase(v.all.begin() + static_cast<ptrdiff_t>(i));
  if (static_cast<size_t>(v.now) > i) --v.now;
}

}  // namespace heft
