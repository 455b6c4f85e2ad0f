#include "core/session/part.h"

#include <algorithm>

namespace heft {

Layer* Part::layer(int layerId) {
  for (Layer& l : layers)
    if (l.id == layerId) return &l;
  return nullptr;
}

const Layer* Part::layer(int layerId) const {
  return const_cast<Part*>(this)->layer(layerId);
}

std::string Part::title() const {
  if (!name.empty()) return name;
  return is() == PartRole::Kick ? "Kick" : is() == PartRole::Bass ? "Bass" : "Part " + std::to_string(id);
}

std::vector<const Layer*> heardLayers(const std::vector<Layer>& layers) {
  const bool soloed = std::any_of(layers.begin(), layers.end(), [](const Layer& l) { return l.solo; });
  std::vector<const Layer*> out;
  for (const Layer& l : layers)
    if (!l.mute && !l.isEmpty() && (l.solo || !soloed)) out.push_back(&l);
  return out;
}

size_t eventsWithout(const Part& part, int layer) {
  auto rests = [layer](const auto& events) {
    return std::count_if(events.begin(), events.end(), [layer](const auto& e) {
      return std::find(e.without.begin(), e.without.end(), layer) != e.without.end();
    });
  };
  return static_cast<size_t>(rests(part.hits) + rests(part.notes));
}

int freshLayerId(const Part& part) {
  int most = 0;
  for (const Layer& l : part.layers) most = std::max(most, l.id);
  for (const PartVersion& v : part.versions.all)
    for (const Layer& l : v.layers) most = std::max(most, l.id);
  return most + 1;
}

}  // namespace heft
