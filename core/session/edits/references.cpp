#include "core/session/edits/references.h"

#include <algorithm>

#include "core/theory/text.h"

namespace heft {
namespace {

Edit onReference(const std::string& name, size_t index, std::function<void(Reference&)> change,
                 const std::string& mergeKey = {}) {
  return {name,
          [index, change = std::move(change)](Session& s) {
            if (index < s.references.size()) change(s.references[index]);
          },
          mergeKey};
}

Edit onSection(const std::string& name, size_t index, size_t section, std::function<void(Section&)> change,
               const std::string& mergeKey = {}) {
  return onReference(
      name, index,
      [section, change = std::move(change)](Reference& r) {
        if (section < r.sections.size()) change(r.sections[section]);
      },
      mergeKey);
}

}  // namespace

Edit leaveOutReference(size_t index, bool leftOut) {
  return onReference(leftOut ? "leave reference out of the median" : "take reference into the median", index,
                     [leftOut](Reference& r) { r.leftOut = leftOut; });
}

Edit setReferenceKey(size_t index, const std::optional<Key>& key) {
  return onReference("set reference key", index, [key](Reference& r) { r.key = key; });
}

Edit setReferenceTempo(size_t index, std::optional<double> bpm, const std::string& mergeKey) {
  return onReference(
      "set reference tempo", index, [bpm](Reference& r) { r.tempoBpm = bpm; }, mergeKey);
}

Edit setReferenceFirstBeat(size_t index, double seconds, const std::string& mergeKey) {
  return onReference(
      "set reference first beat", index,
      [seconds](Reference& r) { r.firstBeatSeconds = std::max(0.0, seconds); }, mergeKey);
}

Edit chooseSection(size_t index, size_t section) {
  return onReference("choose section", index, [section](Reference& r) {
    if (section < r.sections.size()) r.chosen = static_cast<int>(section);
  });
}

Edit moveSection(size_t index, size_t section, double fromSeconds, double toSeconds, double fileSeconds,
                 const std::string& mergeKey) {
  return onSection(
      "move section", index, section,
      [=](Section& s) {
        const double length = std::clamp(toSeconds - fromSeconds, kShortestSectionSeconds,
                                         std::max(kShortestSectionSeconds, fileSeconds));
        s.fromSeconds = std::clamp(fromSeconds, 0.0, std::max(0.0, fileSeconds - length));
        s.toSeconds = s.fromSeconds + length;
      },
      mergeKey);
}

Edit addSection(size_t index, const Section& section) {
  return onReference("add section", index, [section](Reference& r) {
    if (r.sections.size() >= kMostSections) return;
    r.sections.push_back(section);
    r.chosen = static_cast<int>(r.sections.size()) - 1;
  });
}

Edit removeSection(size_t index, size_t section) {
  return onReference("remove section", index, [section](Reference& r) {
    if (section >= r.sections.size() || r.sections.size() < 2) return;
    r.sections.erase(r.sections.begin() + static_cast<ptrdiff_t>(section));
    r.chosen = std::clamp(r.chosen, 0, static_cast<int>(r.sections.size()) - 1);
  });
}

Edit nameSection(size_t index, size_t section, const std::string& name) {
  return onSection("name section", index, section, [name](Section& s) { s.name = cutUtf8(name, 60); });
}

}  // namespace heft
