#include "core/session/edits/levels.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/automation.h"
#include "core/session/value_at.h"
#include "core/theory/text.h"

namespace heft {
namespace {

LaneLevels atRest(const Session& s) {
  LaneLevels out;
  for (const Part& part : s.parts) out.lanes.push_back({part.id, partWord(part)});
  out.lanes.push_back({std::nullopt, "backing"});
  return out;
}

struct Alike {
  double byDb;
  std::vector<std::string> words;
};

std::string sentence(double byDb, const std::string& lanes) {
  return std::string(byDb < 0 ? "lower " : "raise ") + lanes + " by " + formatNumber(std::abs(byDb), 1) + " dB";
}

}  // namespace

LaneLevels LaneLevels::operator+(const LaneLevels& more) const {
  LaneLevels out = *this;
  for (const Lane& lane : more.lanes) {
    const auto here = std::find_if(out.lanes.begin(), out.lanes.end(),
                                   [&](const Lane& there) { return there.part == lane.part; });
    if (here == out.lanes.end())
      out.lanes.push_back(lane);
    else
      here->byDb += lane.byDb;
  }
  return out;
}

bool LaneLevels::isNone() const {
  return std::all_of(lanes.begin(), lanes.end(), [](const Lane& lane) { return lane.byDb == 0.0; });
}

std::string LaneLevels::words() const {
  std::vector<Alike> groups;
  for (const Lane& lane : lanes) {
    const auto here = std::find_if(groups.begin(), groups.end(),
                                   [&](const Alike& g) { return std::abs(g.byDb - lane.byDb) < 0.05; });
    if (here == groups.end())
      groups.push_back({lane.byDb, {lane.word}});
    else
      here->words.push_back(lane.word);
  }
  std::string out, others;
  for (const Alike& g : groups) {
    if (std::abs(g.byDb) < 0.05) continue;
    const bool all = g.words.size() == lanes.size(),
               most = g.words.size() > 2 && 2 * g.words.size() > lanes.size();
    if (!all && most) {
      others = sentence(g.byDb, "all other lanes");
      continue;
    }
    if (!out.empty()) out += ", ";
    out += sentence(g.byDb, all ? "all lanes" : listed(g.words));
  }
  return out + (out.empty() || others.empty() ? "" : ", ") + others;
}

LaneLevels laneBy(const Session& s, std::optional<int> part, double byDb) {
  LaneLevels out = atRest(s);
  for (LaneLevels::Lane& lane : out.lanes)
    if (lane.part == part) lane.byDb = byDb;
  return out;
}

LaneLevels allLanesBy(const Session& s, double byDb) {
  LaneLevels out = atRest(s);
  for (LaneLevels::Lane& lane : out.lanes) lane.byDb = byDb;
  return out;
}

Edit moveLevels(const LaneLevels& levels) {
  return {levels.words(), [levels](Session& s) {
            for (const LaneLevels::Lane& lane : levels.lanes) {
              const Part* part = lane.part ? s.part(*lane.part) : nullptr;
              if (lane.part && !part) continue;
              if (part)
                putAlong(s, {.part = part->id}, "level_db", part->levelDb + lane.byDb);
              else
                putAlong(s, {}, "backing.level_db", s.backing.levelDb + lane.byDb);
            }
          }};
}

}  // namespace heft
