#include "core/looks/map_rows.h"

#include <map>

namespace heft {
namespace {

AlignCurve together(const Study& s, const std::vector<size_t>& hits) {
  AlignCurve out;
  for (const size_t i : hits) addTo(out, *s.pair.hits[i].curve);
  return out;
}

}  // namespace

std::vector<MapRow> mapRows(const Session& session, const Study& s) {
  std::vector<MapRow> out;
  const bool single = s.pair.hits.size() <= kMostSingleRows;
  std::map<std::pair<int, int>, size_t> known;
  for (size_t i = 0; i < s.pair.hits.size(); ++i) {
    const HitFacts& h = s.pair.hits[i];
    if (!single && !h.meets()) continue;
    const TrackSection* in = session.sectionAt(h.frame / session.track.framesPerQuarter());
    const std::pair<int, int> group{in ? in->id : 0, h.noteMidi.value_or(-1)};
    const auto at = single ? known.end() : known.find(group);
    if (at == known.end()) {
      if (!single) known[group] = out.size();
      out.push_back({{i}, i, {}, h.noteMidi, in ? in->name : ""});
      continue;
    }
    MapRow& row = out[at->second];
    row.hits.push_back(i);
    if (h.heardDb < s.pair.hits[row.worst].heardDb) row.worst = i;
  }
  for (MapRow& row : out) row.curve = together(s, row.hits);
  return out;
}

}  // namespace heft
