#include "core/theory/time_value.h"

#include <array>
#include <charconv>
#include <cmath>

#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kLongestMs = 600000.0;

Fail notATime(std::string_view text) {
  return badUsage(
      "\"" + std::string(text) +
      "\" is not a time: write a note length such as 1/16, 1/8. or 1/8t, or a time such as 125 ms or 0.125 s");
}

bool isPowerOfTwo(int n) {
  return n > 0 && (n & (n - 1)) == 0;
}

Result<TimeValue> parseNoteLength(double numerator, std::string_view rest, std::string_view whole) {
  const auto denominator = takeNumber(rest);
  if (!denominator || numerator != std::floor(numerator) || numerator < 1 || numerator > 64)
    return notATime(whole);
  TimeValue::Feel feel = TimeValue::Feel::Straight;
  double under = *denominator;
  // "1/8." reads as the number 8. or 8; the dot is then the dotted sign.
  const size_t dot = whole.find('.');
  const std::string tail = lowered(trimmed(rest));
  if (dot != whole.rfind('.')) return notATime(whole);
  if (dot != std::string_view::npos && tail.empty()) feel = TimeValue::Feel::Dotted;
  if (tail == ".")
    feel = TimeValue::Feel::Dotted;
  else if (tail == "t" && dot == std::string_view::npos)
    feel = TimeValue::Feel::Triplet;
  else if (!tail.empty())
    return notATime(whole);
  if (under != std::floor(under) || under > 256 || !isPowerOfTwo(static_cast<int>(under)))
    return notATime(whole);
  if (feel == TimeValue::Feel::Dotted && trimmed(whole).back() != '.') return notATime(whole);
  return TimeValue::note(static_cast<int>(numerator), static_cast<int>(under), feel);
}

}  // namespace

double TimeValue::quarters() const {
  const double straight = 4.0 * numerator / denominator;
  return feel == Feel::Dotted ? straight * 1.5 : feel == Feel::Triplet ? straight * 2.0 / 3.0 : straight;
}

double TimeValue::toMs(double tempoBpm) const {
  return isNote() ? quarters() * 60000.0 / tempoBpm : fixedMs;
}

std::string TimeValue::exactText() const {
  if (isNote()) return text();
  std::array<char, 400> digits{};
  const auto end =
      std::to_chars(digits.data(), digits.data() + digits.size(), fixedMs, std::chars_format::fixed).ptr;
  return std::string(digits.data(), end) + " ms";
}

std::string TimeValue::text() const {
  if (!isNote()) return formatNumber(fixedMs, fixedMs < 10 ? 2 : 1) + " ms";
  const std::string base = std::to_string(numerator) + "/" + std::to_string(denominator);
  return feel == Feel::Dotted ? base + "." : feel == Feel::Triplet ? base + "t" : base;
}

Result<TimeValue> parseTime(std::string_view original) {
  if (original.size() > 64) return badUsage("a time of over 64 characters");
  const std::string plain = plainSigns(original);
  std::string_view rest = trimmed(plain);
  const std::string_view whole = rest;
  const auto value = takeNumber(rest);
  if (!value || *value < 0) return notATime(original);
  rest = trimmed(rest);
  if (!rest.empty() && rest.front() == '/') return parseNoteLength(*value, rest.substr(1), whole);
  const std::string unit = lowered(rest);
  if (unit != "" && unit != "ms" && unit != "s") return notATime(original);
  const double ms = unit == "s" ? *value * 1000.0 : *value;
  if (ms > kLongestMs) return badUsage("\"" + std::string(original) + "\" is longer than ten minutes");
  return TimeValue::milliseconds(ms);
}

Result<double> parseTempo(std::string_view original) {
  std::string_view rest = trimmed(original);
  const auto bpm = takeNumber(rest);
  const std::string unit = lowered(trimmed(rest));
  if (!bpm || (!unit.empty() && unit != "bpm") || !(*bpm >= kLeastTempo && *bpm <= kMostTempo))
    return badUsage("\"" + std::string(original.substr(0, 64)) + "\" is not a tempo: write " +
                    formatNumber(kLeastTempo, 0) + " to " + formatNumber(kMostTempo, 0) + " BPM, such as 122");
  return *bpm;
}

}  // namespace heft
