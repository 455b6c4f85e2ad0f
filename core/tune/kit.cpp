#include "core/tune/kit.h"

#include <cctype>
#include <cmath>
#include <filesystem>

#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kNear = 2.0;

int nearestOf(double midi, const std::vector<int>& classes) {
  int best = nearestOfClass(midi, classes.front());
  for (int c : classes) {
    const int note = nearestOfClass(midi, c);
    if (std::abs(note - midi) < std::abs(best - midi) - 1e-9) best = note;
  }
  return best;
}

}  // namespace

int kitTarget(double landingMidi, const Key& key) {
  const int firm = nearestOf(landingMidi, {key.tonic, key.fifth()});
  if (std::abs(firm - landingMidi) <= kNear) return firm;
  const auto scale = key.scale();
  return nearestOf(landingMidi, {scale.begin(), scale.end()});
}

std::string strainInWords(const Retune& how, double lengthSeconds) {
  if (std::abs(how.semitones) < 0.005) return "stays as it is";
  const double after = 1000.0 * lengthSeconds / std::exp2(how.semitones / 12.0);
  std::string out = strainText(strainOf(how.semitones));
  const std::string strike = formatNumber(how.strikeMs, 0) + " ms of strike untouched";
  switch (how.method) {
    case TuneMethod::Varispeed:
      out += how.semitones > 0.0 ? ", strike brighter" : ", strike duller";
      out += ", " + formatNumber(1000.0 * lengthSeconds, 0) + " to " + formatNumber(after, 0) + " ms long";
      break;
    case TuneMethod::HoldLength:
      out += ", " + strike + ", length kept";
      break;
    case TuneMethod::Bend:
    case TuneMethod::Split:
      out += ", " + strike + ", " + formatNumber(1000.0 * lengthSeconds, 0) + " to about " +
             formatNumber(after, 0) + " ms long";
  }
  return out;
}

std::string nameWithNote(const std::string& path, const std::string& note) {
  std::string stem = std::filesystem::path(path).stem().string();
  // A note at its end is of what it was.
  if (const auto space = stem.find_last_of(" _-"); space != std::string::npos && space > 0)
    if (const std::string last = stem.substr(space + 1);
        last.size() >= 2 && last[0] >= 'A' && last[0] <= 'G' && std::isdigit(last.back()) && parsePitch(last))
      stem = stem.substr(0, space);
  return stem + " " + note;
}

}  // namespace heft
