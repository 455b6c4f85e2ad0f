#include "core/session/fields.h"

#include <algorithm>

namespace heft {
namespace {

template <class E, size_t N>
Result<E> oneOf(const std::array<const char*, N>& names, const std::string& text) {
  const auto at = std::find(names.begin(), names.end(), text);
  if (at != names.end()) return static_cast<E>(at - names.begin());
  std::string all;
  for (size_t i = 0; i < N; ++i) all += (i == 0 ? "" : i + 1 == N ? " or " : ", ") + std::string(names[i]);
  return badUsage("is not " + all);
}

constexpr std::array kFormats = {"wav16", "wav24", "wav-float", "flac24"};
constexpr std::array kPlays = {"hits", "notes"};
constexpr std::array kFinishOver = {"hits", "lane"};
constexpr std::array kOctaves = {"C3", "C4", "C5"};

}  // namespace

const char* sampleFormatName(SampleFormat format) {
  return kFormats[static_cast<size_t>(format)];
}
Result<SampleFormat> parseSampleFormat(const std::string& text) {
  return oneOf<SampleFormat>(kFormats, text);
}
const char* playsName(Plays plays) {
  return kPlays[static_cast<size_t>(plays)];
}
Result<Plays> parsePlays(const std::string& text) {
  return oneOf<Plays>(kPlays, text);
}
const char* finishOverName(FinishOver over) {
  return kFinishOver[static_cast<size_t>(over)];
}
Result<FinishOver> parseFinishOver(const std::string& text) {
  return oneOf<FinishOver>(kFinishOver, text);
}
const char* octaveNamingName(OctaveNaming naming) {
  return kOctaves[static_cast<size_t>(naming) - 3];
}
Result<OctaveNaming> parseOctaveNaming(const std::string& text) {
  const auto at = oneOf<int>(kOctaves, text);
  if (!at) return Fail(at.error());
  return static_cast<OctaveNaming>(*at + 3);
}

}  // namespace heft
