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

Result<double> numberOption(const std::string& option, const std::string& text, double low, double high,
                            double whenMissing) {
  if (text.empty()) return whenMissing;
  return numberOption(option, text, low, high);
}

Json number(double value, int decimals) {
  if (!std::isfinite(value)) return nullptr;
  const double scale = std::pow(10.0, decimals);
  const double rounded = std::round(value * scale) / scale;
  return rounded == 0.0 ? 0.0 : rounded;
}

}  // namespace heft::cli
