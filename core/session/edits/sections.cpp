#include "core/session/edits/sections.h"

#include <algorithm>

#include "core/session/pattern_range.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kShortestSection = 0.25;

TrackSection* sectionOf(Session& s, int id) {
  const auto at =
      std::find_if(s.sections.begin(), s.sections.end(), [&](const TrackSection& t) { return t.id == id; });
  return at == s.sections.end() ? nullptr : &*at;
}

int freshSectionId(const Session& s) {
  int id = 0;
  for (const TrackSection& t : s.sections) id = std::max(id, t.id);
  return id + 1;
}

// Others leave the stretch: cut at its borders, gone where they lie in it.
void makeRoomFor(std::vector<TrackSection>& sections, double from, double to) {
  for (TrackSection& t : sections) {
    if (t.fromQuarters < from)
      t.toQuarters = std::min(t.toQuarters, from);
    else if (t.fromQuarters < to)
      t.fromQuarters = to;
  }
  std::erase_if(sections,
                [](const TrackSection& t) { return t.toQuarters - t.fromQuarters < kShortestSection; });
}

}  // namespace

Edit addSection(const std::string& name, double from, double to) {
  return {"add section", [=](Session& s) {
            const double end = std::min(to, s.track.loopQuarters());
            if (end - std::max(0.0, from) < kShortestSection || s.sections.size() >= kMostTrackSections) return;
            TrackSection fresh{freshSectionId(s), cutUtf8(name, kLongestName), std::max(0.0, from), end};
            makeRoomFor(s.sections, fresh.fromQuarters, end);
            s.sections.push_back(std::move(fresh));
          }};
}

Edit renameSection(int id, const std::string& name) {
  return {"rename section", [=](Session& s) {
            if (TrackSection* t = sectionOf(s, id); t && !name.empty()) t->name = cutUtf8(name, kLongestName);
          }};
}

Edit moveSection(int id, double from, double to, const std::string& mergeKey) {
  return {"move section",
          [=](Session& s) {
            TrackSection* t = sectionOf(s, id);
            if (!t) return;
            double least = 0.0, most = s.track.loopQuarters();
            for (const TrackSection& other : s.sections) {
              if (other.toQuarters <= t->fromQuarters + 1e-9) least = std::max(least, other.toQuarters);
              if (other.fromQuarters >= t->toQuarters - 1e-9) most = std::min(most, other.fromQuarters);
            }
            const double first = std::clamp(from, least, std::max(least, most - kShortestSection));
            t->fromQuarters = first;
            t->toQuarters = std::clamp(to, first + kShortestSection, std::max(first + kShortestSection, most));
          },
          mergeKey};
}

Edit removeSection(int id) {
  return {"remove section",
          [id](Session& s) { std::erase_if(s.sections, [id](const TrackSection& t) { return t.id == id; }); }};
}

Edit fillSection(int from, int to) {
  return {"copy section", [=](Session& s) {
            const TrackSection *source = s.section(from), *target = s.section(to);
            if (!source || !target || from == to) return;
            const double length = source->toQuarters - source->fromQuarters;
            const double first = target->fromQuarters, end = target->toQuarters;
            const double begin = source->fromQuarters;
            for (double at = first; at < end - 1e-9; at += length)
              s = copied(std::move(s), begin, begin + std::min(length, end - at), at);
          }};
}

Edit compareSection(std::optional<int> id) {
  return {"compare section", [id](Session& s) {
            for (TrackSection& t : s.sections) t.compared = t.id == id;
          }};
}

std::string choicesOf(const Session& s, const TrackSection& section) {
  std::string out;
  auto add = [&out](const std::string& words) { out += (out.empty() ? "" : ", ") + words; };
  for (const SectionPart& chosen : section.parts)
    if (const Part* part = s.part(chosen.part)) {
      if (chosen.mute)
        add(partWord(*part) + " muted");
      else if (std::any_of(part->versions.all.begin(), part->versions.all.end(),
                           [&](const PartVersion& v) { return v.name == chosen.version; }))
        add(partWord(*part) + " " + chosen.version);
    }
  for (const SectionDuck& chosen : section.ducks)
    add((s.ducks.size() > 1 ? "ducking " + std::to_string(chosen.duck) : std::string("ducking")) + " " +
        formatNumber(100.0 * chosen.amount, 0) + " %");
  return out;
}

std::string freshSectionName(const Session& s) {
  auto taken = [&](const std::string& name) {
    return std::any_of(s.sections.begin(), s.sections.end(),
                       [&](const TrackSection& t) { return t.name == name; });
  };
  for (const char* name : {"Intro", "Drop", "Break", "Outro"})
    if (!taken(name)) return name;
  size_t number = s.sections.size() + 1;
  while (taken("Section " + std::to_string(number))) ++number;
  return "Section " + std::to_string(number);
}

}  // namespace heft
