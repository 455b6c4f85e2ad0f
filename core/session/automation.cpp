#include "core/session/automation.h"

#include <algorithm>
#include <array>

#include "core/session/session.h"
#include "core/session/value_at.h"
#include "core/voices/bend.h"

namespace heft {
namespace {

bool startsWithAny(const std::string& key, std::span<const std::string_view> beginnings) {
  return std::any_of(beginnings.begin(), beginnings.end(),
                     [&](std::string_view beginning) { return key.starts_with(beginning); });
}

bool isFixed(const Owner& owner, const std::string& key) {
  constexpr std::array<std::string_view, 9> kOfParts{"hits.",    "notes.",  "wheel.", "align.",     "tail",
                                                     "versions", "layers.", "plays",  "finish_over"};
  constexpr std::array<std::string_view, 5> kOfDucks{"source.", "target.", "on", "movement", "curve.lasts"};
  if (key == "id" || key == "solo" || key == "mute") return true;
  if (owner.duck) return startsWithAny(key, kOfDucks);
  if (owner.part && !owner.layer && !owner.processor) return startsWithAny(key, kOfParts);
  if (owner == Owner()) return key != "backing.level_db" && key != "ducking.amount";
  return false;
}

}  // namespace

double Automation::at(double quarters) const {
  const auto after = std::upper_bound(points.begin(), points.end(), quarters + 1e-9,
                                      [](double q, const AutomationPoint& p) { return q < p.quarters; });
  if (after == points.begin()) return points.front().value;
  if (after == points.end()) return points.back().value;
  if (holds) return (after - 1)->value;
  const AutomationPoint &a = *(after - 1), &b = *after;
  const double part = std::clamp((quarters - a.quarters) / (b.quarters - a.quarters), 0.0, 1.0);
  return a.value + bentWay(part, a.bend) * (b.value - a.value);
}

double Automation::ahead(double quarters, double ahead) const {
  if (holds) return at(quarters + ahead);
  auto p = std::upper_bound(points.begin(), points.end(), quarters + 1e-9,
                            [](double q, const AutomationPoint& point) { return q < point.quarters; });
  for (; p != points.end() && p + 1 < points.end() && p->quarters <= quarters + ahead; ++p)
    if ((p + 1)->quarters - p->quarters < 1e-9) return at(p->quarters);
  return at(quarters);
}

bool canBeAutomated(const Session& s, const Owner& owner, const std::string& key) {
  if (isFixed(owner, key)) return false;
  const auto value = valueAt(s, owner, key);
  if (!value || !(value->range.high > value->range.low)) return false;
  return value->canBeMissing || value->isWhole() || std::holds_alternative<double>(value->now) ||
         std::holds_alternative<TimeValue>(value->now);
}

const Automation* automationOf(const Session& s, const Owner& owner, const std::string& key) {
  const auto at = std::find_if(s.automation.begin(), s.automation.end(),
                               [&](const Automation& a) { return a.isOf(owner, key); });
  return at == s.automation.end() ? nullptr : &*at;
}

const Automation* heardAutomation(const Session& s, const Owner& owner, const std::string& key) {
  const Automation* out = automationOf(s, owner, key);
  return out && out->works() && canBeAutomated(s, owner, key) ? out : nullptr;
}

}  // namespace heft
