#include "core/export/automation_exports.h"

#include <algorithm>
#include <cmath>

#include "core/session/value_at.h"
#include "core/sound/midi_file.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kRowSeconds = 0.01;

// Calls with(seconds, value) each hundredth of a second, a step having been made at its moment.
template <class With>
void eachRow(const Automation& a, const Track& track, With with) {
  const double quarters = kRowSeconds * track.tempoBpm / 60.0;
  const auto rows = static_cast<size_t>(std::ceil(track.loopQuarters() / quarters));
  for (size_t i = 0; i < rows; ++i)
    with(static_cast<double>(i) * kRowSeconds, a.ahead(static_cast<double>(i) * quarters, 0.0));
}

std::string wordFor(const Session& s, const Automation& a) {
  const Part* part = a.owner.part ? s.part(*a.owner.part) : nullptr;
  const Layer* layer = part && a.owner.layer ? part->layer(*a.owner.layer) : nullptr;
  std::string out = part ? part->title() + " " : a.owner.duck ? "Ducking " : "";
  if (layer) out += layer->title() + " ";
  return out + (a.name.empty() ? a.key : a.name);
}

}  // namespace

std::string automationCsv(const Automation& a, const Track& track) {
  std::string out = "time_s,value\n";
  std::optional<double> last;
  double lastSeconds = 0.0;
  eachRow(a, track, [&](double seconds, double value) {
    if (!last || *last != value) out += formatNumber(seconds, 3) + "," + formatNumber(value, 4) + "\n";
    last = value, lastSeconds = seconds;
  });
  if (last && !out.ends_with("\n" + formatNumber(lastSeconds, 3) + "," + formatNumber(*last, 4) + "\n"))
    out += formatNumber(lastSeconds, 3) + "," + formatNumber(*last, 4) + "\n";
  return out;
}

AutomationMidi automationMidi(const Automation& a, const Track& track, double low, double high, int controller,
                              int channel, bool fine) {
  MidiTrackWriter writer(track.tempoBpm, channel);
  const int most = fine ? 16383 : 127;
  AutomationMidi out;
  int sent = -1;
  eachRow(a, track, [&](double seconds, double value) {
    const double share = high > low ? std::clamp((value - low) / (high - low), 0.0, 1.0) : 0.0;
    const int now = static_cast<int>(std::lround(most * share));
    if (now != sent) {
      writer.controller(seconds, controller, fine ? now >> 7 : now);
      if (fine) writer.controller(seconds, controller + 32, now & 127);
      sent = now, ++out.values;
    }
    out.error = std::max(out.error, std::abs(value - (low + (high - low) * now / most)));
  });
  out.bytes = writer.file();
  return out;
}

std::vector<ExportFile> automationFiles(const Session& s) {
  std::vector<ExportFile> out;
  const ExportList& list = s.exports;
  if (!list.automation) return out;
  int number = 0;
  for (const Automation& a : s.automation) {
    const auto value = valueAt(s, a.owner, a.key);
    if (!a.works() || !value) continue;
    const std::string word = wordFor(s, a);
    const std::string name = "automation " + std::to_string(++number) + " " + fileNameOf(word, 80);
    const Range& range = value->range;
    out.push_back({name + ".csv", "Automation, " + word, automationCsv(a, s.track), "seconds and values"});
    auto midi =
        automationMidi(a, s.track, range.low, range.high, list.gainController, list.gainChannel, list.gainFine);
    out.push_back({name + ".mid",
                   "The same as controller " + std::to_string(list.gainController) + ", 0 is " +
                       formatNumber(range.low, 2) + ", full is " + formatNumber(range.high, 2),
                   std::move(midi.bytes),
                   "Standard MIDI File, 960 ticks a quarter, " + std::to_string(midi.values) +
                       " values, within " + formatNumber(midi.error, 3)});
  }
  return out;
}

}  // namespace heft
