#include "core/ledger/lane_levels.h"

#include <algorithm>
#include <cmath>

#include "core/theory/text.h"

namespace heft {
namespace {

void move(std::vector<Layer>& layers, Finish& finish, double db) {
  const bool driven =
      finish.on && (finish.drive.on || finish.compressor.on || finish.softClip.on || finish.limiter.on);
  if (!driven) {
    for (Layer& l : layers) l.levelDb = std::clamp(l.levelDb + db, kLeastLevelDb, kMostLevelDb);
    return;
  }
  // A compressor of ratio 1 is a plain gain.
  if (!finish.compressor.on) finish.compressor = {}, finish.compressor.on = true, finish.compressor.ratio = 1.0;
  finish.compressor.makeupDb = std::clamp(finish.compressor.makeupDb + db, -kMostMakeupDb, kMostMakeupDb);
}

}  // namespace

LaneLevels LaneLevels::operator+(const LaneLevels& more) const {
  return {kickDb + more.kickDb, bassDb + more.bassDb, backingDb + more.backingDb};
}

std::string LaneLevels::words() const {
  auto one = [](const char* lane, double db) {
    return std::string(db < 0 ? "lower " : "raise ") + lane + " by " + formatNumber(std::abs(db), 1) + " dB";
  };
  if (!isNone() && kickDb == bassDb && bassDb == backingDb) return one("all lanes", kickDb);
  std::string out;
  for (const auto& [lane, db] : {std::pair{"kick", kickDb}, {"bass", bassDb}, {"backing", backingDb}})
    if (db != 0.0) out += (out.empty() ? "" : ", ") + one(lane, db);
  return out;
}

Session withLevelsMoved(Session s, const LaneLevels& by) {
  if (by.kickDb != 0.0) move(s.kick.layers, s.kick.finish, by.kickDb);
  if (by.bassDb != 0.0) move(s.bass.layers, s.bass.finish, by.bassDb);
  if (by.backingDb != 0.0)
    s.backing.levelDb = std::clamp(s.backing.levelDb + by.backingDb, kLeastLevelDb, kMostLevelDb);
  return s;
}

}  // namespace heft
