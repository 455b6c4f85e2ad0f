#include "core/session/edits/automation.h"

#include <algorithm>
#include <cmath>

#include "core/session/thinned.h"
#include "core/theory/text.h"

namespace heft {
namespace {

using Points = std::vector<AutomationPoint>;

Automation* found(Session& s, const AutomationOf& of) {
  const auto at = std::find_if(s.automation.begin(), s.automation.end(),
                               [&](const Automation& a) { return a.isOf(of.owner, of.key); });
  return at == s.automation.end() ? nullptr : &*at;
}

// The automation, made where there is none; nothing where there can be none.
Automation* madeFor(Session& s, const AutomationOf& of) {
  if (Automation* known = found(s, of)) return known;
  if (s.automation.size() >= kMostAutomations || !canBeAutomated(s, of.owner, of.key)) return nullptr;
  Automation& a = s.automation.emplace_back(Automation{of.owner, of.key, cutUtf8(of.name, kLongestName)});
  a.holds = valueAt(s, of.owner, of.key)->isWhole();
  return &a;
}

double held(const Session& s, const AutomationOf& of, double value) {
  const auto at = valueAt(s, of.owner, of.key);
  if (!at) return value;
  return at->isWhole() ? std::round(at->range.held(value)) : at->range.held(value);
}

double inTrack(const Session& s, double quarters) {
  return std::clamp(quarters, 0.0, s.track.loopQuarters());
}

Points::iterator firstFrom(Points& points, double quarters) {
  return std::lower_bound(points.begin(), points.end(), quarters - 1e-6,
                          [](const AutomationPoint& p, double q) { return p.quarters < q; });
}

// A change of one automation that exists.
Edit onAutomation(const std::string& name, const AutomationOf& of,
                  std::function<void(Session&, Automation&)> change, const std::string& mergeKey = {}) {
  return {name,
          [of, change = std::move(change)](Session& s) {
            if (Automation* a = found(s, of)) change(s, *a);
          },
          mergeKey};
}

SectionPart& partIn(TrackSection& section, int part) {
  for (SectionPart& p : section.parts)
    if (p.part == part) return p;
  return section.parts.emplace_back(SectionPart{part});
}

Edit onSectionPart(const std::string& name, int section, int part, std::function<void(SectionPart&)> change) {
  return {name, [=](Session& s) {
            if (!s.part(part)) return;
            for (TrackSection& t : s.sections) {
              if (t.id != section) continue;
              change(partIn(t, part));
              std::erase_if(t.parts, [](const SectionPart& p) { return p == SectionPart{p.part}; });
            }
          }};
}

}  // namespace

Edit automate(const AutomationOf& of) {
  return {"automate " + of.name, [of](Session& s) {
            Automation* a = madeFor(s, of);
            if (!a) return;
            a->on = true;
            if (!a->points.empty()) return;
            const auto now = valueAt(s, of.owner, of.key);
            const auto number = now ? asNumber(*now, s.track.tempoBpm) : std::nullopt;
            const double half = now ? 0.5 * (now->range.low + now->range.high) : 0.0;
            a->points.push_back({0.0, number.value_or(half)});
          }};
}

Edit placeAutomationPoint(const AutomationOf& of, double quarters, double value) {
  return {"place automation point", [=](Session& s) {
            Automation* a = madeFor(s, of);
            if (!a) return;
            const double at = inTrack(s, quarters), to = held(s, of, value);
            const auto here = firstFrom(a->points, at);
            if (here != a->points.end() && std::abs(here->quarters - at) < 1e-6)
              here->value = to;
            else if (a->points.size() < kMostAutomationPoints)
              a->points.insert(here, AutomationPoint{at, to});
          }};
}

Edit moveAutomationPoint(const AutomationOf& of, size_t index, double quarters, double value,
                         const std::string& mergeKey) {
  return onAutomation(
      "move automation point", of,
      [=](Session& s, Automation& a) {
        if (index >= a.points.size()) return;
        const double least = index > 0 ? a.points[index - 1].quarters : 0.0;
        const double most = index + 1 < a.points.size() ? a.points[index + 1].quarters : s.track.loopQuarters();
        a.points[index].quarters = std::clamp(quarters, least, std::max(least, most));
        a.points[index].value = held(s, of, value);
      },
      mergeKey);
}

Edit bendAutomation(const AutomationOf& of, size_t index, double bend, const std::string& mergeKey) {
  return onAutomation(
      "bend automation", of,
      [=](Session&, Automation& a) {
        if (index < a.points.size()) a.points[index].bend = std::clamp(bend, -1.0, 1.0);
      },
      mergeKey);
}

Edit removeAutomationPoint(const AutomationOf& of, size_t index) {
  return onAutomation("remove automation point", of, [=](Session&, Automation& a) {
    if (index < a.points.size() && a.points.size() > 1)
      a.points.erase(a.points.begin() + static_cast<ptrdiff_t>(index));
  });
}

Edit setAutomationOver(const AutomationOf& of, double from, double to, double value,
                       const std::string& mergeKey) {
  return {"set automation",
          [=](Session& s) {
            automate(of).change(s);
            Automation* a = found(s, of);
            const double first = inTrack(s, from), end = inTrack(s, to);
            if (!a || !(end > first) || a->points.size() + 4 > kMostAutomationPoints) return;
            // What the curve has just before the stretch, and just after it.
            const double before = a->ahead(first - 1e-5, 0.0), after = a->at(end);
            auto& points = a->points;
            points.erase(firstFrom(points, first), firstFrom(points, end));
            while (!points.empty() && firstFrom(points, end) != points.end() &&
                   std::abs(firstFrom(points, end)->quarters - end) < 1e-6)
              points.erase(firstFrom(points, end));
            const double to0 = held(s, of, value);
            Points fresh{{first, to0}, {end, to0}, {end, after}};
            if (first > 1e-6) fresh.insert(fresh.begin(), {first, before});
            points.insert(firstFrom(points, first), fresh.begin(), fresh.end());
          },
          mergeKey};
}

Edit insertAutomation(const AutomationOf& of, const Points& played) {
  return {"record " + of.name, [=](Session& s) {
            Automation* a = played.empty() ? nullptr : madeFor(s, of);
            if (!a) return;
            a->on = true;
            auto& points = a->points;
            const double from = inTrack(s, played.front().quarters), to = inTrack(s, played.back().quarters);
            std::erase_if(points, [&](const AutomationPoint& p) {
              return p.quarters >= from - 1e-6 && p.quarters <= to + 1e-6;
            });
            for (const AutomationPoint& p : played)
              if (points.size() < kMostAutomationPoints)
                points.push_back({inTrack(s, p.quarters), held(s, of, p.value), p.bend});
            std::stable_sort(
                points.begin(), points.end(),
                [](const AutomationPoint& x, const AutomationPoint& y) { return x.quarters < y.quarters; });
          }};
}

Edit recordAutomation(const AutomationOf& of, const Value& before, const std::optional<Automation>& was,
                      const Points& played) {
  return {"record " + of.name, [=](Session& s) {
            removeAutomation(of).change(s);
            if (was) s.automation.push_back(*was);
            putValue(s, of.owner, of.key, before);
            insertAutomation(of, played).change(s);
          }};
}

Edit switchAutomation(const AutomationOf& of, bool on) {
  return onAutomation(on ? "turn automation on" : "bypass automation", of,
                      [on](Session&, Automation& a) { a.on = on; });
}

Edit removeAutomation(const AutomationOf& of) {
  return {"remove automation", [of](Session& s) {
            std::erase_if(s.automation, [&](const Automation& a) { return a.isOf(of.owner, of.key); });
          }};
}

Points thinnedFor(const Session& s, const AutomationOf& of, const Points& played) {
  const auto at = valueAt(s, of.owner, of.key);
  if (at && at->isWhole()) {
    // Held from point to point: only changes are kept, and the last moment, where recording ended.
    Points out;
    for (const AutomationPoint& p : played)
      if (out.empty() || out.back().value != p.value) out.push_back(p);
    if (!played.empty() && out.back().quarters < played.back().quarters) out.push_back(played.back());
    return out;
  }
  return thinned(played, at ? kThinnedShare * (at->range.high - at->range.low) : 0.0);
}

void putAlong(Session& s, const Owner& owner, const std::string& key, const Value& value) {
  const auto before = valueAt(s, owner, key);
  if (!putValue(s, owner, key, value)) return;
  Automation* a = found(s, {owner, key});
  const auto after = valueAt(s, owner, key);
  if (!a || !before || !after) return;
  const auto from = asNumber(*before, s.track.tempoBpm), to = asNumber(*after, s.track.tempoBpm);
  if (!from || !to || *from == *to) return;
  if (after->isWhole()) {
    for (AutomationPoint& p : a->points)
      if (p.value == *from) p.value = *to;
    return;
  }
  const bool ratio = after->range.unit == Unit::Hz && *from > 0.0;
  for (AutomationPoint& p : a->points)
    p.value = after->range.held(ratio ? p.value * *to / *from : p.value + *to - *from);
}

Edit muteInSection(int section, int part, bool mute) {
  return onSectionPart(mute ? "mute in section" : "unmute in section", section, part,
                       [mute](SectionPart& p) { p.mute = mute; });
}

Edit versionInSection(int section, int part, const std::string& version) {
  return onSectionPart("choose version in section", section, part,
                       [version](SectionPart& p) { p.version = cutUtf8(version, kLongestName); });
}

Edit duckAmountInSection(int section, int duck, double amount, const std::string& mergeKey) {
  return {"ducking amount in section",
          [=](Session& s) {
            if (!s.duck(duck)) return;
            for (TrackSection& t : s.sections) {
              if (t.id != section) continue;
              std::erase_if(t.ducks, [&](const SectionDuck& d) { return d.duck == duck; });
              if (amount < 1.0) t.ducks.push_back({duck, std::clamp(amount, 0.0, 1.0)});
            }
          },
          mergeKey};
}

}  // namespace heft
