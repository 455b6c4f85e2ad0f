#include "core/ledger/lane_levels.h"

#include <algorithm>
#include <cmath>

#include "core/theory/text.h"

namespace heft {
namespace {

void move(double& levelDb, double byDb) {
  levelDb = std::clamp(levelDb + byDb, kLeastLevelDb, kMostLevelDb);
}

}  // namespace

LaneLevels LaneLevels::operator+(const LaneLevels& more) const {
  return {kickDb + more.kickDb, bassDb + more.bassDb, backingDb + more.backingDb};
}

std::string LaneLevels::words() const {
  auto one = [](const char* lane, double db) {
    return std::string(db < 0 ? "lower " : "raise ") + lane + " by " + formatNumber(std::abs(db), 1) + " dB";
  };
  if (!isNone() && areAlike()) return one("all lanes", kickDb);
  std::string out;
  for (const auto& [lane, db] : {std::pair{"kick", kickDb}, {"bass", bassDb}, {"backing", backingDb}})
    if (db != 0.0) out += (out.empty() ? "" : ", ") + one(lane, db);
  return out;
}

bool LaneLevels::areAlike() const {
  return kickDb == bassDb && bassDb == backingDb;
}

Session withLevelsMoved(Session s, const LaneLevels& by) {
  for (Part& part : s.parts) {
    if (&part == &s.kick()) move(part.levelDb, by.kickDb);
    if (&part == &s.bass()) move(part.levelDb, by.bassDb);
    // What is said of all lanes holds for the others too.
    if (&part != &s.kick() && &part != &s.bass() && by.areAlike()) move(part.levelDb, by.kickDb);
  }
  move(s.backing.levelDb, by.backingDb);
  return s;
}

}  // namespace heft
