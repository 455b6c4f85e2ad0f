#pragma once
/// Automation as files for other programs.

#include "core/export/export_files.h"

namespace heft {

/// Every hundredth of a second of an automation over the track: "time_s,value" in the value's unit; only where
/// it has changed, and the last.
std::string automationCsv(const Automation& automation, const Track& track);

struct AutomationMidi {
  std::string bytes;
  int values = 0;
  double error = 0.0;  ///< largest distance from the curve, in the value's unit
};
/// The same as a controller: 0 at `low`, 127 (with 14 bits 16383) at `high`. Each step that the curve passes is
/// written, so that it is off by half a step and a hundredth of a second's move at most.
AutomationMidi automationMidi(const Automation& automation, const Track& track, double low, double high,
                              int controller, int channel, bool fine);

/// Of every automation that is heard. Controllers as the export list has them for gains, each in its own file.
std::vector<ExportFile> automationFiles(const Session& session);

}  // namespace heft
