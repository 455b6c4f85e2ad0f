#include <cmath>

#include "cli/commands.h"
#include "core/theory/text.h"

namespace heft::cli {

Result<NoteStyle> Common::notes() const {
  NoteStyle style;
  if (middleC == "C3")
    style.octaves = OctaveNaming::MiddleC3;
  else if (middleC == "C5")
    style.octaves = OctaveNaming::MiddleC5;
  else if (middleC != "C4")
    return badUsage("--middle-c: \"" + middleC + "\" is not C3, C4 or C5");
  return style;
}

Result<double> numberOption(const std::string& option, const std::string& text, double low, double high) {
  const auto value = parseNumber(text);
  if (!value || !(*value >= low && *value <= high))
    return badUsage(option + ": \"" + text.substr(0, 64) + "\" is not a number from " + formatNumber(low, 3) +
                    " to " + formatNumber(high, 3));
  return *value;
}

Result<double> numberOption(const std::string& option, const std::string& text, const Range& range) {
  return numberOption(option, text, range.low, range.high);
}

Result<double> numberOption(const std::string& option, const std::string& text, const Range& range,
                            double whenMissing) {
  if (text.empty()) return whenMissing;
  return numberOption(option, text, range);
}

Result<LandingOptions> bandOption(const BandOptions& o) {
  LandingOptions out;
  const auto low = numberOption("--low", o.low, rangeOf<Recorded>("band_low_hz"), out.lowHz),
             high = numberOption("--high", o.high, rangeOf<Recorded>("band_high_hz"), out.highHz),
             ms = numberOption("--landing-ms", o.landingMs, rangeOf<Recorded>("landing_ms"), 0.0),
             hz = numberOption("--landing-hz", o.landingHz, rangeOf<Recorded>("landing_hz"), 8.0);
  for (const auto* value : {&low, &high, &ms, &hz})
    if (!*value) return Fail(value->error());
  if (*low >= *high)
    return badUsage("--low: " + formatNumber(*low, 2) + " Hz is not below --high " + formatNumber(*high, 2) +
                    " Hz");
  if (!o.landingMs.empty() && !o.landingHz.empty())
    return badUsage("name one of --landing-ms and --landing-hz");
  out.lowHz = *low, out.highHz = *high;
  if (!o.landingMs.empty()) out.atMs = *ms;
  if (!o.landingHz.empty()) out.atHz = *hz;
  return out;
}

Json number(double value, int decimals) {
  if (!std::isfinite(value)) return nullptr;
  const double scale = std::pow(10.0, decimals);
  const double rounded = std::round(value * scale) / scale;
  return rounded == 0.0 ? 0.0 : rounded;
}

}  // namespace heft::cli
